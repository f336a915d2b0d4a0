#pragma once

#include <optional>
#include <set>
#include <span>
#include <vector>

#include "core/analysis/lap_motion.h"
#include "core/analysis/pull.h"

namespace rendak {

/// What a car reached, by speed: a part that is always there and one that grows with the square of the speed, as the
/// load of the air does. Both are 0 or more.
struct LimitLine {
    double at_rest_mps2 = 0, per_v2 = 0;  ///< m/s² and 1/m
    bool by_speed = false;                ///< the second part can be told: else one value stands for all speeds
    Interval seen_mps;                    ///< speeds that it rests on
    std::size_t support = 0;              ///< corners, or bands of speed
    [[nodiscard]] double at(double speed_mps) const { return at_rest_mps2 + per_v2 * speed_mps * speed_mps; }
};

/// One corner as the limit sees it.
struct CornerReach {
    enum class Left_out { no, banked, crested, flat, suspicious };
    int corner = 0;
    bool left = false;
    Left_out left_out = Left_out::no;
    double speed_mps = 0, lateral_mps2 = 0;  ///< reached: the 0.9 quantile of the laps' peaks
    double used = 0;                         ///< of the limit
    /// A slower lap that reached clearly more here than the quickest one (3 % and more): what is possible there.
    std::optional<LapRef> higher_lap;
    double higher_mps2 = 0, quickest_lap_mps2 = 0;
};
[[nodiscard]] const char* left_out_name(CornerReach::Left_out why);

/// The acceleration that a car was seen to reach: an observed limit, to be judged by only where no calculated one is
/// known. Everything is "at least": who never uses it does not show it.
struct ObservedLimit {
    LimitLine lateral;
    /// Of left and right turns apart, as a share of it; empty with fewer than two corners of that hand.
    std::optional<double> left_share, right_share;
    std::optional<LimitLine> braking;  ///< slowing-down on a level road, drag included
    PullCurve driving;
    /// Grip that there is for driving out of a corner, as a share of the lateral limit.
    double traction_share = 1;
    /// How quickly the lateral acceleration was seen to change (the 0.98 quantile over 0.3 s, m/s³); 0: not known.
    double lateral_jerk_mps3 = 0;
    std::vector<CornerReach> corners;  ///< in the track's order; those without a lateral acceleration are not in it
    std::size_t laps = 0;

    [[nodiscard]] const CornerReach* reach_of(int corner) const;
};
/// Of laps of one car, tyre kind and day; those that count set it. Lateral: each corner's peak (corner_peaks(), the 0.9
/// quantile over the laps), and over the corners the line below which four in five of them lie (quantile regression,
/// Koenker and Bassett 1978); corners that are banked, over a crest, or lie more than 6 % above it are left out but for
/// those that are put back. Braking: the 0.9 quantile in bands of speed on straights. Fails without a lateral
/// acceleration, and where fewer than three corners show one.
[[nodiscard]] Result<ObservedLimit> observed_limit(std::span<const PreparedLap> laps,
                                                   const std::set<int>& put_back = {});
/// Motions that are known already, one a lap.
[[nodiscard]] Result<ObservedLimit> observed_limit(std::span<const PreparedLap> laps,
                                                   std::span<const LapMotion> motions, const std::set<int>& put_back);

/// A point that a limit line is drawn above.
struct LimitPoint {
    double speed_mps = 0, mps2 = 0, weight = 1;
};
/// The line with `share` of the points' weight below it.
[[nodiscard]] LimitLine line_above(std::span<const LimitPoint> points, double share);

}  // namespace rendak
