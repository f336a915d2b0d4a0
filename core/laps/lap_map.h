#pragma once

#include <vector>

#include "core/library/rows.h"
#include "core/track/path.h"
#include "core/track/track.h"

namespace rendak {

/// Which place of the track a car was at, and when, over one complete lap: both rise, from (start, 0) to
/// (end, track length).
struct LapMap {
    std::vector<double> time_s;      ///< recording time
    std::vector<double> distance_m;  ///< track distance
    std::vector<double> left_m;      ///< to the left of the track's line
    Point shift;                     ///< by which the lap's positions were moved onto the track (slow GPS error)
    bool bridged = false;            ///< a part of the positions was missing

    [[nodiscard]] double start_s() const { return time_s.front(); }
    [[nodiscard]] double end_s() const { return time_s.back(); }
    [[nodiscard]] double length_m() const { return distance_m.back(); }
    /// Clamped to the lap.
    [[nodiscard]] double distance_at(double t_s) const;
    /// The same for moments that follow each other: `near` is where the last one was found, 0 at first.
    [[nodiscard]] double distance_at(double t_s, std::size_t& near) const;
    [[nodiscard]] double time_at(double distance) const;
    /// NaN where offsets are not known.
    [[nodiscard]] double left_at(double distance) const;
};

/// Projects a lap's path on the track's line, makes the distance monotone and scales it to 0 … length. Where the slow
/// error of the run's positions was not taken out (slow_error.h), the shift is that makes the offsets from the line
/// small over the lap (robust least squares with Huber's weights, 1964).
[[nodiscard]] LapMap align_lap(const Path& path, const Track& track, double start_s, double end_s);

}  // namespace rendak
