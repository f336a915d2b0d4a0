#pragma once

#include <vector>

#include "core/laps/lap_map.h"

namespace rendak {

/// Elapsed time of a lap minus the baseline's at the same place, over 0 … length. Positive = behind.
struct GapCurve {
    std::vector<double> distance_m;
    std::vector<double> gap_s;

    [[nodiscard]] double at(double distance) const;
};

/// Grid of `step_m` (and the very end): gap(0) = 0, gap(length) = difference of the lap times. Computed from
/// crossing times and distance, never from speeds.
[[nodiscard]] GapCurve gap_between(const LapMap& baseline, const LapMap& lap, double step_m = 1);

}  // namespace rendak
