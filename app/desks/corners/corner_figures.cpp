#include "app/desks/corners/corner_figures.h"

namespace rendak::app {

CornerFigures corner_figures(const std::vector<std::shared_ptr<const RunData>>& runs, const std::string& channel) {
    CornerFigures out;
    std::vector<PreparedLap> laps;
    std::vector<TimedLap> timed;
    std::vector<std::shared_ptr<const RunData>> used;
    for (const auto& run : runs) {
        if (run->track == nullptr || (!used.empty() && used.front()->row.track != run->row.track)) continue;
        used.push_back(run);
    }
    if (used.empty()) return out;
    out.track = used.front()->track;
    for (const auto& run : used) {
        const QString name = QString::fromStdString(run->row.name), driver = QString::fromStdString(run->row.driver);
        out.runs.emplace_back(name, consistency(run->laps));
        for (RunLap& it : complete_laps(*run)) {
            const QString number = QString::number(it.lap.ref.lap);
            out.laps.push_back(it.lap.ref);
            out.lap_names.push_back(used.size() == 1 ? number
                                                     : QStringLiteral("%1:%2").arg(run->row.id.value).arg(number));
            out.lap_runs.push_back(driver.isEmpty() ? name : name + QStringLiteral(", ") + driver);
            timed.push_back({it.lap.ref, it.included, it.lap.map});
            laps.push_back(std::move(it.lap));
        }
    }
    const auto sections = sections_of(*out.track);
    out.sections = section_table(timed, sections);
    out.sectors = section_table(timed, sectors_of(*out.track));
    out.loop = fastest_loop(timed, sections);
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
