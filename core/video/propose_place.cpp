#include "core/video/propose_place.h"

#include "core/base/text.h"

namespace rendak {
namespace {

constexpr double beside_s = 3;

/// A run of the same car on the same track at that event whose laps the film fits better; its name. A lap that was
/// driven alike on another run can fit, too, where nothing is heard.
Result<std::string> fits_better(const Library& library, const RunRow& here, const OffsetFound& found,
                                const FilmMotion& motion, const JobContext& job) {
    const auto runs = library.runs();
    if (!runs) return pass_on(runs.error());
    for (const RunRow& it : *runs) {
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
        if (it.id == here.id || it.event != here.event || it.car != here.car || it.track != here.track) continue;
        const auto opened = load_run(library, it.id);
        if (!opened) continue;  // what cannot be read is told where it is opened
        const OffsetFound there = find_offset(drive_signals(*(*opened)->recording), &motion, nullptr);
        if (there.at && there.left_over < found.left_over) return it.name;
    }
    return std::string();
}

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
    const bool heard = proposed_how(found).find("sound") != std::string::npos;
    if (found.at && !near && motion && !heard) {
        const auto other = fits_better(library, run.row, found, *motion, job.part(0.97, 1));
        if (!other) return pass_on(other.error());
        if (!other->empty()) {
            found.at.reset();
            found.why = "It cannot be told: the film fits " + *other + " better.";
            return found;
        }
    }
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
