#include "core/chassis/balance.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/analysis/line_fit.h"
#include "core/analysis/section_table.h"
#include "core/analysis/set_difference.h"
#include "core/base/median.h"
#include "core/base/text.h"
#include "core/chassis/damper_speed.h"
#include "core/chassis/dampers.h"
#include "core/units/gravity.h"

namespace rendak {
namespace {

constexpr double step_s = 0.05, cornering_mps2 = 3, straight_mps2 = 0.5, fast_mps = 15, whole_share = 0.9;
constexpr double nan = std::numeric_limits<double>::quiet_NaN();

/// What is read of a lap every 0.05 s, each the mean of the samples around it.
struct Moments {
    std::vector<double> place_m, speed, lateral, along, angle, roll, pitch, front_over, rear_over;
};

double around(const Channel* channel, double t) {
    if (channel == nullptr) return nan;
    double sum = 0;
    for (const double by : {-0.08, -0.04, 0.0, 0.04, 0.08}) sum += channel->value_at(t + by);
    return sum / 5;
}

double middle_of(const std::vector<double>& values) {
    auto told = finite_values(values);
    return told.empty() ? 0 : median_of(std::move(told));
}

Moments moments_of(const PreparedLap& lap, const ChassisSheet& sheet) {
    const auto find = [&](const std::string& name) { return lap.recording->find(name); };
    const Channel *speed = find("speed"), *lateral = find("lateral_acceleration"), *yaw = find("yaw_rate"),
                  *steering = find("steering"), *along = find("longitudinal_acceleration");
    std::array<const Channel*, 4> travel{}, load{};
    for (std::size_t w = 0; w < 4; ++w) {
        travel[w] = find(std::string("damper_") + wheel_corners[w]);
        load[w] = find(std::string("tyre_load_") + wheel_corners[w]);
    }
    Moments out;
    std::vector<double> steer, turn;
    for (double t = lap.map.start_s(); t < lap.map.end_s(); t += step_s) {
        const double v = around(speed, t);
        out.place_m.push_back(lap.map.distance_at(t));
        out.speed.push_back(v);
        out.lateral.push_back(around(lateral, t));
        out.along.push_back(around(along, t));
        steer.push_back(around(steering, t));
        turn.push_back(around(yaw, t));
        std::array<double, 4> x{}, n{};
        for (std::size_t w = 0; w < 4; ++w) {
            x[w] = around(travel[w], t) * sheet.motion_ratio(w < 2);
            n[w] = around(load[w], t);
        }
        const double track = sheet.track_width_m.value_or(nan), wheelbase = sheet.wheelbase_m.value_or(nan);
        // Left side up, nose down: the right wheels and the front ones are in bump.
        out.roll.push_back(std::atan((x[1] + x[3] - x[0] - x[2]) / 2 / track));
        out.pitch.push_back(std::atan((x[0] + x[1] - x[2] - x[3]) / 2 / wheelbase));
        out.front_over.push_back((n[1] - n[0]) / 2);
        out.rear_over.push_back((n[3] - n[2]) / 2);
    }
    // Zero of steering and yaw: what they show straight on.
    std::vector<double> steer_still, turn_still;
    for (std::size_t i = 0; i < steer.size(); ++i) {
        if (!(std::abs(out.lateral[i]) < straight_mps2) || !(out.speed[i] > fast_mps)) continue;
        steer_still.push_back(steer[i]);
        turn_still.push_back(turn[i]);
    }
    const bool enough = steer_still.size() >= 20;
    const double steer_zero = enough ? middle_of(steer_still) : 0, turn_zero = enough ? middle_of(turn_still) : 0;
    for (std::size_t i = 0; i < steer.size(); ++i) {
        const double path = sheet.wheelbase_m.value_or(nan) * (turn[i] - turn_zero) / std::max(out.speed[i], 5.0);
        const double angle = (steer[i] - steer_zero) / sheet.steering_ratio.value_or(nan) - path;
        out.angle.push_back(out.lateral[i] < 0 ? -angle : angle);
    }
    return out;
}

double mean_finite(const std::vector<double>& values) {
    const auto told = finite_values(values);
    return told.empty() ? nan : mean_value(told);
}

double slope_of(const std::vector<double>& x, const std::vector<double>& y) {
    const FinitePairs pairs = finite_pairs(x, y);
    return pairs.x.size() < 20 ? nan : fit_line(pairs.x, pairs.y).slope;
}

/// Where a corner's parts begin and end in a lap's moments.
struct Parts {
    std::size_t from = 0, middle = 0, behind = 0, to = 0;
    double peak = 0, slowest = 0;
};
std::optional<Parts> parts_of(const Moments& moments, const Corner& corner) {
    Parts out;
    const double way = corner.left ? 1 : -1;
    const auto place = [&](double m) {
        return static_cast<std::size_t>(std::lower_bound(moments.place_m.begin(), moments.place_m.end(), m) -
                                        moments.place_m.begin());
    };
    const std::size_t first = place(corner.start_m - 15),
                      last = std::min(place(corner.end_m + 15), moments.place_m.size());
    std::size_t at = first;
    out.slowest = std::numeric_limits<double>::infinity();
    for (std::size_t i = first; i < last; ++i) {
        if (const double g = way * moments.lateral[i]; g > out.peak) {
            out.peak = g;
            at = i;
        }
        if (moments.speed[i] < out.slowest) out.slowest = moments.speed[i];
    }
    if (!(out.peak > cornering_mps2)) return std::nullopt;
    const auto holds = [&](std::size_t i, double share) { return way * moments.lateral[i] > share; };
    out.middle = out.behind = out.from = out.to = at;
    while (out.middle > first && holds(out.middle - 1, whole_share * out.peak)) --out.middle;
    while (out.behind < last && holds(out.behind, whole_share * out.peak)) ++out.behind;
    out.from = out.middle;
    out.to = out.behind;
    while (out.from > first && holds(out.from - 1, cornering_mps2)) --out.from;
    while (out.to < last && holds(out.to, cornering_mps2)) ++out.to;
    return out;
}

double mean_between(const std::vector<double>& values, std::size_t from, std::size_t to) {
    return mean_finite(
        {values.begin() + static_cast<std::ptrdiff_t>(from), values.begin() + static_cast<std::ptrdiff_t>(to)});
}

}  // namespace

const char* corner_part_name(CornerPart part) {
    switch (part) {
        case CornerPart::entry:
            return "entry";
        case CornerPart::middle:
            return "middle";
        case CornerPart::exit:
            return "exit";
    }
    return "";
}

SetFigure set_figure(std::vector<double> laps) {
    SetFigure out;
    out.laps = finite_values(std::move(laps));
    if (out.laps.empty()) {
        out.mean = out.sd = nan;
        return out;
    }
    out.mean = mean_value(out.laps);
    out.sd = spread_of(out.laps).sd;
    out.likely = likely_mean(out.laps);
    for (const double x : out.laps) out.on += x * out.mean > 0 ? 1 : 0;
    return out;
}

Result<Balance> balance_of(std::span<const PreparedLap> laps, const ChassisSheet& sheet) {
    if (laps.empty()) return fail(ErrorCode::not_found, "There is no lap to look at.");
    Balance out;
    out.laps = laps.size();
    const Track& track = *laps.front().track;
    const Recording& recording = *laps.front().recording;
    std::string missing;
    for (const char* channel : {"steering", "yaw_rate", "lateral_acceleration", "speed"})
        if (recording.find(channel) == nullptr) missing += std::string(missing.empty() ? "" : ", ") + channel;
    if (!sheet.steering_ratio) missing += std::string(missing.empty() ? "" : ", ") + "car sheet: steering ratio";
    if (!sheet.wheelbase_m) missing += std::string(missing.empty() ? "" : ", ") + "car sheet: wheelbase";
    const bool angles = missing.empty();
    if (!angles) out.untold.push_back("The understeer angle cannot be told without: " + missing + ".");
    const std::size_t count = track.corners.size();
    std::vector<std::vector<double>> whole(count), slowest(count), peak(count);
    std::vector<std::array<std::vector<double>, 3>> part(count);
    std::vector<double> slope, roll, pitch, share, temperature, left, right;
    std::array<std::vector<double>, 3> all_parts;
    std::vector<std::vector<double>> by_lap;  // whole angle of each corner
    for (const PreparedLap& lap : laps) {
        const Moments moments = moments_of(lap, sheet);
        std::vector<double> g, angle;
        for (std::size_t i = 0; i < moments.lateral.size(); ++i) {
            if (!(std::abs(moments.lateral[i]) > cornering_mps2)) continue;
            g.push_back(std::abs(moments.lateral[i]));
            angle.push_back(moments.angle[i]);
        }
        if (angles) slope.push_back(slope_of(g, angle));
        roll.push_back(slope_of(moments.lateral, moments.roll));
        // Nose up when it gains speed: pitch (nose down) falls as the car accelerates.
        pitch.push_back(-slope_of(moments.along, moments.pitch));
        const double front = slope_of(moments.lateral, moments.front_over),
                     rear = slope_of(moments.lateral, moments.rear_over);
        share.push_back(front / (front + rear));
        std::array<double, 4> tyre{};
        for (std::size_t w = 0; w < 4; ++w)
            tyre[w] =
                figures_in_range(lap, std::string("tyre_temperature_") + wheel_corners[w], {0, lap.map.length_m()})
                    .mean;
        temperature.push_back((tyre[0] + tyre[1] - tyre[2] - tyre[3]) / 2);
        std::array<std::vector<double>, 3> parts_here;
        std::vector<double> left_here, right_here, corners_here(count, nan);
        for (std::size_t k = 0; k < count; ++k) {
            const auto cut = parts_of(moments, track.corners[k]);
            if (!cut) continue;
            slowest[k].push_back(cut->slowest);
            peak[k].push_back(cut->peak);
            if (!angles) continue;
            const std::array<std::size_t, 4> border{cut->from, cut->middle, cut->behind, cut->to};
            for (std::size_t p = 0; p < 3; ++p) {
                const double mean = mean_between(moments.angle, border[p], border[p + 1]);
                part[k][p].push_back(mean);
                parts_here[p].push_back(mean);
            }
            corners_here[k] = mean_between(moments.angle, cut->from, cut->to);
            whole[k].push_back(corners_here[k]);
            (track.corners[k].left ? left_here : right_here).push_back(corners_here[k]);
        }
        by_lap.push_back(std::move(corners_here));
        for (std::size_t p = 0; p < 3; ++p) all_parts[p].push_back(mean_finite(parts_here[p]));
        left.push_back(mean_finite(left_here));
        right.push_back(mean_finite(right_here));
    }
    std::vector<double> speeds;
    for (std::size_t k = 0; k < count; ++k) {
        CornerBalance corner;
        corner.corner = track.corners[k].number;
        corner.name = track.corners[k].title();
        corner.left = track.corners[k].left;
        corner.speed_mps = mean_finite(slowest[k]);
        corner.lateral_mps2 = mean_finite(peak[k]);
        for (std::size_t p = 0; p < 3; ++p) corner.parts[p] = set_figure(part[k][p]);
        corner.whole = set_figure(whole[k]);
        if (slowest[k].empty()) continue;
        speeds.push_back(corner.speed_mps);
        out.corners.push_back(std::move(corner));
    }
    if (angles && speeds.size() >= 4) {
        const double border = median_of(speeds);
        std::vector<double> slow, fast;
        for (const auto& lap : by_lap) {
            std::vector<double> slow_here, fast_here;
            for (const CornerBalance& corner : out.corners) {
                const auto k = static_cast<std::size_t>(corner.corner - 1);
                if (k < lap.size()) (corner.speed_mps < border ? slow_here : fast_here).push_back(lap[k]);
            }
            slow.push_back(mean_finite(slow_here));
            fast.push_back(mean_finite(fast_here));
        }
        out.slow = set_figure(slow);
        out.fast = set_figure(fast);
    }
    out.slope = set_figure(slope);
    out.left = set_figure(left);
    out.right = set_figure(right);
    for (std::size_t p = 0; p < 3; ++p) out.parts[p] = set_figure(all_parts[p]);
    out.roll_per_mps2 = set_figure(roll);
    out.pitch_per_mps2 = set_figure(pitch);
    out.front_roll_share = set_figure(share);
    out.front_roll_share_sheet = sheet.front_roll_share();
    out.front_minus_rear_k = set_figure(temperature);
    if (const auto wheels = dampers_of(laps, stretches_of(StretchKind::lap, laps))) {
        for (const bool front : {true, false}) {
            std::vector<double> hz;
            for (const DamperFigures& wheel : *wheels)
                if ((wheel.wheel[0] == 'f') == front && wheel.ride_hz) hz.push_back(*wheel.ride_hz);
            if (!hz.empty()) out.ride_hz[front ? 0 : 1] = mean_value(hz);
        }
    }
    if (!out.roll_per_mps2.known())
        out.untold.emplace_back(
            "Roll cannot be told without damper travel of all wheels, lateral acceleration and the "
            "track width of the car sheet.");
    if (!out.pitch_per_mps2.known())
        out.untold.emplace_back(
            "Pitch cannot be told without damper travel of all wheels, longitudinal acceleration and "
            "the wheelbase of the car sheet.");
    if (!out.front_roll_share.known())
        out.untold.emplace_back(
            "The front's share of the roll stiffness cannot be told from data: tyre loads of all four "
            "wheels are not logged.");
    if (!out.front_roll_share_sheet)
        out.untold.emplace_back(
            "The front's share of the roll stiffness cannot be told from the sheet: it needs Spring "
            "front, Spring rear, Bar rate front and Bar rate rear.");
    if (!angles && !out.roll_per_mps2.known() && !out.front_roll_share.known() && !out.front_minus_rear_k.known())
        return fail(ErrorCode::not_found, out.untold.front());
    return out;
}

std::string balance_words(const Balance& balance) {
    const auto degrees = [](double rad) { return fixed(rad * 180 / std::numbers::pi, 2) + "°"; };
    std::string out;
    const auto tell = [&](const SetFigure& figure, const std::string& where) {
        if (!figure.known()) return;
        if (!out.empty()) out += "; ";
        out += where + " " + degrees(figure.mean) + " on " + std::to_string(figure.on) + " of " +
               std::to_string(figure.laps.size());
    };
    if (!balance.slope.known()) return "How it is balanced cannot be told.";
    tell(balance.parts[0], "entry");
    tell(balance.parts[1], "middle");
    tell(balance.parts[2], "exit");
    out = "Understeer angle: " + out + ".";
    const double per_g = balance.slope.mean * standard_gravity_mps2;
    if (!balance.slope.sure())
        out += " How it grows with the lateral acceleration cannot be told from the scatter of these laps.";
    else
        out += " It grows by " + degrees(per_g) + " a g: " + (per_g > 0 ? "understeer." : "oversteer.");
    return out;
}

}  // namespace rendak
