#pragma once

#include <vector>

#include "core/base/interval.h"
#include "core/recording/recording.h"

namespace rendak {

/// Slower than this a car stands.
inline constexpr double standing_mps = 1.5;

/// The stretches of at least `least_s` in which the car stands (below standing_mps), in recording time. Empty where no
/// speed is logged.
[[nodiscard]] std::vector<Interval> standstills(const Recording& recording, double least_s = 2);

}  // namespace rendak
