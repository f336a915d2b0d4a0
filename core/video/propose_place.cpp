#include "core/video/propose_place.h"

namespace rendak {

Result<OffsetFound> propose_place(const Library& library, const KeptFilm& film, const RunData& run,
                                  const JobContext& job) {
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
    return find_offset(drive_signals(*run.recording), motion ? &*motion : nullptr, sound ? &*sound : nullptr);
}

}  // namespace rendak
