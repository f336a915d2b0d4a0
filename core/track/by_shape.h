#pragma once

#include <vector>

#include "core/track/path.h"
#include "core/track/track.h"

namespace rendak {

/// How the road bent, as the car felt it, at even steps of the distance that the wheels (or the speed channel) give.
struct BendProfile {
    double step_m = 2;
    std::vector<double> time_s;     ///< when the car passed a point
    std::vector<double> curvature;  ///< 1/m, left positive, smoothed over about 15 m
    [[nodiscard]] std::size_t size() const { return time_s.size(); }
};

/// From the yaw rate over the speed, else from the lateral acceleration over the speed squared. Fails with a sentence
/// when the recording has neither, or no speed.
[[nodiscard]] Result<BendProfile> bend_profile(const Recording& recording);

/// A run placed on a track by its bends alone.
struct ShapePlacing {
    std::vector<double> along_m;  ///< one a point of the profile; counts on from lap to lap, 0 on the start line
    double fit = 0;               ///< correlation of the felt and the track's curvature, up to 1
    double expected_error_m = 0;  ///< scatter of the corners about the placing
    bool turned_round = false;    ///< the lateral sign of the recording is the opposite one
};

/// Finds the most likely way along the track (dynamic programming over all places; Viterbi 1967), then lines up every
/// corner by the lag at which its curvature fits best. Both signs of the recording are tried.
[[nodiscard]] ShapePlacing place_by_shape(const BendProfile& profile, const Track& track);

/// A good fit: this is the track.
inline constexpr double shape_fits = 0.8;

/// The path of a recording without positions on a known track: it runs on the track's line. Fails with a sentence when
/// the recording lacks the channels or its bends are not those of the track.
[[nodiscard]] Result<Path> path_by_shape(const Recording& recording, const Track& track);

/// A track from a recording without positions ("shape only"): the length is that at which the bends repeat; the
/// heading follows the bends; what stays open at the end is spread by least squares. The start line lies where the
/// lap counter steps, else at the fastest place. Its coordinates are no place on earth.
[[nodiscard]] Result<Track> learn_shape(const Recording& recording, const std::string& name);

}  // namespace rendak
