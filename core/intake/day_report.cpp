#include "core/intake/day_report.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/section_table.h"
#include "core/analysis/set_difference.h"
#include "core/base/text.h"
#include "core/intake/lap_table.h"

namespace rendak {
namespace {

using Run = std::shared_ptr<const RunData>;

constexpr const char* day_columns =
    "lap_time end; braking_time end; throttle_share end; coasting_time end; coasting_distance end; cornering_time end; "
    "speed low; speed mean; speed high";

/// Of each column the values of the laps that count.
using Values = std::vector<std::vector<double>>;

/// How people call a column, in what, and from which change on it is worth a word.
struct Called {
    const char* column;
    const char* name;
    double per_si;
    const char* unit;
    int decimals;
    double least;  ///< in that unit
};
constexpr Called called[] = {
    {"lap_time end", "the lap time", 1, "s", 2, 0.02},     {"braking_time end", "time on the brake", 1, "s", 2, 0.05},
    {"coasting_time end", "coasting", 1, "s", 2, 0.05},    {"speed low", "the slowest speed", 3.6, "km/h", 1, 0.3},
    {"speed mean", "the mean speed", 3.6, "km/h", 1, 0.3}, {"speed high", "the top speed", 3.6, "km/h", 1, 0.3}};

const Called* name_of(const DayFigure& figure) {
    for (const Called& it : called) {
        if (figure.column == it.column) return &it;
    }
    return nullptr;
}

std::string sentence(const DayFigure& figure, const Called& it) {
    const double change = it.per_si * *figure.change, half = it.per_si * figure.likely->length() / 2;
    return std::string(it.name) + (change < 0 ? " fell by " : " grew by ") + fixed(std::abs(change), it.decimals) +
           " " + it.unit + " (± " + fixed(half, it.decimals) + ")";
}

/// What cannot have lowered the top speed, and what could but is not noted.
std::vector<std::string> ruled_out(const RunRow& now, const RunRow& before) {
    constexpr double warmer_k = 3, wind_mps = 2, pressure_hpa = 5;
    std::vector<std::string> out;
    if (!now.air_c || !before.air_c)
        out.emplace_back("Heat cannot be ruled out: the air's temperature is not noted for both runs.");
    else if (*now.air_c - *before.air_c < warmer_k)
        out.push_back("Not the heat: " + fixed(*before.air_c, 0) + " and " + fixed(*now.air_c, 0) + " °C.");
    if (!now.wind_mps || !before.wind_mps)
        out.emplace_back("Wind cannot be ruled out: it is not noted for both runs.");
    else if (std::max(*now.wind_mps, *before.wind_mps) < wind_mps)
        out.push_back("Not the wind: at most " + fixed(std::max(*now.wind_mps, *before.wind_mps), 1) + " m/s.");
    if (now.pressure_hpa && before.pressure_hpa && *before.pressure_hpa - *now.pressure_hpa < pressure_hpa)
        out.push_back("Not the air's pressure: " + fixed(*before.pressure_hpa, 0) + " and " +
                      fixed(*now.pressure_hpa, 0) + " hPa.");
    return out;
}

void tell(DayRun& now, const RunRow& before) {
    std::vector<const DayFigure*> figures;
    for (const DayFigure& it : now.figures) {
        const Called* named = name_of(it);
        if (named != nullptr && it.sure() && std::abs(named->per_si * *it.change) >= named->least)
            figures.push_back(&it);
    }
    // Largest share first.
    std::stable_sort(figures.begin(), figures.end(), [](const DayFigure* a, const DayFigure* b) {
        const auto share = [](const DayFigure* it) {
            return std::abs(*it->change) / std::max(std::abs(it->mean), 1e-9);
        };
        return share(a) > share(b);
    });
    for (const DayFigure* it : figures) {
        const Called& named = *name_of(*it);
        if (it->improved()) now.improved.push_back(sentence(*it, named));
        if (!it->worsened()) continue;
        now.worsened.push_back(sentence(*it, named));
        // What follows from the rest is nothing to work on by itself.
        const bool follows = it->column == "lap_time end" || it->column == "speed mean";
        if (now.next.empty() && !follows) now.next = named.name;
        if (it->column == "speed high") now.ruled_out = ruled_out(now.run, before);
    }
}

}  // namespace

Result<std::vector<DayRun>> day_report(std::span<const Run> runs, const JobContext& job) {
    std::vector<Run> ordered(runs.begin(), runs.end());
    std::stable_sort(ordered.begin(), ordered.end(), [](const Run& a, const Run& b) {
        return a->row.start_unix_s.value_or(1e300) < b->row.start_unix_s.value_or(1e300);
    });
    const auto columns = lap_columns(day_columns);
    if (!columns) return pass_on(columns.error());
    const auto table = lap_table(ordered, *columns, job);
    if (!table) return pass_on(table.error());
    std::vector<DayRun> out;
    std::vector<Values> values;
    for (const Run& run : ordered) {
        Values of_run(table->columns.size());
        for (const LapTable::Row& row : table->rows) {
            if (row.ref.run != run->row.id || !row.counts) continue;
            for (std::size_t c = 0; c < of_run.size(); ++c) {
                if (std::isfinite(row.figures[c].value)) of_run[c].push_back(row.figures[c].value);
            }
        }
        DayRun it{run->row, of_run[0].size()};
        if (it.laps > 0) {
            const Spread times = spread_of(of_run[0]);
            it.best_s = times.least;
            it.mean_s = times.mean;
            if (times.count > 1) it.scatter_s = times.sd;
        }
        // The last run before of the same driver and car on the same track that has laps.
        std::size_t before = out.size();
        while (before-- > 0) {
            const RunRow& other = out[before].run;
            if (out[before].laps > 0 && other.driver == it.run.driver && other.car == it.run.car &&
                other.track == it.run.track)
                break;
        }
        const bool has_before = before < out.size() && it.laps > 0;
        for (std::size_t c = 0; c < table->columns.size(); ++c) {
            const LapTable::Column& column = table->columns[c];
            DayFigure figure{column.column.text(), column.unit, column.better};
            if (!of_run[c].empty()) figure.mean = mean_value(of_run[c]);
            if (has_before && !of_run[c].empty() && !values[before][c].empty()) {
                figure.change = figure.mean - mean_value(values[before][c]);
                figure.likely = likely_difference(values[before][c], of_run[c]);
            }
            it.figures.push_back(std::move(figure));
        }
        if (has_before) {
            it.since = out[before].run.id;
            tell(it, out[before].run);
        }
        out.push_back(std::move(it));
        values.push_back(std::move(of_run));
    }
    return out;
}

}  // namespace rendak
