#pragma once

#include <Eigen/Core>
#include <vector>

#include "core/laps/slow_error.h"

/// What a run shows of its receiver's slow error, before anything is estimated (slow_error.h).
namespace rendak::slow {

using Eigen::Matrix2d;
using Eigen::Vector2d;

/// A moment of the run.
struct Node {
    double time_s = 0;
    Vector2d normal{0, 0};  ///< left of the track's line
    Vector2d travel{1, 0};  ///< direction to the next node
    double left_m = 0;      ///< beside the track's line
    double slip_m = 0;      ///< how much further the positions went than the speed, to the next node
    double way_m = 0;       ///< to the next node
    std::size_t cell = 0, lap = 0;
    double in_cell = 0;  ///< 0 … 1: how far into its cell
    bool on_road = false, has_slip = false;
};

struct Run {
    std::vector<Node> nodes;
    std::size_t cells = 0, laps = 0;
    double step_m = 0;  ///< usual way between two nodes
};

struct Sizes {
    SlowError error;
    bool by_laps = false;                 ///< the error's size is from the laps' shifts alone
    double slip_sd_m = 0.05;              ///< of how far the positions have gone
    double speed_noise = 0;               ///< see noise_density()
    double lasting_variance = 1;          ///< of each coordinate of an offset that lasts, before looking
    Matrix2d lasting = Matrix2d::Zero();  ///< what the line leaves open of an offset that lasts (covariance)
};

/// `moved`: what is taken off all positions first.
[[nodiscard]] Run nodes_of(const Path& path, const Track& track, const SpeedSource& speed, Point moved);

/// A speed that reads by a share too high or comes late is no drift of the positions: both are taken out by least
/// squares.
void take_out_scale_and_delay(Run& run, const SpeedSource& speed);

/// What the line's values at the cells' beginnings say of a place between two: their shares.
struct Between {
    std::size_t a = 0, b = 0;
    double share_b = 0;
};
[[nodiscard]] Between between_of(const Run& run, const Node& node);

/// The speed's own noise, as a density (m²/s): adding it up over a second leaves the root of it in metres.
[[nodiscard]] double noise_density(const SpeedSource& speed, Interval span_s);

[[nodiscard]] Sizes sizes_of(const Run& run, const Track& track, double speed_noise);

}  // namespace rendak::slow
