#pragma once

#include <span>
#include <string>
#include <vector>

#include "core/library/rows.h"

namespace rendak {

/// What is not the same in two runs, as far as it was written down: what was changed on the car, and what else could
/// explain a difference.
struct RunDifferences {
    std::vector<std::string> changes;  ///< "Rear wing 9 to 5 °", one a change
    std::vector<std::string> others;   ///< "tyres 19 laps older", "1.5 h later: track and air may differ"
    [[nodiscard]] bool empty() const { return changes.empty() && others.empty(); }
    /// More than one change at once: a gain cannot be credited to one of them.
    [[nodiscard]] bool confounded() const { return changes.size() > 1; }
};

/// From `before` to `after`. Without both setup sheets the noted changes of the later run are taken.
[[nodiscard]] RunDifferences differences_between(const RunRow& before, const RunRow& after,
                                                 std::span<const SheetValue> setup_before,
                                                 std::span<const SheetValue> setup_after);

}  // namespace rendak
