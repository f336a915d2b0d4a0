#pragma once

#include "core/library/library.h"
#include "core/track/path.h"
#include "core/track/track.h"

namespace rendak {

/// Where a run was driven, and what is derived from that alone.
struct RunPath {
    Path path;
    /// Accelerations as far as the recording says them without an accelerometer (derived_accelerations()).
    std::vector<Channel> accelerations;
};

/// The path of a run (driven_path()). It is computed once and kept beside the recording; from then on it is mapped, and
/// only what is looked at is read: a lap out of a day opens like one out of ten minutes. `recording` is the run's
/// (run_recording()), `track` the one that it was driven on, or null.
[[nodiscard]] Result<RunPath> run_path(const Library& library, const RunRow& row, const Recording& recording,
                                       const Track* track, const PlaceCorrection& correction);

/// Keeps a path that was computed for something else: nobody computes it again.
void keep_run_path(const Library& library, const RunRow& row, const Recording& recording, const Track* track,
                   const PlaceCorrection& correction, Path path);

}  // namespace rendak
