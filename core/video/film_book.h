#pragma once

#include <cstdint>
#include <filesystem>
#include <string>
#include <vector>

#include "core/library/library.h"
#include "core/video/film_link.h"
#include "core/video/film_offset.h"

namespace rendak {

struct FilmFile {
    std::string file;    ///< whole path; of a kept one its name in the library's videos/
    bool kept = false;   ///< the library has it, else it is only linked to
    std::string digest;  ///< SHA-256
    std::uint64_t size = 0;
    bool operator==(const FilmFile&) const = default;
};

/// One event, seen in the film and found in the run.
struct FilmMark {
    double film_s = 0, run_s = 0;
    bool operator==(const FilmMark&) const = default;
};

/// Where a film lies on a run.
struct FilmPlace {
    RunId run;
    FilmOffset at;
    std::string how;  ///< "by hand", "by the clocks", "turning, sound"
    std::vector<FilmMark> marks = {};
    bool operator==(const FilmPlace&) const = default;
};

/// A film that the library knows: one camera's files that follow each other.
struct KeptFilm {
    std::int64_t id = 0;
    std::string camera;  ///< "forward", "driver", "rearward", or what people call it
    std::string car;
    std::vector<FilmFile> files;
    int width = 0, height = 0;
    double frames_per_s = 0, duration_s = 0;
    std::size_t frames = 0;
    bool sound = false;
    std::optional<double> start_unix_s = {};  ///< by the camera's clock
    std::vector<FilmPlace> places = {};
    bool operator==(const KeptFilm&) const = default;

    /// Its place on a run; null when it has none.
    [[nodiscard]] const FilmPlace* place_on(RunId run) const;
    /// "forward, clip0001.mp4"
    [[nodiscard]] std::string title() const;
};
/// As one line of JSON (as the command line prints it), and back.
[[nodiscard]] std::string place_text(const FilmPlace& place);
[[nodiscard]] std::string film_text(const KeptFilm& film);
[[nodiscard]] Result<KeptFilm> film_from_text(const std::string& text);
/// In the order added.
[[nodiscard]] Result<std::vector<KeptFilm>> kept_films(const Library& library);
[[nodiscard]] Result<KeptFilm> kept_film(const Library& library, std::int64_t id);
/// All of them at once.
[[nodiscard]] Result<void> set_kept_films(Library& library, const std::vector<KeptFilm>& films);

/// A name in a folder that nobody has yet, like the one that is wanted.
[[nodiscard]] std::filesystem::path free_film_name(const std::filesystem::path& folder,
                                                   const std::filesystem::path& wanted);

struct AddFilm {
    std::vector<std::filesystem::path> files;  ///< in their order, as one film
    std::string camera = "forward";
    std::string car = {};
    bool keep = false;  ///< copy them into the library's videos/
};
/// Opens the files, reads them through for their digests and files them. Code `exists` when a film of these files is
/// there already. A cancel or an error leaves nothing behind.
[[nodiscard]] Result<KeptFilm> add_film(Library& library, const AddFilm& film, const JobContext& job = {});
/// Files of a folder that are films, in groups that follow each other: a camera that cuts its recording into files of
/// the same size names them in their order, and each begins when the one before ends.
[[nodiscard]] Result<std::vector<std::vector<std::filesystem::path>>> films_in(const std::filesystem::path& folder,
                                                                               const JobContext& job = {});
/// Those of films_in() that the library does not know yet, by name and size; none is no error.
[[nodiscard]] Result<std::vector<std::vector<std::filesystem::path>>> new_films_in(const Library& library,
                                                                                   const std::filesystem::path& folder,
                                                                                   const JobContext& job = {});
/// Takes a film out of the library; what was copied into it goes, files that were linked to stay where they are.
[[nodiscard]] Result<void> drop_film(Library& library, std::int64_t id);

/// Where its files should be; the disk is not asked.
[[nodiscard]] std::vector<std::string> film_files(const Library& library, const KeptFilm& film);
/// Fails with the first that is missing.
[[nodiscard]] Result<void> check_film_files(const std::vector<std::string>& files);
/// Both.
[[nodiscard]] Result<std::vector<std::string>> film_paths(const Library& library, const KeptFilm& film);
/// Looks in a folder, and those in it, for the files of films that have moved, by size and digest. How many were found.
[[nodiscard]] Result<std::size_t> find_films_again(Library& library, const std::filesystem::path& folder,
                                                   const JobContext& job = {});

/// Writes where a film lies on a run; replaces what was said of that run.
[[nodiscard]] Result<void> place_film(Library& library, std::int64_t id, const FilmPlace& place);
/// Takes a film off a run again.
[[nodiscard]] Result<void> unplace_film(Library& library, std::int64_t id, RunId run);
/// From events seen in both: one gives the offset, two that are 20 s apart or more the clocks' ratio as well. Fails
/// where the marks contradict each other (a ratio over 0.5 % off).
[[nodiscard]] Result<FilmOffset> offset_of_marks(const std::vector<FilmMark>& marks);
/// By the dates of both; none where one has none. Cameras' clocks are often minutes off: for a first look only.
[[nodiscard]] std::optional<FilmOffset> offset_by_clocks(const KeptFilm& film, const RunRow& run);

/// Where the small copy for quick jumps is, once somebody has made it.
[[nodiscard]] std::filesystem::path small_copy_of(const Library& library, const KeptFilm& film);

}  // namespace rendak
