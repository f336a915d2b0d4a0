#include "core/intake/edit_track.h"

#include <algorithm>
#include <cmath>

#include "core/intake/import.h"

namespace rendak {

Result<TrackState> track_state(const Library& library, TrackId id) {
    auto text = library.track_geojson(id);
    if (!text) return pass_on(text.error());
    auto marks = library.marks(id);
    if (!marks) return pass_on(marks.error());
    return TrackState{std::move(*text), std::move(*marks)};
}

TrackState edited_state(const TrackState& before, const Track& edited, double start_moved_m) {
    TrackState after{track_to_geojson(edited), before.marks};
    if (start_moved_m == 0 || edited.open) return after;
    const double length_m = edited.length_m;
    for (Mark& mark : after.marks) {
        const double begin = edited.wrapped(mark.range_m.begin - start_moved_m),
                     end = edited.wrapped(mark.range_m.end - start_moved_m);
        if (begin <= end)
            mark.range_m = {begin, end};
        else if (length_m - begin > end)
            mark.range_m = {begin, length_m};
        else
            mark.range_m = {0, end};
    }
    return after;
}

TrackState reversed_state(const TrackState& before, const Track& edited) {
    TrackState after{track_to_geojson(edited), before.marks};
    for (Mark& mark : after.marks)
        mark.range_m = {edited.length_m - mark.range_m.end, edited.length_m - mark.range_m.begin};
    return after;
}

Result<void> put_track_state(Library& library, TrackId id, const TrackState& state, bool recut, const JobContext& job) {
    const auto row = library.track(id);
    if (!row) return pass_on(row.error());
    const auto track = track_from_geojson(state.geojson, row->name);
    if (!track) return pass_on(track.error());
    std::vector<std::pair<RunId, std::vector<Lap>>> cuts;
    std::string failures;
    if (recut) {
        auto rows = library.runs();
        if (!rows) return pass_on(rows.error());
        std::erase_if(*rows, [&](const RunRow& run) { return run.track != id; });
        for (std::size_t i = 0; i < rows->size(); ++i) {
            const RunRow& run = (*rows)[i];
            if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled; nothing was changed.");
            auto laps = cut_run(library, run.id, *track);
            if (laps)
                cuts.emplace_back(run.id, std::move(*laps));
            else
                failures += (failures.empty() ? "" : " ") + run.name + ": " + laps.error().message;
            job.report(static_cast<double>(i + 1) / static_cast<double>(rows->size()));
        }
    }
    // The track, its marks and the laps of all runs change together: laps cut at two lines would be worse than none.
    Library::Act act(library);
    if (auto begun = act.begun(); !begun) return begun;
    if (const auto put = library.put_track(row->name, track->length_m, state.geojson); !put)
        return pass_on(put.error());
    for (const Mark& mark : state.marks) {
        if (auto done = library.set_mark_range(mark.id, mark.range_m); !done) return done;
    }
    for (const auto& [run, laps] : cuts) {
        if (auto done = library.set_laps(run, laps); !done) return done;
    }
    if (auto done = act.commit(); !done) return done;
    if (!failures.empty())
        return fail(ErrorCode::io, "The track is changed, but not every run could be cut again. " + failures);
    return {};
}

}  // namespace rendak
