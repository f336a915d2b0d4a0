#pragma once

#include <span>
#include <string_view>
#include <vector>

#include "core/base/interval.h"
#include "core/laps/prepared_lap.h"

namespace rendak {

/// Samples of a channel at an even rate over a stretch of recording time.
struct SampledStretch {
    double start_s = 0, rate_hz = 0;
    std::vector<float> values;

    /// Those of a part of it.
    [[nodiscard]] std::span<const float> during(Interval time_s) const;
};
/// As logged; channels without an even clock are read between their samples at their mean rate. Empty where the
/// recording has no such channel, or the channel steps.
[[nodiscard]] SampledStretch sampled(const Recording& recording, std::string_view channel, Interval time_s);
/// A sensor that stands still to the last digit for half a second is out of order there: those samples are missing.
void leave_out_stuck(SampledStretch& samples);

}  // namespace rendak
