#pragma once

#include <QString>
#include <optional>

#include "app/workspace/workspace.h"
#include "core/video/film_book.h"

class QWidget;

namespace rendak::app {

struct FilmsAdded {
    std::vector<KeptFilm> films;
    std::vector<Error> problems;  ///< of those that could not be added
};
/// Files films, each of the files that follow each other, and makes small copies of wide ones for quick jumps. For a
/// job; what was filed before a cancel stays.
[[nodiscard]] Result<FilmsAdded> file_films(const std::filesystem::path& library,
                                            const std::vector<std::vector<std::filesystem::path>>& films,
                                            const AddFilm& how, const JobContext& job);

/// Says in the foot line what came in, and what did not; `then`: what is to be done with them.
void tell_added(Workspace& workspace, const Result<FilmsAdded>& added, const QString& then);

/// Asks which way the camera looks; none: nothing is to be done.
[[nodiscard]] std::optional<QString> ask_camera(QWidget* parent);
/// Asks whether films are copied into the library; none: nothing is to be done.
[[nodiscard]] std::optional<bool> ask_to_keep(QWidget* parent, const QString& what);

}  // namespace rendak::app
