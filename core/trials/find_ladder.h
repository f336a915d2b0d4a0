#pragma once

#include <string>
#include <vector>

#include "core/intake/run_data.h"

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

}  // namespace rendak
