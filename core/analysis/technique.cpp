#include "core/analysis/technique.h"

#include <algorithm>
#include <cmath>

namespace rendak {
namespace {

constexpr double grid_s = 0.02;

/// Mean of the along acceleration over 0.2 s; NaN where it is not known.
double along_at(const Channel* along, double t_s) {
    if (along == nullptr) return std::nan("");
    double sum = 0;
    for (const double by : {-0.1, -0.05, 0.0, 0.05, 0.1}) sum += along->value_at(t_s + by);
    return sum / 5;
}

/// Only the brush of a brake: for up to 0.7 s, at less than 40 % of the lap's hardest slowing-down, let go by the place
/// of turning in, before a corner that lasts two seconds and more. Without a pedal it is not told apart from an engine
/// that brakes.
void tell_brushes(const PreparedLap& lap, const Channel* along, std::vector<Technique>& all) {
    constexpr double most_s = 0.7, most_share = 0.4, least_corner_s = 2, coarse_s = 0.1;
    std::optional<double> hardest;
    for (std::size_t k = 0; k < all.size(); ++k) {
        Technique& it = all[k];
        const Corner& corner = lap.track->corners[k];
        if (it.inferred || !it.brake_on_m || !it.brake_off_m || !it.turn_in_m || !it.slowest_mps) continue;
        const bool is_long = corner.end_m - corner.start_m >= least_corner_s * *it.slowest_mps;
        if (!is_long || it.brake_s > most_s || !it.brake_peak_mps2 || *it.brake_off_m > *it.turn_in_m + lap.trust_m)
            continue;
        if (!hardest) {
            hardest = 0;
            for (double t = lap.map.time_s.front(); t < lap.map.time_s.back(); t += coarse_s)
                hardest = std::fmax(*hardest, -along_at(along, t));
        }
        it.brushed = *it.brake_peak_mps2 < most_share * *hardest;
    }
}

}  // namespace

std::optional<double> full_from(const PreparedLap& lap, const DriverActivity& driver, double slowest_m, double end_m) {
    constexpr double shift_s = 0.35, grid_m = 1;
    if (!(end_m > slowest_m)) return std::nullopt;
    const RangeFigures speed = figures_in_range(lap, "speed", {slowest_m, end_m});
    if (std::isnan(speed.high)) return std::nullopt;
    if (driver.inferred()) {
        // Back from the fastest place to the last one behind which speed only rises; a sensor's noise is no fall.
        constexpr double falls_mps = 0.4;
        double lowest = speed.high, at_m = speed.high_at_m;
        const AlongLap speed_at = lap.along("speed");
        for (double s = speed.high_at_m; s > slowest_m; s -= grid_m) {
            const double here = speed_at(s);
            if (!std::isfinite(here)) continue;
            if (here > lowest + falls_mps) break;
            if (here < lowest) {
                lowest = here;
                at_m = s;
            }
        }
        return at_m;
    }
    const auto full = [&](double s) {
        const double t = lap.map.time_at(s);
        return driver.full_throttle(t) && !driver.braking(t);
    };
    double s = end_m;
    while (s > slowest_m && !full(s)) s -= grid_m;
    if (s <= slowest_m) return std::nullopt;
    double first = s;
    for (; s > slowest_m; s -= grid_m) {
        if (full(s))
            first = s;
        else if (lap.map.time_at(first) - lap.map.time_at(s) > shift_s || driver.braking(lap.map.time_at(s)))
            break;
    }
    return first;
}

std::vector<Technique> technique_of(const PreparedLap& lap) {
    const DriverActivity driver = lap.activity();
    const Channel* along = lap.recording->find("longitudinal_acceleration");
    const auto events = corner_events(lap);
    const auto& corners = lap.track->corners;
    std::vector<Technique> out;
    for (std::size_t k = 0; k < events.size(); ++k) {
        const CornerEvents& it = events[k];
        Technique here;
        here.corner = it.corner;
        here.inferred = it.inferred;
        here.lift_m = it.lift_m;
        here.brake_on_m = it.brake_on_m;
        here.brake_off_m = it.brake_off_m;
        here.turn_in_m = it.turn_in_m;
        here.slowest_m = it.slowest_m;
        here.throttle_on_m = it.throttle_on_m;
        here.full_throttle_m = it.full_throttle_m;
        if (!it.slowest_m) {
            out.push_back(here);
            continue;
        }
        const double slowest = *it.slowest_m;
        here.slowest_mps = lap.value_at("speed", slowest);
        const double end =
            k + 1 < corners.size() ? 0.5 * (corners[k].apex_m + corners[k + 1].apex_m) : lap.map.length_m();
        const auto next = [&] {
            if (k + 1 == events.size()) return lap.map.length_m();
            const CornerEvents& behind = events[k + 1];
            double place = corners[k + 1].apex_m;
            for (const auto& slows : {behind.lift_m, behind.brake_on_m}) {
                if (slows) place = std::min(place, *slows);
            }
            return place;
        };
        if (driver.known()) here.full_for_good_m = full_from(lap, driver, slowest, std::max(slowest, next()));
        if (it.full_throttle_m && here.full_for_good_m && !it.inferred) {
            for (double s = *it.full_throttle_m; s < *here.full_for_good_m; s += 1) {
                const double t = lap.map.time_at(s);
                constexpr double shift_s = 0.35;
                if (s < slowest || driver.full_throttle(t) || driver.full_throttle(t + shift_s)) continue;
                if (!here.second_lift_m) here.second_lift_m = s;
                const double value = driver.throttle(t);
                if (std::isfinite(value)) here.least_behind = std::min(here.least_behind, value);
            }
        }
        // From the first thing that is done for this corner to the throttle.
        const double from = std::min({it.lift_m.value_or(slowest), it.brake_on_m.value_or(slowest), slowest});
        const double off = std::max(it.brake_off_m.value_or(from), from);
        const double t_end = lap.map.time_at(end);
        for (double t = lap.map.time_at(off) + grid_s; t < t_end && driver.known(); t += grid_s) {
            if (!driver.on_throttle(t) || !driver.on_throttle(t + 0.1)) continue;
            if (it.lift_m && !it.brake_on_m && t < lap.map.time_at(slowest) && driver.full_throttle(t)) continue;
            here.throttle_touch_m = lap.map.distance_at(t);
            break;
        }
        const double touch_t = lap.map.time_at(std::max(slowest, here.throttle_touch_m.value_or(slowest)));
        for (double t = lap.map.time_at(from); t < touch_t && driver.known(); t += grid_s) {
            const bool braking = driver.braking(t);
            here.brake_s += braking ? grid_s : 0;
            here.trail_s += braking && it.turn_in_m && t > lap.map.time_at(*it.turn_in_m) ? grid_s : 0;
            here.coasting_s += driver.off_pedals(t) ? grid_s : 0;
        }
        if (it.brake_on_m) {
            const double begin_t = lap.map.time_at(*it.brake_on_m),
                         stop_t = lap.map.time_at(std::max(slowest, it.brake_off_m.value_or(slowest)));
            double peak = 0;
            for (double t = begin_t; t <= stop_t; t += grid_s) {
                const double slowing = -along_at(along, t);
                if (!(slowing > peak)) continue;
                peak = slowing;
                here.brake_peak_m = lap.map.distance_at(t);
            }
            if (peak > 0) {
                here.brake_peak_mps2 = peak;
                for (double t = begin_t; t <= stop_t; t += grid_s) {
                    if (!(-along_at(along, t) >= 0.9 * peak)) continue;
                    here.brake_rise_s = t - begin_t;
                    break;
                }
            }
        }
        for (double s = std::max(0.0, std::min(from, corners[k].start_m)); s < std::min(end, corners[k].end_m);
             s += 2) {
            const double value = driver.throttle(lap.map.time_at(s));
            if (std::isfinite(value)) here.least_throttle = std::min(here.least_throttle, value);
        }
        if (it.brake_on_m) {
            const double stop = std::max(slowest, it.brake_off_m.value_or(slowest));
            here.brake =
                brake_shape(lap, driver, {*it.brake_on_m, it.brake_off_m.value_or(stop)}, it.turn_in_m, slowest);
            if (it.lift_m && *it.lift_m <= *it.brake_on_m)
                here.lift_to_brake_s = lap.map.time_at(*it.brake_on_m) - lap.map.time_at(*it.lift_m);
        }
        const bool left = corners[k].left;
        const Interval turning{std::min(it.turn_in_m.value_or(corners[k].start_m), slowest),
                               std::max(slowest, std::min(end, corners[k].end_m))};
        here.steering = steering_shape(lap, driver, left, turning);
        here.arc = arc_shape(lap, left, {std::max(0.0, turning.begin - 20), std::min(end, turning.end + 20)});
        here.gears = gear_use(lap, slowest, std::max(slowest, next()));
        const std::optional<double> full = it.full_throttle_m ? it.full_throttle_m : here.full_for_good_m;
        if (here.throttle_touch_m && full)
            here.throttle = throttle_shape(lap, driver, {std::max(slowest, *here.throttle_touch_m), *full + 2});
        const std::optional<double> slows = it.lift_m ? it.lift_m : it.brake_on_m;
        if (!out.empty() && out.back().full_for_good_m && slows && *slows > *out.back().full_for_good_m)
            here.full_before_m = *slows - *out.back().full_for_good_m;
        out.push_back(here);
    }
    tell_brushes(lap, along, out);
    return out;
}

}  // namespace rendak
