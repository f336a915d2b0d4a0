#include "core/chassis/height_curves.h"

#include <array>
#include <cmath>

namespace rendak {

HeightCurve lowest_round_the_lap(std::span<const PreparedLap> laps, std::span<const std::string> channels) {
    constexpr double step_m = 10;
    HeightCurve out;
    if (laps.empty()) return out;
    const double length = laps.front().map.length_m();
    for (double from = 0; from < length; from += step_m) {
        double low = std::numeric_limits<double>::infinity();
        for (const PreparedLap& lap : laps) {
            for (const std::string& channel : channels)
                low = std::fmin(low, figures_in_range(lap, channel, {from, std::min(from + step_m, length)}).low);
        }
        if (!std::isfinite(low)) continue;
        out.at.push_back(from + step_m / 2);
        out.height_m.push_back(low);
    }
    return out;
}

HeightCurve height_by_speed(std::span<const PreparedLap> laps, const std::string& channel) {
    constexpr double speed_step_mps = 2.5, look_s = 0.02, least_s = 0.5, straight_mps2 = 1, steady_mps2 = 4;
    constexpr std::size_t steps = 60;
    std::array<double, steps> sum{}, seconds{};
    for (const PreparedLap& lap : laps) {
        const Channel *height = lap.recording->find(channel), *speed = lap.recording->find("speed"),
                      *lateral = lap.recording->find("lateral_acceleration"),
                      *along = lap.recording->find("longitudinal_acceleration");
        if (height == nullptr || speed == nullptr || lateral == nullptr || along == nullptr) return {};
        for (double t = lap.map.start_s(); t < lap.map.end_s(); t += look_s) {
            const bool straight = std::abs(lateral->value_at(t)) < straight_mps2;
            if (!straight || !(std::abs(along->value_at(t)) < steady_mps2)) continue;
            const double h = height->value_at(t), step = speed->value_at(t) / speed_step_mps;
            if (!std::isfinite(h) || !(step >= 0) || step >= static_cast<double>(steps)) continue;
            sum[static_cast<std::size_t>(step)] += look_s * h;
            seconds[static_cast<std::size_t>(step)] += look_s;
        }
    }
    HeightCurve out;
    for (std::size_t k = 0; k < steps; ++k) {
        if (seconds[k] < least_s) continue;
        out.at.push_back((static_cast<double>(k) + 0.5) * speed_step_mps);
        out.height_m.push_back(sum[k] / seconds[k]);
    }
    return out;
}

}  // namespace rendak
