#pragma once

#include <vector>

#include "core/recording/recording.h"

namespace rendak {

/// What a run's data say of how the car moves, evenly sampled, for holding films against them. Missing is NaN; a
/// signal that is not logged is empty.
struct DriveSignals {
    static constexpr double step_s = 0.025;
    double begin_s = 0;  ///< recording time of the first sample
    std::vector<float> speed_mps;
    std::vector<float> yaw_radps;  ///< as logged, else lateral acceleration over speed above 5 m/s; left positive
    std::vector<float> revs_hz;    ///< turns of the engine a second

    [[nodiscard]] std::size_t samples() const { return std::max({speed_mps.size(), yaw_radps.size(), revs_hz.size()}); }
};
[[nodiscard]] DriveSignals drive_signals(const Recording& recording);

}  // namespace rendak
