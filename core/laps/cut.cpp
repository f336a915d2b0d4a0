#include "core/laps/cut.h"

#include <algorithm>
#include <cmath>

#include "core/base/median.h"
#include "core/base/parallel.h"
#include "core/base/text.h"
#include "core/laps/lap_map.h"
#include "core/laps/standstill.h"
#include "core/track/crossing.h"

namespace rendak {
namespace {

constexpr double standing_s = 2;
constexpr double length_tolerance = 0.02;

/// Longest time in a row that the car stood still in [begin, end).
double longest_standstill(const Path& path, double begin_s, double end_s) {
    double longest = 0, since = -1;
    for (std::size_t i = path.index_before(begin_s); i < path.size() && path.time_s[i] <= end_s; ++i) {
        if (path.time_s[i] < begin_s) continue;
        if (length(path.velocity[i]) > standing_mps) {
            since = -1;
            continue;
        }
        if (since < 0) since = path.time_s[i];
        longest = std::max(longest, path.time_s[i] - since);
    }
    return longest;
}

double bridged_seconds(const Path& path, double begin_s, double end_s) {
    double total = 0;
    for (std::size_t i = path.index_before(begin_s) + 1; i < path.size() && path.time_s[i] < end_s; ++i) {
        if (path.bridged[i]) total += path.time_s[i] - path.time_s[i - 1];
    }
    return total;
}

/// Half the way to another part of the track that runs the same way beside the start line: crossings over there are
/// not ours.
StartLine own_line(const Track& track) {
    StartLine line = track.start;
    const double reach = 3 * line.half_width_m;
    for (std::size_t i = 0; i < track.line.size(); ++i) {
        const double along = static_cast<double>(i) * track.step_m();
        const double away = std::min(along, track.open ? along : track.length_m - along);
        if (away < 100 || dot(track.tangent[i], line.direction) < 0.5) continue;
        const Point offset = track.line[i] - line.position;
        if (std::abs(dot(offset, line.direction)) > 30 || length(offset) > reach) continue;
        line.half_width_m = std::min(line.half_width_m, 0.5 * std::abs(cross(line.direction, offset)));
    }
    return line;
}

/// Whether a place lies in the pit lane rather than on the track.
bool in_pit_lane(const Track& track, Point place) {
    constexpr double lane_m = 6;
    const auto nearest = [place](const std::vector<Point>& line) {
        double best = 1e18;
        for (std::size_t i = 1; i < line.size(); ++i) {
            const Point along = line[i] - line[i - 1];
            const double u = std::clamp(dot(place - line[i - 1], along) / std::max(dot(along, along), 1e-9), 0.0, 1.0);
            best = std::min(best, length(place - line[i - 1] - along * u));
        }
        return best;
    };
    if (track.pit_lane.size() < 2) return false;
    const double lane = nearest(track.pit_lane);
    return lane < lane_m && lane < nearest(track.line);
}

/// A lap that ends or begins in the pits is an in or out lap, wherever the line crosses the lane.
void judge_pits(std::vector<Lap>& laps, const Path& path, const Track& track) {
    if (path.by_shape) return;
    for (std::size_t k = 0; k < laps.size(); ++k) {
        Lap& lap = laps[k];
        if (!lap.complete()) continue;
        const bool into = in_pit_lane(track, path.position_at(lap.end_s)),
                   out_of = in_pit_lane(track, path.position_at(lap.start_s));
        if (!into && !out_of) continue;
        lap.kind = into ? LapKind::in : LapKind::out;
        lap.included = false;
        lap.reason = into && out_of ? "from the pits to the pits" : into ? "into the pits" : "out of the pits";
    }
}

/// Mean of the path's own standard deviation over a lap, as squares.
double own_variance(const Path& path, const Lap& lap) {
    if (path.sd_m.size() != path.size()) return 0;
    double sum = 0, count = 0;
    for (std::size_t i = path.index_before(lap.start_s); i < path.size() && path.time_s[i] <= lap.end_s; ++i) {
        sum += static_cast<double>(path.sd_m[i]) * path.sd_m[i];
        ++count;
    }
    return count > 0 ? sum / count : 0;
}

struct Aligned {
    std::size_t lap;
    Point shift;
    double rest_m;  ///< scatter of the offsets that the shift leaves
};

std::vector<Aligned> aligned(const Path& path, const Track& track, const std::vector<Lap>& laps) {
    std::vector<Aligned> out;
    for (std::size_t k = 0; k < laps.size(); ++k) {
        if (laps[k].complete()) out.push_back({k, {}, 0});
    }
    parallel_for(out.size(), 20, [&](std::size_t i) {
        Aligned& it = out[i];
        const LapMap map = align_lap(path, track, laps[it.lap].start_s, laps[it.lap].end_s);
        it.shift = map.shift;
        it.rest_m = robust_sd(map.left_m);
    });
    return out;
}

/// Where the car crosses the line once the slow error of the laps on either side is taken out.
void correct_crossings(std::vector<Lap>& laps, const Path& path, const Track& track,
                       const std::vector<Aligned>& shifts) {
    const auto shift_of = [&](std::size_t lap) -> const Point* {
        for (const Aligned& it : shifts) {
            if (it.lap == lap) return &it.shift;
        }
        return nullptr;
    };
    for (std::size_t k = 0; k + 1 < laps.size(); ++k) {
        const Point *before = shift_of(k), *after = shift_of(k + 1);
        if (before == nullptr && after == nullptr) continue;
        const Point shift = before == nullptr ? *after : after == nullptr ? *before : (*before + *after) * 0.5;
        const double crossing = laps[k].end_s;
        const double speed = dot(path.velocity_at(crossing), track.start.direction);
        if (speed < 3) continue;
        laps[k].end_s = laps[k + 1].start_s = crossing + dot(shift, track.start.direction) / speed;
    }
}

void judge(std::vector<Lap>& laps, const Path& path, const Track& track, const std::vector<Aligned>& shifts) {
    // What places on lines driven metres apart differ by, whatever the receiver: measured with perfect positions.
    constexpr double method_m = 0.12;
    // The estimate of the slow error says how well one place is known; over a lap, places err by less. Measured on 165
    // pairs of laps of 33 random circuits, with five kinds of receiver; held on others (places_on_lines_test.cpp).
    constexpr double over_a_lap = 0.82;
    // Between laps the slow error moves by so much; within a lap, by about a third of it (a steady drift's rms). Where
    // it was taken out, what is left of it stands in the path's own figure.
    double drift = path.slow_error_out ? 0 : 0.2;
    if (!path.slow_error_out && shifts.size() > 1) {
        double sum = 0;
        for (std::size_t k = 1; k < shifts.size(); ++k) {
            const Point d = shifts[k].shift - shifts[k - 1].shift;
            sum += dot(d, d) / 2;
        }
        drift = std::sqrt(sum / static_cast<double>(shifts.size() - 1)) / 3;
    }
    for (const Aligned& it : shifts) {
        Lap& lap = laps[it.lap];
        const double stretches = std::max(4.0, track.length_m / 120);
        const bool no_rest = track.shape_only || path.by_shape || path.slow_error_out;
        const double rest = no_rest ? 0 : it.rest_m / std::sqrt(stretches);
        lap.trust_m = std::sqrt(own_variance(path, lap) + drift * drift + rest * rest + method_m * method_m);
        if (path.slow_error_out) lap.trust_m *= over_a_lap;
    }
}

/// Without positions the pit lane looks like the straight beside it: a "lap" that ends within 400 m of standing still
/// for the rest of the run is an in lap.
void drop_line_in_pits(std::vector<Lap>& laps, const Path& path) {
    if (laps.size() < 3 || laps.back().kind != LapKind::in) return;
    const Lap tail = laps.back();
    if (tail.length_m > 400) return;
    laps.pop_back();
    Lap& last = laps.back();
    last.end_s = tail.end_s;
    last.length_m = path.distance_at(last.end_s) - path.distance_at(last.start_s);
    last.kind = LapKind::in;
    last.included = false;
    last.reason = "into the pits";
}

std::vector<Lap> cut_open(const Path& path, const Track& track, const CutOptions& options) {
    std::vector<Lap> laps;
    const double first = path.time_s.front(), last = path.time_s.back();
    const auto add = [&](LapKind kind, double start, double end, const std::string& reason) {
        if (end - start < 0.02) return;
        Lap lap;
        lap.number = kind == LapKind::flying ? 1 : laps.empty() ? 0 : 2;
        lap.kind = kind;
        lap.start_s = start;
        lap.end_s = end;
        lap.length_m = path.distance_at(end) - path.distance_at(start);
        lap.reason = reason;
        laps.push_back(lap);
    };
    double finish = -1;
    for (const double t : find_crossings(path, track.finish())) {
        if (!options.launch_s || t > *options.launch_s) {
            finish = t;
            break;
        }
    }
    if (!options.launch_s || *options.launch_s < first - 1 || *options.launch_s > last) {
        add(LapKind::part, first, last,
            finish < 0 ? "no launch, and the finish line is not crossed"
                       : "no launch in the recording: set it by hand to compare this run");
        return laps;
    }
    const double launch = std::max(first, *options.launch_s);
    add(LapKind::part, first, launch, "before the launch");
    if (finish < 0) {
        add(LapKind::part, launch, last, "never crosses the finish line");
        return laps;
    }
    add(LapKind::flying, launch, finish, {});
    Lap& run = laps.back();
    const double off = length(path.position_at(launch) - track.line.front());
    if (std::abs(run.length_m - track.length_m) > 0.05 * track.length_m || off > 60) {
        run.kind = LapKind::part;
        run.reason =
            fixed(run.length_m, 0) + " m from launch to finish, the track has " + fixed(track.length_m, 0) + " m";
    } else {
        run.included = true;
        const double bridged = bridged_seconds(path, run.start_s, run.end_s);
        if (bridged > 0) run.reason = "GPS missing for " + fixed(bridged, 1) + " s, bridged";
    }
    add(LapKind::part, finish, last, "after the finish");
    judge(laps, path, track, aligned(path, track, laps));
    return laps;
}

}  // namespace

std::vector<Lap> cut_laps(const Path& path, const Track& track) {
    return cut_laps(path, track, {});
}

std::vector<Lap> cut_laps(const Path& path, const Track& track, const CutOptions& options) {
    if (path.size() < 2) return {};
    if (track.open) return cut_open(path, track, options);
    std::vector<Lap> laps;
    const auto crossings = find_crossings(path, own_line(track));
    const double first = std::min(path.time_s.front(), crossings.empty() ? path.time_s.front() : crossings.front());
    const double last = std::max(path.time_s.back(), crossings.empty() ? path.time_s.back() : crossings.back());
    std::vector<double> cuts{first};
    cuts.insert(cuts.end(), crossings.begin(), crossings.end());
    cuts.push_back(last);
    for (std::size_t k = 0; k + 1 < cuts.size(); ++k) {
        Lap lap;
        lap.number = static_cast<int>(k);
        lap.start_s = cuts[k];
        lap.end_s = cuts[k + 1];
        const bool is_head = k == 0, is_tail = k + 2 == cuts.size();
        if ((is_head || is_tail) && lap.time_s() < 1e-6) continue;  // the recording begins or ends on the line
        lap.length_m = path.distance_at(lap.end_s) - path.distance_at(lap.start_s);
        const bool stood = longest_standstill(path, lap.start_s, lap.end_s) > standing_s;
        const bool right_length = std::abs(lap.length_m - track.length_m) <= length_tolerance * track.length_m;
        if (is_head && is_tail) {
            lap.kind = LapKind::part;
            lap.reason = "never crosses the start line";
        } else if (is_head) {
            lap.kind = stood ? LapKind::out : LapKind::part;
            lap.reason = stood ? "out of the pits" : "the recording starts in mid-lap";
        } else if (is_tail) {
            lap.kind = stood ? LapKind::in : LapKind::part;
            lap.reason = stood ? "into the pits" : "the recording ends in mid-lap";
        } else if (!right_length) {
            lap.kind = LapKind::part;
            lap.reason = fixed(lap.length_m, 0) + " m long, the lap is " + fixed(track.length_m, 0) + " m";
        } else if (stood) {
            lap.kind = LapKind::stopped;
            lap.reason = "the car stood still on the way";
        } else {
            lap.kind = LapKind::flying;
            lap.included = true;
            const double bridged = bridged_seconds(path, lap.start_s, lap.end_s);
            if (bridged > 0) lap.reason = "GPS missing for " + fixed(bridged, 1) + " s, bridged";
        }
        laps.push_back(std::move(lap));
    }
    if (path.by_shape) drop_line_in_pits(laps, path);
    judge_pits(laps, path, track);
    auto shifts = aligned(path, track, laps);
    if (!path.by_shape && !path.slow_error_out) correct_crossings(laps, path, track, shifts);
    judge(laps, path, track, shifts);
    return laps;
}

const Lap* best_lap(const std::vector<Lap>& laps) {
    const Lap* best = nullptr;
    for (const Lap& lap : laps) {
        if (!lap.counts()) continue;
        if (best == nullptr || lap.time_s() < best->time_s()) best = &lap;
    }
    return best;
}

}  // namespace rendak
