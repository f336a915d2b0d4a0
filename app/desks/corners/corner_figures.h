#pragma once

#include <QString>
#include <memory>

#include "core/analysis/corner_figure.h"
#include "core/analysis/lap_choice.h"
#include "core/analysis/section_activity.h"
#include "core/analysis/section_table.h"
#include "core/intake/run_data.h"

namespace rendak::app {

/// Everything the Corners desk shows of the runs on the tray; worked out once a change, on a worker.
struct CornerFigures {
    std::shared_ptr<const Track> track;
    std::vector<LapRef> laps;        ///< in the order of the tables' lap columns
    std::vector<QString> lap_names;  ///< "2:4" with several runs, else "4"
    std::vector<QString> lap_runs;   ///< run and driver, for tooltips
    SectionTable sections, sectors;
    CornerPeaks peaks, peaks_with_banked;
    CornerFigureTable of_corners;                        ///< lap × corner × figure
    std::string channel;                                 ///< quantity or formula whose figures were asked for
    std::vector<std::vector<RangeFigures>> of_channel;   ///< lap × section, the whole lap last
    std::vector<std::vector<SectionActivity>> activity;  ///< lap × section, the whole lap last
    std::vector<QString> run_names;                      ///< of `sections.runs`, short
    std::optional<FastestLoop> loop;
    std::vector<std::pair<QString, Consistency>> runs;
    QString not_counted;      ///< which laps the bests, means and limits leave out, in a sentence
    bool has_others = false;  ///< laps of other drivers or cars than the first one's are among them
};

/// Complete laps of all runs that were driven on the first one's track; which of them count says `pooled_laps`.
[[nodiscard]] CornerFigures corner_figures(const std::vector<std::shared_ptr<const RunData>>& runs,
                                           const std::string& channel = {}, bool mixed = false);

}  // namespace rendak::app
