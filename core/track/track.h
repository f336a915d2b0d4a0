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
    int number = 0;  ///< from the start line, from 1
    double start_m = 0;
    double apex_m = 0;  ///< where the line is tightest
    double end_m = 0;
    bool left = false;
    double radius_m = 0;   ///< at the apex
    double angle_deg = 0;  ///< change of heading over the corner, positive
};

/// A stretch of the lap: a corner or the straight between two.
struct Section {
    std::string name;
    Interval range_m;
    int corner = 0;  ///< number of the corner, 0 for a straight
};

/// A circuit. `line` is the centreline in the plane of `origin`: points a constant step apart, the first one
/// on the start line, closed (the last point is one step before the first).
struct Track {
    std::string name;
    GeoPoint origin;
    StartLine start;
    double length_m = 0;
    std::vector<Point> line;
    std::vector<Point> tangent;     ///< unit vectors at the points of the line
    std::vector<double> curvature;  ///< 1/m at the points, left positive, smoothed over about 15 m
    std::vector<Corner> corners;

    [[nodiscard]] double step_m() const { return length_m / static_cast<double>(line.size()); }
    [[nodiscard]] Point position_at(double distance_m) const;
    [[nodiscard]] Point tangent_at(double distance_m) const;
    [[nodiscard]] double curvature_at(double distance_m) const;
};

/// Fills tangents and curvature from the points and finds the corners.
void complete_track(Track& track);

/// |κ| over a threshold with hysteresis and at least 10° of heading change; two of the same hand closer than a
/// few car lengths merge; numbered from the start line.
[[nodiscard]] std::vector<Corner> find_corners(const Track& track);

/// Corners and the straights between them: covers 0 … length without holes.
[[nodiscard]] std::vector<Section> sections_of(const Track& track);

/// The stretch that shows a corner: from 120 m before to 80 m after, kept inside the lap.
[[nodiscard]] Interval view_of_corner(const Track& track, const Corner& corner);

/// GeoJSON text of a track (docs/formats.md) and back.
[[nodiscard]] std::string track_to_geojson(const Track& track);
[[nodiscard]] Result<Track> track_from_geojson(const std::string& text, const std::string& where);

}  // namespace rendak
