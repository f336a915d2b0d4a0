#include "core/analysis/corner_events.h"

#include <cmath>

namespace rendak {
namespace {

constexpr double search_m = 1;

std::optional<double> turn_in(const PreparedLap& lap, const DriverActivity& driver, const Corner& corner,
                              double from_m) {
    constexpr double share = 0.3;
    const double sign = corner.left ? 1 : -1;
    const AlongLap lateral = lap.along("lateral_acceleration");
    const auto into = [&](double s) { return sign * lateral(s); };
    double peak = 0, peak_at = 0;
    for (double s = corner.start_m; s <= corner.end_m; s += 2 * search_m) {
        if (!(into(s) > peak)) continue;
        peak = into(s);
        peak_at = s;
    }
    // Less is the shape of the road, not steering.
    if (!driver.cornering(lap.map.time_at(peak_at))) return std::nullopt;
    for (double s = peak_at; s > from_m; s -= search_m) {
        if (into(s) < share * peak) return s;
    }
    return std::nullopt;
}

/// The slowest place of a corner. On the way out of a slow corner the stretch begins slower than the next one will be:
/// then it is the slowest place behind where speed first falls, or in the corner itself where it never does. What is
/// done for the corner before is no part of this one: `from_m`.
struct SlowestPoint {
    double at_m = 0, from_m = 0;
};
std::optional<SlowestPoint> slowest_in(const PreparedLap& lap, const Corner& corner, double begin_m, double end_m) {
    constexpr double falls_mps = 0.7, at_begin_m = 3;
    const RangeFigures all = figures_in_range(lap, "speed", {begin_m, end_m});
    if (std::isnan(all.low)) return std::nullopt;
    if (all.low_at_m > begin_m + at_begin_m || begin_m >= corner.start_m) return SlowestPoint{all.low_at_m, begin_m};
    double highest = all.low, highest_at_m = begin_m;
    const AlongLap speed_at = lap.along("speed");
    for (double s = begin_m; s < corner.end_m; s += 2 * search_m) {
        const double speed = speed_at(s);
        if (!std::isfinite(speed)) continue;
        if (speed > highest) {
            highest = speed;
            highest_at_m = s;
        }
        if (speed < highest - falls_mps)
            return SlowestPoint{figures_in_range(lap, "speed", {s, end_m}).low_at_m, highest_at_m};
    }
    const double at_m = figures_in_range(lap, "speed", {corner.start_m, corner.end_m}).low_at_m;
    return SlowestPoint{at_m, std::min(corner.start_m, at_m)};
}

/// Whether the end of a stretch is driven clearly slower than its fastest place.
bool slower_by_a_tenth(const PreparedLap& lap, Interval range_m) {
    const double fastest = figures_in_range(lap, "speed", range_m).high;
    return lap.value_at("speed", range_m.end) < 0.9 * fastest;
}

/// How the throttle is left before a corner's slowest place and is full again behind it. A throttle that is full there
/// came back before, or was never left. One that was left before the stretch is looked for back to `earliest_m`.
struct Lift {
    std::optional<double> lift_m, full_again_m;
    bool flat = false;  ///< full all the way
};
Lift lift_in(const PreparedLap& lap, const DriverActivity& pedals, double earliest_m, double begin_m, double slowest_m,
             double end_m) {
    const auto full = [&](double s) { return pedals.full_throttle(lap.map.time_at(s)); };
    Lift out;
    double s = slowest_m;
    while (s > begin_m && full(s)) s -= search_m;
    if (s < slowest_m) {
        if (s <= begin_m) {
            out.flat = true;
            return out;
        }
        out.full_again_m = s + search_m;
    }
    while (s > earliest_m && !full(s)) s -= search_m;
    if (s > earliest_m) out.lift_m = s;
    for (s = slowest_m; s < end_m && !out.full_again_m; s += search_m) {
        if (full(s) && pedals.full_throttle(lap.map.time_at(s) + 0.15)) out.full_again_m = s;
    }
    return out;
}

/// Where the braking that is on at the end of a stretch began in it.
std::optional<double> began_before(const PreparedLap& lap, const DriverActivity& pedals, Interval range_m) {
    for (double s = range_m.end; s > range_m.begin; s -= search_m) {
        if (!pedals.braking(lap.map.time_at(s - search_m))) return s;
    }
    return std::nullopt;
}

/// Where the braking that begins with a stretch ends: the last of it before half a second without, behind the slowest
/// place. One that goes on into the next corner ends nowhere here.
std::optional<double> brake_off_in(const PreparedLap& lap, const DriverActivity& pedals, Interval range_m,
                                   double slowest_m) {
    constexpr double pause_s = 0.5;
    double last = range_m.begin;
    for (double s = range_m.begin; s < range_m.end; s += search_m) {
        const double t = lap.map.time_at(s);
        if (pedals.braking(t))
            last = s;
        else if (s > slowest_m && t - lap.map.time_at(last) > pause_s)
            return last;
    }
    return range_m.end - last > 2 * search_m ? std::optional(last) : std::nullopt;
}

}  // namespace

std::optional<double> brake_on_in(const PreparedLap& lap, const DriverActivity& pedals, Interval range_m) {
    constexpr double least_s = 0.12;
    for (double s = range_m.begin; s < range_m.end; s += search_m) {
        const double t = lap.map.time_at(s);
        if (!pedals.braking(t)) continue;
        if (pedals.braking(t + least_s / 2) && pedals.braking(t + least_s)) return s;
    }
    return std::nullopt;
}

std::optional<double> throttle_on_in(const PreparedLap& lap, const DriverActivity& pedals, Interval range_m) {
    for (double s = range_m.begin; s < range_m.end; s += search_m) {
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

double slows_from(const CornerEvents& events, const Corner& corner) {
    double out = corner.start_m;
    for (const auto& place : {events.lift_m, events.brake_on_m}) {
        if (place) out = std::min(out, *place);
    }
    return std::max(0.0, out);
}

std::vector<CornerEvents> corner_events(const PreparedLap& lap) {
    const DriverActivity pedals = lap.activity();
    const auto& corners = lap.track->corners;
    std::vector<CornerEvents> out;
    for (std::size_t k = 0; k < corners.size(); ++k) {
        const Corner& corner = corners[k];
        const double begin = k == 0 ? 0 : 0.5 * (corners[k - 1].apex_m + corner.apex_m);
        const double earliest = k == 0 ? 0 : corners[k - 1].apex_m;
        const double end = k + 1 == corners.size() ? lap.map.length_m() : 0.5 * (corner.apex_m + corners[k + 1].apex_m);
        CornerEvents events;
        events.corner = corner.number;
        events.inferred = pedals.inferred();
        events.turn_in_m = turn_in(lap, pedals, corner, begin);
        if (const auto slowest = slowest_in(lap, corner, begin, end)) {
            const double from = slowest->from_m, at = slowest->at_m;
            events.slowest_m = at;
            if (pedals.known()) {
                events.brake_on_m = brake_on_in(lap, pedals, {from, at});
                // Braking that was on already began before: where is looked for up to the apex before. Before the line,
                // or through that apex, it cannot be told.
                if (events.brake_on_m && *events.brake_on_m <= from)
                    events.brake_on_m = began_before(lap, pedals, {earliest, from});
                const Lift lift = lift_in(lap, pedals, earliest, from, at, end);
                events.lift_m = lift.lift_m;
                events.full_throttle_m = lift.full_again_m;
                // Who never left the throttle is not back on it.
                if (!lift.flat) events.throttle_on_m = throttle_on_in(lap, pedals, {at, end});
                if (events.brake_on_m) events.brake_off_m = brake_off_in(lap, pedals, {*events.brake_on_m, end}, at);
            }
        }
        events.slows = events.lift_m || events.brake_on_m ||
                       (events.slowest_m && slower_by_a_tenth(lap, {earliest, *events.slowest_m}));
        out.push_back(events);
    }
    return out;
}

}  // namespace rendak
