#include "tests/support/random_world.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>

namespace rendak::test {
namespace {

constexpr double two_pi = 2 * std::numbers::pi;

}  // namespace

Point RandomRoad::position(double s, double left_m) const {
    const double wrapped = s - std::floor(s / length_m) * length_m;
    const auto n = centre.size();
    const double at = wrapped / length_m * static_cast<double>(n);
    const auto i = static_cast<std::size_t>(at) % n, k = (i + 1) % n;
    const double u = at - std::floor(at);
    return centre[i] * (1 - u) + centre[k] * u + left_of(unit(direction[i] * (1 - u) + direction[k] * u)) * left_m;
}

double RandomRoad::curvature_at(double s) const {
    const double wrapped = s - std::floor(s / length_m) * length_m;
    return curvature[static_cast<std::size_t>(wrapped / length_m * static_cast<double>(curvature.size())) %
                     curvature.size()];
}

namespace {

/// A road of a length along a closed loop.
RandomRoad road_along(const std::vector<Point>& loop, double length_m) {
    const std::size_t fine = loop.size();
    std::vector<double> travelled{0};
    for (std::size_t i = 0; i < fine; ++i)
        travelled.push_back(travelled.back() + length(loop[(i + 1) % fine] - loop[i]));
    const double scale = length_m / travelled.back();
    RandomRoad road;
    road.length_m = length_m;
    const auto n = static_cast<std::size_t>(length_m);
    std::size_t at = 0;
    for (std::size_t i = 0; i < n; ++i) {
        const double s = travelled.back() * static_cast<double>(i) / static_cast<double>(n);
        while (travelled[at + 1] < s) ++at;
        const double u = (s - travelled[at]) / (travelled[at + 1] - travelled[at]);
        road.centre.push_back((loop[at] * (1 - u) + loop[(at + 1) % fine] * u) * scale);
    }
    for (std::size_t i = 0; i < n; ++i)
        road.direction.push_back(unit(road.centre[(i + 1) % n] - road.centre[(i + n - 1) % n]));
    for (std::size_t i = 0; i < n; ++i) {
        const double turn = cross(road.direction[(i + n - 2) % n], road.direction[(i + 2) % n]);
        road.curvature.push_back(std::asin(std::clamp(turn, -1.0, 1.0)) / 4);
    }
    return road;
}

}  // namespace

RandomRoad figure_of_eight(double height, double length_m) {
    constexpr int fine = 20000;
    std::vector<Point> loop;
    for (int i = 0; i < fine; ++i) {
        const double a = 0.3 + two_pi * i / fine;
        loop.push_back({std::sin(a), height * std::sin(2 * a)});
    }
    return road_along(loop, length_m);
}

RandomRoad random_road(unsigned seed, double length_m, int waves) {
    // A circle whose radius waves; the waves are drawn again until the road never comes near itself.
    std::mt19937 random(seed);
    std::normal_distribution<double> normal;
    std::uniform_real_distribution<double> angle(0, two_pi);
    for (int attempt = 0;; ++attempt) {
        std::vector<double> amplitude, phase;
        for (int k = 2; k <= waves; ++k) {
            amplitude.push_back(0.30 * normal(random) / std::pow(k, 0.9));
            phase.push_back(angle(random));
        }
        constexpr int fine = 20000;
        std::vector<Point> loop;
        bool fits = true;
        for (int i = 0; i < fine; ++i) {
            const double a = two_pi * i / fine;
            double r = 1;
            for (std::size_t k = 0; k < amplitude.size(); ++k)
                r += amplitude[k] * std::cos(static_cast<double>(k + 2) * a + phase[k]);
            fits = fits && r > 0.25;
            loop.push_back({r * std::cos(a), r * std::sin(a)});
        }
        if (!fits && attempt < 1000) continue;
        RandomRoad road = road_along(loop, length_m);
        double tightest = 0;
        for (const double curvature : road.curvature) tightest = std::max(tightest, std::abs(curvature));
        if (tightest < 1 / 16.0 || attempt >= 1000) return road;
    }
}

double RandomDrive::time_at(double along) const {
    const auto after = std::lower_bound(along_m.begin(), along_m.end(), along);
    if (after == along_m.begin()) return 0;
    if (after == along_m.end()) return end_s();
    const auto i = static_cast<std::size_t>(after - along_m.begin());
    const double u = (along - along_m[i - 1]) / (along_m[i] - along_m[i - 1]);
    return (static_cast<double>(i - 1) + u) / rate_hz;
}

double RandomDrive::along_at(double t_s) const {
    const double at = std::clamp(t_s * rate_hz, 0.0, static_cast<double>(along_m.size() - 1));
    const auto i = std::min(static_cast<std::size_t>(at), along_m.size() - 2);
    return along_m[i] + (at - static_cast<double>(i)) * (along_m[i + 1] - along_m[i]);
}

RandomDrive with_stands(const RandomDrive& drive, const std::vector<Stand>& stands, double begin_m) {
    constexpr double down_mps2 = 9, away_mps2 = 5, step_m = 0.05;
    RandomDrive out;
    out.length_m = drive.length_m;
    double last_v = 0, last_a = 0;
    const auto add = [&](double along, double v, double along_mps2) {
        const double at =
            std::clamp(drive.time_at(along) * RandomDrive::rate_hz, 0.0, static_cast<double>(drive.along_m.size() - 1));
        const auto i = std::min(static_cast<std::size_t>(at), drive.along_m.size() - 2);
        const double u = at - static_cast<double>(i), was = drive.speed_mps[i];
        out.along_m.push_back(along);
        out.position.push_back(drive.position[i] * (1 - u) + drive.position[i + 1] * u);
        out.speed_mps.push_back(v);
        out.along_mps2.push_back(along_mps2);
        // Bends are felt by the square of the speed, the yaw rate by the speed.
        const double slower = was > 1 ? v / was : 0;
        out.lateral_mps2.push_back(drive.lateral_mps2[i] * slower * slower);
        out.yaw_rate.push_back(drive.yaw_rate[i] * slower);
        out.brake.push_back(along_mps2 < -1 ? std::min(1.0, -along_mps2 / 15) : 0);
        out.throttle.push_back(along_mps2 > 0.2 ? 1 : 0);
    };
    const double end = drive.along_m.back();
    double t = 0, next = 0;
    const auto write_until = [&](double along, double v) {
        while (next <= t) {
            add(along, v, last_a);
            next += 1 / RandomDrive::rate_hz;
        }
    };
    std::size_t stood = 0;
    for (double s = begin_m; s < end; s += step_m) {
        if (stood < stands.size() && s >= stands[stood].at_m) {
            for (const double until = t + stands[stood].for_s; t < until; t += 1 / RandomDrive::rate_hz) {
                last_a = 0;
                write_until(stands[stood].at_m, 0);
            }
            ++stood;
        }
        double v = drive.speed_mps[std::min(static_cast<std::size_t>(drive.time_at(s) * RandomDrive::rate_hz),
                                            drive.speed_mps.size() - 1)];
        for (const Stand& stand : stands) {
            const double away = s - stand.at_m;
            v = std::min(v, std::sqrt(2 * (away < 0 ? down_mps2 : away_mps2) * std::max(std::abs(away), step_m)));
        }
        const double dt = step_m / v;
        last_a = t > 0 ? (v - last_v) / dt : 0;
        last_v = v;
        t += dt;
        write_until(s + step_m, v);
    }
    return out;
}

RandomDrive drive(const RandomRoad& road, const RandomDriver& driver, int laps, unsigned seed) {
    std::mt19937 random(seed);
    std::normal_distribution<double> normal;
    constexpr double before_m = 400, after_m = 400, grip = 13, brakes = 9, engine = 4.5, drag = 0.0011, fastest = 62;
    const double whole = before_m + laps * road.length_m + after_m;
    const auto n = static_cast<std::size_t>(whole);
    // The line: waves of the driver's, and slow scatter of a hundred metres.
    std::vector<Point> line(n);
    double scatter = 0;
    const double keep = std::exp(-1 / 100.0);
    std::vector<double> wander(n, 0);
    for (double& w : wander) {
        scatter = keep * scatter + std::sqrt(1 - keep * keep) * driver.scatter_m * normal(random);
        w = scatter;
    }
    std::vector<double> smooth(n, 0);
    constexpr std::size_t half = 40;
    for (std::size_t i = 0; i < n; ++i) {
        double sum = 0, count = 0;
        for (std::size_t k = i > half ? i - half : 0; k <= std::min(n - 1, i + half); ++k) {
            sum += wander[k];
            ++count;
        }
        smooth[i] = sum / count;
    }
    for (std::size_t i = 0; i < n; ++i) {
        const double s = static_cast<double>(i) - before_m;
        const double wave = driver.wave_m * std::sin(two_pi * driver.waves * s / road.length_m + driver.phase);
        line[i] = road.position(s, wave + smooth[i]);
    }
    std::vector<double> curvature(n, 0), step(n, 1);
    for (std::size_t i = 4; i + 4 < n; ++i) {
        const Point a = line[i] - line[i - 4], b = line[i + 4] - line[i];
        curvature[i] = std::asin(std::clamp(cross(unit(a), unit(b)), -1.0, 1.0)) / (0.5 * (length(a) + length(b)));
        step[i] = length(line[i + 1] - line[i]);
    }
    std::vector<double> v(n, 0);
    for (std::size_t i = 0; i < n; ++i)
        v[i] = std::min(fastest, std::sqrt(driver.pace * grip / std::max(std::abs(curvature[i]), 1e-4)));
    v[0] = std::min(v[0], 30.0);
    for (std::size_t i = n - 1; i-- > 0;)
        v[i] = std::min(v[i], std::sqrt(v[i + 1] * v[i + 1] + 2 * brakes * driver.pace * step[i]));
    for (std::size_t i = 1; i < n; ++i) {
        const double push = std::max(0.3, engine - drag * v[i - 1] * v[i - 1]);
        v[i] = std::min(v[i], std::sqrt(v[i - 1] * v[i - 1] + 2 * push * step[i - 1]));
    }
    // Nobody changes from throttle to brake in no time.
    for (int round = 0; round < 2; ++round) {
        const std::vector<double> sharp = v;
        constexpr std::size_t reach = 6;
        for (std::size_t i = reach; i + reach < n; ++i) {
            double sum = 0;
            for (std::size_t k = i - reach; k <= i + reach; ++k) sum += sharp[k] * sharp[k];
            v[i] = std::sqrt(sum / (2 * reach + 1));
        }
    }
    std::vector<double> at_s(n, 0);
    for (std::size_t i = 1; i < n; ++i) at_s[i] = at_s[i - 1] + 2 * step[i - 1] / (v[i] + v[i - 1]);
    RandomDrive out;
    out.length_m = road.length_m;
    std::size_t i = 0;
    for (double t = 0; t < at_s.back(); t += 1 / RandomDrive::rate_hz) {
        while (i + 2 < n && at_s[i + 1] < t) ++i;
        const double u = (t - at_s[i]) / (at_s[i + 1] - at_s[i]);
        out.along_m.push_back(static_cast<double>(i) + u - before_m);
        out.position.push_back(line[i] * (1 - u) + line[i + 1] * u);
        out.speed_mps.push_back(v[i] * (1 - u) + v[i + 1] * u);
        const double kappa = curvature[i] * (1 - u) + curvature[i + 1] * u;
        const double speed = out.speed_mps.back();
        const std::size_t back = i > 3 ? i - 3 : 0, on = std::min(n - 1, i + 4);
        const double a = (v[on] * v[on] - v[back] * v[back]) / 2 / std::max(0.1, length(line[on] - line[back]));
        out.along_mps2.push_back(a);
        out.lateral_mps2.push_back(speed * speed * kappa);
        out.yaw_rate.push_back(speed * kappa);
        const double rolling = -0.15 - drag * speed * speed;
        out.brake.push_back(std::clamp((rolling - 0.3 - a) / brakes, 0.0, 1.0));
        out.throttle.push_back(std::clamp((a - rolling) / engine, 0.0, 1.0));
    }
    return out;
}

Recording recorded(const RandomRoad& road, const RandomDrive& drive, const RandomSensors& sensors, unsigned seed) {
    std::mt19937 random(seed);
    std::normal_distribution<double> normal;
    const LocalPlane plane(road.origin);
    const double keep = std::exp(-1 / sensors.rate_hz / sensors.correlation_s), renew = std::sqrt(1 - keep * keep);
    Point slow{sensors.slow_m * normal(random), sensors.slow_m * normal(random)};
    ChannelStorage latitude, longitude, speed;
    for (double t = sensors.start_late_s; t < drive.end_s(); t += 1 / sensors.rate_hz) {
        const double at = t * RandomDrive::rate_hz;
        const auto i = std::min(static_cast<std::size_t>(at), drive.position.size() - 2);
        const double u = at - static_cast<double>(i);
        slow = slow * keep + Point{normal(random), normal(random)} * (renew * sensors.slow_m);
        const Point place = drive.position[i] * (1 - u) + drive.position[i + 1] * u + slow +
                            Point{normal(random), normal(random)} * sensors.white_m;
        const GeoPoint geo = plane.to_geo(place);
        latitude.doubles.push_back(geo.latitude_deg);
        longitude.doubles.push_back(geo.longitude_deg);
        speed.floats.push_back(static_cast<float>(drive.speed_mps[i] * (1 - u) + drive.speed_mps[i + 1] * u +
                                                  sensors.speed_mps * normal(random)));
    }
    Recording out;
    out.source_name = "random.rdk.h5";
    out.logger = "random";
    out.start_unix_s = 1'780'000'000;
    out.channels.push_back(make_channel("Latitude", "latitude", "deg", std::move(latitude), 0, sensors.rate_hz));
    out.channels.push_back(make_channel("Longitude", "longitude", "deg", std::move(longitude), 0, sensors.rate_hz));
    out.channels.push_back(make_channel("GPS Speed", "speed", "m/s", std::move(speed), 0, sensors.rate_hz));
    return out;
}

}  // namespace rendak::test
