#pragma once

#include "core/analysis/corner_figure.h"
#include "core/analysis/findings.h"
#include "core/intake/run_data.h"

namespace rendak {

[[nodiscard]] const CornerFigure* find_corner_figure(std::string_view id);

/// A finding as something to work on: from B's mean of its figure to A's. In corners of commitment (A is faster than
/// 140 km/h at the slowest place, or does not slow down) in steps of 2 km/h of speed, or a third of the way. Fails for
/// what is no corner's, and where no figure shows the difference.
[[nodiscard]] Result<WorkItem> work_item_of(const LapFinding& finding, std::span<const PreparedLap> a,
                                            std::span<const PreparedLap> b, const RunRow& run_b);

/// A work item with what later runs of the same driver and car on its track show.
struct WorkProgress {
    struct Step {
        RunId run;
        std::string name;  ///< of the run
        double value = 0;  ///< mean of the laps that count; NaN where it cannot be told
        std::size_t laps = 0;
    };
    WorkItem item;
    std::string corner;       ///< its title today; empty when the track has no corner there any more
    std::vector<Step> steps;  ///< in the order driven
    bool met = false;         ///< by the last run that tells
    double next = 0;          ///< what to aim at now: a step further than the last, or the target
};
/// Of all items that are not closed; by driver, then by place. Opens the runs that are needed, each once.
[[nodiscard]] Result<std::vector<WorkProgress>> work_progress(const Library& library, const JobContext& job = {});

}  // namespace rendak
