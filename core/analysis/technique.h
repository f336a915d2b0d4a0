#pragma once

#include <optional>
#include <vector>

#include "core/analysis/corner_events.h"
#include "core/analysis/technique_shape.h"
#include "core/laps/prepared_lap.h"

namespace rendak {

/// What a driver does in one corner of one lap. Places are metres of track; empty where it does not happen, or cannot
/// be told.
struct Technique {
    int corner = 0;
    bool inferred = false;  ///< pedals told from the acceleration
    std::optional<double> lift_m, brake_on_m, brake_off_m, turn_in_m, slowest_m, throttle_on_m, full_throttle_m;
    /// From where the lap is on full throttle for good, down to where it slows down for the next corner.
    std::optional<double> full_for_good_m;
    std::optional<double> throttle_touch_m;  ///< first of it behind the brake's release, before the slowest place too
    std::optional<double> slowest_mps;
    std::optional<double> brake_peak_mps2;  ///< hardest slowing-down, mean of 0.2 s; positive
    std::optional<double> brake_peak_m;     ///< where
    std::optional<double> brake_rise_s;     ///< from the braking's begin to 90 % of that
    /// A lift behind the corner's slowest place, before full throttle is held for good.
    std::optional<double> second_lift_m;
    double least_behind = 1;  ///< share of the travel in it
    double brake_s = 0;       ///< on the brake
    double trail_s = 0;       ///< on the brake behind turning in
    /// The brake is only brushed before the car is turned into a long corner: it settles the car, and may be meant.
    bool brushed = false;
    double coasting_s = 0;      ///< on neither pedal between lifting and touching the throttle
    double least_throttle = 1;  ///< share of the travel in the corner's stretch; 1: never lifted, or not logged
    std::optional<double> lift_to_brake_s;
    std::optional<double> full_before_m;  ///< of full throttle held before lifting for this corner
    BrakeShape brake;
    SteeringShape steering;
    ThrottleShape throttle;
    ArcShape arc;
    GearUse gears;
};
/// Of every corner, in track order; the stretches are those of corner_events().
[[nodiscard]] std::vector<Technique> technique_of(const PreparedLap& lap);

/// From where a lap is on full throttle for good between a corner's slowest place and the next slowing-down: what lies
/// before is the corner's, a second apex or a lift among it. A shift of gears is no lift. Without pedals: from where it
/// gains speed for good.
[[nodiscard]] std::optional<double> full_from(const PreparedLap& lap, const DriverActivity& driver, double slowest_m,
                                              double end_m);

}  // namespace rendak
