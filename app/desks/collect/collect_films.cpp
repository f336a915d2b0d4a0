// Films that lie on a card beside the recordings.
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

#include "app/desks/collect/collect_desk.h"
#include "app/film/add_films.h"
#include "app/text/shown.h"

namespace rendak::app {

void CollectDesk::look_for_films() {
    show_films({});
    const std::filesystem::path card = connected_to_.toStdString();
    filming_.run<CardFilms>(
        tr("Looking for films on the card"),
        [folder = workspace_.library().folder(), card](const JobContext& job) -> Result<CardFilms> {
            std::error_code code;
            if (!std::filesystem::is_directory(card, code)) return CardFilms();  // a logger has none
            const auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            auto found = new_films_in(**library, card, job);
            if (!found) return pass_on(found.error());
            CardFilms out{std::move(*found), 0};
            for (const auto& film : out.films)
                for (const auto& file : film) {
                    const auto size = std::filesystem::file_size(file, code);
                    if (!code) out.bytes += static_cast<double>(size);
                }
            return out;
        },
        [this](Result<CardFilms> found) {
            if (found) return show_films(std::move(*found));
            if (found.error().code != ErrorCode::cancelled) workspace_.tell(found.error());
        });
}

void CollectDesk::show_films(CardFilms found) {
    films_ = std::move(found.films);
    films_line_->setVisible(!films_.empty());
    films_add_->setEnabled(!workspace_.library().is_look_only() && !adding_.running());
    films_text_->setText(
        tr("Also on the card: %1 that the library does not have, %2.")
            .arg(counted(static_cast<qsizetype>(films_.size()), tr("film"), tr("films")), size_text(found.bytes)));
}

void CollectDesk::ask_films() {
    const auto camera = ask_camera(this);
    if (!camera) return;
    const auto keep =
        ask_to_keep(this, tr("Copy the films into the library's folder? They are large, but the card will "
                             "be used again. Else the library remembers where they are."));
    if (keep) add_films(*camera, *keep);
}

void CollectDesk::add_films(const QString& camera, bool keep) {
    if (films_.empty()) return;
    AddFilm how;
    how.camera = camera.toStdString();
    how.car = car_->text().trimmed().toStdString();
    how.keep = keep;
    films_add_->setEnabled(false);
    // Apart from the looking: another card may be put in meanwhile.
    adding_.run<FilmsAdded>(
        tr("Adding films"),
        [folder = workspace_.library().folder(), films = films_, how](const JobContext& job) {
            return file_films(folder, films, how, job);
        },
        [this](const Result<FilmsAdded>& added) {
            tell_added(workspace_, added, tr("Put each in step with its run on Video."));
            look_for_films();
        });
}

}  // namespace rendak::app
