#pragma once

#include <string>
#include <vector>

#include "core/recording/recording.h"
#include "core/track/path.h"

namespace rendak {

/// Quantities whose logged sign is the opposite of ISO 8855, judged by the path: left turns must show positive
/// lateral acceleration, yaw rate and steering, gaining speed positive longitudinal acceleration.
[[nodiscard]] std::vector<std::string> opposite_signs(const Recording& recording, const Path& path);

}  // namespace rendak
