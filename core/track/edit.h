#pragma once

#include "core/track/path.h"
#include "core/track/track.h"

namespace rendak {

// Edits of a track: each takes a track and gives the changed one, or says in a sentence why it cannot be. Corners are
// told by their place in track.corners.

/// A corner over a stretch that touches no other; radius, angle, hand and apex come from the line.
[[nodiscard]] Result<Track> add_corner(Track track, Interval range_m);
[[nodiscard]] Result<Track> delete_corner(Track track, std::size_t corner);
/// The corner and the one behind it become one.
[[nodiscard]] Result<Track> join_corners(Track track, std::size_t corner);
[[nodiscard]] Result<Track> rename_corner(Track track, std::size_t corner, const std::string& name);
/// This corner gets `number`, those behind it count on from there.
[[nodiscard]] Result<Track> renumber_from(Track track, std::size_t corner, int number);
/// Kept in order start ≤ apex ≤ end and off the neighbours. The apex stays, or moves to the nearer limit.
[[nodiscard]] Result<Track> set_corner_limits(Track track, std::size_t corner, Interval range_m);
[[nodiscard]] Result<Track> set_corner_apex(Track track, std::size_t corner, double apex_m);
/// The corners as they are found from the line; names and edits are gone.
[[nodiscard]] Track with_found_corners(Track track);

/// Any number, in any order; lines nearer than 20 m to another or to the start line are refused.
[[nodiscard]] Result<Track> set_sector_lines(Track track, std::vector<double> lines_m);

/// A start line at another place of a circuit; all distances count from there. Corners across the new line keep their
/// longer part. The middle of the line comes to lie on the track's line.
[[nodiscard]] Result<Track> move_start(Track track, double distance_m);
/// The same for a place and direction near the track's line: the heading is kept, so the line may stand crooked.
/// Fails when the place is over 40 m off the track, or the direction is not that of driving.
[[nodiscard]] Result<Track> place_start(Track track, const StartLine& line);
/// Where on the track such a line would lie.
[[nodiscard]] double start_distance(const Track& track, const StartLine& line);
/// The other way round.
[[nodiscard]] Track reversed(Track track);
[[nodiscard]] Result<Track> set_pit_lane(Track track, std::vector<Point> lane);
/// The way that a path takes beside the track's line (over `beside_m` away, for over 60 m) in a stretch of time: the
/// pit lane of an out or in lap. Empty when it keeps to the track.
[[nodiscard]] std::vector<Point> pit_lane_from(const Path& path, const Track& track, Interval time_s,
                                               double beside_m = 14);

}  // namespace rendak
