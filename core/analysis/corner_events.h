#pragma once

#include <optional>
#include <vector>

#include "core/analysis/phases.h"
#include "core/laps/prepared_lap.h"

namespace rendak {

/// Places (track distance) at which a lap does something in a corner; empty where it cannot be told.
struct CornerEvents {
    int corner = 0;
    std::optional<double> lift_m;  ///< where the throttle stops being full, before the slowest place
    std::optional<double> brake_on_m;
    std::optional<double> brake_off_m;  ///< where that braking ends
    std::optional<double> turn_in_m;    ///< lateral acceleration rises through 30 % of the corner's peak
    std::optional<double> slowest_m;
    std::optional<double> throttle_on_m;    ///< half open for good, behind the slowest place; none in one taken flat
    std::optional<double> full_throttle_m;  ///< full again
    /// The lap slows down for it: by throttle or brake, or by a tenth where it cannot be told what began when (it did
    /// before the line). A corner that it does not slow down for is taken flat.
    bool slows = false;
    bool inferred = false;  ///< pedals told from the acceleration
};

/// Where a lap begins to slow down for a corner, the throttle or the brake first; else where the corner begins.
[[nodiscard]] double slows_from(const CornerEvents& events, const Corner& corner);

/// Of every corner, in track order. A corner's stretch begins halfway from the apex before and ends halfway to the
/// next.
[[nodiscard]] std::vector<CornerEvents> corner_events(const PreparedLap& lap);

/// Where braking begins in a stretch; brief dabs do not count.
[[nodiscard]] std::optional<double> brake_on_in(const PreparedLap& lap, const DriverActivity& pedals, Interval range_m);
/// Where the throttle is picked up in a stretch, half open for good.
[[nodiscard]] std::optional<double> throttle_on_in(const PreparedLap& lap, const DriverActivity& pedals,
                                                   Interval range_m);

}  // namespace rendak
