#include "core/recording/assumed_units.h"

#include <cmath>
#include <numbers>

namespace rendak {

std::string assume_unit(const Quantity& quantity, double low, double high) {
    const double size = std::max(std::abs(low), std::abs(high));
    const std::string_view unit = quantity.unit;
    if (quantity.id == "throttle" || quantity.id == "brake" || quantity.id == "clutch") return size > 1.5 ? "%" : "";
    if (quantity.id == "engine_speed") return "rpm";
    if (unit == "m/s") return size > 85 ? "km/h" : "m/s";
    if (unit == "m/s²") return size < 6 ? "g" : "m/s²";
    if (unit == "rad") return size > 7 ? "deg" : "rad";
    if (unit == "rad/s") return size > 4 ? "deg/s" : "rad/s";
    if (unit == "Pa") return size < 400 ? "bar" : (size < 50000 ? "kPa" : "Pa");
    if (unit == "K") return "°C";
    if (quantity.id == "altitude") return "m";
    if (unit == "m") return size > 2 ? "mm" : "m";
    if (unit == "m³") return "l";
    return std::string(unit);
}

std::string speed_unit_from_positions(std::span<const double> times_s, std::span<const double> latitude,
                                      std::span<const double> longitude, std::span<const double> speed) {
    constexpr double metres_per_degree = 6371008.8 * std::numbers::pi / 180;
    double travelled = 0, integrated = 0;
    std::size_t last = times_s.size();
    for (std::size_t i = 0; i < times_s.size(); ++i) {
        if (std::isnan(latitude[i]) || std::isnan(longitude[i]) || std::isnan(speed[i])) continue;
        // Steps of about a second keep the noise of the position out of the travelled distance.
        if (last == times_s.size()) last = i;
        if (times_s[i] - times_s[last] < 0.9) continue;
        if (times_s[i] - times_s[last] < 3) {
            const double north = (latitude[i] - latitude[last]) * metres_per_degree;
            const double east =
                (longitude[i] - longitude[last]) * metres_per_degree * std::cos(latitude[i] * std::numbers::pi / 180);
            travelled += std::hypot(north, east);
            integrated += 0.5 * (speed[i] + speed[last]) * (times_s[i] - times_s[last]);
        }
        last = i;
    }
    if (travelled < 20 || !(integrated > 0)) return {};
    struct Candidate {
        const char* unit;
        double per_mps;
    };
    constexpr Candidate candidates[] = {{"m/s", 1}, {"km/h", 3.6}, {"mph", 1 / 0.44704}, {"kn", 3600 / 1852.0}};
    const double ratio = integrated / travelled;
    const Candidate* best = &candidates[0];
    for (const Candidate& candidate : candidates) {
        if (std::abs(std::log(ratio / candidate.per_mps)) < std::abs(std::log(ratio / best->per_mps)))
            best = &candidate;
    }
    return best->unit;
}

}  // namespace rendak
