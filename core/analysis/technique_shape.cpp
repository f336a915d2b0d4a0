#include "core/analysis/technique_shape.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

namespace rendak {
namespace {

constexpr double shape_grid_s = 0.02;

/// Means over `reach` values to both sides, fewer at the ends and where some are missing.
std::vector<double> smoothed(const std::vector<double>& values, std::size_t reach) {
    std::vector<double> out(values.size(), std::nan(""));
    for (std::size_t i = 0; i < values.size(); ++i) {
        const std::size_t last = std::min(values.size() - 1, i + reach);
        double sum = 0, count = 0;
        for (std::size_t k = i > reach ? i - reach : 0; k <= last; ++k) {
            if (!std::isfinite(values[k])) continue;
            sum += values[k];
            ++count;
        }
        if (count > 0) out[i] = sum / count;
    }
    return out;
}

double mean_at(const Channel* channel, double t_s, double half_s) {
    if (channel == nullptr) return std::nan("");
    double sum = 0;
    for (int k = -2; k <= 2; ++k) sum += channel->value_at(t_s + half_s * k / 2);
    return sum / 5;
}

/// How often values go down by `least` and up again by as much.
int turns_back(const std::vector<double>& values, double least) {
    int count = 0;
    double high = -1e300, low = 1e300;
    bool fell = false;
    for (const double value : values) {
        if (!std::isfinite(value)) continue;
        if (!fell) {
            high = std::max(high, value);
            if (value >= high - least) continue;
            fell = true;
            low = value;
        } else {
            low = std::min(low, value);
            if (value <= low + least) continue;
            ++count;
            fell = false;
            high = value;
        }
    }
    return count;
}

std::optional<double> room_left(const PreparedLap& lap, Interval on_m, double slowest_m) {
    const double rolled_m = slowest_m - on_m.end;
    const double before = lap.value_at("speed", on_m.begin), off = lap.value_at("speed", on_m.end),
                 slowest = lap.value_at("speed", slowest_m);
    if (!std::isfinite(before) || !std::isfinite(off) || !std::isfinite(slowest)) return std::nullopt;
    const double braked = before * before - off * off;
    if (!(rolled_m > 0) || !(off > slowest) || !(braked > 0)) return 0.0;
    const double needed_m = on_m.length() * (off * off - slowest * slowest) / braked;
    return std::max(0.0, rolled_m - needed_m);
}

/// Over a crest the road pushes less: how much less (m/s²), from the track's height; 0 where that is not known.
double lightened_at(const PreparedLap& lap, const Channel* speed, double t_s) {
    const Track& track = *lap.track;
    if (track.height.value.empty() || speed == nullptr) return 0;
    constexpr double reach_m = 15;
    const double s = lap.map.distance_at(t_s), v = speed->value_at(t_s);
    const auto height = [&](double at) { return track.value_at(track.height.value, at); };
    const double bend = (height(s - reach_m) - 2 * height(s) + height(s + reach_m)) / (reach_m * reach_m);
    const double out = -v * v * bend;
    return std::isfinite(out) ? std::max(0.0, out) : 0;
}

}  // namespace

BrakeShape brake_shape(const PreparedLap& lap, const DriverActivity& driver, Interval on_m,
                       std::optional<double> turn_in_m, double slowest_m) {
    BrakeShape out;
    const bool pedal = !driver.scales().brake_quantity.empty();
    const Channel* along = lap.recording->find("longitudinal_acceleration");
    const Channel* steering = lap.recording->find("steering");
    const Channel* turning = steering != nullptr ? steering : lap.recording->find("lateral_acceleration");
    if (!pedal && along == nullptr) return out;
    const double begin = lap.map.time_at(on_m.begin), end = lap.map.time_at(on_m.end);
    std::vector<double> level;
    for (double t = begin; t <= end; t += shape_grid_s) level.push_back(pedal ? driver.brake(t) : -along->value_at(t));
    level = smoothed(level, pedal ? 2 : 5);
    double highest = 0;
    for (const double value : level) highest = std::isfinite(value) ? std::max(highest, value) : highest;
    if (!(highest > 0) || level.size() < 5) return out;
    const PedalScales& scales = driver.scales();
    const Channel* pressure = pedal ? lap.recording->find(scales.brake_quantity) : nullptr;
    if (pressure != nullptr && pressure->unit == "Pa") {
        double most = 0;
        for (double t = begin; t <= end; t += shape_grid_s)
            most = std::max(most, pressure->value_at(t) - scales.brake.zero_at(t));
        if (most > 0) out.peak_pa = most;
    }
    out.room_left_m = room_left(lap, on_m, slowest_m);
    std::size_t first = level.size(), last = 0;
    for (std::size_t i = 0; i < level.size(); ++i) {
        if (!(level[i] >= 0.9 * highest)) continue;
        first = std::min(first, i);
        last = i;
    }
    out.hold_s = shape_grid_s * static_cast<double>(last - first);
    out.release_s = shape_grid_s * static_cast<double>(level.size() - 1 - last);
    if (level.size() - last > 5) {
        double sum = 0;
        for (std::size_t i = last; i < level.size(); ++i) sum += std::max(0.0, level[i]) / level[last];
        out.release_mean = sum / static_cast<double>(level.size() - last);
    }
    // Over a crest a driver has to ease the brake: that is no fault.
    constexpr double eased = 0.12, crest_mps2 = 1.5;
    const Channel* speed = lap.recording->find("speed");
    std::vector<double> on_the_flat;
    for (std::size_t i = first; i < level.size(); ++i) {
        const bool crest = lightened_at(lap, speed, begin + shape_grid_s * static_cast<double>(i)) > crest_mps2;
        on_the_flat.push_back(crest ? std::nan("") : level[i]);
    }
    out.reversals = turns_back(on_the_flat, eased * highest);
    if (!turn_in_m || *turn_in_m > on_m.end) return out;
    const auto turn = std::min(
        level.size() - 1, static_cast<std::size_t>(std::max(0.0, lap.map.time_at(*turn_in_m) - begin) / shape_grid_s));
    out.at_turn_in = std::max(0.0, level[turn]) / highest;
    if (turning == nullptr) return out;
    std::vector<double> turned;
    for (std::size_t i = turn; i < level.size(); ++i)
        turned.push_back(std::abs(turning->value_at(begin + shape_grid_s * static_cast<double>(i))));
    turned = smoothed(turned, 5);
    double most = 0;
    for (const double value : turned) most = std::isfinite(value) ? std::max(most, value) : most;
    // Over a quarter of a second: a brake that is eased slowly is eased.
    constexpr std::size_t over = 12;
    constexpr double kept_share = 0.02, least_share = 0.15, grown_share = 0.05;
    for (std::size_t i = turn; i + over < level.size(); ++i) {
        const double grows = turned[i - turn + over] - turned[i - turn];
        if (level[i] > least_share * highest && level[i + over] > level[i] - kept_share * highest &&
            grows > grown_share * most)
            out.kept_s += shape_grid_s;
    }
    return out;
}

SteeringShape steering_shape(const PreparedLap& lap, const DriverActivity& driver, bool left, Interval range_m) {
    SteeringShape out;
    const Channel* steering = lap.recording->find("steering");
    if (steering == nullptr || !(range_m.length() > 0)) return out;
    std::vector<double> angle;
    const double zero = driver.scales().steering.known ? driver.scales().steering.zero : 0;
    const double end = lap.map.time_at(range_m.end);
    for (double t = lap.map.time_at(range_m.begin); t <= end; t += shape_grid_s)
        angle.push_back((left ? 1 : -1) * (steering->value_at(t) - zero));
    angle = smoothed(angle, 3);
    double most = std::nan("");
    for (const double value : angle) most = std::fmax(most, value);
    if (!std::isfinite(most)) return out;
    out.most_rad = most;
    // A tenth of the angle, at least two degrees, and more than the sensor's noise makes of it.
    constexpr double share = 0.1, least_rad = 0.035;
    out.corrections = turns_back(angle, std::max({share * most, least_rad, 4 * driver.scales().steering.noise}));
    return out;
}

ThrottleShape throttle_shape(const PreparedLap& lap, const DriverActivity& driver, Interval range_m) {
    ThrottleShape out;
    constexpr double shift_s = 0.35, least = 0.1;
    const double begin = lap.map.time_at(range_m.begin), end = lap.map.time_at(range_m.end);
    if (driver.inferred() || !(end > begin)) return out;
    const Channel* gear = lap.recording->find("gear");
    const auto shifts = [&](double t) {
        return gear != nullptr && gear->value_at(t - shift_s) != gear->value_at(t + shift_s);
    };
    double high = 0, back = 0;
    double fell_t = std::nan("");
    for (double t = begin; t <= end; t += shape_grid_s) {
        const double value = driver.throttle(t);
        if (!std::isfinite(value)) continue;
        if (value >= high) {
            // Shorter than a shift takes is none where no gear tells.
            const bool counts = std::isfinite(fell_t) && back > least && (gear != nullptr || t - fell_t > shift_s);
            if (counts) {
                ++out.reversals;
                if (back > out.back.value_or(0)) {
                    out.back = back;
                    out.back_m = lap.map.distance_at(fell_t);
                }
            }
            high = value;
            back = 0;
            fell_t = std::nan("");
            continue;
        }
        if (shifts(t)) continue;
        if (high - value > back) {
            if (!std::isfinite(fell_t) && high - value > least) fell_t = t;
            back = high - value;
        }
    }
    if (!out.back) out.back = 0;
    // Standing still: within 6 % over the whole time.
    constexpr double still = 0.06, least_travel = 0.15, most_travel = 0.9;
    double from_t = begin, low = 2, highest = -1;
    for (double t = begin; t <= end; t += shape_grid_s) {
        const double value = driver.throttle(t);
        if (!std::isfinite(value)) continue;
        low = std::min(low, value);
        highest = std::max(highest, value);
        if (highest - low > still || value < least_travel || value > most_travel) {
            from_t = t;
            low = highest = value;
            continue;
        }
        if (t - from_t <= out.held_s) continue;
        out.held_s = t - from_t;
        out.held_at = 0.5 * (low + highest);
        out.held_m = lap.map.distance_at(from_t);
    }
    return out;
}

ArcShape arc_shape(const PreparedLap& lap, bool left, Interval range_m) {
    ArcShape out;
    const Channel* lateral = lap.recording->find("lateral_acceleration");
    const Channel* speed = lap.recording->find("speed");
    if (lateral == nullptr || speed == nullptr || !(range_m.length() > 10)) return out;
    constexpr double step_m = 2, slow_mps = 5, edge_share = 1.0 / 3;
    std::vector<double> bend;
    for (double s = range_m.begin; s <= range_m.end; s += step_m) {
        const double t = lap.map.time_at(s), v = speed->value_at(t);
        const double into = (left ? 1 : -1) * mean_at(lateral, t, 0.2);
        bend.push_back(v > slow_mps ? into / (v * v) : std::nan(""));
    }
    std::size_t at = bend.size();
    for (std::size_t i = 0; i < bend.size(); ++i) {
        if (std::isfinite(bend[i]) && (at == bend.size() || bend[i] > bend[at])) at = i;
    }
    // Straighter than a kilometre is no arc.
    if (at == bend.size() || bend[at] < 1e-3) return out;
    std::size_t first = at, last = at;
    while (first > 0 && bend[first - 1] > edge_share * bend[at]) --first;
    while (last + 1 < bend.size() && bend[last + 1] > edge_share * bend[at]) ++last;
    double sum = 0;
    for (std::size_t i = first; i <= last; ++i) sum += bend[i];
    out.tightest_m = range_m.begin + step_m * static_cast<double>(at);
    out.least_radius_m = 1 / bend[at];
    std::size_t half = at;
    while (half > 0 && bend[half - 1] > 0.5 * bend[at]) --half;
    if (half > 0) {
        const double share = (0.5 * bend[at] - bend[half - 1]) / (bend[half] - bend[half - 1]);
        out.begin_m = range_m.begin + step_m * (static_cast<double>(half - 1) + std::clamp(share, 0.0, 1.0));
    }
    if (last - first < 5) return out;
    out.share = static_cast<double>(at - first) / static_cast<double>(last - first);
    out.tightness = bend[at] * static_cast<double>(last - first + 1) / sum;
    return out;
}

GearUse gear_use(const PreparedLap& lap, double slowest_m, double end_m) {
    GearUse out;
    const Channel* gear = lap.recording->find("gear");
    if (gear == nullptr) return out;
    // The middle of what is in around the place: a shift passes through neutral.
    const auto at = [&](double t) {
        std::array<double, 7> around{};
        for (int k = -3; k <= 3; ++k) around[static_cast<std::size_t>(k + 3)] = gear->value_at(t + 0.05 * k);
        if (!std::all_of(around.begin(), around.end(), [](double value) { return std::isfinite(value); })) return 0;
        std::nth_element(around.begin(), around.begin() + 3, around.end());
        return static_cast<int>(std::lround(around[3]));
    };
    const double begin = lap.map.time_at(slowest_m), end = lap.map.time_at(end_m);
    const int here = at(begin);
    if (here <= 0) return out;
    out.at_slowest = here;
    for (double t = begin; t < end; t += 2 * shape_grid_s) {
        // Most of the time nothing happens: then one look is enough.
        if (gear->value_at(t) == here || at(t) <= here) continue;
        out.shift_up_m = lap.map.distance_at(t);
        break;
    }
    return out;
}

}  // namespace rendak
