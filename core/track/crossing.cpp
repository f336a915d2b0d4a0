#include "core/track/crossing.h"

namespace rendak {
namespace {

/// Two crossings closer than this on the road are one car standing on the line.
constexpr double least_loop_m = 100;

/// Metres past the line, and to its left.
struct Relative {
    double past, left;
};

Relative relative(const StartLine& line, Point place) {
    const Point offset = place - line.position;
    return {dot(offset, line.direction), cross(line.direction, offset)};
}

}  // namespace

std::vector<double> find_crossings(const Path& path, const StartLine& line) {
    std::vector<double> times;
    double last_distance = -1e9;
    const auto accept = [&](double t, double distance) {
        if (distance - last_distance < least_loop_m) return;
        if (std::abs(relative(line, path.position_at(t)).left) > line.half_width_m) return;
        // Where a circuit crosses itself, the other leg is no lap's begin.
        constexpr double along = 0.35;
        const Point v = path.velocity_at(t);
        if (dot(v, line.direction) <= along * length(v)) return;
        times.push_back(t);
        last_distance = distance;
    };
    if (path.size() < 2) return times;
    const auto speed_along = [&](std::size_t i) { return dot(path.velocity[i], line.direction); };
    double before = relative(line, path.position.front()).past;
    // A recording that starts on the line: the crossing lies less than one sample back.
    const double first_step = path.time_s[1] - path.time_s[0];
    if (before >= 0 && speed_along(0) > 2 && before < speed_along(0) * first_step) {
        accept(path.time_s[0] - before / speed_along(0), 0);
    }
    for (std::size_t i = 1; i < path.size(); ++i) {
        const double after = relative(line, path.position[i]).past;
        if (before < 0 && after >= 0) {
            double low = path.time_s[i - 1], high = path.time_s[i];
            for (int k = 0; k < 40; ++k) {
                const double middle = 0.5 * (low + high);
                (relative(line, path.position_at(middle)).past < 0 ? low : high) = middle;
            }
            accept(high, path.distance_m[i]);
        }
        before = after;
    }
    const std::size_t end = path.size() - 1;
    const double last_step = path.time_s[end] - path.time_s[end - 1];
    if (before < 0 && speed_along(end) > 2 && -before < speed_along(end) * last_step) {
        accept(path.time_s[end] - before / speed_along(end), path.distance_m[end]);
    }
    return times;
}

}  // namespace rendak
