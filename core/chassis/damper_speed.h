#pragma once

#include <array>
#include <string>
#include <vector>

#include "core/chassis/samples.h"
#include "core/laps/prepared_lap.h"

namespace rendak {

/// How the wheels are called in the names of channels.
inline constexpr std::array wheel_corners{"fl", "fr", "rl", "rr"};

/// Speed of a damper over a lap, m/s, bump positive: derivative of the local polynomial of order 2 over 20 ms, at least
/// five samples (Savitzky & Golay 1964). Not known where it is not logged, is logged below 50 Hz, or stands still.
struct DamperSpeed {
    SampledStretch samples;
    [[nodiscard]] bool known() const { return !samples.values.empty(); }
    /// Over a stretch of recording time; NaN without samples.
    [[nodiscard]] double rms(Interval time_s) const;
};
[[nodiscard]] DamperSpeed damper_speed(const PreparedLap& lap, const std::string& channel);

}  // namespace rendak
