#include "core/chassis/power.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "core/analysis/set_difference.h"
#include "core/analysis/watch.h"
#include "core/base/text.h"

namespace rendak {
namespace {

constexpr double g = 9.80665, piece_m = 20, least_mps = 25, least_metres = 300, span_mps = 12, step_mps = 5;

/// A piece of road at full throttle.
struct Piece {
    double gained = 0;  ///< ½ Δv² + g Δz, J/kg
    double seconds = 0, metres = 0;
    double v2_metres = 0;  ///< ∫ w (v + h) ds
    double speed_mps = 0;
};

double height_at(const Track& track, double at_m) {
    return track.height.value.empty() ? 0 : track.value_at(track.height.value, track.open ? at_m : track.wrapped(at_m));
}

/// w (v + h): what drag goes with along the road.
double air_past(const Track& track, const std::optional<Wind>& wind, double at_m, double speed_mps) {
    if (!wind || track.shape_only) return speed_mps * speed_mps;
    const double from = wind->from_deg * std::numbers::pi / 180;
    const Point along = track.tangent_at(at_m);
    const double head = wind->mps * (std::sin(from) * along.x + std::cos(from) * along.y);
    const double across = wind->mps * (std::sin(from) * along.y - std::cos(from) * along.x);
    return std::hypot(speed_mps + head, across) * (speed_mps + head);
}

/// Where the floor is on the road, as logged.
bool touches(const PreparedLap& lap, double from_m, double to_m) {
    for (const char* channel : {"ride_height_front", "ride_height_rear"}) {
        const double low = figures_in_range(lap, channel, {from_m, to_m}).low;
        if (low < 2 * touching_m) return true;
    }
    return false;
}

bool has_throttle(const PreparedLap& lap) {
    return lap.recording->find("throttle") != nullptr;
}

/// Mean over 0.3 s.
double smooth_speed(const Channel& speed, double t) {
    double sum = 0;
    for (int k = -3; k <= 3; ++k) sum += speed.value_at(t + 0.05 * k);
    return sum / 7;
}

/// Stretches of recording time at full throttle, straight on; half a second in, for a pedal that has just come down
/// still has its way to go.
std::vector<Interval> clean_stretches(const PreparedLap& lap) {
    constexpr double step_s = 0.02, settles_s = 0.5, before_end_s = 0.2;
    const DriverActivity activity = lap.activity();
    std::vector<Interval> out;
    if (!has_throttle(lap)) return out;
    double since = lap.map.start_s();
    for (double t = lap.map.start_s(); t < lap.map.end_s() + step_s; t += step_s) {
        const bool clean =
            t < lap.map.end_s() && activity.full_throttle(t) && !activity.braking(t) && !activity.cornering(t);
        if (clean) continue;
        if (t - since > settles_s + before_end_s) out.push_back({since + settles_s, t - before_end_s});
        since = t + step_s;
    }
    return out;
}

std::vector<Piece> pieces_of(const PreparedLap& lap, const std::optional<Wind>& wind) {
    const Channel* speed = lap.recording->find("speed");
    std::vector<Piece> out;
    if (speed == nullptr) return out;
    for (const Interval& stretch : clean_stretches(lap)) {
        const double last = lap.map.distance_at(stretch.end);
        for (double from = lap.map.distance_at(stretch.begin); from + piece_m <= last; from += piece_m) {
            if (touches(lap, from, from + piece_m)) continue;
            const double begin = lap.map.time_at(from), end = lap.map.time_at(from + piece_m);
            const double v0 = smooth_speed(*speed, begin), v1 = smooth_speed(*speed, end);
            Piece piece;
            piece.gained =
                (v1 * v1 - v0 * v0) / 2 + g * (height_at(*lap.track, from + piece_m) - height_at(*lap.track, from));
            piece.seconds = end - begin;
            piece.speed_mps = (v0 + v1) / 2;
            piece.metres = piece.seconds * piece.speed_mps;
            piece.v2_metres = piece.metres * air_past(*lap.track, wind, from + piece_m / 2, piece.speed_mps);
            if (std::isfinite(piece.gained) && piece.speed_mps > least_mps) out.push_back(piece);
        }
    }
    return out;
}

struct Line {
    double power = 0, drag = 0;  ///< P/m, ρ/2 cA/m
};

/// Least squares of gained + rolling = power · seconds − drag · v²s, with Huber's weights.
std::optional<Line> fit(const std::vector<Piece>& pieces, double rolling) {
    std::vector<double> weight(pieces.size(), 1);
    Line line;
    for (int round = 0; round < 12; ++round) {
        double aa = 0, ab = 0, bb = 0, ay = 0, by = 0;
        for (std::size_t i = 0; i < pieces.size(); ++i) {
            const Piece& it = pieces[i];
            // By the metre: a piece counts for how long it is.
            const double a = it.seconds / it.metres, b = -it.v2_metres / it.metres;
            const double y = it.gained / it.metres + rolling * g, w = weight[i] * it.metres;
            aa += w * a * a;
            ab += w * a * b;
            bb += w * b * b;
            ay += w * a * y;
            by += w * b * y;
        }
        const double by_both = aa * bb - ab * ab;
        if (!(by_both > 1e-9 * aa * bb)) return std::nullopt;
        line = {(ay * bb - by * ab) / by_both, (by * aa - ay * ab) / by_both};
        std::vector<double> off(pieces.size());
        for (std::size_t i = 0; i < pieces.size(); ++i) {
            const Piece& it = pieces[i];
            off[i] =
                it.gained / it.metres + rolling * g - (line.power * it.seconds - line.drag * it.v2_metres) / it.metres;
        }
        std::vector<double> sizes(off.size());
        std::transform(off.begin(), off.end(), sizes.begin(), [](double x) { return std::abs(x); });
        const double limit = 1.345 * 1.4826 * middle_value(sizes);
        for (std::size_t i = 0; i < off.size(); ++i)
            weight[i] = std::abs(off[i]) <= limit || limit <= 0 ? 1 : limit / std::abs(off[i]);
    }
    return line;
}

}  // namespace

Result<PowerFit> power_of(std::span<const PreparedLap> laps, const PowerInput& input) {
    if (laps.empty()) return fail(ErrorCode::not_found, "There is no lap to look at.");
    // Told from the acceleration, full throttle would be where it accelerates: at top speed never.
    if (std::none_of(laps.begin(), laps.end(), has_throttle))
        return fail(ErrorCode::not_found, "Power and drag cannot be told without a throttle: it is not logged here.");
    PowerFit out;
    out.mass_kg = input.mass_kg;
    out.with_wind = input.wind && !laps.front().track->shape_only;
    out.with_slope = !laps.front().track->height.value.empty();
    out.least_mps = std::numeric_limits<double>::infinity();
    double short_m = 0;
    for (const PreparedLap& lap : laps) {
        const std::vector<Piece> pieces = pieces_of(lap, input.wind);
        double metres = 0, low = std::numeric_limits<double>::infinity(), high = 0;
        for (const Piece& piece : pieces) {
            metres += piece.metres;
            low = std::min(low, piece.speed_mps);
            high = std::max(high, piece.speed_mps);
        }
        short_m = std::max(short_m, metres);
        if (metres < least_metres || high - low < span_mps) continue;
        const auto line = fit(pieces, input.rolling);
        if (!line) continue;
        out.metres += metres;
        out.least_mps = std::min(out.least_mps, low);
        out.most_mps = std::max(out.most_mps, high);
        out.laps.push_back({lap.ref, line->power, 2 * line->drag / input.air_kg_per_m3,
                            figures_in_range(lap, "speed", {0, lap.map.length_m()}).high});
    }
    if (out.laps.empty())
        return fail(
            ErrorCode::not_found,
            "Power and drag cannot be told: it takes 300 m at full throttle, straight on above 90 km/h and over "
            "a span of 45 km/h, without the floor on the road; the best lap has " +
                std::to_string(static_cast<int>(short_m)) + " m.");
    out.metres /= static_cast<double>(out.laps.size());
    std::vector<double> power, drag, top;
    const double mass = input.mass_kg.value_or(1);
    for (const LapPower& lap : out.laps) {
        power.push_back(lap.power_w_per_kg * mass);
        drag.push_back(lap.drag_m2_per_kg * mass);
        top.push_back(lap.top_mps);
    }
    out.power = mean_value(power);
    out.drag_area = mean_value(drag);
    out.top_mps = mean_value(top);
    out.power_likely = likely_mean(power);
    out.drag_likely = likely_mean(drag);
    if (!input.mass_kg) out.doubts.emplace_back("The car sheet has no mass: figures are by kilogram.");
    if (!input.air_known)
        out.doubts.emplace_back("Temperature and pressure of the air are not noted: drag is for 1.2 kg/m³.");
    if (!out.with_slope) out.doubts.emplace_back("The track's height is not known: slopes count as power and drag.");
    if (out.with_wind)
        out.doubts.emplace_back("A wind of " + fixed(input.wind->mps, 1) +
                                " m/s, as noted, is taken out; along the straights it may blow otherwise.");
    else
        out.doubts.emplace_back(input.wind ? "The track has no direction: a head wind counts as drag."
                                           : "Wind is not noted: a head wind counts as drag.");
    return out;
}

std::vector<SpeedStep> pull_by_speed(std::span<const PreparedLap> a, std::span<const PreparedLap> b) {
    constexpr std::size_t steps = 30;
    constexpr double look_s = 0.05;
    std::vector<SpeedStep> all(steps);
    const auto take = [&](std::span<const PreparedLap> laps, bool of_a) {
        for (const PreparedLap& lap : laps) {
            const Channel* speed = lap.recording->find("speed");
            if (speed == nullptr) continue;
            std::array<double, steps> gained{}, metres{};
            for (const Interval& stretch : clean_stretches(lap)) {
                // Moments at which the car passes each border on the way up.
                std::array<double, steps + 1> passed{};
                double v = smooth_speed(*speed, stretch.begin);
                for (double t = stretch.begin + look_s; t <= stretch.end; t += look_s) {
                    const double next = smooth_speed(*speed, t);
                    for (auto k = static_cast<std::size_t>(std::max(0.0, std::ceil(v / step_mps)));
                         k <= steps && step_mps * static_cast<double>(k) < next; ++k) {
                        if (passed[k] == 0 && next > v)
                            passed[k] = t - look_s + look_s * (step_mps * static_cast<double>(k) - v) / (next - v);
                    }
                    v = next;
                }
                for (std::size_t k = 0; k < steps; ++k) {
                    if (passed[k] == 0 || passed[k + 1] == 0) continue;
                    const double from = lap.map.distance_at(passed[k]), to = lap.map.distance_at(passed[k + 1]);
                    if (!(to > from) || touches(lap, from, to)) continue;
                    const double low = step_mps * static_cast<double>(k), high = low + step_mps;
                    gained[k] +=
                        (high * high - low * low) / 2 + g * (height_at(*lap.track, to) - height_at(*lap.track, from));
                    metres[k] += to - from;
                }
            }
            for (std::size_t k = 0; k < steps; ++k)
                if (metres[k] > 0) (of_a ? all[k].a : all[k].b).push_back(gained[k] / metres[k]);
        }
    };
    take(a, true);
    take(b, false);
    std::vector<SpeedStep> out;
    for (std::size_t k = 0; k < steps; ++k) {
        all[k].from_mps = step_mps * static_cast<double>(k);
        if (all[k].a.empty() || all[k].b.empty()) continue;
        all[k].likely = likely_difference(all[k].a, all[k].b);
        out.push_back(std::move(all[k]));
    }
    return out;
}

}  // namespace rendak
