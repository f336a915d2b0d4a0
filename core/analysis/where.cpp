#include "core/analysis/where.h"

#include <cmath>

#include "core/analysis/corner_events.h"
#include "core/analysis/phases.h"

namespace rendak {
namespace {

constexpr double grid_m = 1;

struct Slowest {
    double speed_mps, at_m;
};
std::optional<Slowest> slowest(const PreparedLap& lap, Interval range_m) {
    const RangeFigures speed = figures_in_range(lap, "speed", range_m);
    if (std::isnan(speed.low)) return std::nullopt;
    return Slowest{speed.low, speed.low_at_m};
}

double time_while(const PreparedLap& lap, const DriverActivity& pedals, bool (DriverActivity::*flag)(double) const,
                  Interval range_m) {
    constexpr double step_s = 0.02;
    double total = 0;
    const double end = lap.map.time_at(range_m.end);
    for (double t = lap.map.time_at(range_m.begin); t < end; t += step_s) total += (pedals.*flag)(t) ? step_s : 0;
    return total;
}

/// Least throttle in the part of the zone where `flat` says the baseline is on full throttle.
struct Throttle {
    double least = 1;
    bool always_flat = true;
};
Throttle throttle_in(const PreparedLap& lap, const DriverActivity& pedals, Interval range_m) {
    Throttle out;
    bool known = false;  // who logs no throttle is not flat
    for (double s = range_m.begin; s < range_m.end; s += grid_m) {
        const double value = pedals.throttle(lap.map.time_at(s));
        if (std::isnan(value)) continue;
        known = true;
        out.least = std::min(out.least, value);
    }
    out.always_flat = known && out.least > 0.9;
    return out;
}

}  // namespace

std::vector<Zone> corner_zones(const PreparedLap& baseline) {
    const Track& track = *baseline.track;
    std::vector<Zone> zones;
    double begin = 0;
    for (std::size_t k = 0; k < track.corners.size(); ++k) {
        double end = track.length_m;
        if (k + 1 < track.corners.size()) {
            // A corner taken flat is fastest inside: its zone still begins some way before it.
            constexpr double approach_m = 50;
            const Corner& here = track.corners[k];
            const Corner& next = track.corners[k + 1];
            const double latest = std::max(next.start_m - approach_m, 0.5 * (here.apex_m + next.apex_m));
            const RangeFigures speed = figures_in_range(baseline, "speed", {here.apex_m, latest});
            end = std::isnan(speed.high) ? latest : speed.high_at_m;
        }
        zones.push_back({track.corners[k], {begin, end}});
        begin = end;
    }
    return zones;
}

std::vector<ZoneDifference> differences_by_zone(const PreparedLap& baseline, const PreparedLap& lap,
                                                const GapCurve& gap) {
    const DriverActivity a = baseline.activity(), b = lap.activity();
    std::vector<ZoneDifference> out;
    const auto near = [](double metres) { return std::abs(metres) < 80; };  // further apart is not the same event
    double apex_before = 0;
    for (const Zone& zone : corner_zones(baseline)) {
        ZoneDifference difference;
        difference.zone = zone;
        difference.loss_s = gap.at(zone.range_m.end) - gap.at(zone.range_m.begin);
        difference.inferred = a.inferred() || b.inferred();
        // The driver who brakes early may do so before the baseline's fastest place.
        Interval early = zone.range_m;
        early.begin = std::max(apex_before, early.begin - 60);
        apex_before = zone.corner.apex_m;
        if (a.known() && b.known()) {
            const auto brake_a = brake_on_in(baseline, a, zone.range_m), brake_b = brake_on_in(lap, b, early);
            if (brake_a && brake_b && near(*brake_b - *brake_a)) difference.brake_on_m = *brake_b - *brake_a;
            difference.brakes_only_here = !brake_a && brake_b.has_value() && *brake_b > zone.range_m.begin;
            const auto longer = [&](bool (DriverActivity::*flag)(double) const) {
                return time_while(lap, b, flag, zone.range_m) - time_while(baseline, a, flag, zone.range_m);
            };
            difference.coasting_s = longer(&DriverActivity::coasting);
            difference.off_pedals_s = longer(&DriverActivity::off_pedals);
        }
        const auto slowest_a = slowest(baseline, zone.range_m), slowest_b = slowest(lap, zone.range_m);
        if (slowest_a && slowest_b) {
            difference.slowest_mps = slowest_b->speed_mps - slowest_a->speed_mps;
            difference.slowest_at_m = slowest_b->at_m;
            const auto on_a = throttle_on_in(baseline, a, {slowest_a->at_m, zone.range_m.end});
            const auto on_b = throttle_on_in(lap, b, {slowest_b->at_m, zone.range_m.end});
            if (on_a && on_b && near(*on_b - *on_a)) difference.throttle_on_m = *on_b - *on_a;
        }
        const Throttle throttle_a = throttle_in(baseline, a, zone.range_m),
                       throttle_b = throttle_in(lap, b, zone.range_m);
        if (throttle_a.always_flat && throttle_b.least < throttle_a.least - 0.1) {
            difference.throttle_lift = throttle_a.least - throttle_b.least;
        }
        const double exit_a = baseline.value_at("speed", zone.range_m.end),
                     exit_b = lap.value_at("speed", zone.range_m.end);
        if (std::isfinite(exit_a) && std::isfinite(exit_b)) difference.exit_mps = exit_b - exit_a;
        out.push_back(difference);
    }
    return out;
}

}  // namespace rendak
