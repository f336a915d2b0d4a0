#include "core/bundle/bundle_films.h"

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/base/file_io.h"
#include "core/base/sha256.h"

namespace rendak {
namespace {

using FilmJson = nlohmann::json;

constexpr std::size_t most_film_json = 16U << 20;

std::string entry_of(const FilmFile& file) {
    return "videos/" + file.digest;
}

}  // namespace

Result<void> add_films(const Library& library, const std::vector<RunId>& runs, std::vector<ZipEntry>& entries) {
    const auto films = kept_films(library);
    if (!films) return pass_on(films.error());
    FilmJson all = FilmJson::array();
    for (const KeptFilm& film : *films) {
        KeptFilm out = film;
        out.places.clear();
        for (const FilmPlace& place : film.places) {
            const auto found = std::find(runs.begin(), runs.end(), place.run);
            if (found == runs.end()) continue;
            out.places.push_back(place);
            out.places.back().run = {found - runs.begin()};
        }
        if (out.places.empty()) continue;
        const auto paths = film_paths(library, film);
        if (!paths) return pass_on(paths.error());
        for (std::size_t k = 0; k < out.files.size(); ++k) {
            entries.push_back({entry_of(out.files[k]), "", (*paths)[k]});
            out.files[k].file = std::filesystem::path((*paths)[k]).filename().string();
            out.files[k].kept = true;
        }
        all.push_back(FilmJson::parse(film_text(out)));
    }
    if (!all.empty()) entries.push_back({"films.json", all.dump(), {}});
    return {};
}

Result<std::vector<BundleFilm>> films_in_bundle(const ZipReader& zip, std::size_t runs, const std::string& file) {
    std::vector<BundleFilm> out;
    if (!zip.has("films.json")) return out;
    const auto bad = [&] {
        return fail(ErrorCode::bad_input, "What the bundle says of its films cannot be read.", file);
    };
    const auto text = zip.text("films.json", most_film_json);
    if (!text) return pass_on(text.error());
    const FilmJson all = FilmJson::parse(*text, nullptr, false);
    if (!all.is_array()) return bad();
    for (const FilmJson& one : all) {
        auto film = film_from_text(one.dump(-1, ' ', false, FilmJson::error_handler_t::replace));
        if (!film || film->files.empty()) return bad();
        for (const FilmFile& it : film->files) {
            // The name is only wished for; nothing of it leads out of videos/.
            if (!is_hex(it.digest, 64) || !zip.has(entry_of(it)) || it.file.empty() || it.file == "." ||
                it.file == ".." || it.file.find_first_of("/\\") != std::string::npos)
                return bad();
        }
        for (const FilmPlace& it : film->places) {
            if (it.run.value < 0 || static_cast<std::size_t>(it.run.value) >= runs || !std::isfinite(it.at.offset_s) ||
                !(std::abs(it.at.rate - 1) < 0.02))
                return bad();
        }
        out.push_back({std::move(*film)});
    }
    return out;
}

Result<std::int64_t> same_film(const Library& library, const BundleFilm& film) {
    const auto known = kept_films(library);
    if (!known) return pass_on(known.error());
    for (const KeptFilm& it : *known)
        if (!it.files.empty() && it.files.front().digest == film.film.files.front().digest) return it.id;
    return 0;
}

Result<void> take_film(Library& library, const ZipReader& zip, const BundleFilm& film, const std::vector<RunId>& runs,
                       const JobContext& job) {
    KeptFilm out = film.film;
    out.places.clear();
    for (const FilmPlace& place : film.film.places) {
        const RunId run = runs[static_cast<std::size_t>(place.run.value)];
        if (run.value == 0) continue;  // left out
        out.places.push_back(place);
        out.places.back().run = run;
    }
    const std::filesystem::path videos = library.folder() / "videos";
    std::error_code code;
    std::filesystem::create_directories(videos, code);
    std::vector<std::filesystem::path> written;
    const auto failed = [&](const Error& error) {
        for (const auto& it : written) std::filesystem::remove(it, code);
        return pass_on(error);
    };
    for (FilmFile& it : out.files) {
        const auto to = free_film_name(videos, it.file);
        auto temporary = OutputFile::begin(to);
        if (!temporary) return failed(temporary.error());
        if (auto done = zip.extract(entry_of(it), temporary->part(), job); !done) return failed(done.error());
        const auto digest = sha256_of_file(temporary->part(), {job.stop, {}});
        if (!digest) return failed(digest.error());
        if (*digest != it.digest)
            return failed(
                Error{ErrorCode::bad_input,
                      "The film is not what the bundle says it is (its digest differs); it was not brought in.",
                      it.file,
                      {}});
        if (auto done = temporary->finish(); !done) return failed(done.error());
        written.push_back(to);
        it.file = to.filename().string();
        it.kept = true;
        it.size = std::filesystem::file_size(to, code);
    }
    auto known = kept_films(library);
    if (!known) return failed(known.error());
    out.id = 1;
    for (const KeptFilm& it : *known) out.id = std::max(out.id, it.id + 1);
    known->push_back(out);
    if (auto done = set_kept_films(library, *known); !done) return failed(done.error());
    return {};
}

}  // namespace rendak
