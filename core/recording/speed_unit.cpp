#include "core/recording/speed_unit.h"

#include <cmath>
#include <limits>

#include "core/recording/motion.h"

namespace rendak {
namespace {

/// The unit whose number for 1 m/s this is, within 12 %.
std::string nearest_unit(double per_mps) {
    struct Candidate {
        const char* unit;
        double per_mps;
    };
    constexpr Candidate candidates[] = {{"m/s", 1}, {"km/h", 3.6}, {"mph", 1 / 0.44704}, {"kn", 3600 / 1852.0}};
    const Candidate* best = nullptr;
    double nearest = 0.12;
    for (const Candidate& candidate : candidates) {
        const double off = std::abs(std::log(per_mps / candidate.per_mps));
        if (off < nearest) {
            nearest = off;
            best = &candidate;
        }
    }
    return best == nullptr ? std::string() : best->unit;
}

}  // namespace

std::string speed_unit_from_positions(std::span<const double> times_s, std::span<const double> latitude,
                                      std::span<const double> longitude, std::span<const double> speed) {
    const auto way = travelled({times_s, latitude, longitude, speed});
    if (!way || way->by_position < 40) return {};
    return nearest_unit(way->by_speed / way->by_position);
}

std::string speed_unit_from_acceleration(std::span<const double> times_s, std::span<const double> acceleration,
                                         std::span<const double> speed) {
    // Changes over about a second: one row's noise is no change of speed.
    double sum_aa = 0, sum_av = 0, sum_vv = 0;
    std::size_t begin = times_s.size(), count = 0;
    double gained = 0;
    for (std::size_t i = 0; i < times_s.size(); ++i) {
        if (!std::isfinite(acceleration[i]) || !std::isfinite(speed[i])) continue;
        if (begin == times_s.size()) {
            begin = i;
            gained = 0;
            continue;
        }
        const double step = times_s[i] - times_s[i - 1];
        gained += acceleration[i] * step;
        if (times_s[i] - times_s[begin] < 0.9) continue;
        if (times_s[i] - times_s[begin] < 2.5) {
            const double change = speed[i] - speed[begin];
            sum_aa += gained * gained;
            sum_av += gained * change;
            sum_vv += change * change;
            ++count;
        }
        begin = i;
        gained = 0;
    }
    if (count < 8 || !(sum_aa > 0) || !(sum_vv > 0)) return {};
    const double alike = std::abs(sum_av) / std::sqrt(sum_aa * sum_vv);
    return alike > 0.9 ? nearest_unit(std::abs(sum_av) / sum_aa) : std::string();
}

}  // namespace rendak
