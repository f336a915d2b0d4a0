// Films that lie on a card beside the recordings.
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

#include "app/desks/collect/collect_desk.h"
#include "app/film/add_films.h"
#include "app/text/shown.h"

namespace rendak::app {

void CollectDesk::look_for_films() {
    films_.clear();
    show_films();
    const std::filesystem::path card = connected_to_.toStdString();
    using Films = std::vector<std::vector<std::filesystem::path>>;
    filming_.run<Films>(
        tr("Looking for films on the card"),
        [folder = workspace_.library().folder(), card](const JobContext& job) -> Result<Films> {
            std::error_code code;
            if (!std::filesystem::is_directory(card, code)) return Films();  // a logger has none
            const auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            return new_films_in(**library, card, job);
        },
        [this](Result<Films> found) {
            if (!found) {
                if (found.error().code != ErrorCode::cancelled) workspace_.tell(found.error());
                return;
            }
            films_ = std::move(*found);
            show_films();
        });
}

void CollectDesk::show_films() {
    films_line_->setVisible(!films_.empty());
    films_add_->setEnabled(!workspace_.library().is_look_only());
    double bytes = 0;
    for (const auto& film : films_)
        for (const auto& file : film) {
            std::error_code code;
            const auto size = std::filesystem::file_size(file, code);
            if (!code) bytes += static_cast<double>(size);
        }
    films_text_->setText(
        tr("Also on the card: %1 that the library does not have, %2.")
            .arg(counted(static_cast<qsizetype>(films_.size()), tr("film"), tr("films")), size_text(bytes)));
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
    filming_.run<FilmsAdded>(
        tr("Adding films"),
        [folder = workspace_.library().folder(), films = films_, how](const JobContext& job) {
            return file_films(folder, films, how, job);
        },
        [this](Result<FilmsAdded> added) {
            films_add_->setEnabled(true);
            if (!added) {
                if (added.error().code != ErrorCode::cancelled) workspace_.tell(added.error());
                return;
            }
            for (const Error& problem : added->problems) workspace_.tell(problem);
            if (!added->films.empty())
                workspace_.tell(
                    tr("Added %1. Put each in step with its run on Video.")
                        .arg(counted(static_cast<qsizetype>(added->films.size()), tr("film"), tr("films"))));
            workspace_.library_changed(Change::marks);
            look_for_films();
        });
}

}  // namespace rendak::app
