#include "core/intake/stint.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/analysis/line_fit.h"
#include "core/analysis/set_difference.h"
#include "core/base/text.h"
#include "core/formula/syntax.h"
#include "core/intake/lap_table.h"

namespace rendak {
namespace {

using Run = std::shared_ptr<const RunData>;

constexpr std::array<const char*, 4> wheels{"fl", "fr", "rl", "rr"};
constexpr double litres_per_m3 = 1000;

const formula::Constants* sheet_of(const RunData& run) {
    return run.formulas == nullptr ? nullptr : &run.formulas->inputs().constants;
}

std::optional<double> constant(const RunData& run, const std::string& name) {
    const formula::Constants* sheet = sheet_of(run);
    if (sheet == nullptr) return std::nullopt;
    const auto found = sheet->values.find(name);
    return found == sheet->values.end() ? std::nullopt : std::optional(found->second.value);
}

LapColumn mean_of(const std::string& channel) {
    return {channel, LapStatistic::mean};
}

/// Mean of a reading over the laps that count from one on.
double over(const Stint& stint, const StintReading& reading, int from) {
    std::vector<double> values;
    for (std::size_t k = 0; k < stint.laps.size(); ++k) {
        if (stint.counts[k] && stint.laps[k] >= from && std::isfinite(reading.values[k]))
            values.push_back(reading.values[k]);
    }
    return values.empty() ? std::nan("") : mean_value(values);
}

Stint::Balance balance_of(const Stint& stint, const std::string& kind, int from) {
    std::array<double, 4> mean{};
    mean.fill(std::nan(""));
    for (const StintReading& it : stint.readings) {
        for (std::size_t w = 0; w < wheels.size(); ++w) {
            if (it.channel == kind + wheels[w]) mean[w] = over(stint, it, from);
        }
    }
    const auto [fl, fr, rl, rr] = mean;
    return {(fl + fr - rl - rr) / 2, fl - fr, rl - rr};
}

std::string words_of(const Stint& stint) {
    std::string out;
    if (stint.settled_from) out += "Tyres are settled from lap " + std::to_string(*stint.settled_from) + " on. ";
    out += stint.s_per_litre ? "With " + fixed(*stint.s_per_litre, 3) + " s a litre taken out, "
                             : "With the weight of the fuel left in (what a litre costs is not known), ";
    if (!stint.fall_off) return out + "too few laps count to tell what the pace does.";
    if (stint.fall_off->sure()) {
        const std::string words = trend_words(*stint.fall_off, 1, "s");
        out += "the lap time " + words + ", over " + counted(stint.fall_off->laps, "lap", "laps") + ".";
    } else {
        out +=
            "no change of the lap time is told from chance over " + counted(stint.fall_off->laps, "lap", "laps") + ".";
    }
    if (stint.breaks)
        out += " From lap " + std::to_string(stint.breaks->from_lap) +
               " on it goes up faster: " + fixed(stint.breaks->after_per_lap, 2) + " s a lap, " +
               fixed(stint.breaks->before_per_lap, 2) + " before.";
    return out;
}

}  // namespace

Result<Stint> stint_of(const Run& run, std::optional<double> s_per_litre, const JobContext& job) {
    std::vector<LapColumn> columns{mean_of("fuel")};
    for (const char* kind : {"tyre_temperature_", "tyre_pressure_"}) {
        for (const char* wheel : wheels) columns.push_back(mean_of(std::string(kind) + wheel));
    }
    const auto table = lap_table(std::span(&run, 1), columns, job);
    if (!table) return pass_on(table.error());
    Stint out;
    std::vector<const LapTable::Row*> rows;
    for (const LapTable::Row& row : table->rows) {
        if (row.kind != LapKind::flying && row.kind != LapKind::stopped) continue;
        rows.push_back(&row);
        out.laps.push_back(row.ref.lap);
        out.counts.push_back(row.counts ? 1 : 0);
        out.time_s.push_back(row.time_s);
        out.fuel_l.push_back(litres_per_m3 * row.figures[0].value);
    }
    if (rows.empty()) return fail(ErrorCode::bad_input, "This run has no complete lap.", run->row.name);
    out.s_per_litre = s_per_litre;
    if (!out.s_per_litre) {
        if (const auto effect = constant(*run, "fuel_effect")) out.s_per_litre = *effect / litres_per_m3;
    }
    const auto first_fuel =
        std::find_if(out.fuel_l.begin(), out.fuel_l.end(), [](double litres) { return std::isfinite(litres); });
    if (first_fuel == out.fuel_l.end()) out.s_per_litre.reset();
    for (std::size_t k = 0; k < rows.size(); ++k)
        out.steady_s.push_back(out.s_per_litre ? out.time_s[k] + *out.s_per_litre * (*first_fuel - out.fuel_l[k])
                                               : out.time_s[k]);
    const std::vector<double> numbers(out.laps.begin(), out.laps.end());
    for (std::size_t c = 1; c < table->columns.size(); ++c) {
        if (!table->columns[c].missing.empty()) continue;
        StintReading reading{table->columns[c].column.channel, table->columns[c].unit};
        for (const LapTable::Row* row : rows) reading.values.push_back(row->figures[c].value);
        reading.settling = settling(numbers, reading.values);
        if (reading.settling && reading.settling->from_lap)
            out.settled_from = std::max(out.settled_from.value_or(0), *reading.settling->from_lap);
        out.readings.push_back(std::move(reading));
    }
    const int from = out.settled_from.value_or(out.laps.front());
    std::vector<double> counting, steady;
    for (std::size_t k = 0; k < rows.size(); ++k) {
        if (!out.counts[k] || out.laps[k] < from || !std::isfinite(out.steady_s[k])) continue;
        counting.push_back(out.laps[k]);
        steady.push_back(out.steady_s[k]);
    }
    out.fall_off = lap_trend(counting, steady);
    out.breaks = break_away(counting, steady);
    for (StintReading& reading : out.readings) {
        std::vector<double> values;
        for (std::size_t k = 0; k < rows.size(); ++k) {
            if (out.counts[k] && out.laps[k] >= from && std::isfinite(out.steady_s[k]))
                values.push_back(reading.values[k]);
        }
        reading.trend = lap_trend(counting, values);
        reading.goes_with_pace = correlation(values, steady);
    }
    out.temperature = balance_of(out, "tyre_temperature_", from);
    out.pressure = balance_of(out, "tyre_pressure_", from);
    out.text = words_of(out);
    return out;
}

Result<Windows> windows_of(const Run& run, const JobContext& job) {
    struct Kind {
        std::string prefix;
        bool by_wheel;
        std::string low, high;  ///< of the sheet
    };
    const Kind kinds[] = {{"tyre_temperature_", true, "tyre_window_low", "tyre_window_high"},
                          {"tyre_inner_", true, "tyre_window_low", "tyre_window_high"},
                          {"tyre_middle_", true, "tyre_window_low", "tyre_window_high"},
                          {"tyre_outer_", true, "tyre_window_low", "tyre_window_high"},
                          {"tyre_pressure_", true, "tyre_pressure_low", "tyre_pressure_high"},
                          {"brake_temperature_", true, "brake_window_low", "brake_window_high"},
                          {"oil_temperature", false, "oil_temperature_low", "oil_temperature_high"},
                          {"water_temperature", false, "water_temperature_low", "water_temperature_high"}};
    Windows out;
    if (const formula::Constants* sheet = sheet_of(*run)) {
        out.sheet = sheet->sheet;
        out.stale = sheet->stale;
    }
    const std::string set = formula::plain_name(run->row.tyre_set);
    const auto limit = [&](const std::string& name) {
        const auto own = set.empty() ? std::nullopt : constant(*run, name + "_" + set);
        return own ? own : constant(*run, name);
    };
    // Of each share the places of its two columns; none where the window is open on that side.
    struct Sides {
        std::optional<std::size_t> below, above;
    };
    std::vector<Sides> sides;
    std::vector<LapColumn> columns;
    const auto column_of = [&](const Channel& logged, const std::string& channel, LapStatistic side, double at) {
        columns.push_back({channel, side, at, logged.unit});
        return columns.size() - 1;
    };
    for (const Kind& kind : kinds) {
        for (const char* wheel : wheels) {
            const std::string channel = kind.by_wheel ? kind.prefix + wheel : kind.prefix;
            const Channel* logged = run->recording->find(channel);
            WindowShare share{channel, limit(kind.low), limit(kind.high)};
            if (logged != nullptr && !share.low && !share.high) {
                out.unknown.push_back(channel);
            } else if (logged != nullptr) {
                Sides of;
                if (share.low) of.below = column_of(*logged, channel, LapStatistic::below, *share.low);
                if (share.high) of.above = column_of(*logged, channel, LapStatistic::above, *share.high);
                sides.push_back(of);
                out.shares.push_back(std::move(share));
            }
            if (!kind.by_wheel) break;
        }
    }
    const auto table = lap_table(std::span(&run, 1), columns, job);
    if (!table) return pass_on(table.error());
    for (std::size_t k = 0; k < out.shares.size(); ++k) {
        const auto share_of = [&](const LapTable::Row& row, const std::optional<std::size_t>& column) {
            return column ? row.figures[*column].value : 0;
        };
        WindowShare& share = out.shares[k];
        double time = 0;
        for (const LapTable::Row& row : table->rows) {
            const double below = share_of(row, sides[k].below), above = share_of(row, sides[k].above);
            if (!row.counts || !std::isfinite(below + above)) continue;
            share.below += row.time_s * below;
            share.above += row.time_s * above;
            time += row.time_s;
            ++share.laps;
        }
        if (!(time > 0)) continue;
        share.below /= time;
        share.above /= time;
        share.inside = 1 - share.below - share.above;
    }
    std::erase_if(out.shares, [](const WindowShare& it) { return it.laps == 0; });
    return out;
}

}  // namespace rendak
