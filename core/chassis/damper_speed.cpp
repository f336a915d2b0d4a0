#include "core/chassis/damper_speed.h"

#include <algorithm>
#include <cmath>

#include "core/signal/filters.h"

namespace rendak {

double DamperSpeed::rms(Interval time_s) const {
    double sum = 0;
    std::size_t count = 0;
    for (const float v : samples.during(time_s)) {
        if (!std::isfinite(v)) continue;
        sum += static_cast<double>(v) * static_cast<double>(v);
        ++count;
    }
    return count == 0 ? std::nan("") : std::sqrt(sum / static_cast<double>(count));
}

DamperSpeed damper_speed(const PreparedLap& lap, const std::string& channel) {
    constexpr double window_s = 0.02, least_rate_hz = 50;
    // A little beyond the lap, so that its ends are as good as its middle.
    SampledStretch travel = sampled(*lap.recording, channel, {lap.map.start_s() - 0.1, lap.map.end_s() + 0.1});
    if (travel.values.empty() || travel.rate_hz < least_rate_hz) return {};
    const auto first =
        std::find_if(travel.values.begin(), travel.values.end(), [](float x) { return std::isfinite(x); });
    if (std::none_of(first, travel.values.end(), [&](float x) { return std::isfinite(x) && x != *first; })) return {};
    int window = std::max(5, static_cast<int>(std::lround(window_s * travel.rate_hz)));
    window += window % 2 == 0 ? 1 : 0;
    if (travel.values.size() < static_cast<std::size_t>(window)) return {};
    leave_out_stuck(travel);
    travel.values = savitzky_golay(travel.values, travel.rate_hz, window, 2, 1);
    return {std::move(travel)};
}

}  // namespace rendak
