#include "core/chassis/power.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <map>
#include <numbers>

#include "core/analysis/lap_choice.h"
#include "core/analysis/set_difference.h"
#include "core/analysis/watch.h"
#include "core/base/median.h"
#include "core/base/text.h"
#include "core/units/gravity.h"

namespace rendak {
namespace {

constexpr double piece_m = 20, block_m = 200, least_mps = 25, least_metres = 300, span_mps = 12, step_mps = 5;
/// What such logs tell at best, as shares (measured: see docs/calculations.md); of a change on one track less stays.
constexpr double power_at_best = 0.01, drag_at_best = 0.02, change_at_best = 0.5;

/// A piece of road at full throttle.
struct Piece {
    double gained = 0;  ///< ½ Δv² + g Δz, J/kg
    double seconds = 0, metres = 0;
    double v2_metres = 0;  ///< ∫ w (v + h) ds
    double speed_mps = 0;
    int block = 0;           ///< of the road
    bool near_road = false;  ///< the floor is
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

/// Channels of the floor's height above the road; one that was set to zero at rest tells none.
std::vector<const char*> height_channels(const PreparedLap& lap) {
    std::vector<const char*> out;
    for (const char* channel : {"ride_height_front", "ride_height_rear"})
        if (figures_in_range(lap, channel, {0, lap.map.length_m()}).mean > 2 * touching_m) out.push_back(channel);
    return out;
}

/// The nearest that the floor comes to the road, as logged; far off where it is not.
double least_height(const PreparedLap& lap, const std::vector<const char*>& channels, double from_m, double to_m) {
    double least = std::numeric_limits<double>::infinity();
    for (const char* channel : channels) {
        const double low = figures_in_range(lap, channel, {from_m, to_m}).low;
        if (low < least) least = low;
    }
    return least;
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
    const std::vector<const char*> channels = height_channels(lap);
    for (const Interval& stretch : clean_stretches(lap)) {
        const double last = lap.map.distance_at(stretch.end);
        for (double from = lap.map.distance_at(stretch.begin); from + piece_m <= last; from += piece_m) {
            const double height = least_height(lap, channels, from, from + piece_m);
            if (height < 2 * touching_m) continue;
            const double begin = lap.map.time_at(from), end = lap.map.time_at(from + piece_m);
            const double v0 = smooth_speed(*speed, begin), v1 = smooth_speed(*speed, end);
            Piece piece;
            piece.gained = (v1 * v1 - v0 * v0) / 2 + standard_gravity_mps2 * (height_at(*lap.track, from + piece_m) -
                                                                              height_at(*lap.track, from));
            piece.block = static_cast<int>(std::floor(from / block_m));
            piece.near_road = height < near_road_m;
            piece.seconds = end - begin;
            piece.speed_mps = (v0 + v1) / 2;
            piece.metres = piece.seconds * piece.speed_mps;
            piece.v2_metres = piece.metres * air_past(*lap.track, wind, from + piece_m / 2, piece.speed_mps);
            if (std::isfinite(piece.gained) && piece.speed_mps > least_mps) out.push_back(piece);
        }
    }
    return out;
}

/// P/m, ρ/2 cA/m, and what each block of road pulls them by.
struct Line {
    double power = 0, drag = 0;
    std::map<int, PowerPair> by_block;
};

/// Least squares of gained + rolling = power · seconds − drag · v²s, with Huber's weights.
std::optional<Line> fit(const std::vector<Piece>& pieces, double rolling) {
    // By the metre: a piece counts for how long it is.
    const auto a_of = [](const Piece& it) { return it.seconds / it.metres; };
    const auto b_of = [](const Piece& it) { return -it.v2_metres / it.metres; };
    const auto y_of = [rolling](const Piece& it) { return it.gained / it.metres + rolling * standard_gravity_mps2; };
    std::vector<double> weight(pieces.size(), 1), off(pieces.size());
    Line line;
    double aa = 0, ab = 0, bb = 0, by_both = 0;
    for (int round = 0; round < 12; ++round) {
        double ay = 0, by = 0;
        aa = ab = bb = 0;
        for (std::size_t i = 0; i < pieces.size(); ++i) {
            const double a = a_of(pieces[i]), b = b_of(pieces[i]), w = weight[i] * pieces[i].metres;
            aa += w * a * a;
            ab += w * a * b;
            bb += w * b * b;
            ay += w * a * y_of(pieces[i]);
            by += w * b * y_of(pieces[i]);
        }
        by_both = aa * bb - ab * ab;
        if (!(by_both > 1e-9 * aa * bb)) return std::nullopt;
        line.power = (ay * bb - by * ab) / by_both;
        line.drag = (by * aa - ay * ab) / by_both;
        std::vector<double> sizes;
        for (std::size_t i = 0; i < pieces.size(); ++i) {
            off[i] = y_of(pieces[i]) - line.power * a_of(pieces[i]) - line.drag * b_of(pieces[i]);
            sizes.push_back(std::abs(off[i]));
        }
        const double limit = 1.345 * 1.4826 * median_of(sizes);
        for (std::size_t i = 0; i < off.size(); ++i)
            weight[i] = std::abs(off[i]) <= limit || limit <= 0 ? 1 : limit / std::abs(off[i]);
    }
    for (std::size_t i = 0; i < pieces.size(); ++i) {
        const double w = weight[i] * pieces[i].metres * off[i], a = w * a_of(pieces[i]), b = w * b_of(pieces[i]);
        PowerPair& block = line.by_block[pieces[i].block];
        block.power += (a * bb - b * ab) / by_both;
        block.drag_area += (b * aa - a * ab) / by_both;
    }
    return line;
}

/// What a lap is told from, and whether that is enough.
struct LapPieces {
    std::vector<Piece> pieces;
    double metres = 0, least_mps = std::numeric_limits<double>::infinity(), most_mps = 0;

