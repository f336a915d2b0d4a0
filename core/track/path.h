#pragma once

#include <span>
#include <vector>

#include "core/base/result.h"
#include "core/recording/recording.h"
#include "core/track/geometry.h"

namespace rendak {

/// Where the car was: positions and velocities in a local plane, smoothed, at most 0.05 s apart.
struct Path {
    GeoPoint origin;
    std::vector<double> time_s;
    std::vector<Point> position;     ///< metres
    std::vector<Point> velocity;     ///< metres per second
    std::vector<double> distance_m;  ///< travelled since the first point
    std::vector<char> bridged;       ///< 1 where the position was missing and is filled by the motion model
    double noise_m = 0;              ///< scatter of the raw positions about the path, one axis

    [[nodiscard]] std::size_t size() const { return time_s.size(); }
    /// Position at a time, by cubic Hermite interpolation.
    [[nodiscard]] Point position_at(double t_s) const;
    [[nodiscard]] Point velocity_at(double t_s) const;
    [[nodiscard]] double distance_at(double t_s) const;
    [[nodiscard]] std::size_t index_before(double t_s) const;
};

/// One raw position.
struct Fix {
    double time_s = 0;
    Point position;
    bool valid = true;
};

/// Smooths positions forwards and backwards in time (constant-acceleration Kalman filter driven by white jerk,
/// then Rauch, Tung & Striebel 1965), with rejection of outliers; the noise is estimated from the data.
/// `velocity_hints` (empty, or one a fix) help across missing fixes; use {NaN, NaN} for none.
[[nodiscard]] Path smooth_path(GeoPoint origin, std::span<const Fix> fixes, std::span<const Point> velocity_hints = {});

/// The path of a recording from its position channels. A drop-out is bridged with the wheel speeds and the yaw
/// rate where they are logged. Fails with a sentence when there are no usable positions.
[[nodiscard]] Result<Path> path_of(const Recording& recording, std::optional<GeoPoint> origin = {});

}  // namespace rendak
