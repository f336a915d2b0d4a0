#include "core/bundle/bundle_json.h"

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/base/json_bounds.h"
#include "core/base/sha256.h"
#include "core/base/text.h"
#include "core/base/time_zone.h"
#include "core/library/run_fields.h"

namespace rendak {
namespace {

using Json = nlohmann::ordered_json;

constexpr std::size_t most_of_a_kind = 10'000;

Json to_json(const std::vector<SheetValue>& values) {
    Json out = Json::array();
    for (const SheetValue& value : values)
        out.push_back({{"name", value.name}, {"value", value.value}, {"unit", value.unit}});
    return out;
}

Json or_null(const std::optional<double>& value) {
    return value ? Json(*value) : Json(nullptr);
}

/// Reads fields of a file that is not trusted; what is missing or of another kind is empty.
class Fields {
  public:
    explicit Fields(const Json& json) : json_(json) {}
    [[nodiscard]] std::string text(const char* key) const {
        const Json* value = find(key);
        return value != nullptr && value->is_string() ? printable_lines(value->get<std::string>()) : std::string();
    }
    [[nodiscard]] std::optional<double> number(const char* key) const {
        const Json* value = find(key);
        if (value == nullptr || !value->is_number()) return std::nullopt;
        const double out = value->get<double>();
        return std::isfinite(out) ? std::optional(out) : std::nullopt;
    }
    [[nodiscard]] int count(const char* key, int otherwise) const {
        const auto value = number(key);
        return value && std::abs(*value) < 1e9 ? static_cast<int>(*value) : otherwise;
    }
    [[nodiscard]] bool flag(const char* key) const {
        const Json* value = find(key);
        return value != nullptr && value->is_boolean() && value->get<bool>();
    }
    [[nodiscard]] const Json& list(const char* key) const {
        static const Json none = Json::array();
        const Json* value = find(key);
        return value != nullptr && value->is_array() ? *value : none;
    }
    [[nodiscard]] std::vector<std::string> texts(const char* key) const {
        std::vector<std::string> out;
        for (const Json& value : list(key)) {
            if (value.is_string()) out.push_back(printable_lines(value.get<std::string>()));
        }
        return out;
    }
    [[nodiscard]] std::vector<SheetValue> values() const {
        std::vector<SheetValue> out;
        for (const Json& value : list("values")) {
            const Fields fields(value);
            out.push_back({fields.text("name"), fields.text("value"), fields.text("unit")});
        }
        return out;
    }

