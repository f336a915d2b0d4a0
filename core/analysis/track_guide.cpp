#include "core/analysis/track_guide.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/analysis/work_list.h"
#include "core/units/gravity.h"

namespace rendak {
namespace {

/// Rise between two places; empty where it is not known to a quarter of a metre, or to half of what it is.
std::optional<double> rise(const Track& track, double from_m, double to_m) {
    constexpr double least_known_m = 0.25;
    if (track.height.value.empty()) return std::nullopt;
    const auto at = [&](const std::vector<double>& values, double s) {
        return track.value_at(values, track.open ? std::clamp(s, 0.0, track.length_m) : track.wrapped(s));
    };
    const double out = at(track.height.value, to_m) - at(track.height.value, from_m);
    const double sd = std::hypot(at(track.height.sd, to_m), at(track.height.sd, from_m));
    if (!std::isfinite(out) || (std::isfinite(sd) && sd > std::max(least_known_m, 0.5 * std::abs(out))))
        return std::nullopt;
    return out;
}

std::optional<Lean> lean_over(const Track& track, Interval range_m, bool left) {
    double sum = 0, sd = 0, count = 0;
    for (double s = range_m.begin; s <= range_m.end; s += track.step_m()) {
        const double place = track.open ? std::clamp(s, 0.0, track.length_m) : track.wrapped(s);
        const double here = track.banking.value.empty() ? std::nan("") : track.value_at(track.banking.value, place);
        if (!std::isfinite(here)) continue;
        sum += here;
        sd += track.value_at(track.banking.sd, place);
        ++count;
    }
    // Half of it at least.
    if (count * track.step_m() < 0.5 * range_m.length() || count == 0) return std::nullopt;
    return Lean{(left ? -1 : 1) * sum / count, sd / count};
}

GuideCorner::Shape shape_of(const Track& track, const Corner& corner) {
    constexpr double clearly = 1.35;
    const double half = (corner.end_m - corner.start_m) / 2;
    double first = 0, second = 0;
    for (double s = 0; s < half; s += track.step_m()) {
        first += std::abs(track.curvature_at(corner.start_m + s));
        second += std::abs(track.curvature_at(corner.end_m - s));
    }
    if (second > clearly * first) return GuideCorner::Shape::closes;
    return first > clearly * second ? GuideCorner::Shape::opens : GuideCorner::Shape::even;
}

std::optional<int> gear_at(const PreparedLap& lap, double distance_m) {
    const double gear = lap.value_at("gear", distance_m);
    return std::isfinite(gear) && gear >= 1 ? std::optional(static_cast<int>(std::lround(gear))) : std::nullopt;
}

/// Where the road takes the most load off the car, when it is over a twelfth of it and clear of the height's error.
void find_crest(const PreparedLap& lap, const LapMotion& motion, GuideCorner& out) {
    constexpr double least_share = 0.08, reach_m = 40;
    double most = least_share;
    for (std::size_t i = motion.cell(out.range_m.begin); i <= motion.cell(out.range_m.end); ++i) {
        const double v = motion.speed_mps[i], lighter = -motion.crest[i] * v * v / standard_gravity_mps2;
        if (!(lighter > most)) continue;
        const double sd = lap.track->value_at(lap.track->height.sd, motion.place_m(i));
        if (std::isfinite(sd) &&
            lighter < 2 * sd * std::sqrt(6.0) / (reach_m * reach_m) * v * v / standard_gravity_mps2)
            continue;
        most = lighter;
        out.crest_m = motion.place_m(i);
        out.crest_share = lighter;
    }
}

/// Seconds that 1 % more speed brings, which takes 2 % more grip anywhere.
struct PerCent {
    double through_s = 0, exit_s = 0;
    [[nodiscard]] double most() const { return std::max(through_s, exit_s); }
};
std::optional<PerCent> per_cent(const GuideCorner& it) {
    if (!it.slowest_s || !it.exit_s || !it.slowest_mps || !it.exit_mps) return std::nullopt;
    constexpr double kmh_of_a_per_cent = 3.6 / 100;
    return PerCent{(*it.slowest_s - *it.exit_s) * *it.slowest_mps * kmh_of_a_per_cent,
                   *it.exit_s * *it.exit_mps * kmh_of_a_per_cent};
}

void say_what_matters(std::vector<GuideCorner>& corners) {
    constexpr double at_once_m = 80, clearly = 1.5;
    for (std::size_t k = 0; k < corners.size(); ++k) {
        const auto here = per_cent(corners[k]);
        if (!here) continue;
        using Matters = GuideCorner::Matters;
        corners[k].matters = here->exit_s > here->through_s ? Matters::exit : Matters::speed;
        if (k + 1 >= corners.size() || corners[k].after_m > at_once_m || corners[k + 1].flat) continue;
        const auto next = per_cent(corners[k + 1]);
        if (next && next->most() > clearly * here->most()) corners[k].matters = Matters::next;
    }
}

}  // namespace

bool Lean::told() const {
    return std::abs(rad) > std::numbers::pi / 180 && std::abs(rad) > 2 * sd_rad;
}

TrackGuide track_guide(const PreparedLap& lap) {
    constexpr double behind_m = 100, about_m = 10;
    const Track& track = *lap.track;
    TrackGuide out;
    out.lap = lap.ref;
    out.height_known = !track.height.value.empty();
    out.lean_known = !track.banking.value.empty();
    const auto events = corner_events(lap);
    const auto worth = worth_of(std::span(&lap, 1));
    const LapMotion motion = motion_of(lap);
    const DriverActivity driver = lap.activity();
    for (std::size_t k = 0; k < track.corners.size(); ++k) {
        GuideCorner here;
        const Corner& corner = here.corner = track.corners[k];
        const CornerEvents& it = here.events = events[k];
        const auto slows = [&](std::size_t c) { return slows_from(events[c], track.corners[c]); };
        here.range_m = {slows(k), k + 1 < track.corners.size() ? std::max(slows(k + 1), corner.end_m) : track.length_m};
        here.flat = !it.slows;
        if (it.slowest_m) {
            here.slowest_mps = motion.speed_mps[motion.cell(*it.slowest_m)];
            here.gear = gear_at(lap, *it.slowest_m);
            here.of_commitment = *here.slowest_mps > commitment_mps;
        }
        if (it.brake_on_m) {
            here.brake_mps = motion.speed_mps[motion.cell(*it.brake_on_m)];
            here.brake_gear = gear_at(lap, *it.brake_on_m);
        }
        const bool last = k + 1 == track.corners.size();
        here.before_m = corner.start_m - (k > 0        ? track.corners[k - 1].end_m
                                          : track.open ? 0
                                                       : track.corners.back().end_m - track.length_m);
        here.after_m =
            (last ? track.length_m + (track.open ? 0 : track.corners.front().start_m) : track.corners[k + 1].start_m) -
            corner.end_m;
        here.next = !last ? track.corners[k + 1].number : track.open ? 0 : track.corners.front().number;
        const double middle = it.slowest_m.value_or(corner.apex_m);
        here.climbs_in_m = rise(track, here.range_m.begin, middle);
        here.climbs_out_m = rise(track, middle, corner.end_m + std::min(behind_m, std::max(0.0, here.after_m)));
        const double third = (corner.end_m - corner.start_m) / 3;
        here.lean_in = lean_over(track, {corner.start_m, corner.start_m + third}, corner.left);
        here.lean_middle = lean_over(track, {corner.start_m + third, corner.end_m - third}, corner.left);
        here.lean_out = lean_over(track, {corner.end_m - third, corner.end_m + about_m}, corner.left);
        here.shape = shape_of(track, corner);
        if (out.height_known) find_crest(lap, motion, here);
        for (double s = middle; s < here.range_m.end; s += LapMotion::step_m) {
            if (driver.known() && driver.full_throttle(lap.map.time_at(s))) here.full_m += LapMotion::step_m;
        }
        if (worth) {
            for (const Worth& each : *worth) {
                if (each.corner != corner.number) continue;
                here.slowest_s = each.slowest_s;
                here.exit_s = each.exit_s;
                here.exit_mps = motion.speed_mps[motion.cell(each.exit_m)];
            }
        }
        out.corners.push_back(std::move(here));
    }
    say_what_matters(out.corners);
    return out;
}

}  // namespace rendak
