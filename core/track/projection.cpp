#include "core/track/projection.h"

#include <limits>

namespace rendak {

void Projector::restart(Point place, Point direction) {
    double best = std::numeric_limits<double>::infinity();
    for (std::size_t i = 0; i < track_.line.size(); ++i) {
        const Point offset = place - track_.line[i];
        const bool along = dot(direction, track_.tangent[i]) >= 0;
        const double distance = dot(offset, offset) + (along ? 0 : 400);
        if (distance < best) {
            best = distance;
            segment_ = i;
        }
    }
}

void Projector::start_near(double distance_m, Point place) {
    constexpr double reach_m = 80;
    double best = std::numeric_limits<double>::infinity();
    const double step = track_.step_m();
    for (double s = distance_m - reach_m; s <= distance_m + reach_m; s += step) {
        const auto i =
            std::min(static_cast<std::size_t>(track_.wrapped(s) / step), track_.line.size() - (track_.open ? 2 : 1));
        const Point offset = place - track_.line[i];
        if (dot(offset, offset) >= best) continue;
        best = dot(offset, offset);
        segment_ = i;
    }
}

Projected Projector::project(Point place) {
    const std::size_t n = track_.line.size();
    // An open track has no segment behind its last point.
    const bool open = track_.open;
    const std::size_t last = open ? n - 2 : n - 1;
    const auto next = [n](std::size_t i) { return i + 1 == n ? 0 : i + 1; };
    const auto previous = [n](std::size_t i) { return i == 0 ? n - 1 : i - 1; };
    segment_ = std::min(segment_, last);
    // Walk until the point lies between the two ends of a segment. A quarter of the lap is the limit of one walk.
    std::size_t steps = 0;
    const std::size_t limit = n / 4 + 2;
    while (ahead(segment_, place) < 0 && steps++ < limit && !(open && segment_ == 0)) segment_ = previous(segment_);
    while (ahead(next(segment_), place) >= 0 && steps++ < limit && !(open && segment_ == last))
        segment_ = next(segment_);

    const std::size_t end = next(segment_);
    const Point a = track_.line[segment_], chord = track_.line[end] - a;
    const Point t0 = track_.tangent[segment_], turn = track_.tangent[end] - t0;
    // f(u) = (place − a − u·chord) · (t0 + u·turn) falls through zero between u = 0 and 1: two Newton steps do.
    const Point offset = place - a;
    double u = 0.5;
    for (int k = 0; k < 3; ++k) {
        const Point tangent = t0 + turn * u;
        const Point rest = offset - chord * u;
        const double value = dot(rest, tangent);
        const double slope = dot(rest, turn) - dot(chord, tangent);
        if (slope == 0) break;
        u -= value / slope;
    }
    u = u < 0 ? 0 : (u > 1 ? 1 : u);
    const Point tangent = unit(t0 + turn * u);
    const Point foot = a + chord * u;
    return {(static_cast<double>(segment_) + u) * track_.step_m(), cross(tangent, place - foot)};
}

}  // namespace rendak
