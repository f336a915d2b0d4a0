#pragma once

#include <map>
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

/// Closer to the road than this, the floor of a car on an uneven road drags before its lowest point is seen to touch.
inline constexpr double near_road_m = 0.009;

/// Power and drag, or what is off in them.
struct PowerPair {
    double power = 0, drag_area = 0;
};

/// How laps pull on straights, power and drag apart.
struct PowerFit {
    std::vector<LapPower> laps;
    std::optional<double> mass_kg;
    /// Means of the laps, by kilogram where the mass is not known. The 95 % hold the scatter of the laps (Student
    /// 1908), what blocks of 200 m of road pull them by (the same on every lap: Liang & Zeger 1986), and what such logs
    /// tell at best; none with one lap.
    double power = 0, drag_area = 0;
    std::optional<Interval> power_likely, drag_likely;
    std::map<int, PowerPair> by_block;   ///< what each block of road pulls the means by
    double top_mps = 0;                  ///< mean of the laps' highest speeds
    double metres = 0;                   ///< of full throttle that a lap is told from, mean
    double least_mps = 0, most_mps = 0;  ///< speeds that it is told from
    bool with_slope = false;             ///< the track's height was taken out
    bool with_wind = false;              ///< the wind that was noted was
    bool with_height = false;            ///< the floor's height above the road is logged
    bool near_road = false;              ///< places where the floor is nearer than near_road_m had to be used
    std::vector<std::string> doubts;
};
/// Of laps of one car. Over every 20 m at full throttle, without cornering and above 90 km/h (below, tyres may set the
/// limit), the gain of kinetic and potential energy is what the engine gave less what air and tyres took:
/// Δ(v²/2) + g Δz = (P/m) Δt − ρ/2 (cA/m) w (v + h) Δs − c g Δs, with the head wind h along the road and the speed w
/// of the air past the car (v without wind); least squares with Huber's weights (1964), lap by lap. Gear
/// changes drop out as what is far off. Places where the floor was on the road, as logged, are left out, and those
/// where it came near it if the rest is enough. Fails where the laps have no throttle, less than 300 m of that, or too
/// narrow a span of speeds to tell power from drag.
[[nodiscard]] Result<PowerFit> power_of(std::span<const PreparedLap> laps, const PowerInput& input);

/// 95 % of b less a: what the same road does to both drops out. None with one lap on both sides,
/// where the mass of one alone is known, or with `near_road`.
struct PowerChange {
    std::optional<Interval> power, drag_area;
};
[[nodiscard]] PowerChange power_change(const PowerFit& a, const PowerFit& b);

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
