#pragma once

#include <array>
#include <vector>

#include "demo/drive.h"

namespace rendak::demo {

/// A damper's force over its speed: bump and rebound, each with a slow part up to the knee and a fast one behind it.
struct DamperCurve {
    double bump_slow = 2600, bump_fast = 1300;        ///< N·s/m
    double rebound_slow = 4200, rebound_fast = 2100;  ///< N·s/m
    static constexpr double knee_mps = 0.05;

    /// `speed_mps` > 0 in bump.
    [[nodiscard]] double force_n(double speed_mps) const;
};

/// Springs, dampers, bump rubbers, tyres and masses of one axle, each side; as at the wheel.
struct AxleParts {
    double spring_n_per_m, bar_n_per_m, unsprung_kg;
    double tyre_n_per_m = 280e3, tyre_damping = 300;
    /// What links carry past the spring: of diving (the part that braking puts on the axle), and of leaning.
    double anti_dive = 0.8, roll_centre = 0.45;
    double rubber_from_m = 0.034, rubber_n_per_m = 260e3;  ///< bump rubber: behind so much travel from rest
    DamperCurve damper = {};
};
[[nodiscard]] AxleParts axle_parts(const CarState& state, bool front);

/// Of the rear damper: the load of the loaded rear tyre moves least below 10 Hz on the exits of slow corners.
inline constexpr double best_rear_bump_clicks = 8;

/// Share of the car's roll that the front axle holds, from springs and bars.
[[nodiscard]] double front_roll_share(const CarState& state);

/// What the floor on the road costs: when springs and tyres of the front give way under air and crests.
[[nodiscard]] double floor_drag_mps2(const Circuit& circuit, const Car& car, const CarState& state, double along_m,
                                     double speed_mps);

/// What the four corners of the car do, every 2 ms. FL FR RL RR.
struct SuspensionMotion {
    static constexpr double rate_hz = 500;
    std::array<std::vector<float>, 4> travel_m;  ///< bump positive, from rest
    std::array<std::vector<float>, 4> load_n;    ///< of the tyre on the road
    /// The floor towards the road under it, from rest, where its height is measured: half a metre to the side.
    std::array<std::vector<float>, 4> lowered_m;
};
/// Two masses a wheel (sprung, unsprung) on spring, damper and tyre; the bar couples the wheels of an axle. `push_n` is
/// what presses the body down beside its weight (air, braking, cornering, crests), every 0.01 s; the car stands on
/// `still_n` at rest.
[[nodiscard]] SuspensionMotion suspension_motion(const Circuit& circuit, const Car& car, const CarState& state,
                                                 const Drive& drive, const std::vector<std::array<double, 4>>& load_n);

}  // namespace rendak::demo
