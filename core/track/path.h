#pragma once

#include <span>
#include <vector>

#include "core/base/column.h"
#include "core/base/result.h"
#include "core/recording/recording.h"
#include "core/track/fixes.h"
#include "core/track/geometry.h"

namespace rendak {

/// Where the car was: positions and velocities in a local plane, smoothed, at most 0.05 s apart.
struct Path {
    GeoPoint origin;
    Column<double> time_s;
    Column<Point> position;       ///< metres
    Column<Point> velocity;       ///< metres per second
    Column<double> distance_m;    ///< travelled since the first point
    Column<char> bridged;         ///< 1 where the position was missing and is filled by the motion model
    Column<float> sd_m;           ///< expected error of the position along the road (one standard deviation)
    bool slow_error_out = false;  ///< the receiver's slow error was estimated against a track and taken out …
    Point lasting_error;          ///< … and this of it lasted all run
    bool by_shape = false;        ///< placed on a track by its bends: no positions were logged
    double noise_m = 0;           ///< scatter of the raw positions about the path, one axis

    [[nodiscard]] std::size_t size() const { return time_s.size(); }
    /// Position at a time, by cubic Hermite interpolation.
    [[nodiscard]] Point position_at(double t_s) const;
    [[nodiscard]] Point velocity_at(double t_s) const;
    [[nodiscard]] double distance_at(double t_s) const;
    [[nodiscard]] std::size_t index_before(double t_s) const;
};

/// Smooths positions forwards and backwards in time (constant-acceleration Kalman filter driven by white jerk,
/// then Rauch, Tung & Striebel 1965), with rejection of outliers; the noise is estimated from the data.
/// `velocity_hints` (empty, or one a fix) are velocities from other sensors; use {NaN, NaN} for none. At missing fixes
/// they count with 1 m/s, at good ones with `hint_noise_mps`.
[[nodiscard]] Path smooth_path(GeoPoint origin, std::span<const Fix> fixes, std::span<const Point> velocity_hints = {},
                               double hint_noise_mps = 0.6);

/// The path of a recording from its position channels, fused with the speed (GPS, else wheels) and the yaw rate where
/// they are logged; these also bridge drop-outs. `origin` none: the middle of the positions (default_origin()). Fails
/// with a sentence when there are no usable positions. Where a path's plane lies when nobody says: the median of the
/// positions; NaN when there are none.
[[nodiscard]] GeoPoint default_origin(const Recording& recording);
enum class Fuse { everything, positions_only };
[[nodiscard]] Result<Path> path_of(const Recording& recording, std::optional<GeoPoint> origin = {},
                                   Fuse fuse = Fuse::everything);

}  // namespace rendak
