#include "core/library/run_fields.h"

namespace rendak {
namespace {

using Kind = RunField::Kind;

// A new one: its member in RunFacts, a row here, and its column in schema.h (with a step that adds it to older
// catalogues).
constexpr RunField fields[] = {
    {"tyre_set", "--tyres", "Tyre set", "", Kind::text, &RunFacts::tyre_set, nullptr, "tyre_sets"},
    {"tyre_laps", "--tyre-laps", "Tyre laps before", "laps", Kind::number, nullptr, &RunFacts::tyre_laps},
    {"fuel_l", "--fuel", "Fuel at start", "litres", Kind::number, nullptr, &RunFacts::fuel_l},
    {"official_time_s", "--official-time", "Official time", "1:24.318, from the timing slip", Kind::lap_time, nullptr,
     &RunFacts::official_time_s},
    {"weather", "--weather", "Weather", "", Kind::text, &RunFacts::weather, nullptr},
    {"air_c", "--air", "Air temperature", "°C", Kind::number, nullptr, &RunFacts::air_c},
    {"track_c", "--track-temperature", "Track temperature", "°C", Kind::number, nullptr, &RunFacts::track_c},
    {"wind_mps", "--wind", "Wind", "m/s", Kind::number, nullptr, &RunFacts::wind_mps},
    {"wind_from_deg", "--wind-from", "Wind from", "degrees from north", Kind::number, nullptr,
     &RunFacts::wind_from_deg},
    {"pressure_hpa", "--pressure", "Air pressure", "hPa", Kind::number, nullptr, &RunFacts::pressure_hpa},
    {"changes", "--changes", "Changed since", "what was changed since the run before", Kind::text, &RunFacts::changes,
     nullptr},
    {"remarks", "--remarks", "Remarks", "", Kind::text, &RunFacts::remarks, nullptr},
};

}  // namespace

std::span<const RunField> all_run_fields() {
    return fields;
}

std::string run_field_columns(const char* before, const char* after) {
    std::string out;
    for (const RunField& field : fields) out += std::string(before) + field.id + after;
    return out;
}

}  // namespace rendak
