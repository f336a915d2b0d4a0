#pragma once

#include <optional>

#include "core/recording/recording.h"

namespace rendak {

/// When a car that stood begins to move and goes on to drive: the driven wheels' first movement (rear wheels, else
/// front wheels, else the speed). The last such moment before the car first goes faster than 15 m/s. Empty when the
/// recording begins on the move.
[[nodiscard]] std::optional<double> find_launch(const Recording& recording);

}  // namespace rendak
