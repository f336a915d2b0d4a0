#include "core/intake/stint.h"

#include <algorithm>

#include "core/analysis/line_fit.h"
#include "core/analysis/set_difference.h"
#include "core/base/text.h"
#include "core/intake/lap_table.h"
#include "core/intake/windows.h"

namespace rendak {
namespace {

using Run = std::shared_ptr<const RunData>;

constexpr double litres_per_m3 = 1000;

StintBalance balance_of(const Stint& stint, std::size_t kind) {
    StintBalance out{kind, {}};
    out.mean.fill(std::nan(""));
    for (const StintReading& it : stint.readings) {
        if (it.kind != kind) continue;
        if (wheel_kinds()[kind].adds_up) {
            const auto last =
                std::find_if(it.values.rbegin(), it.values.rend(), [](double v) { return std::isfinite(v); });
            if (last != it.values.rend()) out.mean[it.wheel] = *last;
        } else if (const auto values = stint.telling(it.values); !values.empty()) {
            out.mean[it.wheel] = mean_value(values);
        }
    }
    const auto [fl, fr, rl, rr] = out.mean;
    out.front_minus_rear = (fl + fr - rl - rr) / 2;
    out.left_minus_right_front = fl - fr;
    out.left_minus_right_rear = rl - rr;
    const auto [low, high] = std::minmax_element(out.mean.begin(), out.mean.end());
    if (std::isfinite(fl + fr + rl + rr)) out.spread = *high - *low;
    return out;
}

/// Laps whose tyres have not come in: those before all readings have settled, and those behind a stop for as long as a
/// reading is farther from its end than when it had settled.
void mark_cold(Stint& stint, const std::vector<const LapTable::Row*>& rows) {
    for (std::size_t k = 0; k < stint.laps.size(); ++k) {
        const auto last_stop = std::find_if(rows.rend() - static_cast<std::ptrdiff_t>(k), rows.rend(),
                                            [](const LapTable::Row* it) { return it->kind == LapKind::stopped; });
        bool cold = stint.settled_from && stint.laps[k] < *stint.settled_from;
        for (const StintReading& it : stint.readings) {
            if (!it.settling || last_stop == rows.rend()) continue;
            constexpr double part = 0.05;  // as settling() counts it
            const double off = it.values[k] - it.settling->end, way = it.settling->off_at_first;
            cold = cold || (off * way > 0 && std::abs(off) > std::max(part * std::abs(way), 3 * it.settling->scatter));
        }
        stint.cold.push_back(cold ? 1 : 0);
    }
}

/// Behind a stop the tyres come in once more: how they settle is told by the laps before it, where they are enough.
std::optional<Settling> settling_before_stop(const std::vector<double>& numbers, const std::vector<double>& values,
                                             const std::vector<const LapTable::Row*>& rows) {
    constexpr std::ptrdiff_t enough = 5;
    const auto stop =
        std::find_if(rows.begin(), rows.end(), [](const LapTable::Row* it) { return it->kind == LapKind::stopped; });
    const std::ptrdiff_t before = stop - rows.begin();
    if (stop == rows.end() || before < enough) return settling(numbers, values);
    return settling({numbers.begin(), numbers.begin() + before}, {values.begin(), values.begin() + before});
}

std::string words_of(const Stint& stint) {
    std::string out;
    if (stint.settled_from) out += "Tyres are settled from lap " + std::to_string(*stint.settled_from) + " on. ";
    out += stint.s_per_litre
               ? "With " + fixed(*stint.s_per_litre, 3) + " s a litre taken out" +
                     (stint.fitted ? " (fitted, ± " + fixed(stint.fitted->likely.length() / 2, 3) + "), " : ", ")
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

const StintReading* Stint::reading(std::size_t kind, std::size_t wheel) const {
    const auto found = std::find_if(readings.begin(), readings.end(),
                                    [&](const StintReading& it) { return it.kind == kind && it.wheel == wheel; });
    return found == readings.end() ? nullptr : &*found;
}

const StintBalance* Stint::balance(std::size_t kind) const {
    const auto found =
        std::find_if(balances.begin(), balances.end(), [&](const StintBalance& it) { return it.kind == kind; });
    return found == balances.end() ? nullptr : &*found;
}

std::vector<double> Stint::telling(const std::vector<double>& values) const {
    std::vector<double> out;
    for (std::size_t k = 0; k < laps.size(); ++k) {
        if (tells(k) && std::isfinite(values[k])) out.push_back(values[k]);
    }
    return out;
}

Result<Stint> stint_of(const Run& run, std::optional<double> s_per_litre, const JobContext& job) {
    constexpr auto kinds = wheel_kinds();
    std::vector<LapColumn> columns{{"fuel", LapStatistic::mean}};
    for (const WheelKind& kind : kinds) {
        for (std::size_t w = 0; w < wheel_ids.size(); ++w)
            columns.push_back({kind.channel(w), kind.adds_up ? LapStatistic::end : LapStatistic::mean});
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
    const std::vector<double> numbers(out.laps.begin(), out.laps.end());
    for (std::size_t c = 1; c < table->columns.size(); ++c) {
        if (!table->columns[c].missing.empty()) continue;
        StintReading reading{(c - 1) / wheel_ids.size(), (c - 1) % wheel_ids.size(), table->columns[c].column.channel,
                             table->columns[c].unit};
        for (const LapTable::Row* row : rows) reading.values.push_back(row->figures[c].value);
        if (kinds[reading.kind].settles) reading.settling = settling_before_stop(numbers, reading.values, rows);
        if (reading.settling && reading.settling->from_lap)
            out.settled_from = std::max(out.settled_from.value_or(0), *reading.settling->from_lap);
        out.readings.push_back(std::move(reading));
    }
    mark_cold(out, rows);

    out.s_per_litre = s_per_litre;
    if (!out.s_per_litre) {
        if (const auto effect = sheet_constant(*run, "fuel_effect")) out.s_per_litre = *effect / litres_per_m3;
    }
    if (!out.s_per_litre) {
        std::vector<double> lap, time, litres;
        for (std::size_t k = 0; k < rows.size(); ++k) {
            if (!out.tells(k)) continue;
            lap.push_back(numbers[k]);
            time.push_back(out.time_s[k]);
            litres.push_back(out.fuel_l[k]);
        }
        out.fitted = fitted_fuel_effect(lap, time, litres);
        if (out.fitted) out.s_per_litre = out.fitted->s_per_litre;
    }
    const auto first_fuel =
        std::find_if(out.fuel_l.begin(), out.fuel_l.end(), [](double litres) { return std::isfinite(litres); });
    if (first_fuel == out.fuel_l.end()) out.s_per_litre.reset();
    for (std::size_t k = 0; k < rows.size(); ++k)
        out.steady_s.push_back(out.s_per_litre ? out.time_s[k] + *out.s_per_litre * (*first_fuel - out.fuel_l[k])
                                               : out.time_s[k]);
    std::vector<double> counting, steady;
    for (std::size_t k = 0; k < rows.size(); ++k) {
        if (!out.tells(k) || !std::isfinite(out.steady_s[k])) continue;
        counting.push_back(out.laps[k]);
        steady.push_back(out.steady_s[k]);
    }
    out.fall_off = lap_trend(counting, steady);
    out.breaks = break_away(counting, steady);
    for (StintReading& reading : out.readings) {
        std::vector<double> values;
        for (std::size_t k = 0; k < rows.size(); ++k) {
            if (out.tells(k) && std::isfinite(out.steady_s[k])) values.push_back(reading.values[k]);
        }
        reading.trend = lap_trend(counting, values);
        reading.goes_with_pace = correlation(values, steady);
    }
    for (std::size_t kind = 0; kind < kinds.size(); ++kind) {
        const bool logged = std::any_of(out.readings.begin(), out.readings.end(),
                                        [&](const StintReading& it) { return it.kind == kind; });
        if (logged) out.balances.push_back(balance_of(out, kind));
    }
    out.text = words_of(out);
    return out;
}

}  // namespace rendak
