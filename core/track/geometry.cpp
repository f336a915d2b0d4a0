#include "core/track/geometry.h"

#include <GeographicLib/LocalCartesian.hpp>
#include <numbers>

namespace rendak {

LocalPlane::LocalPlane(GeoPoint origin)
    : origin_(origin),
      frame_(std::make_shared<GeographicLib::LocalCartesian>(origin.latitude_deg, origin.longitude_deg)) {}

Point LocalPlane::to_local(GeoPoint place) const {
    double x = 0, y = 0, z = 0;
    frame_->Forward(place.latitude_deg, place.longitude_deg, 0, x, y, z);
    return {x, y};
}

GeoPoint LocalPlane::to_geo(Point place) const {
    GeoPoint out;
    double height = 0;
    // The plane leaves the ellipsoid with the square of the distance: start from that height.
    const double drop = -(place.x * place.x + place.y * place.y) / (2 * 6378137.0);
    frame_->Reverse(place.x, place.y, drop, out.latitude_deg, out.longitude_deg, height);
    return out;
}

Point direction_from_heading(double heading_deg) {
    const double angle = heading_deg * std::numbers::pi / 180;
    return {std::sin(angle), std::cos(angle)};
}

double heading_from_direction(Point direction) {
    const double heading = std::atan2(direction.x, direction.y) * 180 / std::numbers::pi;
    return heading < 0 ? heading + 360 : heading;
}

}  // namespace rendak
