#pragma once

#include "core/base/job.h"
#include "core/library/library.h"
#include "core/track/track.h"

namespace rendak {

/// Everything about a track that an edit changes: its file and its marks. Putting a state back undoes the edit.
struct TrackState {
    std::string geojson;
    std::vector<Mark> marks;
};
[[nodiscard]] Result<TrackState> track_state(const Library& library, TrackId id);

/// The state after an edit. `start_moved_m`: where the new start line lies on the old track; marks are moved with it
/// (one that would lie across the line keeps its longer part). Reversed tracks: use `marks_reversed`.
[[nodiscard]] TrackState edited_state(const TrackState& before, const Track& edited, double start_moved_m = 0);
[[nodiscard]] TrackState reversed_state(const TrackState& before, const Track& edited);

/// Writes a state; `recut` cuts the laps of every run of this track again (the line, the finish or the direction
/// moved). Runs whose recording cannot be read are left as they are and named in the error.
[[nodiscard]] Result<void> put_track_state(Library& library, TrackId id, const TrackState& state, bool recut,
                                           const JobContext& job = {});

}  // namespace rendak