  private:
    [[nodiscard]] const Json* find(const char* key) const {
        if (!json_.is_object()) return nullptr;
        const auto found = json_.find(key);
        return found == json_.end() ? nullptr : &*found;
    }
    const Json& json_;
};

Json to_json(const BundleRun& run) {
    Json out;
    const RunFacts& facts = run.facts;
    out = {{"event", facts.event},
           {"session", facts.session},
           {"name", facts.name},
           {"driver", facts.driver},
           {"car", facts.car},
           {"setup", run.setup},
           {"track", run.track},
           {"recording", run.digest},
           {"logger", run.logger},
           {"source", run.source_name},
           {"clock_shift_s", run.clock_shift_s}};
    for (const RunField& field : all_run_fields())
        out[field.id] = field.is_text() ? Json(facts.*field.text) : or_null(facts.*field.number);
    if (run.window_s) out["window_s"] = {run.window_s->begin, run.window_s->end};
    if (run.joined_into >= 0) {
        out["joined_into"] = run.joined_into;
        out["join_offset_s"] = run.join_offset_s;
    }
    if (run.place != PlaceCorrection{}) {
        out["place"] = {{"east_m", run.place.east_m}, {"north_m", run.place.north_m}, {"delay_s", run.place.delay_s}};
        if (run.place.launch_s) out["place"]["launch_s"] = *run.place.launch_s;
    }
    out["flipped"] = run.flipped;
    out["unused"] = run.unused;
    if (!run.channel_edits.empty()) {
        out["channel_edits"] = Json::object();
        for (const ChannelEdit& edit : run.channel_edits) out["channel_edits"][edit.channel] = to_json(edit);
    }
    out["notes"] = run.notes;
    if (!run.picture_notes.empty()) out["picture_notes"] = Json::array();
    for (const PictureNote& note : run.picture_notes)
        out["picture_notes"].push_back({{"at_s", note.at_s}, {"channel", note.quantity}, {"text", note.text}});
    if (!run.official_laps.empty()) out["official_laps"] = Json::array();
    for (const OfficialLap& lap : run.official_laps)
        out["official_laps"].push_back({{"number", lap.number}, {"time_s", lap.time_s}});
    out["laps"] = Json::array();
    for (const Lap& lap : run.laps) {
        out["laps"].push_back({{"number", lap.number},
                               {"kind", lap_kind_name(lap.kind)},
                               {"start_s", lap.start_s},
                               {"end_s", lap.end_s},
                               {"length_m", lap.length_m},
                               {"included", lap.included},
                               {"by_hand", lap.switched_by_hand},
                               {"reason", lap.reason},
                               {"doubt", lap.doubt},
                               {"note", lap.note},
                               {"trust_m", lap.trust_m}});
    }
    return out;
}

BundleRun run_from(const Json& json) {
    const Fields in(json);
    BundleRun run;
    run.facts.event = in.text("event");
    run.facts.session = in.text("session");
    run.facts.name = in.text("name");
    run.facts.driver = in.text("driver");
    run.facts.car = in.text("car");
    for (const RunField& field : all_run_fields()) {
        if (field.is_text())
            run.facts.*field.text = in.text(field.id);
        else
            run.facts.*field.number = in.number(field.id);
    }
    run.setup = in.text("setup");
    run.track = in.text("track");
    run.digest = in.text("recording");
    run.logger = in.text("logger");
    run.source_name = in.text("source");
    run.clock_shift_s = in.number("clock_shift_s").value_or(0);
    const Json& window = in.list("window_s");
    if (window.size() == 2 && window[0].is_number() && window[1].is_number())
        run.window_s = Interval{window[0].get<double>(), window[1].get<double>()};
    run.joined_into = in.count("joined_into", -1);
    run.join_offset_s = in.number("join_offset_s").value_or(0);
    if (json.contains("place") && json.at("place").is_object()) {
        const Fields place(json.at("place"));
        run.place = {place.number("east_m").value_or(0), place.number("north_m").value_or(0),
                     place.number("delay_s").value_or(0), place.number("launch_s")};
    }
    run.flipped = in.texts("flipped");
    run.unused = in.texts("unused");
    if (json.contains("channel_edits") && json.at("channel_edits").is_object()) {
        for (const auto& [channel, edit] : json.at("channel_edits").items()) {
            if (edit.is_string()) run.channel_edits.push_back(channel_edit_from_json(channel, edit.get<std::string>()));
        }
    }
    run.notes = in.texts("notes");
    for (const Json& entry : in.list("picture_notes")) {
        const Fields fields(entry);
        PictureNote note{0, fields.number("at_s").value_or(0), fields.text("channel"), fields.text("text")};
        if (!note.text.empty()) run.picture_notes.push_back(std::move(note));
    }
    for (const Json& entry : in.list("official_laps")) {
        const OfficialLap lap{Fields(entry).count("number", 0), Fields(entry).number("time_s").value_or(0)};
        const bool doubled = std::any_of(run.official_laps.begin(), run.official_laps.end(),
                                         [&](const OfficialLap& it) { return it.number == lap.number; });
        if (lap.number > 0 && lap.time_s > 0 && !doubled) run.official_laps.push_back(lap);
    }
    for (const Json& entry : in.list("laps")) {
        const Fields fields(entry);
        Lap lap;
        lap.number = fields.count("number", 0);
        lap.kind = lap_kind_from_name(fields.text("kind"));
        lap.start_s = fields.number("start_s").value_or(0);
        lap.end_s = fields.number("end_s").value_or(0);
        lap.length_m = fields.number("length_m").value_or(0);
        lap.included = fields.flag("included");
        lap.switched_by_hand = fields.flag("by_hand");
        lap.reason = fields.text("reason");
        lap.doubt = fields.text("doubt");
        lap.note = fields.text("note");
        // Older bundles asked in the reason.
        if (!entry.contains("doubt") && lap.reason.find('?') != std::string::npos) std::swap(lap.doubt, lap.reason);
        lap.trust_m = fields.number("trust_m").value_or(0);
        run.laps.push_back(std::move(lap));
    }
    return run;
}

}  // namespace

std::string setup_key(const Setup& sheet) {
    return sheet.car + "|" + sheet.name + "|" + std::to_string(sheet.version);
}

std::string to_json(const BundleJson& bundle) {
    Json out;
    out["rendak_bundle"] = bundle_version;
    out["runs"] = Json::array();
    for (const BundleRun& run : bundle.runs) out["runs"].push_back(to_json(run));
    out["tracks"] = Json::array();
    for (const BundleTrack& track : bundle.tracks)
        out["tracks"].push_back({{"name", track.name}, {"file", track.file}, {"length_m", track.length_m}});
    out["setups"] = Json::array();
    for (const Setup& sheet : bundle.setups)
        out["setups"].push_back({{"car", sheet.car},
                                 {"name", sheet.name},
                                 {"version", sheet.version},
                                 {"remarks", sheet.remarks},
                                 {"values", to_json(sheet.values)}});
    out["car_sheets"] = Json::array();
    for (const CarSheet& sheet : bundle.car_sheets)
        out["car_sheets"].push_back({{"car", sheet.car},
                                     {"season", sheet.season},
                                     {"valid_from", sheet.valid_from},
                                     {"values", to_json(sheet.values)}});
    out["aliases"] = Json::array();
    for (const auto& [alias, quantity] : bundle.aliases)
        out["aliases"].push_back({{"alias", alias}, {"quantity", quantity}});
    out["formula_sets"] = Json::array();
    for (const formula::FormulaSet& set : bundle.formula_sets)
        out["formula_sets"].push_back(Json::parse(formula::set_to_json(set)));
    out["events"] = Json::array();
    for (const EventRow& event : bundle.events)
        out["events"].push_back({{"name", event.name},
                                 {"place", event.place},
                                 {"date", event.date},
                                 {"weather", event.weather},
                                 {"remarks", event.remarks},
                                 {"zone", event.zone}});
    return out.dump(1, ' ', false, Json::error_handler_t::replace);
}

Result<BundleJson> bundle_from_json(const std::string& text, const std::string& file) {
    if (auto fine = check_json(text, file); !fine) return pass_on(fine.error());
    const Json json = Json::parse(text, nullptr, false);
    const Fields in(json);
    if (!in.number("rendak_bundle"))
        return fail(ErrorCode::bad_input, "This zip file is no bundle: its bundle.json cannot be read.", file);
    if (*in.number("rendak_bundle") > bundle_version)
        return fail(ErrorCode::too_new,
                    "This bundle was written by a newer version of Rendak. Update Rendak; nothing was brought in.",
                    file);
    for (const char* list : {"runs", "tracks", "setups", "car_sheets", "aliases", "formula_sets", "events"}) {
        if (in.list(list).size() > most_of_a_kind)
            return fail(ErrorCode::bad_input,
                        "The bundle holds more than " + std::to_string(most_of_a_kind) + " entries under \"" + list +
                            "\"; it was refused.",
                        file);
    }
    BundleJson out;
    for (const Json& entry : in.list("runs")) {
        BundleRun run = run_from(entry);
        if (!is_hex(run.digest, 32))
            return fail(ErrorCode::bad_input, "The bundle's run \"" + run.facts.name + "\" names no recording.", file);
        if (run.joined_into >= static_cast<int>(in.list("runs").size()))
            return fail(ErrorCode::bad_input,
                        "The bundle's run \"" + run.facts.name + "\" is a part of a run that is not there.", file);
        out.runs.push_back(std::move(run));
    }
    for (const Json& entry : in.list("tracks")) {
        const Fields fields(entry);
        out.tracks.push_back({fields.text("name"), fields.text("file"), fields.number("length_m").value_or(0)});
        if (out.tracks.back().name.empty())
            return fail(ErrorCode::bad_input, "A track of the bundle has no name.", file);
    }
    for (const Json& entry : in.list("setups")) {
        const Fields fields(entry);
        Setup sheet{{}, fields.text("car"),     fields.text("name"), fields.count("version", 1),
                    0,  fields.text("remarks"), fields.values()};
        if (!sheet.name.empty()) out.setups.push_back(std::move(sheet));
    }
    for (const Json& entry : in.list("car_sheets")) {
        const Fields fields(entry);
        CarSheet sheet{fields.text("car"), fields.text("season"), fields.text("valid_from"), fields.values()};
        if (!sheet.car.empty()) out.car_sheets.push_back(std::move(sheet));
    }
    for (const Json& entry : in.list("aliases"))
        out.aliases.emplace_back(Fields(entry).text("alias"), Fields(entry).text("quantity"));
    for (const Json& entry : in.list("formula_sets")) {
        auto set = formula::set_from_json(entry.dump(-1, ' ', false, Json::error_handler_t::replace), file);
        if (!set) return pass_on(set.error());
        if (set->name != formula::starter_name) out.formula_sets.push_back(std::move(*set));
    }
    for (const Json& entry : in.list("events")) {
        const Fields fields(entry);
        out.events.push_back({{},
                              fields.text("name"),
                              fields.text("place"),
                              fields.text("date"),
                              fields.text("weather"),
                              fields.text("remarks"),
                              is_time_zone(fields.text("zone")) ? fields.text("zone") : std::string()});
    }
    return out;
}

}  // namespace rendak
