#include "core/intake/places_apart.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/alignment.h"
#include "core/base/median.h"
#include "core/base/text.h"
#include "core/intake/place_run.h"
#include "core/intake/run_data.h"
#include "core/intake/run_recording.h"
#include "core/laps/cut.h"

namespace rendak {
namespace {

/// The best lap of a run, on a path of it, ready to be held against others.
std::optional<PreparedLap> best_on(RunId run, const Recording& recording, const Path& path,
                                   const std::shared_ptr<const Track>& track, const std::vector<Lap>& laps) {
    const Lap* best = best_lap(laps);
    if (best == nullptr) return std::nullopt;
    PreparedLap lap;
    lap.ref = {run, best->number};
    lap.recording = std::make_shared<const Recording>(recording);
    lap.track = track;
    lap.path = std::make_shared<const Path>(path);
    lap.map = align_lap(path, *track, best->start_s, best->end_s);
    return lap;
}

std::vector<PreparedLap> best_laps_of(const Library& library, const std::vector<RunRow>& runs, const RunRow& own) {
    constexpr std::size_t most_runs = 3;
    std::vector<PreparedLap> out;
    for (auto row = runs.rbegin(); row != runs.rend() && out.size() < most_runs; ++row) {
        if (row->id == own.id || row->track != own.track || row->car != own.car) continue;
        const auto run = load_run(library, row->id);
        const Lap* best = run ? best_lap((*run)->laps) : nullptr;
        if (best == nullptr) continue;
        if (auto lap = prepare_lap(**run, best->number)) out.push_back(std::move(*lap));
    }
    return out;
}

/// How far behind all the others a lap is; none when they do not agree.
std::optional<double> behind_all(const std::vector<PreparedLap>& others, const PreparedLap& lap) {
    constexpr double least_m = 8;
    std::vector<double> behind;
    for (const PreparedLap& other : others) {
        const auto found = along_offset(other, lap);
        if (!found || !found->stands_out() || std::abs(found->behind_m) < least_m) return std::nullopt;
        if (!behind.empty() && (found->behind_m > 0) != (behind.front() > 0)) return std::nullopt;
        behind.push_back(found->behind_m);
    }
    return behind.empty() ? std::nullopt : std::optional(median_of(behind));
}

}  // namespace

std::optional<PlacesApart> places_apart_from_others(const Library& library, const std::vector<RunRow>& others,
                                                    const RunRow& row, const Recording& recording, const Path& path,
                                                    const Track& track, const std::vector<Lap>& laps,
                                                    const PlaceCorrection& correction) {
    const auto shared = std::make_shared<const Track>(track);
    const auto own = best_on(row.id, recording, path, shared, laps);
    if (!own) return std::nullopt;
    const auto best_laps = best_laps_of(library, others, row);
    const auto behind = behind_all(best_laps, *own);
    if (!behind) return std::nullopt;
    const bool alone = best_laps.size() == 1;
    PlacesApart out;
    out.what = "The slow-downs of this run lie " + fixed(std::abs(*behind), 0) + " m " +
               (*behind > 0 ? "further on" : "earlier") + " than those of " +
               (alone ? "the other run here" : "the other runs here") + ": its positions come " +
               (*behind > 0 ? "early" : "late") + (alone ? ", or the other's do the opposite." : ".");

    // Worth an act only when it cures: tried here, and held against another again.
    const auto left_behind = [&](const PlaceCorrection& tried) -> std::optional<double> {
        Recording later = recording;
        for (Channel& channel : later.channels) {
            if (comes_from_receiver(channel)) channel = moved_in_time(channel, correction.delay_s - tried.delay_s);
        }
        const auto moved = driven_path(later, &track, tried);
        if (!moved) return std::nullopt;
        const auto lap = best_on(row.id, later, *moved, shared, laps_on(later, *moved, track, tried));
        const auto left = lap ? along_offset(best_laps.front(), *lap) : std::nullopt;
        return left ? std::optional(left->behind_m) : std::nullopt;
    };
    // The car is slower where it slows down than over the lap: the second step goes by what the first one did.
    PlaceCorrection after = correction;
    double step_s = -*behind * own->time_s() / track.length_m, last = *behind;
    for (int round = 0; round < 2 && std::abs(last) >= 2; ++round) {
        after.delay_s += step_s;
        const auto left = left_behind(after);
        if (!left) return out;
        const double moved_m = last - *left;
        last = *left;
        if (std::abs(moved_m) < 1) break;
        step_s *= last / moved_m;
    }
    if (std::abs(last) > std::max(2.0, std::abs(*behind) / 3)) return out;
    out.cure = "Move its positions by " + fixed(std::abs(after.delay_s - correction.delay_s), 2) + " s";
    out.after = after;
    return out;
}

}  // namespace rendak
