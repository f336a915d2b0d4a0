#pragma once

#include <optional>
#include <string>

#include "core/track/path.h"
#include "core/track/track.h"

namespace rendak {

/// Makes a track from a run: the fastest complete lap without drop-outs, closed and evened out. Fails with a
/// sentence when the car never goes around.
[[nodiscard]] Result<Track> learn_track(const Path& path, const std::string& name, const StartLine& start);

/// A road from a standing start to a finish, from one run: it begins where the car stood at the launch, and ends at
/// the last place of its second half where the car was nearly as fast as ever there (or at the recording's end).
[[nodiscard]] Result<Track> learn_open_track(const Path& path, const std::string& name, double launch_s);

/// The road up to an earlier finish.
[[nodiscard]] Result<Track> finish_at(Track track, double distance_m);

/// A start line in the plane of `origin` from a place and a compass heading.
[[nodiscard]] StartLine start_line_at(GeoPoint origin, GeoPoint place, double heading_deg);

/// A start line where nobody has said one: the fastest place that the car passes again and again, always the same
/// way.
[[nodiscard]] std::optional<StartLine> suggest_start(const Path& path);

/// Share of the moving path that lies within 40 m of the track's line (0 … 1): how well a run fits a track.
[[nodiscard]] double share_on_track(const Path& path, const Track& track);

/// How a path and a track's line lie on each other. Near is within 40 m.
struct TrackFit {
    double share = 0;     ///< of the moving path that is near the line
    double fast_off = 0;  ///< of the distance driven above 80 km/h, that is not near: no pit lane, another road
    double covered = 0;   ///< of the line that the path came near
    double rounds = 0;    ///< distance driven, in lengths of the track
    double apart_m = 0;   ///< mean distance from the line, 40 m at most
    /// Whether the path was driven on this track, on another layout of its venue, or elsewhere.
    enum class Place { here, other_layout, elsewhere };
    [[nodiscard]] Place place() const;
};
[[nodiscard]] TrackFit fit_on_track(const Path& path, const Track& track);

}  // namespace rendak
