#pragma once

#include <array>
#include <span>
#include <string>
#include <vector>

#include "core/laps/prepared_lap.h"

namespace rendak {

/// What wheels go through in one corner, over all laps: FL FR RL RR.
struct CornerStrikes {
    int corner = 0;
    std::string name;
    /// Laps on which the wheel went over a kerb there (its damper moves at 2.5 times the lap's middle or more, in a
    /// stretch that is a kerb: stretches.h), and its fastest damper speed there, mean of those laps; m/s.
    std::array<std::size_t, 4> kerb_laps{};
    std::array<double, 4> kerb_mps{};
    std::array<std::size_t, 4> lock_ups{};  ///< events on the way to this corner or in it (wheel_events.h)
    std::array<double, 4> locked_s{};       ///< of them together
    double brake_share = 0;  ///< front pressure over front and rear while braking for it, mean; NaN: not logged
};
struct Strikes {
    std::size_t laps = 0;
    std::vector<CornerStrikes> corners;          ///< those with anything, in the order of the road
    double brake_share = 0;                      ///< of all braking; NaN: one of the pressures is not logged
    bool dampers = false, wheel_speeds = false;  ///< whether kerbs and lock-ups can be told at all
};
[[nodiscard]] Strikes strikes_of(std::span<const PreparedLap> laps);

}  // namespace rendak
