#pragma once

#include <optional>
#include <vector>

#include "core/library/rows.h"
#include "core/recording/recording.h"
#include "core/track/path.h"

namespace rendak {

/// How far the logger's own start line (where its lap counter steps) lies from the track's.
struct BeaconOffset {
    double late_s = 0;    ///< median; positive = the logger counts later
    double behind_m = 0;  ///< the same on the road
};

/// Compares the steps of a lap counter channel with the crossings that begin the laps. Empty when there is no such
/// channel, or they agree within 0.05 s and a sample.
[[nodiscard]] std::optional<BeaconOffset> beacon_offset(const Recording& recording, const Path& path,
                                                        const std::vector<Lap>& laps);

/// Adds the disagreement, where there is one, to the notes of the complete laps.
void note_beacon(std::vector<Lap>& laps, const Recording& recording, const Path& path);

}  // namespace rendak
