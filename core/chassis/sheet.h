#pragma once

#include <optional>

namespace rendak {

/// What the car's sheet and the setup sheet of a run say of the chassis; SI, none: not said. Ratios are wheel over
/// damper.
struct ChassisSheet {
    std::optional<double> wheelbase_m, track_width_m, steering_ratio;
    std::optional<double> motion_ratio_front, motion_ratio_rear;      ///< 1 where nobody said it
    std::optional<double> height_front_m, height_rear_m;              ///< of the car at rest
    std::optional<double> least_front_m, least_rear_m;                ///< below that it touches the road
    std::optional<double> spring_front_n_per_m, spring_rear_n_per_m;  ///< at the damper
    std::optional<double> bar_front_n_per_m, bar_rear_n_per_m;        ///< at the wheel, one side against the other

    [[nodiscard]] double motion_ratio(bool front) const {
        return (front ? motion_ratio_front : motion_ratio_rear).value_or(1);
    }
    /// Springs at the wheel.
    [[nodiscard]] std::optional<double> wheel_rate(bool front) const {
        const auto& spring = front ? spring_front_n_per_m : spring_rear_n_per_m;
        const double ratio = motion_ratio(front);
        return spring ? std::optional(*spring / (ratio * ratio)) : std::nullopt;
    }
    /// Share of the car's roll stiffness that the front has, springs and bars of one track width; tyres left out.
    [[nodiscard]] std::optional<double> front_roll_share() const {
        const auto front = wheel_rate(true), rear = wheel_rate(false);
        if (!front || !rear || !bar_front_n_per_m || !bar_rear_n_per_m) return std::nullopt;
        const double f = *front + 2 * *bar_front_n_per_m, r = *rear + 2 * *bar_rear_n_per_m;
        return f / (f + r);
    }
};

}  // namespace rendak
