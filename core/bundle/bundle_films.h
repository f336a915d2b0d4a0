#pragma once

#include "core/bundle/bundle.h"
#include "core/bundle/zip_file.h"
#include "core/video/film_book.h"

namespace rendak {

// films.json in a bundle, and videos/<digest> beside it: films that lie on the bundle's runs.

/// A film as it travels: its places name runs by where they stand in the bundle.
struct BundleFilm {
    KeptFilm film;  ///< its files by their digests; runs of places: the place of the run in the bundle
    [[nodiscard]] std::string key() const {
        return "film:" + (film.files.empty() ? std::string() : film.files.front().digest);
    }
};

/// Adds the films that lie on these runs (by their order in the bundle). Fails where one's files are missing.
[[nodiscard]] Result<void> add_films(const Library& library, const std::vector<RunId>& runs,
                                     std::vector<ZipEntry>& entries);
/// None in a bundle without films. Every field is checked.
[[nodiscard]] Result<std::vector<BundleFilm>> films_in_bundle(const ZipReader& zip, std::size_t runs,
                                                              const std::string& file);
/// The library's film of the same content; 0: none.
[[nodiscard]] Result<std::int64_t> same_film(const Library& library, const BundleFilm& film);
/// Unpacks its files into videos/, checks each against its digest, and files it with its places on the runs that came
/// in.
[[nodiscard]] Result<void> take_film(Library& library, const ZipReader& zip, const BundleFilm& film,
                                     const std::vector<RunId>& runs, const JobContext& job);

}  // namespace rendak
