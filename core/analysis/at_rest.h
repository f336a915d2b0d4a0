#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/recording/recording.h"

namespace rendak {

/// The longest stretch of at least `least_s` in which the car stands: below 0.5 m/s by speed, or, where the recording
/// has none, the whole of a recording that is all at rest. Empty when the car never stands that long.
[[nodiscard]] std::optional<Interval> standing_range(const Recording& recording, double least_s = 2);

/// Mean of a channel over a stretch, as an offset or constant to keep; SI.
struct RestFigure {
    std::string channel;  ///< its name
    double mean = 0;
    double deviation = 0;  ///< standard deviation of the samples: says how far to trust it
    double drift = 0;      ///< mean of the last third minus mean of the first
    std::size_t count = 0;
};
/// Channels without a sample in the stretch are left out.
[[nodiscard]] std::vector<RestFigure> figures_at_rest(const Recording& recording,
                                                      const std::vector<std::string>& channels, Interval range_s);

}  // namespace rendak
