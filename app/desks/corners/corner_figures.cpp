#include "app/desks/corners/corner_figures.h"

#include <algorithm>

#include "app/text/sentences.h"
#include "core/intake/lap_pool.h"

namespace rendak::app {

CornerFigures corner_figures(const std::vector<std::shared_ptr<const RunData>>& runs, const std::string& channel,
                             bool mixed) {
    CornerFigures out;
    const LapPool pool = pooled_laps(runs, mixed);
    if (pool.runs.empty()) return out;
    const auto& laps = pool.laps;
    const auto& timed = pool.timed;
    out.track = pool.runs.front()->track;
    out.not_counted = QString::fromStdString(pool.not_counted());
    for (const auto& run : pool.runs) {
        const RunRow& first = pool.runs.front()->row;
        out.has_others = out.has_others || run->row.driver != first.driver || run->row.car != first.car;
        out.runs.emplace_back(run_title(run->row, pool.runs), consistency(run->laps));
    }
    for (const PreparedLap& lap : laps) {
        const auto run =
            std::find_if(pool.runs.begin(), pool.runs.end(), [&](const auto& it) { return it->row.id == lap.ref.run; });
        const QString number = QString::number(lap.ref.lap), driver = QString::fromStdString((*run)->row.driver),
                      title = run_title((*run)->row, pool.runs);
        out.laps.push_back(lap.ref);
        out.lap_names.push_back(pool.runs.size() == 1 ? number
                                                      : QStringLiteral("%1:%2").arg((*run)->row.id.value).arg(number));
        out.lap_runs.push_back(driver.isEmpty() || title.contains(driver) ? title
                                                                          : title + QStringLiteral(", ") + driver);
    }
    const auto sections = sections_of(*out.track);
    out.sections = section_table(timed, sections);
    out.sectors = section_table(timed, sectors_of(*out.track));
    out.loop = fastest_loop(timed, sections);
    for (const auto& of : out.sections.runs) {
        for (const auto& run : pool.runs) {
            if (run->row.id == of.run) out.run_names.push_back(run_title(run->row, pool.runs));
        }
    }
    std::vector<Interval> ranges;
    for (const Section& section : sections) ranges.push_back(section.range_m);
    ranges.push_back({0, out.track->length_m});
    for (const PreparedLap& lap : laps) out.activity.push_back(section_activity(lap, ranges));
    out.channel = channel;
    for (const PreparedLap& lap : laps) {
        if (channel.empty()) break;
        auto& row = out.of_channel.emplace_back();
        for (const Section& section : sections) row.push_back(figures_in_range(lap, channel, section.range_m));
        row.push_back(figures_in_range(lap, channel, {0, out.track->length_m}));
    }
    out.peaks = corner_peaks(laps, false);
    out.peaks_with_banked = corner_peaks(laps, true);
    out.of_corners = corner_figure_table(laps, out.peaks);
    return out;
}

}  // namespace rendak::app
