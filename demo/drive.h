#pragma once

#include <string>
#include <vector>

#include "core/base/interval.h"
#include "demo/car.h"
#include "demo/circuit.h"
#include "demo/run_plan.h"

namespace rendak::demo {

/// The exact motion of the car over a run, every 0.01 s from time 0. `along_m` is the distance along the
/// centreline, counted on from lap to lap: it is a multiple of the lap length on the start line.
struct Drive {
    static constexpr double step_s = 0.01;
    std::vector<double> along_m, left_m;
    std::vector<Point> position;
    std::vector<double> speed_mps, along_mps2, curvature;  ///< of the driven path
    double first_m = 0;                                    ///< along_m at time 0
    std::vector<double> crossings_s;  ///< exact times on the start line (on the track, not in the pits)
    double launch_s = 0;              ///< on an open road: when the car first moves
    struct LockUp {
        Interval time_s;
    };
    std::vector<LockUp> lock_ups;

    [[nodiscard]] double duration_s() const { return step_s * static_cast<double>(along_m.size() - 1); }
    /// Time at which the car is at a distance along the centreline (while moving).
    [[nodiscard]] double time_at(double along) const;
};

/// The car as heavy as it is at a distance along the centreline.
[[nodiscard]] Car with_fuel(const Car& car, const RunPlan& plan, double along_m, double lap_m);
/// What the wind adds to the drag at a distance along the centreline.
[[nodiscard]] double wind_drag_mps2(const Circuit& circuit, const Car& car, const CarState& state, double along_m,
                                    double speed_mps);
[[nodiscard]] Drive drive_run(const Circuit& circuit, const Car& car, const RunPlan& plan);

}  // namespace rendak::demo
