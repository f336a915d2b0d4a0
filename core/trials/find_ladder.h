#pragma once

#include <string>
#include <vector>

#include "core/base/job.h"
#include "core/chassis/ladder.h"
#include "core/intake/lap_set.h"
#include "core/trials/planned_runs.h"

namespace rendak {

/// Runs whose setup sheets differ in one value, which they step.
struct FoundLadder {
    std::string name, unit;            ///< of the sheet's line: "Bump rear", "clicks"
    bool front = false, rear = false;  ///< the axle that its name says
    std::vector<RunId> runs;           ///< in the order driven
    std::vector<double> values;        ///< of each
};
/// Of runs (their sheets are read): for each line of the sheets the longest row of runs that follow each other, were
/// driven by one car on one track, share every other line, and each have another value of it; three at least. The
/// longest first.
[[nodiscard]] Result<std::vector<FoundLadder>> find_ladders(const Library& library, const std::vector<RunRow>& runs);

/// The same with the laps of its runs that count.
struct OpenedLadder {
    FoundLadder found;
    std::vector<LadderStep> steps;
    std::vector<PreparedLap> laps;  ///< of all steps: the stretches are the quickest one's
    std::string event, car;
};
/// Each run opened by `open`. Fails where no lap counts.
[[nodiscard]] Result<OpenedLadder> open_ladder(const FoundLadder& ladder, const OpenRun& open,
                                               const JobContext& job = {});

/// The axle that a ladder's name says, its loaded side; each wheel where it says none.
void look_at_axle(SpectrumWish& wish, const FoundLadder& ladder);

/// Runs that a judged ladder proposes: finer steps around the best value or beyond the end, and laps that prove it.
[[nodiscard]] std::vector<PlannedRun> next_runs(const Ladder& ladder, const OpenedLadder& of);

}  // namespace rendak
