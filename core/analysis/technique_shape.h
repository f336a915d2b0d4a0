#pragma once

#include <optional>

#include "core/laps/prepared_lap.h"

namespace rendak {

/// How the brake is used in one corner. From its pressure (or travel), else from the slowing-down.
struct BrakeShape {
    std::optional<double> peak_pa;  ///< highest pressure above the sensor's zero; none of a pedal that logs travel
    /// Metres by which the brake could have been begun later, as far as one can tell: let go early, the car rolled down
    /// to its slowest speed, which the mean of the braking would have done in less way.
    std::optional<double> room_left_m;
    std::optional<double> hold_s;     ///< above 90 % of the highest, from the first to the last of it
    std::optional<double> release_s;  ///< from the last of that to the brake's end
    /// Mean level of the release, as a share of where it begins: about a half when it is even, less when most of the
    /// brake is let go at once (early), more when it is kept and then dropped (late).
    std::optional<double> release_mean;
    std::optional<double> at_turn_in;  ///< share of the highest that is on where the car turns in
    /// Times it is eased by 12 % of the highest and taken again by as much; over a crest (the road pushes less by
    /// 1.5 m/s²) a driver has to.
    int reversals = 0;
    /// Behind turning in, while the steering (without one, the lateral acceleration) still grows: how long the brake
    /// is kept or taken harder. A brake that falls as the steering grows is good.
    double kept_s = 0;
};
/// `turn_in_m` bounds nothing when it is not known.
[[nodiscard]] BrakeShape brake_shape(const PreparedLap& lap, const DriverActivity& driver, Interval on_m,
                                     std::optional<double> turn_in_m, double slowest_m);

struct SteeringShape {
    std::optional<double> most_rad;  ///< largest angle into the corner
    std::optional<int> corrections;  ///< times it is opened and taken again in the corner
};
/// Empty without a steering angle.
[[nodiscard]] SteeringShape steering_shape(const PreparedLap& lap, const DriverActivity& driver, bool left,
                                           Interval range_m);

struct ThrottleShape {
    std::optional<double> back;    ///< largest fall of it on the way to full, share of the travel; a shift is none
    std::optional<double> back_m;  ///< where
    int reversals = 0;             ///< falls of more than 10 %
    double held_s = 0;             ///< longest time on the way that it stands still between 15 and 90 %
    double held_at = 0;            ///< share of the travel at which
    double held_m = 0;             ///< from where on
};
/// Between the first touch and full throttle. Empty without a throttle.
[[nodiscard]] ThrottleShape throttle_shape(const PreparedLap& lap, const DriverActivity& driver, Interval range_m);

/// The arc that is driven, from the lateral acceleration and the speed.
struct ArcShape {
    std::optional<double> begin_m;     ///< half of the greatest curvature is reached
    std::optional<double> tightest_m;  ///< place of the smallest radius, mean of 0.4 s
    std::optional<double> least_radius_m;
    /// Where in the arc that is, 0 at its begin and 1 at its end (a third of the greatest curvature): below 0.4 an
    /// early apex, above 0.6 a late one.
    std::optional<double> share;
    std::optional<double> tightness;  ///< greatest curvature over the arc's mean: the more, the more it is pinched
};
[[nodiscard]] ArcShape arc_shape(const PreparedLap& lap, bool left, Interval range_m);

struct GearUse {
    std::optional<int> at_slowest;
    std::optional<double> shift_up_m;  ///< first shift up behind the slowest place
};
[[nodiscard]] GearUse gear_use(const PreparedLap& lap, double slowest_m, double end_m);

}  // namespace rendak
