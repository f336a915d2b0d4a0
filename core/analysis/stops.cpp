#include "core/analysis/stops.h"

#include <algorithm>
#include <cmath>
#include <optional>

#include "core/base/median.h"
#include "core/base/text.h"
#include "core/laps/lap_map.h"
#include "core/laps/standstill.h"
#include "core/track/speed_source.h"

namespace rendak {
namespace {

constexpr double step_s = 0.05, hundred_kmh_mps = 100 / 3.6, driving_mps = 15;

/// First moment in [from, to] at which the car is as fast as that.
std::optional<double> reaches(const SpeedSource& speed, double mps, double from_s, double to_s) {
    for (double t = from_s; t <= to_s; t += step_s) {
        if (speed.at(t) >= mps) return t;
    }
    return std::nullopt;
}

/// The flying lap that counts whose time is the middle one.
const Lap* usual_lap(const std::vector<Lap>& laps) {
    std::vector<const Lap*> flying;
    for (const Lap& lap : laps) {
        if (lap.counts()) flying.push_back(&lap);
    }
    if (flying.empty()) return nullptr;
    const auto middle = flying.begin() + static_cast<std::ptrdiff_t>(flying.size() / 2);
    std::nth_element(flying.begin(), middle, flying.end(),
                     [](const Lap* a, const Lap* b) { return a->time_s() < b->time_s(); });
    return *middle;
}

void add_cost_of_start(Stop& stop, const std::vector<Lap>& laps, const Path& path, const Track& track) {
    const Lap* usual = usual_lap(laps);
    const auto first = std::find_if(
        laps.begin(), laps.end(), [&](const Lap& lap) { return lap.complete() && lap.start_s > stop.standing_s.end; });
    if (usual == nullptr || first == laps.end() || first == laps.begin()) return;
    // Where the car stood, as a place of the usual lap: as far before the line as the car has driven to it.
    const double before_m = path.distance_at(first->start_s) - path.distance_at(stop.standing_s.end);
    if (before_m > track.length_m) return;
    const LapMap map = align_lap(path, track, usual->start_s, usual->end_s);
    const double to_line_s = map.end_s() - map.time_at(track.length_m - before_m);
    stop.lost_s = first->end_s - stop.standing_s.end - to_line_s - usual->time_s();
    stop.laps = {std::prev(first)->number, first->number};
}

void add_cost_of_stop(Stop& stop, const std::vector<Lap>& laps) {
    const Lap* usual = usual_lap(laps);
    const auto at = std::find_if(laps.begin(), laps.end(), [&](const Lap& lap) { return lap.number == stop.lap; });
    if (usual == nullptr || at == laps.end() || at->counts()) return;
    auto begin = at, end = at;
    while (begin != laps.begin() && !std::prev(begin)->counts()) --begin;
    while (end != laps.end() && !end->counts()) ++end;
    // What lies before the first line or behind the last one has no time from line to line.
    if (begin == laps.begin() || end == laps.end()) return;
    const double gone_s = end->start_s - begin->start_s;
    double gone_m = 0;
    for (auto it = begin; it != end; ++it) gone_m += it->length_m;
    // A line that was crossed outside its width joins two laps to one.
    const double as_many = usual->length_m > 0 && gone_m > 0 ? std::max(1.0, std::round(gone_m / usual->length_m))
                                                             : static_cast<double>(end - begin);
    stop.lost_s = gone_s - as_many * usual->time_s();
    for (auto it = begin; it != end; ++it) stop.laps.push_back(it->number);
}

}  // namespace

std::vector<Stop> stops_of(const Recording& recording, const std::vector<Lap>& laps, const Path* path,
                           const Track* track) {
    std::vector<Stop> out;
    if (laps.empty() || (track != nullptr && track->open)) return out;
    const SpeedSource speed(recording, SpeedSource::Prefer::gps);
    if (!speed.exists()) return out;
    const Interval all = speed.span_s();
    const auto first_complete = std::find_if(laps.begin(), laps.end(), [](const Lap& lap) { return lap.complete(); });
    const auto first_driven = reaches(speed, driving_mps, all.begin, all.end);
    const std::vector<Interval> stands = standstills(recording);
    for (std::size_t k = 0; k < stands.size(); ++k) {
        const double next = k + 1 < stands.size() ? stands[k + 1].begin : all.end;
        Stop stop;
        stop.standing_s = stands[k];
        // Rolling on in the queue is no driving.
        if (!reaches(speed, driving_mps, stop.standing_s.end, next)) continue;
        if (const auto fast =
                reaches(speed, hundred_kmh_mps, stop.standing_s.end, std::min(next, stop.standing_s.end + 20)))
            stop.to_100_kmh_s = *fast - stop.standing_s.end;
        for (const Lap& lap : laps) {
            if (lap.start_s <= stop.standing_s.end) stop.lap = lap.number;
        }
        stop.is_start =
            first_complete != laps.end() && stop.standing_s.end < first_complete->start_s && stop.to_100_kmh_s <= 10;
        const bool drove_before = first_driven && *first_driven < stop.standing_s.begin;
        if (!stop.is_start && !drove_before) continue;
        if (!stop.is_start)
            add_cost_of_stop(stop, laps);
        else if (path != nullptr && track != nullptr)
            add_cost_of_start(stop, laps, *path, *track);
        out.push_back(std::move(stop));
    }
    return out;
}

std::string stop_words(const Stop& stop) {
    std::string words = stop.is_start
                            ? "standing start in lap " + std::to_string(stop.lap)
                            : "stood " + fixed(stop.standing_s.length(), 1) + " s in lap " + std::to_string(stop.lap);
    if (stop.is_start && std::isfinite(stop.to_100_kmh_s))
        words += ", 100 km/h after " + fixed(stop.to_100_kmh_s, 1) + " s";
    if (!std::isfinite(stop.lost_s)) return words + "; what it cost cannot be told";
    words += "; " + fixed(stop.lost_s, 1) + " s lost to usual laps";
    if (stop.laps.size() > 1)
        words += " over laps " + std::to_string(stop.laps.front()) + " to " + std::to_string(stop.laps.back());
    return words;
}

}  // namespace rendak
