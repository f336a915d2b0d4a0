#pragma once

#include <span>

#include "core/track/track.h"

namespace rendak {

/// What one lap says about the road at places along it, in the order driven.
struct RoadSample {
    double distance_m = 0;  ///< along the track
    double value = 0;
};

/// Height of the road from the heights that laps logged (one list a lap). Each lap's own offset is taken out (a GPS
/// height is off by metres, slowly), then the median over the laps is smoothed over 25 m. The standard deviation is
/// that of the laps about it, over the root of their number; with one lap it is the scatter of its own samples.
[[nodiscard]] Profile height_profile(const Track& track, std::span<const std::vector<RoadSample>> laps);

/// A moment of cornering: what the curve and the speed ask for, and what the car's sensor felt.
struct CorneringSample {
    double distance_m = 0;
    double by_curve_mps2 = 0;  ///< v²κ, from the path
    double felt_mps2 = 0;      ///< lateral acceleration in the car's own frame
};

/// Banking of the road, from what the lateral sensor feels less than v²κ: g · sin(banking) = v²κ − a_y, where the car
/// corners with over 3 m/s². The share by which body roll and the sensor's scale change every corner alike is fitted
/// out first, so that the median corner counts as flat. NaN on straights.
[[nodiscard]] Profile banking_profile(const Track& track, std::span<const std::vector<CorneringSample>> laps);

/// Edges from slow laps along the left and along the right edge: metres to the left of the line at places, one list a
/// lap. `car_half_width_m` lies between the position and the edge. Fails with a sentence, and the place, when a lap
/// strays: it has a hole of over 60 m, or the road would be narrower than 4 m or wider than 40 m.
[[nodiscard]] Result<Edges> edges_from_edge_laps(const Track& track, const std::vector<RoadSample>& left,
                                                 const std::vector<RoadSample>& right, double car_half_width_m = 0.9);

/// Edges from the spread of many laps: the road is at least as wide as where they went. Needs three laps; a lap that
/// lies over 4 m outside the others somewhere (an off) does not count there.
[[nodiscard]] Result<Edges> edges_from_spread(const Track& track, std::span<const std::vector<RoadSample>> laps,
                                              double car_half_width_m = 0.9);

}  // namespace rendak
