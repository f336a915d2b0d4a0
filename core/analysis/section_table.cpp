#include "core/analysis/section_table.h"

#include <algorithm>
#include <cmath>

namespace rendak {

Spread spread_of(std::span<const double> values) {
    Spread out;
    out.count = values.size();
    if (values.empty()) return out;
    out.least = out.most = values.front();
    for (const double value : values) {
        out.least = std::min(out.least, value);
        out.most = std::max(out.most, value);
        out.mean += value / static_cast<double>(values.size());
    }
    double squares = 0;
    for (const double value : values) squares += (value - out.mean) * (value - out.mean);
    std::vector<double> sorted(values.begin(), values.end());
    std::sort(sorted.begin(), sorted.end());
    const std::size_t half = sorted.size() / 2;
    out.middle = sorted.size() % 2 == 1 ? sorted[half] : 0.5 * (sorted[half - 1] + sorted[half]);
    if (values.size() > 1) out.sd = std::sqrt(squares / static_cast<double>(values.size() - 1));
    return out;
}

SectionTable section_table(std::span<const TimedLap> laps, std::vector<Section> sections) {
    SectionTable table;
    table.sections = std::move(sections);
    for (const TimedLap& lap : laps) {
        SectionTable::Row row{lap.ref, lap.included, lap.map.end_s() - lap.map.start_s(), {}, lap.counts_in_run};
        for (const Section& section : table.sections)
            row.section_s.push_back(lap.map.time_at(section.range_m.end) - lap.map.time_at(section.range_m.begin));
        table.rows.push_back(std::move(row));
    }
    std::vector<double> times;
    for (std::size_t r = 0; r < table.rows.size(); ++r) {
        if (!table.rows[r].included) continue;
        times.push_back(table.rows[r].lap_s);
        if (!table.best_lap || table.rows[r].lap_s < table.rows[*table.best_lap].lap_s) table.best_lap = r;
    }
    table.laps = spread_of(times);
    double ideal = 0;
    for (std::size_t k = 0; k < table.sections.size(); ++k) {
        std::optional<std::size_t> best;
        times.clear();
        for (std::size_t r = 0; r < table.rows.size(); ++r) {
            if (!table.rows[r].included) continue;
            times.push_back(table.rows[r].section_s[k]);
            if (!best || table.rows[r].section_s[k] < table.rows[*best].section_s[k]) best = r;
        }
        table.best.push_back(best);
        table.spread.push_back(spread_of(times));
        ideal += table.spread.back().least;
    }
    if (table.best_lap) table.ideal_s = ideal;
    for (const SectionTable::Row& first : table.rows) {
        const RunId run = first.ref.run;
        if (std::any_of(table.runs.begin(), table.runs.end(), [&](const auto& it) { return it.run == run; })) continue;
        SectionTable::OfRun of{run, {}, {}};
        const auto over = [&](auto value) {
            std::vector<double> values;
            for (const SectionTable::Row& row : table.rows) {
                if (row.counts_in_run && row.ref.run == run) values.push_back(value(row));
            }
            return spread_of(values);
        };
        for (std::size_t k = 0; k < table.sections.size(); ++k)
            of.spread.push_back(over([k](const SectionTable::Row& row) { return row.section_s[k]; }));
        of.laps = over([](const SectionTable::Row& row) { return row.lap_s; });
        table.runs.push_back(std::move(of));
    }
    return table;
}

std::optional<FastestLoop> fastest_loop(std::span<const TimedLap> laps, const std::vector<Section>& sections) {
    std::optional<FastestLoop> best;
    const auto consider = [&](const TimedLap& lap, double time_s, const Section& section) {
        if (best && time_s >= best->time_s) return;
        best = FastestLoop{lap.ref, section.range_m.begin, time_s, section.name};
    };
    for (const TimedLap& lap : laps) {
        if (!lap.included || sections.empty()) continue;
        consider(lap, lap.map.end_s() - lap.map.start_s(), sections.front());
        for (const TimedLap& next : laps) {
            const bool follows = next.included && next.ref.run == lap.ref.run && next.ref.lap == lap.ref.lap + 1 &&
                                 std::abs(next.map.start_s() - lap.map.end_s()) < 1e-3;
            if (!follows) continue;
            for (std::size_t k = 1; k < sections.size(); ++k) {
                const double at = sections[k].range_m.begin;
                consider(lap, next.map.time_at(at) - lap.map.time_at(at), sections[k]);
            }
        }
    }
    return best;
}

}  // namespace rendak
