#pragma once

#include <map>

#include "app/film/film_source.h"
#include "app/focus/comparison.h"

namespace rendak::app {

/// Films that lie on a lap, then those that lie on its run beside it; in the order they were added.
[[nodiscard]] std::vector<const KeptFilm*> films_on_lap(const std::vector<KeptFilm>& films, const ComparedLap& lap);

/// Open films, each once for every place where it is shown: a source gives one frame in one size, and two that ask it
/// for two of them would never be done.
class FilmSources {
  public:
    /// A film whose files moved is another source.
    [[nodiscard]] std::shared_ptr<FilmSource> of(const Library& library, const KeptFilm& film, int place);

  private:
    std::map<std::pair<std::vector<std::string>, int>, std::weak_ptr<FilmSource>> known_;  // by files and place
};

}  // namespace rendak::app
