#pragma once

#include <vector>

#include "core/recording/recording.h"
#include "core/track/path.h"

namespace rendak {

/// What a recording without an accelerometer says of the accelerations (ISO 8855: forward, left).
struct DerivedAcceleration {
    Channel channel;    ///< on a regular clock of 20 Hz, m/s²
    double over_s = 0;  ///< fitted over this long: chosen by the noise found, and said in the channel's name
};

/// Along: the slope of the measured speed, else of the path's. Lateral: speed times the measured yaw rate, else the
/// bending of the path. Both by local straight lines or parabolas (Savitzky and Golay 1964) as short as the noise
/// allows: 0.008 g along, 0.04 g sideways of it are let through.
[[nodiscard]] std::vector<DerivedAcceleration> derived_accelerations(const Recording& recording, const Path& path);

}  // namespace rendak
