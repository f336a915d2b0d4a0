#include "core/laps/cut.h"

#include <algorithm>
#include <cmath>

#include "core/base/text.h"
#include "core/track/crossing.h"

namespace rendak {
namespace {

constexpr double standing_mps = 1.5;
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

}  // namespace

std::vector<Lap> cut_laps(const Path& path, const Track& track) {
    std::vector<Lap> laps;
    if (path.size() < 2) return laps;
    const auto crossings = find_crossings(path, track.start);
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
    return laps;
}

const Lap* best_lap(const std::vector<Lap>& laps) {
    const Lap* best = nullptr;
    for (const Lap& lap : laps) {
        if (lap.kind != LapKind::flying || !lap.included) continue;
        if (best == nullptr || lap.time_s() < best->time_s()) best = &lap;
    }
    return best;
}

}  // namespace rendak
