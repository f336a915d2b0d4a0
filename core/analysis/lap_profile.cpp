#include "core/analysis/lap_profile.h"

#include <algorithm>
#include <cmath>

namespace rendak {

double LapProfile::at(const std::vector<double>& values, double distance_m) const {
    const double place = std::clamp(distance_m, 0.0, length_m) / step_m;
    const auto i = std::min(static_cast<std::size_t>(place), values.size() - 2);
    // The last step is what is left of a metre.
    const double width = i + 2 == values.size() ? length_m / step_m - static_cast<double>(i) : 1;
    const double share = width > 0 ? std::min(1.0, (place - static_cast<double>(i)) / width) : 0;
    return values[i] + share * (values[i + 1] - values[i]);
}

LapProfile profile_of(const PreparedLap& lap) {
    constexpr double half_s = 0.15;
    LapProfile out;
    out.length_m = lap.map.length_m();
    const Channel* speed = lap.recording->find("speed");
    const auto count = static_cast<std::size_t>(std::ceil(out.length_m / LapProfile::step_m));
    for (std::size_t i = 0; i <= count; ++i) {
        const double place = std::min(static_cast<double>(i) * LapProfile::step_m, out.length_m);
        const double t = lap.map.time_at(place);
        out.elapsed_s.push_back(t - lap.map.start_s());
        double sum = 0;
        int known = 0;
        for (const double by : {-half_s, -half_s / 2, 0.0, half_s / 2, half_s}) {
            const double value = speed == nullptr ? std::nan("") : speed->value_at(t + by);
            if (!std::isfinite(value)) continue;
            sum += value;
            ++known;
        }
        if (known == 0) {
            const double a = std::max(lap.map.start_s(), t - half_s), b = std::min(lap.map.end_s(), t + half_s);
            sum = (lap.map.distance_at(b) - lap.map.distance_at(a)) / std::max(1e-3, b - a);
            known = 1;
        }
        out.speed_mps.push_back(std::max(0.5, sum / known));
    }
    // A car that stands at the start is there for a while: the lap begins when it moves off.
    out.elapsed_s.front() = 0;
    out.elapsed_s.back() = lap.time_s();
    return out;
}

LapProfile mean_of(std::span<const LapProfile> laps) {
    LapProfile out = laps.front();
    const auto n = static_cast<double>(laps.size());
    for (std::size_t i = 0; i < out.elapsed_s.size(); ++i) {
        double elapsed = 0, speed = 0;
        for (const LapProfile& lap : laps) {
            elapsed += lap.elapsed_s[i];
            speed += lap.speed_mps[i];
        }
        out.elapsed_s[i] = elapsed / n;
        out.speed_mps[i] = speed / n;
    }
    return out;
}

}  // namespace rendak
