#pragma once

#include "core/library/library.h"
#include "core/track/path.h"
#include "core/track/track.h"

namespace rendak {

/// Where the car was: from the logged positions (less the run's correction), or, without positions, along the track's
/// line by the bends it felt. `track` may be null: then positions are needed.
[[nodiscard]] Result<Path> driven_path(const Recording& recording, const Track* track,
                                       const PlaceCorrection& correction = {});

/// Laps of a run on a track, with everything that is doubtful about them said: the logger's own line, drop-outs, an
/// excursion, suspected traffic, poor positions.
[[nodiscard]] std::vector<Lap> laps_on(const Recording& recording, const Path& path, const Track& track,
                                       const PlaceCorrection& correction = {});

/// Laps of a run that has no track: where the logger itself saw the line, when there are no positions to cut them by.
[[nodiscard]] std::vector<Lap> laps_without_track(const Recording& recording);

/// A track that a path was driven on.
struct KnownTrack {
    TrackId id;
    Track track;
};
/// The track of the library that a path was driven on (TrackFit::place()); of two layouts of a venue the one whose line
/// it keeps to. `other_layout_of`: none, but it was driven at the venue of that track, on roads that the track does not
/// have, or without some that it has.
struct RecognisedTrack {
    std::optional<KnownTrack> track;
    std::string other_layout_of;
};
[[nodiscard]] Result<RecognisedTrack> recognised_track(const Library& library, const Path& path);
/// The same for a recording without positions, by the bends it felt. Slow: 0.2 s a track.
[[nodiscard]] Result<std::optional<KnownTrack>> recognised_by_shape(const Library& library, const Recording& recording,
                                                                    bool& turned_round);

}  // namespace rendak
