#include "core/track/accelerations.h"

#include <algorithm>
#include <cmath>

#include "core/base/median.h"
#include "core/base/text.h"
#include "core/recording/let_go.h"
#include "core/signal/filters.h"
#include "core/track/speed_source.h"
#include "core/units/gravity.h"

namespace rendak {
namespace {

constexpr double rate_hz = 20;
constexpr double noise_sideways = 0.025 * standard_gravity_mps2;
/// Below walking pace the direction of travel is noise.
constexpr double slowest_mps = 2;

double noise_of(std::span<const float> x) {
    std::vector<double> differences;
    for (std::size_t i = 0; i + 3 < x.size(); ++i) {
        const double d = static_cast<double>(x[i + 3]) - x[i] - 3 * (static_cast<double>(x[i + 2]) - x[i + 1]);
        // A slower sensor that is repeated has none in between.
        if (std::isfinite(d) && d != 0) differences.push_back(d);
    }
    return noise_from_third_differences(std::move(differences));
}

/// An odd number of samples that spans about this long.
int window_of(double seconds) {
    return 2 * static_cast<int>(std::lround(seconds * rate_hz / 2)) + 1;
}

std::vector<float> slope(std::span<const float> x, double over_s, int derivative, int order) {
    int window = std::max(window_of(over_s), order % 2 == 0 ? order + 3 : order + 2);
    window = std::min(window, static_cast<int>(x.size() - 1) / 2 * 2 + 1);
    if (window <= order) return std::vector<float>(x.size(), 0);
    return savitzky_golay(x, rate_hz, window, order, derivative);
}

}  // namespace

std::vector<DerivedAcceleration> derived_accelerations(const Recording& recording, const Path& path) {
    if (path.size() < 10) return {};
    const double first = path.time_s.front(), last = path.time_s.back();
    const auto count = static_cast<std::size_t>((last - first) * rate_hz) + 1;
    const auto time_of = [&](std::size_t i) { return first + static_cast<double>(i) / rate_hz; };
    const SpeedSource source(recording, SpeedSource::Prefer::gps);
    const auto driven = [&](std::size_t i) { return static_cast<float>(length(path.velocity_at(time_of(i)))); };
    std::vector<float> measured(count);
    std::size_t there = 0;
    for (std::size_t i = 0; i < count; ++i) {
        measured[i] = static_cast<float>(source.at(time_of(i)));
        there += std::isfinite(measured[i]) ? 1 : 0;
    }
    let_go_of_samples(recording);
    const bool has_speed = 10 * there > 9 * count;
    std::vector<DerivedAcceleration> out;
    const auto add = [&](const char* what, const char* quantity, const char* from, double over_s,
                         std::vector<float> values) {
        for (std::size_t i = 0; i < count; ++i) {
            const float speed = std::isfinite(measured[i]) ? measured[i] : driven(i);
            if (!(speed > slowest_mps)) values[i] = 0;
        }
        ChannelStorage storage;
        storage.floats.assign(values.begin(), values.end());
        const std::string name = std::string(what) + " (from " + from + ", over " + fixed(over_s, 1) + " s)";
        out.push_back({make_channel(name, quantity, "m/s²", std::move(storage), first, rate_hz), over_s});
    };

    if (has_speed || !path.by_shape) {
        std::vector<float> speed = measured;
        for (std::size_t i = 0; i < count; ++i) {
            if (!has_speed || !std::isfinite(speed[i])) speed[i] = driven(i);
        }
        // A straight line over T lets through noise · √12 / (T √(T · rate)) and smears what changes within T: of a
        // driver who goes onto the brakes, about as much again at 0.3 s for 0.03 m/s. Noisier: longer, but less than
        // the noise alone would ask for.
        const double over_s = std::clamp(0.3 * std::pow(noise_of(speed) / 0.03, 0.4), 0.25, 1.5);
        add("Along", "longitudinal_acceleration", has_speed ? "speed" : "GPS", over_s, slope(speed, over_s, 1, 2));
    }

    const Channel* yaw_rate = recording.find_logged("yaw_rate");
    if (yaw_rate != nullptr) {
        std::vector<float> values(count);
        for (std::size_t i = 0; i < count; ++i) {
            const float speed = std::isfinite(measured[i]) ? measured[i] : driven(i);
            values[i] = speed * static_cast<float>(yaw_rate->value_at(time_of(i)));
        }
        add("Lateral", "lateral_acceleration", "yaw rate", 0, std::move(values));
    } else if (!path.by_shape) {
        // A parabola over T lets through noise · √720 / (T² √(T · rate)); the path's own smoothing takes off a part.
        const double fixes_hz = std::clamp(
            recording.find("latitude") == nullptr ? rate_hz : recording.find("latitude")->clock.mean_rate_hz(), 1.0,
            100.0);
        const double over_s =
            std::clamp(std::pow(path.noise_m * std::sqrt(720 / fixes_hz) / noise_sideways, 0.4), 0.35, 2.0);
        std::vector<float> x(count), y(count);
        const Point origin = path.position_at(first);
        for (std::size_t i = 0; i < count; ++i) {
            const Point p = path.position_at(time_of(i)) - origin;
            x[i] = static_cast<float>(p.x);
            y[i] = static_cast<float>(p.y);
        }
        const auto vx = slope(x, over_s, 1, 2), vy = slope(y, over_s, 1, 2);
        const auto ax = slope(x, over_s, 2, 3), ay = slope(y, over_s, 2, 3);
        std::vector<float> values(count);
        for (std::size_t i = 0; i < count; ++i) {
            // The measured speed makes the better of the two factors of v²κ.
            const double speed = std::hypot(vx[i], vy[i]);
            const double bent = speed > 0.5
                                    ? (static_cast<double>(vx[i]) * ay[i] - static_cast<double>(vy[i]) * ax[i]) /
                                          (speed * speed * speed)
                                    : 0;
            const double v = std::isfinite(measured[i]) ? static_cast<double>(measured[i]) : speed;
            values[i] = static_cast<float>(v * v * bent);
        }
        add("Lateral", "lateral_acceleration", "GPS", over_s, std::move(values));
    }
    return out;
}

}  // namespace rendak
