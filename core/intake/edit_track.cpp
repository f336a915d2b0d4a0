#include "core/intake/edit_track.h"

#include <algorithm>
#include <cmath>

#include "core/intake/import.h"

namespace rendak {

Result<TrackState> track_state(const Library& library, TrackId id) {
    auto text = library.track_geojson(id);
    if (!text) return pass_on(text.error());
    return TrackState{std::move(*text), library.marks(id)};
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
    if (const auto put = library.put_track(row->name, track->length_m, state.geojson); !put)
        return pass_on(put.error());
    for (const Mark& mark : state.marks) {
        if (auto done = library.set_mark_range(mark.id, mark.range_m); !done) return done;
    }
    if (!recut) return {};
    std::vector<RunRow> rows = library.runs();
    std::erase_if(rows, [&](const RunRow& run) { return run.track != id; });
    std::string failures;
    for (std::size_t i = 0; i < rows.size(); ++i) {
        // Not cancelled half-way: laps cut at two lines would be worse than waiting.
        if (auto done = recut_run(library, rows[i].id); !done)
            failures += (failures.empty() ? "" : " ") + rows[i].name + ": " + done.error().message;
        job.report(static_cast<double>(i + 1) / static_cast<double>(rows.size()));
    }
    if (!failures.empty())
        return fail(ErrorCode::io, "The track is changed, but not every run could be cut again. " + failures);
    return {};
}

}  // namespace rendak
