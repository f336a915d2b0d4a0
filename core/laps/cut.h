#pragma once

#include <vector>

#include "core/library/rows.h"
#include "core/track/path.h"
#include "core/track/track.h"

namespace rendak {

/// Cuts a run into laps at the track's start line. Crossing times are interpolated along the smoothed path.
/// Complete = line to line in the right direction with a length within 2 % of the track's. What lies before the
/// first and after the last crossing is an out, in or part lap; those are never included by themselves.
/// `path` and `track` must have the same origin.
[[nodiscard]] std::vector<Lap> cut_laps(const Path& path, const Track& track);

/// The fastest included flying lap, or nullptr.
[[nodiscard]] const Lap* best_lap(const std::vector<Lap>& laps);

}  // namespace rendak
