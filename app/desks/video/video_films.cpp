// Films come in, are found again, go, and become clips.
#include "app/desks/video/video_desk.h"
#include "app/film/add_films.h"
#include "app/film/clip.h"
#include "app/text/sentences.h"
#include "app/text/shown.h"

namespace rendak::app {

void VideoDesk::add_films(const std::vector<std::vector<std::filesystem::path>>& films, const QString& camera,
                          bool keep) {
    AddFilm how;
    how.camera = camera.toStdString();
    if (!workspace_.comparison().laps().empty()) how.car = workspace_.comparison().laps().baseline().run->row.car;
    how.keep = keep;
    adding_.run<FilmsAdded>(
        tr("Adding films"),
        [folder = workspace_.library().folder(), films, how](const JobContext& job) {
            return file_films(folder, films, how, job);
        },
        [this](const Result<FilmsAdded>& added) {
            tell_added(workspace_, added, tr("Put each in step with its run."));
        });
}

void VideoDesk::add_folder(const std::filesystem::path& folder, const QString& camera) {
    adding_.run<std::vector<std::vector<std::filesystem::path>>>(
        tr("Looking for films"), [folder](const JobContext& job) { return films_in(folder, job); },
        [this, camera](Result<std::vector<std::vector<std::filesystem::path>>> found) {
            if (!found) {
                if (found.error().code != ErrorCode::cancelled) workspace_.tell(found.error());
                return;
            }
            add_films(*found, camera, false);
        });
}

void VideoDesk::find_moved(const std::filesystem::path& folder) {
    adding_.run<std::size_t>(
        tr("Looking for films"),
        [library_folder = workspace_.library().folder(), folder](const JobContext& job) -> Result<std::size_t> {
            const auto library = Library::open(library_folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            return find_films_again(**library, folder, job);
        },
        [this](Result<std::size_t> found) {
            if (!found) {
                if (found.error().code != ErrorCode::cancelled) workspace_.tell(found.error());
                return;
            }
            workspace_.tell(
                *found == 0
                    ? tr("None of the missing films is there.")
                    : tr("Found again: %1.").arg(counted(static_cast<qsizetype>(*found), tr("file"), tr("files"))));
            workspace_.library_changed(Change::marks);
        });
}

void VideoDesk::take_out(std::int64_t film) {
    const auto done = drop_film(workspace_.library(), film);
    if (!done) return workspace_.tell(done.error());
    workspace_.library_changed(Change::marks);
}

void VideoDesk::write_clip(const Clip& clip) {
    if (chosen_ == nullptr || !chosen_->film()) return;
    struct Side {
        std::string camera;
        std::shared_ptr<const RunData> run;
        PreparedLap lap;
        int slot;
    };
    std::vector<Side> sides;
    const auto add = [&](const FilmTile& tile) {
        const ComparedLap& it = workspace_.comparison().laps().laps[static_cast<std::size_t>(tile.film()->slot)];
        sides.push_back({tile.film()->film.camera, it.run, it.lap, tile.film()->slot});
    };
    if (clip.both) {
        int last = -1;
        for (FilmTile* tile : shown_tiles())
            if (tile->film()->slot != std::exchange(last, tile->film()->slot)) add(*tile);
    } else {
        add(*chosen_);
    }
    clipping_.run<ClipMade>(
        tr("Writing the clip"),
        [folder = workspace_.library().folder(), sides, clip,
         style = style_](const JobContext& job) -> Result<ClipMade> {
            const auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            ClipWish wish;
            wish.style = style;
            wish.file = clip.file.toStdString();
            wish.size = clip.size;
            wish.beside = clip.beside;
            for (const Side& side : sides) {
                auto part = clip_part(**library, side.camera, side.run, side.lap, side.slot,
                                      clip_span(side.lap, clip.range_m, clip.lead_s));
                if (!part) return pass_on(part.error());
                wish.parts.push_back(std::move(*part));
            }
            return make_clip(wish, job);
        },
        [this, file = clip.file](Result<ClipMade> made) {
            if (!made) {
                if (made.error().code != ErrorCode::cancelled) workspace_.tell(made.error());
                return;
            }
            workspace_.tell(tr("Written: %1, %2 s, %3 MB, %4.")
                                .arg(file)
                                .arg(made->seconds, 0, 'f', 1)
                                .arg(static_cast<double>(made->bytes) / 1e6, 0, 'f', 1)
                                .arg(QString::fromStdString(made->coded_as)));
        });
}

}  // namespace rendak::app
