#pragma once

#include <string>
#include <vector>

#include "core/laps/prepared_lap.h"

namespace rendak {

/// A wheel that turns much slower than the car drives, or much faster.
struct WheelEvent {
    enum class Kind { locks_up, spins };
    Kind kind = Kind::locks_up;
    std::string wheel;  ///< "fl", "fr", "rl", "rr"
    Interval range_m;
    double duration_s = 0;
    double depth = 0;  ///< largest slip, as a share of the car's speed; negative of a locked wheel
};
/// Lock-up: below −15 % of the car's speed for 50 ms above 30 km/h; spinning: above 15 % for 100 ms above 20 km/h. In
/// the order of the road. Empty without wheel speeds, and without another speed to hold them against.
[[nodiscard]] std::vector<WheelEvent> wheel_events(const PreparedLap& lap);

}  // namespace rendak
