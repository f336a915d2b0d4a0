#pragma once

#include <optional>
#include <vector>

#include "core/library/rows.h"
#include "core/track/path.h"
#include "core/track/track.h"

namespace rendak {

/// Cuts a run into laps at the track's start line. Crossing times are interpolated along the smoothed path.
/// Complete = line to line in the right direction with a length within 2 % of the track's. What lies before the
/// first and after the last crossing is an out, in or part lap; those are never included by themselves. The slow error
/// of the positions that the alignment of the laps shows is taken out of the crossing times.
/// Every complete lap gets its trust figure: the smoother's own standard deviation, the drift of the slow error from
/// lap to lap, and what the fit to the track leaves open, added as squares.
/// `path` and `track` must have the same origin.
[[nodiscard]] std::vector<Lap> cut_laps(const Path& path, const Track& track);

/// On an open track: the launch that was found or set by hand. The run is lap 1, from the launch to the finish line;
/// without a launch it cannot be compared and says so. Everything before and after is a part lap.
struct CutOptions {
    std::optional<double> launch_s;
};
[[nodiscard]] std::vector<Lap> cut_laps(const Path& path, const Track& track, const CutOptions& options);

/// Above this many metres of expected error a lap's places are called poor.
inline constexpr double poor_trust_m = 2.5;

/// The fastest lap that counts, or nullptr.
[[nodiscard]] const Lap* best_lap(const std::vector<Lap>& laps);

}  // namespace rendak
