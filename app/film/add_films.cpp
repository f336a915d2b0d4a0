#include "app/film/add_films.h"

#include <QInputDialog>
#include <QMessageBox>
#include <QPushButton>
#include <algorithm>

#include "app/text/shown.h"

namespace rendak::app {
namespace {

/// Films wider than this get a small copy for quick jumps.
constexpr int wide_px = 960, small_px = 640;

/// What the film itself cannot do quickly is done small; a copy that cannot be made is done without.
void make_small_copy(const Library& library, const KeptFilm& film, const JobContext& job) {
    const auto paths = film_paths(library, film);
    if (!paths) return;
    std::error_code code;
    std::filesystem::create_directories(small_copy_of(library, film).parent_path(), code);
    auto reader = FilmReader::open(*paths, job);
    if (!reader) return;
    const int height = small_px * film.height / std::max(1, film.width) / 2 * 2;
    (void)reader->copy_small(small_copy_of(library, film).string(), small_px, std::max(2, height), job);
}

}  // namespace

Result<FilmsAdded> file_films(const std::filesystem::path& folder,
                              const std::vector<std::vector<std::filesystem::path>>& films, const AddFilm& how,
                              const JobContext& job) {
    const auto library = Library::open(folder, Library::Open::existing);
    if (!library) return pass_on(library.error());
    FilmsAdded out;
    for (std::size_t k = 0; k < films.size(); ++k) {
        const double each = 1.0 / static_cast<double>(films.size()), from = each * static_cast<double>(k);
        AddFilm one = how;
        one.files = films[k];
        auto film = add_film(**library, one, job.part(from, from + 0.6 * each));
        if (!film) {
            if (film.error().code == ErrorCode::cancelled) break;
            out.problems.push_back(film.error());
            continue;
        }
        if (film->width > wide_px) make_small_copy(**library, *film, job.part(from + 0.6 * each, from + each));
        out.films.push_back(std::move(*film));
    }
    return out;
}

void tell_added(Workspace& workspace, const Result<FilmsAdded>& added, const QString& then) {
    if (!added) {
        if (added.error().code != ErrorCode::cancelled) workspace.tell(added.error());
        return;
    }
    for (const Error& problem : added->problems) workspace.tell(problem);
    if (!added->films.empty())
        workspace.tell(
            QObject::tr("Added %1. %2")
                .arg(counted(static_cast<qsizetype>(added->films.size()), QObject::tr("film"), QObject::tr("films")),
                     then));
    workspace.library_changed(Change::marks);
}

std::optional<QString> ask_camera(QWidget* parent) {
    bool chosen = false;
    const QString camera = QInputDialog::getItem(
        parent, QObject::tr("Which camera"), QObject::tr("The camera looks"),
        {QStringLiteral("forward"), QStringLiteral("driver"), QStringLiteral("rearward")}, 0, true, &chosen);
    return chosen && !camera.isEmpty() ? std::optional(camera) : std::nullopt;
}

std::optional<bool> ask_to_keep(QWidget* parent, const QString& what) {
    QMessageBox ask(QMessageBox::Question, QObject::tr("Copy into the library?"), what, QMessageBox::Cancel, parent);
    ask.setTextFormat(Qt::PlainText);
    const auto* copy = ask.addButton(QObject::tr("Copy"), QMessageBox::YesRole);
    const auto* link = ask.addButton(QObject::tr("Leave them where they are"), QMessageBox::NoRole);
    ask.exec();
    if (ask.clickedButton() == copy) return true;
    return ask.clickedButton() == link ? std::optional(false) : std::nullopt;
}

}  // namespace rendak::app
