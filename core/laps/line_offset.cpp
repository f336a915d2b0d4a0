#include "core/laps/line_offset.h"

#include <algorithm>
#include <cmath>

namespace rendak {

double LineOffset::at(double distance) const {
    if (distance_m.empty()) return std::nan("");
    const auto after = std::upper_bound(distance_m.begin(), distance_m.end(), distance);
    if (after == distance_m.begin()) return left_m.front();
    if (after == distance_m.end()) return left_m.back();
    const auto i = static_cast<std::size_t>(after - distance_m.begin());
    const double share = (distance - distance_m[i - 1]) / (distance_m[i] - distance_m[i - 1]);
    return left_m[i - 1] + share * (left_m[i] - left_m[i - 1]);
}

LineOffset line_offset(const PreparedLap& baseline, const PreparedLap& lap, double step_m) {
    LineOffset out;
    if (baseline.track == nullptr || lap.track == nullptr) return out;
    out.error_m = baseline.ref == lap.ref ? 0 : std::hypot(baseline.trust_m, lap.trust_m);
    const double end = baseline.map.length_m();
    const Track& track = *baseline.track;
    for (double s = 0; s < end + step_m; s += step_m) {
        const double at = std::min(s, end);
        // Across the road, not across either line: both are looked at from the same place.
        const double ahead = std::min(at + 2, end - 0.01), behind = std::max(at - 2, 0.0);
        const Point along = track.position_at(ahead) - track.position_at(behind);
        const double size = std::hypot(along.x, along.y);
        const Point apart = lap.position_at(at) - baseline.position_at(at);
        out.distance_m.push_back(at);
        out.left_m.push_back(size > 0 ? (along.x * apart.y - along.y * apart.x) / size : std::nan(""));
        if (at >= end) break;
    }
    return out;
}

}  // namespace rendak
