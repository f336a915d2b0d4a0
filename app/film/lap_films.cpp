#include "app/film/lap_films.h"

namespace rendak::app {

std::vector<const KeptFilm*> films_on_lap(const std::vector<KeptFilm>& films, const ComparedLap& lap) {
    std::vector<const KeptFilm*> out;
    for (const bool wanted : {true, false}) {
        for (const KeptFilm& film : films) {
            const FilmPlace* place = film.place_on(lap.run->row.id);
            if (place == nullptr) continue;
            const bool covers =
                place->at.run_s(0) < lap.lap.map.end_s() && place->at.run_s(film.duration_s) > lap.lap.map.start_s();
            if (covers == wanted) out.push_back(&film);
        }
    }
    return out;
}

std::shared_ptr<FilmSource> FilmSources::of(const Library& library, const KeptFilm& film, int place) {
    const auto files = film_files(library, film);
    std::weak_ptr<FilmSource>& kept = known_[{files, place}];
    if (auto alive = kept.lock()) return alive;
    auto made = std::make_shared<FilmSource>(files, small_copy_of(library, film));
    kept = made;
    return made;
}

}  // namespace rendak::app
