#pragma once

#include <cmath>
#include <memory>

namespace GeographicLib {
class LocalCartesian;
}

namespace rendak {

/// WGS 84, degrees.
struct GeoPoint {
    double latitude_deg = 0;
    double longitude_deg = 0;
};

/// A place or vector in a track's local plane: x east, y north, metres.
struct Point {
    double x = 0;
    double y = 0;
};
inline Point operator+(Point a, Point b) {
    return {a.x + b.x, a.y + b.y};
}
inline Point operator-(Point a, Point b) {
    return {a.x - b.x, a.y - b.y};
}
inline Point operator*(Point a, double k) {
    return {a.x * k, a.y * k};
}
inline double dot(Point a, Point b) {
    return a.x * b.x + a.y * b.y;
}
inline double cross(Point a, Point b) {
    return a.x * b.y - a.y * b.x;
}
inline double length(Point a) {
    return std::sqrt(a.x * a.x + a.y * a.y);  // metres: far from where hypot() would be needed
}
/// Turned by +90°: of a direction of travel, the left-hand side.
inline Point left_of(Point a) {
    return {-a.y, a.x};
}
inline Point unit(Point a) {
    const double size = length(a);
    return size > 0 ? Point{a.x / size, a.y / size} : Point{1, 0};
}

/// The local plane (east, north) that touches the ellipsoid at an origin (GeographicLib's LocalCartesian;
/// Karney 2013). Heights are left out.
class LocalPlane {
  public:
    explicit LocalPlane(GeoPoint origin);
    [[nodiscard]] GeoPoint origin() const { return origin_; }
    [[nodiscard]] Point to_local(GeoPoint place) const;
    [[nodiscard]] GeoPoint to_geo(Point place) const;

  private:
    GeoPoint origin_;
    std::shared_ptr<const GeographicLib::LocalCartesian> frame_;
};

/// Compass heading (degrees clockwise from north) to a unit vector, and back (0 … 360).
[[nodiscard]] Point direction_from_heading(double heading_deg);
[[nodiscard]] double heading_from_direction(Point direction);

}  // namespace rendak
