#pragma once

#include <string>
#include <vector>

#include "core/base/interval.h"
#include "core/base/result.h"
#include "core/track/geometry.h"

namespace rendak {

/// A segment across the track with a direction of travel.
struct StartLine {
    Point position;         ///< its middle
    Point direction{1, 0};  ///< of travel, unit vector
    double half_width_m = 20;
};

struct Corner {
    int number = 0;    ///< from the start line, from 1
    std::string name;  ///< what people call it: "3A", "Gull Hook"; may be empty
    double start_m = 0;
    double apex_m = 0;  ///< where the line is tightest
    double end_m = 0;
    bool left = false;
    double radius_m = 0;   ///< at the apex
    double angle_deg = 0;  ///< change of heading over the corner, positive

    /// "Turn 5", or its name.
    [[nodiscard]] std::string title() const;
    /// For maps and strips: "5", or a name that is as short.
    [[nodiscard]] std::string label() const;
    bool operator==(const Corner&) const = default;
};

/// A stretch of the lap: a corner or the straight between two.
struct Section {
    std::string name;
    Interval range_m;
    int corner = 0;  ///< number of the corner, 0 for a straight
};

/// The road's edges: metres from the line to the left and to the right edge (both positive), one a point of the line.
struct Edges {
    enum class Source {
        none,    ///< not known
        driven,  ///< slow laps along each edge
        spread,  ///< from where many laps went: the road is at least this wide
    };
    Source source = Source::none;
    std::vector<double> left_m, right_m;
    bool operator==(const Edges&) const = default;
};

/// One value a point of the line with its standard deviation; empty when it is not known.
struct Profile {
    std::vector<double> value, sd;
    bool operator==(const Profile&) const = default;
};

/// A circuit, or a road from a start to a finish (`open`). `line` is the centreline in the plane of `origin`: points a
/// constant step apart, the first one on the start line. A circuit is closed: its last point is one step before the
/// first. An open track's last point is on its finish line.
struct Track {
    std::string name;
    GeoPoint origin;
    StartLine start;
    bool open = false;
    bool shape_only = false;  ///< made without positions: the form is right, place and direction are not
    double length_m = 0;
    std::vector<Point> line;
    std::vector<Point> tangent;     ///< unit vectors at the points of the line
    std::vector<double> curvature;  ///< 1/m at the points, left positive, smoothed over about 15 m
    std::vector<Corner> corners;
    std::vector<double> sector_lines_m;  ///< where a sector ends and the next begins, rising; without 0 and the end
    std::vector<Point> pit_lane;         ///< the way through the pits, entry to exit; may be empty
    Edges edges;
    Profile height;   ///< metres
    Profile banking;  ///< radians, positive where the left side of the road is higher

    [[nodiscard]] double step_m() const { return length_m / static_cast<double>(open ? line.size() - 1 : line.size()); }
    [[nodiscard]] Point position_at(double distance_m) const;
    [[nodiscard]] Point tangent_at(double distance_m) const;
    [[nodiscard]] double curvature_at(double distance_m) const;
    /// Of a profile or an edge, linear between the points; NaN when it is not known.
    [[nodiscard]] double value_at(const std::vector<double>& values, double distance_m) const;
    /// The line across the road at the end of an open track.
    [[nodiscard]] StartLine finish() const;
    /// On a circuit wrapped into 0 … length, on an open track kept inside.
    [[nodiscard]] double wrapped(double distance_m) const;
};

/// Fills tangents and curvature from the points and finds the corners.
void complete_track(Track& track);

/// |κ| over a threshold with hysteresis and at least 10° of heading change; two of the same hand closer than a
/// few car lengths merge; numbered from the start line.
[[nodiscard]] std::vector<Corner> find_corners(const Track& track);

/// What the corner of a number is called; empty where there is none.
[[nodiscard]] std::string corner_title(const Track& track, int number);

/// Corners and the straights between them: covers 0 … length without holes.
[[nodiscard]] std::vector<Section> sections_of(const Track& track);

/// The sectors between the sector lines: covers 0 … length without holes. Without sector lines: one sector.
[[nodiscard]] std::vector<Section> sectors_of(const Track& track);

/// The stretch that shows a corner: from 120 m before to 80 m after, kept inside the lap.
[[nodiscard]] Interval view_of_corner(const Track& track, const Corner& corner);

/// GeoJSON text of a track (docs/formats.md) and back.
[[nodiscard]] std::string track_to_geojson(const Track& track);
[[nodiscard]] Result<Track> track_from_geojson(const std::string& text, const std::string& where);

}  // namespace rendak
