#pragma once

#include <algorithm>
#include <array>
#include <cmath>

namespace rendak::demo {

/// The club prototype, number 27. Plausible numbers of no real make.
struct Car {
    double mass_kg = 775;        ///< with driver and half the fuel
    double power_w = 178e3;      ///< at the wheels
    double drag_m2 = 0.86;       ///< cd · A
    double downforce_m2 = 1.75;  ///< cl · A
    double grip = 1.42;          ///< coefficient at rest
    double rear_share = 0.56;    ///< of the weight
    double wheelbase_m = 2.55;
    double track_m = 1.5;
    double centre_height_m = 0.38;
    double wheel_radius_m = 0.29;
    double steering_ratio = 13;
    double understeer_rad_per_g = 0.010;
    double front_brake_share = 0.62;
    double engine_braking_mps2 = 0.7;
    std::array<double, 6> gear_top_mps{19.5, 28, 37, 46.5, 57, 71};
    double redline_rpm = 7600;
    double fuel_kg_per_l = 0.75;

    static constexpr double air = 1.22, g = 9.80665;

    [[nodiscard]] double drag_mps2(double v) const { return 0.5 * air * drag_m2 * v * v / mass_kg + 0.12; }
    /// Downforce as extra acceleration onto the road.
    [[nodiscard]] double down_mps2(double v) const { return 0.5 * air * downforce_m2 * v * v / mass_kg; }
    /// Full throttle, at the wheels, limited by rear grip at low speed.
    [[nodiscard]] double push_mps2(double v) const {
        const double traction = 0.9 * grip * rear_share * (g + down_mps2(v)) * 1.12;
        return std::min(power_w / mass_kg / std::max(v, 5.0), traction);
    }
};

}  // namespace rendak::demo
