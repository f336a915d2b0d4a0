#include "core/analysis/pull.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/corner_events.h"
#include "core/units/gravity.h"

namespace rendak {
namespace {

constexpr double bin_mps = 2, half_s = 0.4;

/// Stretches of a lap in which it is on full throttle: by the pedal; without one, from where it gains speed for good to
/// the fastest place before the next corner slows it down.
std::vector<Interval> full_stretches(const PreparedLap& lap, const DriverActivity& driver) {
    constexpr double least_s = 1.2;
    std::vector<Interval> out;
    const auto add = [&](Interval time_s) {
        // A pedal takes a while until it pulls, and the end is already the next thing.
        time_s = {time_s.begin + half_s, time_s.end - half_s};
        if (time_s.length() > least_s) out.push_back(time_s);
    };
    const double step = 0.05, end = lap.map.end_s();
    if (!driver.inferred()) {
        std::optional<double> since;
        for (double t = lap.map.start_s(); t <= end; t += step) {
            const bool full = driver.full_throttle(t) && !driver.braking(t);
            if (full && !since) since = t;
            if (!full && since) {
                add({*since, t});
                since.reset();
            }
        }
        if (since) add({*since, end});
        return out;
    }
    const auto events = corner_events(lap);
    for (std::size_t k = 0; k < events.size(); ++k) {
        const auto from = events[k].full_throttle_m ? events[k].full_throttle_m : events[k].throttle_on_m;
        if (!from) continue;
        const double next = k + 1 < events.size() ? lap.track->corners[k + 1].apex_m : lap.map.length_m();
        const RangeFigures speed = figures_in_range(lap, "speed", {*from, std::max(*from, next)});
        if (!std::isnan(speed.high)) add({lap.map.time_at(*from), lap.map.time_at(speed.high_at_m)});
    }
    return out;
}

}  // namespace

double PullCurve::at(double speed) const {
    const auto after = std::upper_bound(speed_mps.begin(), speed_mps.end(), speed);
    // Beyond what was driven it goes on as in the last piece.
    const auto i = static_cast<std::size_t>(
        std::clamp<std::ptrdiff_t>(after - speed_mps.begin(), 1, static_cast<std::ptrdiff_t>(speed_mps.size()) - 1));
    const double share = (speed - speed_mps[i - 1]) / (speed_mps[i] - speed_mps[i - 1]);
    return along_mps2[i - 1] + share * (along_mps2[i] - along_mps2[i - 1]);
}

PullCurve pull_curve(std::span<const PreparedLap> laps) {
    constexpr double cornering_mps2 = 3;
    constexpr std::size_t least_in_bin = 8;
    PullCurve out;
    std::vector<std::vector<double>> bins;
    for (const PreparedLap& lap : laps) {
        const Channel* speed = lap.recording->find("speed");
        if (speed == nullptr) continue;
        const DriverActivity driver = lap.activity();
        if (!driver.known()) continue;
        out.inferred = out.inferred || driver.inferred();
        const Channel* lateral = lap.recording->find("lateral_acceleration");
        for (const Interval stretch : full_stretches(lap, driver)) {
            for (double t = stretch.begin; t <= stretch.end; t += 0.05) {
                const double v = speed->value_at(t), before = speed->value_at(t - half_s),
                             after = speed->value_at(t + half_s);
                if (!std::isfinite(v + before + after) || v < 5) continue;
                // In a bend the tyres' drag is in it.
                if (lateral != nullptr && std::abs(lateral->value_at(t)) > cornering_mps2) continue;
                double gained = (after - before) / (2 * half_s);
                if (!lap.track->height.value.empty()) {
                    const double s = lap.map.distance_at(t);
                    const auto height = [&](double at) {
                        return lap.track->value_at(lap.track->height.value,
                                                   std::clamp(at, 0.0, lap.track->length_m - 0.01));
                    };
                    const double climb = (height(s + 10) - height(s - 10)) / 20;
                    if (std::isfinite(climb) && s > 10 && s < lap.track->length_m - 10)
                        gained += standard_gravity_mps2 * climb;
                }
                const auto bin = static_cast<std::size_t>(v / bin_mps);
                if (bin >= bins.size()) bins.resize(bin + 1);
                bins[bin].push_back(gained);
                ++out.samples;
            }
        }
    }
    // Middle of each bin, then the nearest values that fall: neighbours that rise are pooled.
    struct Pool {
        double value, weight;
        std::size_t bins;
    };
    std::vector<Pool> pools;
    std::vector<double> places;
    for (std::size_t b = 0; b < bins.size(); ++b) {
        auto& values = bins[b];
        if (values.size() < least_in_bin) continue;
        const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
        std::nth_element(values.begin(), middle, values.end());
        places.push_back((static_cast<double>(b) + 0.5) * bin_mps);
        pools.push_back({*middle, static_cast<double>(values.size()), 1});
        while (pools.size() > 1 && pools[pools.size() - 2].value < pools.back().value) {
            const Pool last = pools.back();
            pools.pop_back();
            Pool& into = pools.back();
            into.value = (into.value * into.weight + last.value * last.weight) / (into.weight + last.weight);
            into.weight += last.weight;
            into.bins += last.bins;
        }
    }
    if (places.size() < 4) return out;
    out.speed_mps = places;
    for (const Pool& pool : pools) out.along_mps2.insert(out.along_mps2.end(), pool.bins, pool.value);
    return out;
}

Carried::Carried(const LapProfile& baseline, const PullCurve& pull, double from_m, double faster_mps, double to_m)
    : from_m_(from_m), lost_s_{0}, faster_mps_{faster_mps} {
    const auto squared = [&](double at) { return baseline.speed_at(at) * baseline.speed_at(at); };
    const double begin = std::max(1.0, baseline.speed_at(from_m) + faster_mps);
    double squared_here = begin * begin;
    for (double s = from_m; s < to_m - 1e-9; s += LapProfile::step_m) {
        const double v = std::sqrt(squared_here);
        lost_s_.push_back(lost_s_.back() + LapProfile::step_m * (1 / v - 1 / std::max(1.0, baseline.speed_at(s))));
        squared_here += squared(s + LapProfile::step_m) - squared(s) +
                        2 * LapProfile::step_m * (pull.at(v) - pull.at(baseline.speed_at(s)));
        squared_here = std::max(1.0, squared_here);
        faster_mps_.push_back(std::sqrt(squared_here) - baseline.speed_at(s + LapProfile::step_m));
    }
}

double Carried::at(const std::vector<double>& values, double place_m) const {
    const double place =
        std::clamp((place_m - from_m_) / LapProfile::step_m, 0.0, static_cast<double>(values.size() - 1));
    const auto i = std::min(static_cast<std::size_t>(place), values.size() - 1);
    if (i + 1 == values.size()) return values.back();
    return values[i] + (place - static_cast<double>(i)) * (values[i + 1] - values[i]);
}

Meeting meeting_of(const LapProfile& baseline, const PullCurve& pull, double from_m, double faster_mps) {
    Meeting out{0, from_m};
    if (faster_mps >= 0) return out;
    const double begin = std::max(1.0, baseline.speed_at(from_m) + faster_mps);
    double squared_here = begin * begin;
    for (double s = from_m; s < baseline.length_m - LapProfile::step_m; s += LapProfile::step_m) {
        const double v = std::sqrt(squared_here), v_base = baseline.speed_at(s);
        if (v >= v_base) break;
        out.lost_s += LapProfile::step_m * (1 / v - 1 / v_base);
        squared_here = std::max(1.0, squared_here + 2 * LapProfile::step_m * pull.at(v));
        out.at_m = s + LapProfile::step_m;
    }
    return out;
}

}  // namespace rendak
