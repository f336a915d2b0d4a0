#pragma once

#include <vector>

#include "core/analysis/observed_limit.h"

namespace rendak {

/// A way for a point to be driven along, place by place.
struct PointRoad {
    bool open = false;                ///< from a start to a finish; else round
    std::vector<double> way_m;        ///< to the next place
    std::vector<double> curvature;    ///< 1/m, left positive
    std::vector<double> lean_mps2;    ///< what the lean of the road carries of a turn to the left
    std::vector<double> grade;        ///< rise a metre
    std::vector<double> limit_share;  ///< of the lateral limit that there is; empty: all of it everywhere
    std::vector<double> most_mps;     ///< speeds that are not to be passed; empty: none

    [[nodiscard]] std::size_t size() const { return way_m.size(); }
};

/// How fast a point gets along it that has a car's observed limits: nowhere faster than the lateral limit, gaining and
/// losing speed as far as an ellipse leaves beside the corner (a quasi-steady-state lap by forward and backward pass;
/// Brayshaw and Harrison 2005). The limit must tell of driving and braking. `speed_mps` is written, its memory used
/// again.
void drive_point(const PointRoad& road, const ObservedLimit& limit, std::vector<double>& speed_mps);

/// Seconds since the first place, one more than there are places: the last is the lap.
[[nodiscard]] std::vector<double> point_elapsed(const PointRoad& road, const std::vector<double>& speed_mps);
[[nodiscard]] double point_lap_s(const PointRoad& road, const std::vector<double>& speed_mps);
/// From a place to the next.
[[nodiscard]] double point_step_s(const PointRoad& road, const std::vector<double>& speed_mps, std::size_t i);

}  // namespace rendak
