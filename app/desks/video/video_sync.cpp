// Putting a film and a run in step.
#include <QComboBox>
#include <QPushButton>
#include <cmath>

#include "app/desks/video/video_desk.h"
#include "app/text/shown.h"
#include "core/recording/readers.h"
#include "core/video/log_offset.h"
#include "core/video/propose_place.h"

namespace rendak::app {

void VideoDesk::put_place(const FilmPlace& place, const QString& what) {
    if (chosen_ == nullptr || !chosen_->film()) return;
    Library* library = &workspace_.library();
    const std::int64_t id = chosen_->film()->film.id;
    const auto film = kept_film(*library, id);
    if (!film) return workspace_.tell(film.error());
    const FilmPlace* now = film->place_on(place.run);
    const std::optional<FilmPlace> before = now == nullptr ? std::nullopt : std::optional(*now);
    // The way back touches nothing else: films may have come in meanwhile.
    workspace_.edit(
        what, [library, id, place] { return place_film(*library, id, place); },
        [library, id, before, run = place.run] {
            return before ? place_film(*library, id, *before) : unplace_film(*library, id, run);
        },
        Change::marks);
}

void VideoDesk::nudge(double by_s) {
    if (chosen_ == nullptr || !chosen_->film()) return;
    const FilmTile::Of& of = *chosen_->film();
    FilmPlace place =
        of.place.value_or(FilmPlace{of.moments->lap().ref.run, {of.moments->lap().map.start_s(), 1}, {}, {}});
    place.at.offset_s += by_s;
    place.how = "by hand";
    place.marks.clear();
    marks_.clear();
    put_place(place, tr("put the film in step"));
}

void VideoDesk::by_clocks() {
    if (chosen_ == nullptr || !chosen_->film()) return;
    const FilmTile::Of& of = *chosen_->film();
    const auto row = workspace_.library().run(of.moments->lap().ref.run);
    if (!row) return workspace_.tell(row.error());
    const auto at = offset_by_clocks(of.film, *row);
    if (!at) return workspace_.tell(tr("The film or the run has no date."));
    put_place({row->id, *at, "by the clocks", {}}, tr("put the film in step"));
}

void VideoDesk::mark_here() {
    if (chosen_ == nullptr || !chosen_->film()) return;
    if (!chosen_->holds()) {
        chosen_->hold(true);
        mark_->setText(tr("This is the same moment"));
        workspace_.tell(tr("The picture is held. Move the cursor to the same event in the traces, then press again."));
        return tell();
    }
    const FilmTile::Of of = *chosen_->film();
    const double film_s = chosen_->film_s(), run_s = replay_.time_of(of.slot);
    chosen_->hold(false);
    mark_->setText(tr("Mark an event"));
    if (marks_of_ != of.film.id) {
        marks_of_ = of.film.id;
        marks_ = of.place ? of.place->marks : std::vector<FilmMark>();
    }
    // An event that is marked again, near the old place, replaces it.
    std::erase_if(marks_, [&](const FilmMark& it) { return std::abs(it.film_s - film_s) < 20; });
    marks_.push_back({film_s, run_s});
    const auto at = offset_of_marks(marks_);
    if (!at) {
        marks_ = {{film_s, run_s}};
        workspace_.tell(at.error());
        return;
    }
    put_place({of.moments->lap().ref.run, *at, "by hand", marks_}, tr("put the film in step"));
}

void VideoDesk::propose() {
    look({});
}

void VideoDesk::propose_by_log(const std::filesystem::path& log) {
    look(log);
}

void VideoDesk::look(const std::filesystem::path& log) {
    if (chosen_ == nullptr || !chosen_->film()) return;
    const FilmTile::Of& of = *chosen_->film();
    propose_->setEnabled(false);
    proposing_.run<OffsetFound>(
        tr("Looking at the film"),
        [folder = workspace_.library().folder(), film = of.film, log,
         run = of.moments->lap().ref.run](const JobContext& job) -> Result<OffsetFound> {
            const auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            const auto opened = load_run(**library, run);
            if (!opened) return pass_on(opened.error());
            std::optional<OffsetHint> near;
            if (!log.empty()) {
                const auto read = read_logged_file(log, {}, job.part(0, 0.05));
                if (!read) return pass_on(read.error());
                auto hint = hint_of_log(film.start_unix_s, read->recording, *(*opened)->recording);
                if (!hint) return pass_on(hint.error());
                near = std::move(*hint);
            }
            return propose_place(**library, film, **opened, near, job);
        },
        [this, id = of.film.id, run = of.moments->lap().ref.run](Result<OffsetFound> found) {
            propose_->setEnabled(true);
            if (!found) {
                if (found.error().code != ErrorCode::cancelled) workspace_.tell(found.error());
                return;
            }
            if (!found->at) return workspace_.tell(QString::fromStdString(found->why));
            if (chosen_ == nullptr || !chosen_->film() || chosen_->film()->film.id != id) return;
            put_place({run, *found->at, proposed_how(*found), {}}, tr("put the film in step"));
            // Where it can be checked: late in the film, where the car does something that is to be seen.
            const PreparedLap& lap = chosen_->film()->moments->lap();
            const double check_s = found->at->run_s(found->check_film_s);
            if (lap.track != nullptr && check_s > lap.map.start_s() && check_s < lap.map.end_s())
                workspace_.focus().set_cursor(lap.map.distance_at(check_s));
            workspace_.tell(QString::fromStdString(found->why) + QStringLiteral(" ") +
                            tr("Check it here: the car turns."));
        });
}

}  // namespace rendak::app
