#include "core/analysis/observed_limit.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/corner_events.h"
#include "core/analysis/corner_road.h"
#include "core/base/parallel.h"
#include "core/units/gravity.h"

namespace rendak {
namespace {

constexpr double laps_share = 0.8;

double quantile(std::vector<double> values, double share) {
    std::sort(values.begin(), values.end());
    const double place = share * static_cast<double>(values.size() - 1);
    const auto i = std::min(static_cast<std::size_t>(place), values.size() - 1);
    const auto next = std::min(i + 1, values.size() - 1);
    return values[i] + (place - static_cast<double>(i)) * (values[next] - values[i]);
}

struct Peak {
    std::size_t cell = 0;
    double mps2 = 0;
};

/// Where a car is at its limit in a corner, if it is: the highest acceleration into it near its slowest place. Further
/// off it may turn harder at a speed at which it could still more.
std::optional<Peak> peak_near(const LapMotion& motion, const LapMap& map, double slowest_m, bool left) {
    constexpr double half_s = 0.7;
    const double t = map.time_at(slowest_m);
    std::optional<Peak> out;
    for (std::size_t i = motion.cell(map.distance_at(t - half_s)); i <= motion.cell(map.distance_at(t + half_s)); ++i) {
        const double felt = left ? motion.lateral_mps2[i] : -motion.lateral_mps2[i];
        if (std::isfinite(felt) && (!out || felt > out->mps2)) out = {i, felt};
    }
    return out;
}

/// A car that slows down in the corner, not for the next one, and not by what bending costs.
bool slows_for(const LapMotion& motion, const CornerEvents& it, const Corner& corner) {
    constexpr double least = 1.02, around_m = 10;
    if (!it.slowest_m || !it.slows) return false;
    if (*it.slowest_m < corner.start_m - around_m || *it.slowest_m > corner.end_m + around_m) return false;
    if (!it.lift_m && !it.brake_on_m) return true;
    const double from = std::min(it.lift_m.value_or(*it.slowest_m), it.brake_on_m.value_or(*it.slowest_m));
    return motion.speed_mps[motion.cell(from)] > least * motion.speed_mps[motion.cell(*it.slowest_m)];
}

/// Over the laps that count: high, and at the speed of the lap that shows it.
std::optional<CornerReach> reach_in(std::span<const PreparedLap> laps, std::span<const LapMotion> motions,
                                    const std::vector<std::vector<CornerEvents>>& events, const Corner& corner,
                                    std::size_t at) {
    constexpr double least_mps2 = 3, crested = 0.08;
    std::vector<double> reached, speeds;
    double lightest = 0;
    std::size_t flat = 0;
    CornerReach out;
    const PreparedLap* quickest = nullptr;
    for (const PreparedLap& lap : laps) {
        if (lap.counts && (quickest == nullptr || lap.time_s() < quickest->time_s())) quickest = &lap;
    }
    for (std::size_t k = 0; k < laps.size(); ++k) {
        const CornerEvents& it = events[k][at];
        if (!laps[k].counts || !it.slowest_m) continue;
        const auto peak = peak_near(motions[k], laps[k].map, *it.slowest_m, corner.left);
        if (!peak || peak->mps2 < least_mps2) continue;
        const double speed = motions[k].speed_mps[peak->cell];
        reached.push_back(peak->mps2);
        if (&laps[k] == quickest) out.quickest_lap_mps2 = peak->mps2;
        if (peak->mps2 > out.higher_mps2) {
            out.higher_mps2 = peak->mps2;
            out.higher_lap = laps[k].ref;
        }
        speeds.push_back(speed);
        lightest += -motions[k].crest[peak->cell] * speed * speed / standard_gravity_mps2;
        flat += slows_for(motions[k], it, corner) ? 0 : 1;
    }
    if (reached.empty()) return std::nullopt;
    const auto count = static_cast<double>(reached.size());
    constexpr double clearly = 1.03;
    const bool is_flat = static_cast<double>(flat) > 0.5 * count;
    if (is_flat || !(out.quickest_lap_mps2 > 0) || out.higher_mps2 < clearly * out.quickest_lap_mps2)
        out.higher_lap.reset();
    out.corner = corner.number;
    out.left = corner.left;
    out.lateral_mps2 = quantile(reached, laps_share);
    std::size_t nearest = 0;
    for (std::size_t k = 0; k < reached.size(); ++k) {
        if (std::abs(reached[k] - out.lateral_mps2) < std::abs(reached[nearest] - out.lateral_mps2)) nearest = k;
    }
    out.speed_mps = speeds[nearest];
    // What the engine limits shows no grip.
    if (is_flat) out.left_out = CornerReach::Left_out::flat;
    if (lightest / count > crested) out.left_out = CornerReach::Left_out::crested;
    if (corner_road(*laps.front().track, corner).banked) out.left_out = CornerReach::Left_out::banked;
    return out;
}

std::vector<LimitPoint> points_of(const std::vector<CornerReach>& corners) {
    std::vector<LimitPoint> out;
    for (const CornerReach& it : corners) {
        if (it.left_out == CornerReach::Left_out::no) out.push_back({it.speed_mps, it.lateral_mps2});
    }
    return out;
}

/// Corners that reach suspiciously more than the others: the road probably leans.
void leave_suspicious_out(std::vector<CornerReach>& corners, const std::set<int>& put_back) {
    constexpr double far_above = 1.06;
    constexpr std::size_t least_left = 3;
    while (true) {
        CornerReach* worst = nullptr;
        double most = far_above;
        for (CornerReach& it : corners) {
            if (it.left_out != CornerReach::Left_out::no || put_back.contains(it.corner)) continue;
            // Held against the line of the others.
            it.left_out = CornerReach::Left_out::suspicious;
            const auto others = points_of(corners);
            it.left_out = CornerReach::Left_out::no;
            if (others.size() < least_left) continue;
            // Nothing is suspicious beyond the speeds that the others show: there a wing may carry more.
            const LimitLine line = line_above(others, 0.8);
            const double ratio = it.lateral_mps2 / line.at(it.speed_mps);
            if (ratio > most && line.seen_mps.contains(it.speed_mps)) {
                most = ratio;
                worst = &it;
            }
        }
        if (worst == nullptr) return;
        worst->left_out = CornerReach::Left_out::suspicious;
    }
}

std::optional<double> share_of_hand(const ObservedLimit& limit, bool left) {
    std::vector<double> used;
    for (const CornerReach& it : limit.corners) {
        if (it.left == left && it.left_out == CornerReach::Left_out::no) used.push_back(it.used);
    }
    return used.size() < 2 ? std::nullopt : std::optional(quantile(used, 0.8));
}

/// Of the limit, what a corner takes; nothing that can be told where it takes nearly all.
std::optional<double> left_beside(const LapMotion& it, std::size_t i, const LimitLine& lateral, double most) {
    const double across = std::abs(it.lateral_mps2[i]) / lateral.at(it.speed_mps[i]);
    return across < most ? std::optional(std::sqrt(1 - across * across)) : std::nullopt;
}

/// Slowing down, as if the car did not turn, in bands of speed. While the brake is taken and let go it is not all
/// there.
std::optional<LimitLine> braking_of(std::span<const PreparedLap> laps, std::span<const LapMotion> motions,
                                    const LimitLine& lateral) {
    constexpr double band_mps = 4, least_mps2 = 3, most_across = 0.7, taken_s = 0.4, let_go_s = 0.2, band_share = 0.8;
    constexpr std::size_t least_in_band = 8, least_bands = 2;
    std::vector<std::vector<double>> bands;
    const auto add = [&](const LapMotion& it, std::size_t from, std::size_t to) {
        double since_s = 0, left_s = 0;
        for (std::size_t i = from; i < to; ++i) left_s += it.step_s[i];
        for (std::size_t i = from; i < to; ++i) {
            since_s += it.step_s[i];
            left_s -= it.step_s[i];
            const auto left = left_beside(it, i, lateral, most_across);
            if (!left || since_s < taken_s || left_s < let_go_s) continue;
            const auto band = static_cast<std::size_t>(it.speed_mps[i] / band_mps);
            if (band >= bands.size()) bands.resize(band + 1);
            bands[band].push_back(-it.along_mps2[i] / *left);
        }
    };
    for (std::size_t k = 0; k < laps.size(); ++k) {
        if (!laps[k].counts) continue;
        const LapMotion& it = motions[k];
        std::size_t begin = 0;
        for (std::size_t i = 0; i < it.size(); ++i) {
            if (-it.along_mps2[i] > least_mps2) continue;
            add(it, begin, i);
            begin = i + 1;
        }
    }
    std::vector<LimitPoint> points;
    for (std::size_t b = 0; b < bands.size(); ++b) {
        if (bands[b].size() < least_in_band) continue;
        points.push_back({(static_cast<double>(b) + 0.5) * band_mps, quantile(bands[b], band_share),
                          std::sqrt(static_cast<double>(bands[b].size()))});
    }
    if (points.size() < least_bands) return std::nullopt;
    return line_above(points, 0.6);
}

/// The most that was driven out of corners where the engine could have given more than the corner left.
double traction_of(std::span<const PreparedLap> laps, std::span<const LapMotion> motions, const LimitLine& lateral,
                   const PullCurve& driving) {
    constexpr double most_across = 0.95, high_share = 0.98;
    constexpr std::size_t least = 40;
    std::vector<double> shares;
    for (std::size_t k = 0; k < laps.size() && driving.known(); ++k) {
        if (!laps[k].counts) continue;
        const LapMotion& it = motions[k];
        for (std::size_t i = 0; i < it.size(); ++i) {
            const auto left = left_beside(it, i, lateral, most_across);
            if (!left || !(it.along_mps2[i] > 1)) continue;
            const double there_is = lateral.at(it.speed_mps[i]) * *left;
            if (driving.at(it.speed_mps[i]) > there_is) shares.push_back(it.along_mps2[i] / there_is);
        }
    }
    return shares.size() < least ? 1 : std::clamp(quantile(shares, high_share), 0.3, 1.0);
}

/// Of turning in and out.
double jerk_of(std::span<const PreparedLap> laps, std::span<const LapMotion> motions) {
    constexpr double over_s = 0.3, high_share = 0.98, least_mps2 = 2;
    constexpr std::size_t least = 100;
    std::vector<double> all;
    for (std::size_t k = 0; k < laps.size(); ++k) {
        const LapMotion& it = motions[k];
        std::size_t behind = 0;
        double between_s = 0;
        for (std::size_t i = 0; laps[k].counts && i < it.size(); ++i) {
            between_s += it.step_s[i];
            while (between_s > over_s && behind < i) between_s -= it.step_s[behind++];
            const double change = std::abs(it.lateral_mps2[i] - it.lateral_mps2[behind]);
            if (std::abs(it.lateral_mps2[i]) > least_mps2 && between_s > 0.5 * over_s && std::isfinite(change))
                all.push_back(change / between_s);
        }
    }
    return all.size() < least ? 0 : quantile(all, high_share);
}

}  // namespace

const char* left_out_name(CornerReach::Left_out why) {
    switch (why) {
        case CornerReach::Left_out::no:
            break;
        case CornerReach::Left_out::banked:
            return "banked";
        case CornerReach::Left_out::crested:
            return "crested";
        case CornerReach::Left_out::flat:
            return "flat";
        case CornerReach::Left_out::suspicious:
            return "suspicious";
    }
    return "";
}

const CornerReach* ObservedLimit::reach_of(int corner) const {
    for (const CornerReach& it : corners) {
        if (it.corner == corner) return &it;
    }
    return nullptr;
}

LimitLine line_above(std::span<const LimitPoint> points, double share) {
    constexpr double least_ratio = 1.15;
    constexpr std::size_t least_by_speed = 4;
    LimitLine best;
    if (points.empty()) return best;
    best.support = points.size();
    const auto [low, high] = std::minmax_element(
        points.begin(), points.end(), [](const auto& a, const auto& b) { return a.speed_mps < b.speed_mps; });
    best.seen_mps = {low->speed_mps, high->speed_mps};
    best.by_speed = points.size() >= least_by_speed && high->speed_mps >= least_ratio * low->speed_mps;
    double least = -1;
    const auto hold = [&](double at_rest, double per_v2) {
        if (at_rest < 0 || per_v2 < 0) return;
        double sum = 0;
        for (const LimitPoint& it : points) {
            const double above = it.mps2 - at_rest - per_v2 * it.speed_mps * it.speed_mps;
            sum += it.weight * (above > 0 ? share * above : (share - 1) * above);
        }
        if (least >= 0 && sum >= least) return;
        least = sum;
        best.at_rest_mps2 = at_rest;
        best.per_v2 = per_v2;
    };
    // The best line goes through two of the points, or through one where nothing grows with the speed.
    for (const LimitPoint& a : points) {
        hold(a.mps2, 0);
        if (!best.by_speed) continue;
        for (const LimitPoint& b : points) {
            const double apart = b.speed_mps * b.speed_mps - a.speed_mps * a.speed_mps;
            if (!(apart > 0)) continue;
            const double slope = (b.mps2 - a.mps2) / apart;
            hold(a.mps2 - slope * a.speed_mps * a.speed_mps, slope);
        }
    }
    return best;
}

Result<ObservedLimit> observed_limit(std::span<const PreparedLap> laps, std::span<const LapMotion> motions,
                                     const std::set<int>& put_back) {
    ObservedLimit out;
    for (const PreparedLap& lap : laps) out.laps += lap.counts ? 1 : 0;
    if (out.laps == 0)
        return fail(ErrorCode::bad_input, "No lap that counts: there is nothing a limit could be seen from.");
    std::vector<std::vector<CornerEvents>> events(laps.size());
    parallel_for(laps.size(), 1, [&](std::size_t k) { events[k] = corner_events(laps[k]); });
    const auto& track_corners = laps.front().track->corners;
    for (std::size_t c = 0; c < track_corners.size(); ++c) {
        auto reach = reach_in(laps, motions, events, track_corners[c], c);
        if (!reach) continue;
        if (put_back.contains(reach->corner)) reach->left_out = CornerReach::Left_out::no;
        out.corners.push_back(*reach);
    }
    leave_suspicious_out(out.corners, put_back);
    const auto points = points_of(out.corners);
    constexpr std::size_t least_corners = 3;
    if (points.size() < least_corners)
        return fail(ErrorCode::bad_input,
                    out.corners.empty()
                        ? "No limit can be seen: no corner shows a lateral acceleration."
                        : "No limit can be seen: fewer than three corners show what the car reaches on a level road.");
    out.lateral = line_above(points, 0.8);
    for (CornerReach& it : out.corners) it.used = it.lateral_mps2 / out.lateral.at(it.speed_mps);
    out.left_share = share_of_hand(out, true);
    out.right_share = share_of_hand(out, false);
    out.lateral_jerk_mps3 = jerk_of(laps, motions);
    out.braking = braking_of(laps, motions, out.lateral);
    std::vector<PreparedLap> counting;
    for (const PreparedLap& lap : laps) {
        if (lap.counts) counting.push_back(lap);
    }
    out.driving = pull_curve(counting);
    out.traction_share = traction_of(laps, motions, out.lateral, out.driving);
    return out;
}

Result<ObservedLimit> observed_limit(std::span<const PreparedLap> laps, const std::set<int>& put_back) {
    std::vector<LapMotion> motions(laps.size());
    parallel_for(laps.size(), 1, [&](std::size_t k) { motions[k] = motion_of(laps[k]); });
    return observed_limit(laps, motions, put_back);
}

}  // namespace rendak
