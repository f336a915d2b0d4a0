#include "core/analysis/shown_pace.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/analysis/corner_events.h"
#include "core/analysis/point_lap.h"

namespace rendak {
namespace {

/// The way that the lap took, with what each corner has shown there is.
PointRoad road_of(const PreparedLap& lap, const LapMotion& motion, const ObservedLimit& limit) {
    constexpr double least_mps = 2, about_m = 20;
    const std::size_t n = motion.size();
    PointRoad out;
    out.open = lap.track->open;
    out.lean_mps2 = motion.lean_mps2;
    out.grade = motion.grade;
    out.limit_share.assign(n, 1);
    for (std::size_t i = 0; i < n; ++i) {
        const std::size_t next = i + 1 < n ? i + 1 : i;
        out.way_m.push_back(0.5 * (motion.speed_mps[i] + motion.speed_mps[next]) * motion.step_s[i]);
        const double v = std::max(least_mps, motion.speed_mps[i]);
        const double felt = std::isfinite(motion.lateral_mps2[i]) ? motion.lateral_mps2[i] : 0;
        out.curvature.push_back((felt + motion.lean_mps2[i]) / (v * v));
    }
    for (const Corner& corner : lap.track->corners) {
        const CornerReach* reach = limit.reach_of(corner.number);
        if (reach == nullptr) continue;
        using Left_out = CornerReach::Left_out;
        // Which road it is decides what is reached there, above the limit or below it.
        const bool own = reach->left_out == Left_out::banked || reach->left_out == Left_out::crested;
        const double share = own ? reach->used : std::max(1.0, reach->used);
        for (std::size_t i = motion.cell(corner.start_m - about_m); i <= motion.cell(corner.end_m + about_m); ++i)
            out.limit_share[i] = share;
    }
    if (!out.open) return out;
    // From a standing start up to the speeds at which full throttle was seen the lap is as it was driven: nothing is
    // known of more.
    out.most_mps.assign(n, std::numeric_limits<double>::infinity());
    for (std::size_t i = 0; i < n; ++i) {
        out.most_mps[i] = std::max(motion.speed_mps[i], 0.5);
        if (motion.speed_mps[i] >= limit.driving.speed_mps.front()) break;
    }
    return out;
}

std::vector<PaceRow> rows_of(const PreparedLap& lap, const LapMotion& motion, const std::vector<double>& elapsed_s) {
    const auto elapsed_at = [&](double place_m) {
        const std::size_t i = motion.cell(place_m), n = motion.size();
        const double width = i + 1 < n ? LapMotion::step_m : motion.length_m - motion.place_m(n - 1);
        const double share = width > 0 ? std::clamp((place_m - motion.place_m(i)) / width, 0.0, 1.0) : 0;
        return elapsed_s[i] + share * (elapsed_s[i + 1] - elapsed_s[i]);
    };
    const auto events = corner_events(lap);
    std::vector<double> begins{0};
    for (std::size_t k = 0; k < events.size(); ++k)
        begins.push_back(std::clamp(slows_from(events[k], lap.track->corners[k]), begins.back(), motion.length_m));
    begins.push_back(motion.length_m);
    std::vector<PaceRow> out;
    for (std::size_t k = 0; k + 1 < begins.size(); ++k) {
        PaceRow row;
        row.corner = k == 0 ? 0 : events[k - 1].corner;
        row.name = k == 0 ? "From the line" : lap.track->corners[k - 1].title();
        row.range_m = {begins[k], begins[k + 1]};
        row.lap_s = lap.map.time_at(row.range_m.end) - lap.map.time_at(row.range_m.begin);
        row.pace_s = elapsed_at(row.range_m.end) - elapsed_at(row.range_m.begin);
        out.push_back(std::move(row));
    }
    return out;
}

/// On the ellipse of what was seen of each direction.
double use_at(const LapMotion& motion, const ObservedLimit& limit, std::size_t i) {
    const double v = motion.speed_mps[i], lateral = limit.lateral.at(v);
    const double across = motion.lateral_mps2[i] / lateral, along = motion.along_mps2[i];
    double used = 0;
    if (along < 0)
        used = limit.braking ? -along / limit.braking->at(v) : 0;
    else
        used = along / (limit.traction_share * lateral);
    return std::hypot(across, used);
}

std::optional<double> mean_use(const std::vector<double>& use, const LapMotion& motion, double from_m, double to_m) {
    double sum = 0, time = 0;
    for (std::size_t i = motion.cell(from_m); i <= motion.cell(to_m) && from_m < to_m; ++i) {
        if (!std::isfinite(use[i])) continue;
        sum += use[i] * motion.step_s[i];
        time += motion.step_s[i];
    }
    return time > 0 ? std::optional(sum / time) : std::nullopt;
}

}  // namespace

std::vector<GripUse> grip_use(const PreparedLap& lap, const LapMotion& motion, const ObservedLimit& limit) {
    constexpr double window_s = 0.4;
    std::vector<double> use(motion.size());
    for (std::size_t i = 0; i < motion.size(); ++i) use[i] = use_at(motion, limit, i);
    const auto events = corner_events(lap);
    std::vector<GripUse> out;
    for (std::size_t k = 0; k < events.size(); ++k) {
        const CornerEvents& it = events[k];
        const Corner& corner = lap.track->corners[k];
        GripUse here;
        here.corner = it.corner;
        const double turn_in = it.turn_in_m.value_or(corner.start_m);
        if (it.brake_on_m && limit.braking) here.braking = mean_use(use, motion, *it.brake_on_m, turn_in);
        if (it.slowest_m) {
            here.entry = mean_use(use, motion, turn_in, *it.slowest_m);
            here.exit =
                mean_use(use, motion, *it.slowest_m, std::min(corner.end_m, it.full_throttle_m.value_or(corner.end_m)));
        }
        here.mean = mean_use(use, motion, corner.start_m, corner.end_m);
        for (std::size_t i = motion.cell(corner.start_m); i <= motion.cell(corner.end_m); ++i) {
            double sum = 0, time = 0;
            for (std::size_t j = i; j < motion.size() && time < window_s; ++j) {
                sum += use[j] * motion.step_s[j];
                time += motion.step_s[j];
            }
            if (time > 0 && std::isfinite(sum) && !(sum / time <= here.peak.value_or(0))) here.peak = sum / time;
        }
        out.push_back(here);
    }
    return out;
}

std::vector<GripUseOverLaps> grip_over_laps(const std::vector<std::vector<GripUse>>& laps) {
    std::vector<GripUseOverLaps> out;
    const auto over = [&](std::size_t row, std::optional<double> GripUse::*phase) -> std::optional<GripShare> {
        GripShare share;
        for (const auto& lap : laps) {
            if (row >= lap.size() || !(lap[row].*phase)) continue;
            const double used = *(lap[row].*phase);
            share.mean += used;
            ++share.laps;
            share.little_laps += used < GripShare::little ? 1 : 0;
        }
        if (share.laps == 0) return std::nullopt;
        share.mean /= static_cast<double>(share.laps);
        return share;
    };
    for (std::size_t row = 0; !laps.empty() && row < laps.front().size(); ++row)
        out.push_back({laps.front()[row].corner, over(row, &GripUse::braking), over(row, &GripUse::entry),
                       over(row, &GripUse::exit), over(row, &GripUse::mean)});
    return out;
}

Result<ShownPace> shown_pace(const PreparedLap& lap, const LapMotion& motion, const ObservedLimit& limit) {
    if (!limit.driving.known())
        return fail(ErrorCode::bad_input,
                    "No shown pace: the laps do not tell how the car gains speed on full throttle.");
    if (!limit.braking)
        return fail(ErrorCode::bad_input,
                    "No shown pace: the laps do not tell how hard the car brakes in a straight line.");
    if (motion.size() < 2) return fail(ErrorCode::bad_input, "No shown pace: the lap is too short.");
    const PointRoad road = road_of(lap, motion, limit);
    std::vector<double> speed;
    drive_point(road, limit, speed);
    const auto elapsed = point_elapsed(road, speed);
    return ShownPace{elapsed.back(), rows_of(lap, motion, elapsed)};
}

}  // namespace rendak
