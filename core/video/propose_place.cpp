#include "core/video/propose_place.h"

#include "core/base/text.h"

namespace rendak {
namespace {

constexpr double beside_s = 3;

}  // namespace

Result<OffsetFound> propose_place(const Library& library, const KeptFilm& film, const RunData& run,
                                  const std::optional<OffsetHint>& near, const JobContext& job) {
    const auto paths = film_paths(library, film);
    if (!paths) return pass_on(paths.error());
    auto reader = FilmReader::open(*paths, job.part(0, 0.05));
    if (!reader) return pass_on(reader.error());
    const Interval all{0, reader->facts().duration_s};
    auto motion = film_motion(*reader, all, job.part(0.05, 0.85));
    if (!motion && motion.error().code == ErrorCode::cancelled) return pass_on(motion.error());
    auto sound = engine_sound_of(*reader, all, job.part(0.85, 0.97));
    if (!sound && sound.error().code == ErrorCode::cancelled) return pass_on(sound.error());
    if (!motion && !sound) return pass_on(motion.error());
    const DriveSignals signals = drive_signals(*run.recording);
    OffsetFound found = find_offset(signals, motion ? &*motion : nullptr, sound ? &*sound : nullptr, near);
    if (found.at) return found;
    if (!near) {
        // Where somebody has put it about right, no other lap needs to be told apart.
        const FilmPlace* now = film.place_on(run.row.id);
        if (now == nullptr) return found;
        OffsetFound beside = find_offset(signals, motion ? &*motion : nullptr, sound ? &*sound : nullptr,
                                         OffsetHint{now->at.offset_s, beside_s, "where it lay"});
        return beside.at ? beside : found;
    }
    if (!near->enough) return found;
    found.at = FilmOffset{near->offset_s, 1};
    found.check_film_s = all.end / 2;
    found.why = "By " + near->from + ", to " + fixed(near->within_s, 0) +
                " s; picture and sound do not tell it more closely. Mark one event in both.";
    return found;
}

}  // namespace rendak
