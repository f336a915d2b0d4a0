#include "core/intake/place_run.h"

#include "core/analysis/lap_doubts.h"
#include "core/intake/shared_track.h"
#include "core/laps/beacon.h"
#include "core/laps/counted_laps.h"
#include "core/laps/cut.h"
#include "core/laps/slow_error.h"
#include "core/track/by_shape.h"
#include "core/track/launch.h"
#include "core/track/learn.h"

namespace rendak {
namespace {

/// A run belongs to a track when most of its driving lies on it.

}  // namespace

Result<Path> driven_path(const Recording& recording, const Track* track, const PlaceCorrection& correction) {
    auto path = path_of(recording, track == nullptr ? std::nullopt : std::optional(track->origin));
    if (path) {
        const Point off{correction.east_m, correction.north_m};
        if (off.x != 0 || off.y != 0) {
            for (Point& place : path->position.edit()) place = place - off;
        }
        if (track != nullptr && !track->shape_only)
            take_out_slow_error(*path, *track, SpeedSource(recording, SpeedSource::Prefer::gps));
        return path;
    }
    if (track == nullptr || recording.find("latitude") != nullptr) return path;
    return path_by_shape(recording, *track);
}

std::vector<Lap> laps_on(const Recording& recording, const Path& path, const Track& track,
                         const PlaceCorrection& correction) {
    CutOptions options;
    if (track.open) options.launch_s = correction.launch_s ? correction.launch_s : find_launch(recording);
    auto laps = cut_laps(path, track, options);
    note_beacon(laps, recording, path);
    note_doubts(laps, path, track);
    return laps;
}

std::vector<Lap> laps_without_track(const Recording& recording) {
    const bool has_places =
        recording.find_logged("latitude") != nullptr && recording.find_logged("longitude") != nullptr;
    return has_places ? std::vector<Lap>{} : counted_laps(recording);
}

Result<RecognisedTrack> recognised_track(const Library& library, const Path& path) {
    const auto rows = library.tracks();
    if (!rows) return pass_on(rows.error());
    RecognisedTrack out;
    double nearest_m = 1e9, most = 0;
    for (const TrackRow& row : *rows) {
        const auto track = shared_track(library, row.id);
        if (!track || (*track)->shape_only) continue;
        const TrackFit fit = fit_on_track(path, **track);
        if (fit.place() == TrackFit::Place::other_layout && fit.share > most) {
            most = fit.share;
            out.other_layout_of = row.name;
        }
        if (fit.place() != TrackFit::Place::here || fit.apart_m >= nearest_m) continue;
        nearest_m = fit.apart_m;
        out.track = KnownTrack{row.id, **track};
    }
    if (out.track) out.other_layout_of.clear();
    return out;
}

Result<std::optional<KnownTrack>> recognised_by_shape(const Library& library, const Recording& recording,
                                                      bool& turned_round) {
    const auto rows = library.tracks();
    if (!rows) return pass_on(rows.error());
    const auto profile = bend_profile(recording);
    if (!profile) return std::optional<KnownTrack>();
    std::optional<KnownTrack> best;
    double most = shape_fits;
    for (const TrackRow& row : *rows) {
        const auto track = shared_track(library, row.id);
        if (!track || (*track)->open) continue;
        const ShapePlacing placing = place_by_shape(*profile, **track);
        if (placing.fit < most) continue;
        most = placing.fit;
        turned_round = placing.turned_round;
        best = KnownTrack{row.id, **track};
    }
    return best;
}

}  // namespace rendak
