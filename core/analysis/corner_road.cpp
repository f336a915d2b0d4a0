#include "core/analysis/corner_road.h"

#include <cmath>
#include <numbers>

namespace rendak {

CornerRoad corner_road(const Track& track, const Corner& corner) {
    constexpr double banked_rad = 1.5 * std::numbers::pi / 180;
    CornerRoad out;
    if (track.banking.value.empty()) return out;
    double sum = 0, sd = 0, count = 0;
    const double third = (corner.end_m - corner.start_m) / 3;
    for (double s = corner.start_m + third; s <= corner.end_m - third; s += track.step_m()) {
        const double angle = track.value_at(track.banking.value, s);
        if (!std::isfinite(angle)) continue;
        sum += angle;
        sd += track.value_at(track.banking.sd, s);
        ++count;
    }
    if (count == 0) return out;
    // The left side high helps a right-hander.
    out.banking_rad = (corner.left ? -1 : 1) * sum / count;
    out.banked = std::abs(*out.banking_rad) > banked_rad && std::abs(*out.banking_rad) > 2 * sd / count;
    return out;
}

}  // namespace rendak
