#include "core/analysis/corner_events.h"

#include <cmath>

namespace rendak {
namespace {

constexpr double grid_m = 1;

std::optional<double> turn_in(const PreparedLap& lap, const DriverActivity& driver, const Corner& corner,
                              double from_m) {
    constexpr double share = 0.3;
    const double sign = corner.left ? 1 : -1;
    const auto into = [&](double s) { return sign * lap.value_at("lateral_acceleration", s); };
    double peak = 0, peak_at = 0;
    for (double s = corner.start_m; s <= corner.end_m; s += 2 * grid_m) {
        if (!(into(s) > peak)) continue;
        peak = into(s);
        peak_at = s;
    }
    // Less is the shape of the road, not steering.
    if (!driver.cornering(lap.map.time_at(peak_at))) return std::nullopt;
    for (double s = peak_at; s > from_m; s -= grid_m) {
        if (into(s) < share * peak) return s;
    }
    return std::nullopt;
}

/// How the throttle is left before a corner's slowest place and is full again behind it. A throttle that is full there
/// came back before, or was never left.
struct Lift {
    std::optional<double> lift_m, full_again_m;
    bool flat = false;  ///< full all the way
};
Lift lift_in(const PreparedLap& lap, const DriverActivity& pedals, double begin_m, double slowest_m, double end_m) {
    const auto full = [&](double s) { return pedals.full_throttle(lap.map.time_at(s)); };
    Lift out;
    double s = slowest_m;
    while (s > begin_m && full(s)) s -= grid_m;
    if (s < slowest_m) {
        if (s <= begin_m) {
            out.flat = true;
            return out;
        }
        out.full_again_m = s + grid_m;
    }
    while (s > begin_m && !full(s)) s -= grid_m;
    if (s > begin_m) out.lift_m = s;
    for (s = slowest_m; s < end_m && !out.full_again_m; s += grid_m) {
        if (full(s) && pedals.full_throttle(lap.map.time_at(s) + 0.15)) out.full_again_m = s;
    }
    return out;
}

/// Where the braking that is on at the end of a stretch began in it.
std::optional<double> began_before(const PreparedLap& lap, const DriverActivity& pedals, Interval range_m) {
    for (double s = range_m.end; s > range_m.begin; s -= grid_m) {
        if (!pedals.braking(lap.map.time_at(s - grid_m))) return s;
    }
    return std::nullopt;
}

/// Where the braking that begins with a stretch ends: the last of it before half a second without, behind the slowest
/// place. One that goes on into the next corner ends nowhere here.
std::optional<double> brake_off_in(const PreparedLap& lap, const DriverActivity& pedals, Interval range_m,
                                   double slowest_m) {
    constexpr double pause_s = 0.5;
    double last = range_m.begin;
    for (double s = range_m.begin; s < range_m.end; s += grid_m) {
        const double t = lap.map.time_at(s);
        if (pedals.braking(t))
            last = s;
        else if (s > slowest_m && t - lap.map.time_at(last) > pause_s)
            return last;
    }
    return range_m.end - last > 2 * grid_m ? std::optional(last) : std::nullopt;
}

}  // namespace

std::optional<double> brake_on_in(const PreparedLap& lap, const DriverActivity& pedals, Interval range_m) {
    constexpr double least_s = 0.12;
    for (double s = range_m.begin; s < range_m.end; s += grid_m) {
        const double t = lap.map.time_at(s);
        if (!pedals.braking(t)) continue;
        if (pedals.braking(t + least_s / 2) && pedals.braking(t + least_s)) return s;
    }
    return std::nullopt;
}

std::optional<double> throttle_on_in(const PreparedLap& lap, const DriverActivity& pedals, Interval range_m) {
    for (double s = range_m.begin; s < range_m.end; s += grid_m) {
        const double t = lap.map.time_at(s);
        // Half the pedal; where it is not logged, the car gains speed.
        const auto on = [&](double at) {
            const double travel = pedals.throttle(at);
            return std::isfinite(travel) ? travel > 0.5 : pedals.on_throttle(at);
        };
        if (on(t) && on(t + 0.15)) return s;
    }
    return std::nullopt;
}

std::vector<CornerEvents> corner_events(const PreparedLap& lap) {
    const DriverActivity pedals = lap.activity();
    const auto& corners = lap.track->corners;
    std::vector<CornerEvents> out;
    for (std::size_t k = 0; k < corners.size(); ++k) {
        const Corner& corner = corners[k];
        const double begin = k == 0 ? 0 : 0.5 * (corners[k - 1].apex_m + corner.apex_m);
        const double end = k + 1 == corners.size() ? lap.map.length_m() : 0.5 * (corner.apex_m + corners[k + 1].apex_m);
        CornerEvents events;
        events.corner = corner.number;
        events.inferred = pedals.inferred();
        events.turn_in_m = turn_in(lap, pedals, corner, begin);
        const RangeFigures speed = figures_in_range(lap, "speed", {begin, end});
        if (!std::isnan(speed.low)) {
            events.slowest_m = speed.low_at_m;
            if (pedals.known()) {
                events.brake_on_m = brake_on_in(lap, pedals, {begin, speed.low_at_m});
                // Braking that was on already began before: where is looked for up to the apex before. Before the line,
                // or through that apex, it cannot be told.
                if (events.brake_on_m && *events.brake_on_m <= begin)
                    events.brake_on_m = began_before(lap, pedals, {k == 0 ? 0 : corners[k - 1].apex_m, begin});
                const Lift lift = lift_in(lap, pedals, begin, speed.low_at_m, end);
                events.lift_m = lift.lift_m;
                events.full_throttle_m = lift.full_again_m;
                // Who never left the throttle is not back on it.
                if (!lift.flat) events.throttle_on_m = throttle_on_in(lap, pedals, {speed.low_at_m, end});
                if (events.brake_on_m)
                    events.brake_off_m = brake_off_in(lap, pedals, {*events.brake_on_m, end}, speed.low_at_m);
            }
        }
        out.push_back(events);
    }
    return out;
}

}  // namespace rendak
