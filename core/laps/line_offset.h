#pragma once

#include <vector>

#include "core/laps/prepared_lap.h"

namespace rendak {

/// How far to the left of the baseline's line a lap is driven, measured across the road at the same place of it.
struct LineOffset {
    std::vector<double> distance_m;
    std::vector<double> left_m;  ///< negative: to the right; NaN where a position is missing
    double error_m = 0;          ///< expected error of the difference, one standard deviation; 0: not known

    /// NaN for a curve of nothing.
    [[nodiscard]] double at(double distance) const;
};

/// On a grid over the baseline's lap. Both must be laps of one track. All zero for the baseline itself.
[[nodiscard]] LineOffset line_offset(const PreparedLap& baseline, const PreparedLap& lap, double step_m = 2);

}  // namespace rendak
