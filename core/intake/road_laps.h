#pragma once

#include "core/intake/run_data.h"
#include "core/track/profiles.h"

namespace rendak {

/// What the laps of a library say about a road: for edges, height and banking.
struct RoadLaps {
    std::vector<LapRef> laps;
    std::vector<std::vector<RoadSample>> left_m;          ///< metres to the left of the line
    std::vector<std::vector<RoadSample>> height_m;        ///< only laps that log it
    std::vector<std::vector<CorneringSample>> cornering;  ///< only laps whose lateral acceleration is a sensor's
};
/// All complete laps that count, of every run of the track, at most `most` of them (the newest runs first).
[[nodiscard]] Result<RoadLaps> road_laps(const Library& library, TrackId track, const JobContext& job = {},
                                         std::size_t most = 60);
/// The track with the height and banking that its laps show. What they log nothing of stays as it is known; an error
/// when they log neither.
[[nodiscard]] Result<Track> with_height_and_banking(Track track, const RoadLaps& laps);
/// Where one lap drove.
[[nodiscard]] Result<std::vector<RoadSample>> driven_offsets(const Library& library, LapRef lap);

}  // namespace rendak