    explicit LapPieces(std::vector<Piece> of) : pieces(std::move(of)) {
        for (const Piece& piece : pieces) {
            metres += piece.metres;
            least_mps = std::min(least_mps, piece.speed_mps);
            most_mps = std::max(most_mps, piece.speed_mps);
        }
    }
    [[nodiscard]] bool enough() const { return metres >= least_metres && most_mps - least_mps >= span_mps; }
};

/// Of every lap; without the places where the floor is near the road if most laps can be told without them.
std::vector<LapPieces> told_from(std::span<const PreparedLap> laps, const std::optional<Wind>& wind, bool& near_road) {
    std::vector<LapPieces> all, clear;
    for (const PreparedLap& lap : laps) {
        std::vector<Piece> pieces = pieces_of(lap, wind);
        all.emplace_back(pieces);
        std::erase_if(pieces, [](const Piece& it) { return it.near_road; });
        clear.emplace_back(std::move(pieces));
    }
    const auto told = [](const std::vector<LapPieces>& of) {
        return std::count_if(of.begin(), of.end(), [](const LapPieces& it) { return it.enough(); });
    };
    near_road = 2 * told(clear) < told(all) || told(clear) == 0;
    return near_road ? all : clear;
}

/// Half a 95 % interval that is only as good as the road: of what its blocks pull by.
PowerPair half_of_blocks(const std::map<int, PowerPair>& by_block) {
    if (by_block.size() < 2) return {};
    double power = 0, drag = 0;
    for (const auto& [block, pull] : by_block) {
        power += pull.power * pull.power;
        drag += pull.drag_area * pull.drag_area;
    }
    const auto blocks = static_cast<double>(by_block.size());
    const double factor = t_95(blocks - 1) * std::sqrt(blocks / (blocks - 1));
    return {factor * std::sqrt(power), factor * std::sqrt(drag)};
}

std::vector<std::string> doubts_of(const PowerFit& fit, const PowerInput& input) {
    std::vector<std::string> out;
    if (!input.mass_kg) out.emplace_back("The car sheet has no mass: figures are by kilogram.");
    if (!input.air_known) out.emplace_back("Temperature and pressure of the air are not noted: drag is for 1.2 kg/m³.");
    if (!fit.with_slope) out.emplace_back("The track's height is not known: slopes count as power and drag.");
    if (fit.near_road)
        out.emplace_back("At full throttle the floor is within " + fixed(1000 * near_road_m, 0) +
                         " mm of the road nearly everywhere: what it costs there counts as drag.");
    if (!fit.with_height)
        out.emplace_back("No height above the road is logged: what a floor near the road costs counts as drag.");
    if (fit.with_wind)
        out.emplace_back("A wind of " + fixed(input.wind->mps, 1) +
                         " m/s, as noted, is taken out; along the straights it may blow otherwise.");
    else
        out.emplace_back(input.wind ? "The track has no direction: a head wind counts as drag."
                                    : "Wind is not noted: a head wind counts as drag.");
    return out;
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
    out.with_height = !height_channels(laps.front()).empty();
    out.least_mps = std::numeric_limits<double>::infinity();
    const std::vector<LapPieces> from = told_from(laps, input.wind, out.near_road);
    std::vector<double> power, drag, top;
    const double mass = input.mass_kg.value_or(1);
    double longest_m = 0;
    for (std::size_t k = 0; k < laps.size(); ++k) {
        longest_m = std::max(longest_m, from[k].metres);
        const auto line = from[k].enough() ? fit(from[k].pieces, input.rolling) : std::nullopt;
        if (!line) continue;
        out.metres += from[k].metres;
        out.least_mps = std::min(out.least_mps, from[k].least_mps);
        out.most_mps = std::max(out.most_mps, from[k].most_mps);
        const double to_area = 2 / input.air_kg_per_m3;
        out.laps.push_back({laps[k].ref, line->power, to_area * line->drag,
                            figures_in_range(laps[k], "speed", {0, laps[k].map.length_m()}).high});
        power.push_back(line->power * mass);
        drag.push_back(to_area * line->drag * mass);
        top.push_back(out.laps.back().top_mps);
        for (const auto& [block, pull] : line->by_block) {
            out.by_block[block].power += pull.power * mass;
            out.by_block[block].drag_area += to_area * pull.drag_area * mass;
        }
    }
    if (out.laps.empty())
        return fail(
            ErrorCode::not_found,
            "Power and drag cannot be told: it takes 300 m at full throttle, straight on above 90 km/h and over "
            "a span of 45 km/h, without the floor on the road; the best lap has " +
                std::to_string(static_cast<int>(longest_m)) + " m.");
    const auto count = static_cast<double>(out.laps.size());
    out.metres /= count;
    for (auto& [block, pull] : out.by_block) pull = {pull.power / count, pull.drag_area / count};
    out.power = mean_value(power);
    out.drag_area = mean_value(drag);
    out.top_mps = mean_value(top);
    const PowerPair half = half_of_blocks(out.by_block);
    // What the floor costs is in the laps' figures then, and in no scatter.
    if (!out.near_road) {
        out.power_likely = widened(likely_mean(power), {half.power, power_at_best * out.power});
        out.drag_likely = widened(likely_mean(drag), {half.drag_area, drag_at_best * out.drag_area});
    }
    out.doubts = doubts_of(out, input);
    return out;
}

PowerChange power_change(const PowerFit& a, const PowerFit& b) {
    std::vector<double> power_a, power_b, drag_a, drag_b;
    if (a.mass_kg.has_value() != b.mass_kg.has_value() || a.near_road || b.near_road) return {};
    const double mass_a = a.mass_kg.value_or(1), mass_b = b.mass_kg.value_or(1);
    for (const LapPower& lap : a.laps) {
        power_a.push_back(lap.power_w_per_kg * mass_a);
        drag_a.push_back(lap.drag_m2_per_kg * mass_a);
    }
    for (const LapPower& lap : b.laps) {
        power_b.push_back(lap.power_w_per_kg * mass_b);
        drag_b.push_back(lap.drag_m2_per_kg * mass_b);
    }
    std::map<int, PowerPair> by_block = b.by_block;
    for (const auto& [block, pull] : a.by_block) {
        by_block[block].power -= pull.power;
        by_block[block].drag_area -= pull.drag_area;
    }
    const PowerPair half = half_of_blocks(by_block);
    return {widened(likely_difference(power_a, power_b), {half.power, change_at_best * power_at_best * a.power}),
            widened(likely_difference(drag_a, drag_b), {half.drag_area, change_at_best * drag_at_best * a.drag_area})};
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
            const std::vector<const char*> channels = height_channels(lap);
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
                    if (!(to > from) || least_height(lap, channels, from, to) < 2 * touching_m) continue;
                    const double low = step_mps * static_cast<double>(k), high = low + step_mps;
                    gained[k] += (high * high - low * low) / 2 +
                                 standard_gravity_mps2 * (height_at(*lap.track, to) - height_at(*lap.track, from));
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
