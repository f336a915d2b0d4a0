#pragma once

#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/base/result.h"
#include "core/laps/prepared_lap.h"

namespace rendak {

/// As it was noted: m/s, and from where it blows, clockwise from north.
struct Wind {
    double mps = 0, from_deg = 0;
};

/// What is known of car and air; with it power and drag are told in watts and m², else by kilogram.
struct PowerInput {
    std::optional<double> mass_kg;
    double air_kg_per_m3 = 1.2;
    bool air_known = false;
    std::optional<Wind> wind = {};
    double rolling =
        0.012;  ///< rolling resistance as a share of the weight: it cannot be told from the rest, so it is set
};

/// One lap's fit.
struct LapPower {
    LapRef lap;
    double power_w_per_kg = 0, drag_m2_per_kg = 0;
    double top_mps = 0;
};

/// How laps pull on straights, power and drag apart.
struct PowerFit {
    std::vector<LapPower> laps;
    std::optional<double> mass_kg;
    /// Means of the laps with their 95 % (Student 1908; none with one lap); by kilogram where the mass is not known.
    double power = 0, drag_area = 0;
    std::optional<Interval> power_likely, drag_likely;
    double top_mps = 0;                  ///< mean of the laps' highest speeds
    double metres = 0;                   ///< of full throttle that a lap is told from, mean
    double least_mps = 0, most_mps = 0;  ///< speeds that it is told from
    bool with_slope = false;             ///< the track's height was taken out
    bool with_wind = false;              ///< the wind that was noted was
    std::vector<std::string> doubts;
};
/// Of laps of one car. Over every 20 m at full throttle, without cornering and above 90 km/h (below, tyres may set the
/// limit), the gain of kinetic and potential energy is what the engine gave less what air and tyres took:
/// Δ(v²/2) + g Δz = (P/m) Δt − ρ/2 (cA/m) w (v + h) Δs − c g Δs, with the head wind h along the road and the speed w
/// of the air past the car (v without wind); least squares with Huber's weights (1964), lap by lap. Gear
/// changes drop out as what is far off. Places where the floor was on the road are left out. Fails where the laps have
/// no throttle, less than 300 m of that, or too narrow a span of speeds to tell power from drag.
[[nodiscard]] Result<PowerFit> power_of(std::span<const PreparedLap> laps, const PowerInput& input);

/// Mean acceleration on the way from a speed to one 5 m/s higher, at full throttle on one straight, lap by lap: two
/// engines are held against each other at equal entry speed.
struct SpeedStep {
    double from_mps = 0;
    std::vector<double> a, b;        ///< m/s² of the laps that pass it, uphill taken out where it is known
    std::optional<Interval> likely;  ///< 95 % of b − a
};
/// Where both have at least one lap.
[[nodiscard]] std::vector<SpeedStep> pull_by_speed(std::span<const PreparedLap> a, std::span<const PreparedLap> b);

}  // namespace rendak
