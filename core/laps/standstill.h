#pragma once

#include <vector>

#include "core/base/interval.h"
#include "core/recording/recording.h"

namespace rendak {

/// The stretches of at least `least_s` in which the car stands (below 1.5 m/s), in recording time. Empty where no
/// speed is logged.
[[nodiscard]] std::vector<Interval> standstills(const Recording& recording, double least_s = 2);

}  // namespace rendak
