#include "core/recording/motion.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "core/base/median.h"

namespace rendak {
namespace {

constexpr double metres_per_degree = 6371008.8 * std::numbers::pi / 180;

double between(const Motion& motion, std::size_t a, std::size_t b) {
    const double north = (motion.latitude[b] - motion.latitude[a]) * metres_per_degree;
    const double east = (motion.longitude[b] - motion.longitude[a]) * metres_per_degree *
                        std::cos(motion.latitude[b] * std::numbers::pi / 180);
    return std::hypot(north, east);
}

}  // namespace

double median_finite(std::vector<double> values) {
    std::erase_if(values, [](double x) { return !std::isfinite(x); });
    return values.empty() ? std::nan("") : median_of(std::move(values));
}

std::optional<Travelled> travelled(const Motion& motion) {
    if (motion.latitude.empty() || motion.longitude.empty() || motion.speed.empty()) return std::nullopt;
    // Steps of some metres keep the noise of the position out of the distance.
    constexpr double least_step_m = 15;
    Travelled out;
    std::vector<double> ratios;
    std::size_t last = motion.times.size(), before = last;
    double by_speed = 0;
    for (std::size_t i = 0; i < motion.times.size(); ++i) {
        if (std::isnan(motion.latitude[i]) || std::isnan(motion.longitude[i]) || std::isnan(motion.speed[i]) ||
            std::isnan(motion.times[i]))
            continue;
        if (last == motion.times.size()) {
            last = before = i;
            continue;
        }
        by_speed += 0.5 * (motion.speed[i] + motion.speed[before]) * (motion.times[i] - motion.times[before]);
        before = i;
        const double step = between(motion, last, i);
        if (step < least_step_m) continue;
        // A hole in the positions is a straight line over a bend.
        if (step < 400) {
            out.by_position += step;
            out.by_speed += by_speed;
            if (by_speed > 0) ratios.push_back(step / by_speed);
        }
        last = i;
        by_speed = 0;
    }
    if (ratios.size() < 3 || !(out.by_speed > 0)) return std::nullopt;
    const double middle = median_finite(ratios);
    for (double& ratio : ratios) ratio = std::abs(std::log(ratio / middle));
    out.spread = median_finite(std::move(ratios));
    return out;
}

std::vector<double> speed_between(const Motion& motion) {
    std::vector<double> out(motion.times.size(), std::numeric_limits<double>::quiet_NaN());
    std::size_t last = motion.times.size();
    for (std::size_t i = 0; i < motion.times.size(); ++i) {
        if (std::isnan(motion.latitude[i]) || std::isnan(motion.longitude[i]) || std::isnan(motion.times[i])) continue;
        if (last < i && motion.times[i] > motion.times[last]) {
            const double step = between(motion, last, i);
            if (step < 3) continue;  // slow receivers repeat a position
            out[i] = step / (motion.times[i] - motion.times[last]);
        }
        last = i;
    }
    return out;
}

std::optional<double> liveliness(std::span<const double> times, std::span<const double> speed) {
    std::vector<std::size_t> there;
    for (std::size_t i = 0; i < times.size(); ++i) {
        if (std::isfinite(times[i]) && std::isfinite(speed[i])) there.push_back(i);
    }
    if (there.size() < 8) return std::nullopt;
    // Over several rows: one row's noise is no acceleration.
    const std::size_t lag = std::max<std::size_t>(1, there.size() / 400);
    std::vector<double> rates;
    double low = std::numeric_limits<double>::infinity(), high = -low;
    for (std::size_t i = lag; i < there.size(); ++i) {
        const double step = times[there[i]] - times[there[i - lag]];
        if (step > 0) rates.push_back(std::abs(speed[there[i]] - speed[there[i - lag]]) / step);
        low = std::min(low, speed[there[i]]);
        high = std::max(high, speed[there[i]]);
    }
    if (rates.empty() || !(high - low > 0.1 * std::abs(high))) return std::nullopt;
    std::sort(rates.begin(), rates.end());
    const double lively = rates[rates.size() * 9 / 10];
    return lively > 0 ? std::optional(lively) : std::nullopt;
}

}  // namespace rendak
