#include "core/video/film_book.h"

#include <algorithm>
#include <array>
#include <cerrno>
#include <cmath>
#include <fstream>
#include <set>

#include "core/base/file_io.h"
#include "core/base/sha256.h"
#include "core/base/text.h"
#include "core/library/setting_list.h"

namespace rendak {
namespace {

namespace fs = std::filesystem;
using Json = nlohmann::ordered_json;

constexpr const char* setting_name = "films";
constexpr std::array endings{".mp4", ".mov", ".mkv", ".avi", ".m4v", ".mts", ".m2ts", ".ts", ".webm", ".3gp", ".mpg"};

bool has_film_ending(const fs::path& file) {
    const std::string ending = lower(file.extension().string());
    return std::find(endings.begin(), endings.end(), ending) != endings.end();
}

Json place_json(const FilmPlace& place) {
    Json marks = Json::array();
    for (const FilmMark& it : place.marks) marks.push_back({{"film_s", it.film_s}, {"run_s", it.run_s}});
    return {{"run", place.run.value},
            {"offset_s", place.at.offset_s},
            {"rate", place.at.rate},
            {"how", place.how},
            {"marks", marks}};
}

FilmPlace place_of(const Json& json) {
    FilmPlace out;
    out.run = {json.at("run").get<std::int64_t>()};
    out.at = {json.at("offset_s"), json.at("rate")};
    out.how = json.at("how");
    for (const Json& it : json.at("marks")) out.marks.push_back({it.at("film_s"), it.at("run_s")});
    return out;
}

Json film_json(const KeptFilm& film) {
    Json files = Json::array(), places = Json::array();
    for (const FilmFile& it : film.files)
        files.push_back({{"file", it.file}, {"kept", it.kept}, {"digest", it.digest}, {"size", it.size}});
    for (const FilmPlace& it : film.places) places.push_back(place_json(it));
    return {{"film", film.id},
            {"camera", film.camera},
            {"car", film.car},
            {"files", files},
            {"width", film.width},
            {"height", film.height},
            {"frames_per_s", film.frames_per_s},
            {"duration_s", film.duration_s},
            {"frames", film.frames},
            {"sound", film.sound},
            {"start_unix_s", film.start_unix_s ? Json(*film.start_unix_s) : Json(nullptr)},
            {"places", places}};
}

KeptFilm film_of(const Json& json) {
    KeptFilm out;
    out.id = json.at("film");
    out.camera = json.at("camera");
    out.car = json.at("car");
    for (const Json& it : json.at("files"))
        out.files.push_back({it.at("file"), it.at("kept"), it.at("digest"), it.at("size")});
    out.width = json.at("width");
    out.height = json.at("height");
    out.frames_per_s = json.at("frames_per_s");
    out.duration_s = json.at("duration_s");
    out.frames = json.at("frames");
    out.sound = json.at("sound");
    if (json.at("start_unix_s").is_number()) out.start_unix_s = json.at("start_unix_s").get<double>();
    for (const Json& it : json.at("places")) out.places.push_back(place_of(it));
    return out;
}

/// Copies whole or not at all, and says on the way how far it is.
Result<void> copy_file(const fs::path& from, const fs::path& to, const JobContext& job) {
    auto in = MappedFile::open(from);
    if (!in) return pass_on(in.error());
    auto out = OutputFile::begin(to);
    if (!out) return pass_on(out.error());
    std::ofstream target(out->part(), std::ios::binary);
    const std::string_view text = (*in)->text();
    constexpr std::size_t at_once = std::size_t{8} << 20;
    for (std::size_t at = 0; at < text.size(); at += at_once) {
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled; nothing was kept.", from.string());
        const std::string_view some = text.substr(at, at_once);
        target.write(some.data(), static_cast<std::streamsize>(some.size()));
        if (!target) return pass_on(io_error("copy the film", to, errno));
        job.report(static_cast<double>(at) / static_cast<double>(text.size()));
    }
    target.close();
    if (!target) return pass_on(io_error("copy the film", to, errno));
    if ((*in)->shrank()) return fail(ErrorCode::io, "The film became shorter while it was copied.", from.string());
    return out->finish();
}

}  // namespace

fs::path free_film_name(const fs::path& folder, const fs::path& wanted) {
    fs::path out = folder / wanted.filename();
    std::error_code code;
    for (int k = 2; fs::exists(out, code); ++k)
        out = folder / (wanted.stem().string() + "-" + std::to_string(k) + wanted.extension().string());
    return out;
}

const FilmPlace* KeptFilm::place_on(RunId run) const {
    const auto found = std::find_if(places.begin(), places.end(), [&](const FilmPlace& it) { return it.run == run; });
    return found == places.end() ? nullptr : &*found;
}

std::string KeptFilm::title() const {
    return camera + (files.empty() ? "" : ", " + fs::path(files.front().file).filename().string());
}

Result<void> set_kept_films(Library& library, const std::vector<KeptFilm>& films) {
    return put_setting_list(library, setting_name, films, film_json);
}

Result<std::vector<KeptFilm>> kept_films(const Library& library) {
    return setting_list<KeptFilm>(library, setting_name, "The list of films", film_of);
}

std::string place_text(const FilmPlace& place) {
    return place_json(place).dump(-1, ' ', false, Json::error_handler_t::replace);
}

std::string film_text(const KeptFilm& film) {
    return film_json(film).dump(-1, ' ', false, Json::error_handler_t::replace);
}

Result<KeptFilm> film_from_text(const std::string& text) {
    try {
        return film_of(Json::parse(text));
    } catch (const Json::exception&) {
        return fail(ErrorCode::bad_input, "What is said of a film cannot be read.");
    }
}

Result<KeptFilm> kept_film(const Library& library, std::int64_t id) {
    const auto all = kept_films(library);
    if (!all) return pass_on(all.error());
    for (const KeptFilm& it : *all)
        if (it.id == id) return it;
    return fail(ErrorCode::not_found, "There is no film " + std::to_string(id) + ".");
}

Result<KeptFilm> add_film(Library& library, const AddFilm& film, const JobContext& job) {
    std::vector<std::string> names;
    for (const fs::path& it : film.files) names.push_back(it.string());
    const auto opened = FilmReader::open(names, job.part(0, 0.2));
    if (!opened) return pass_on(opened.error());
    KeptFilm out;
    out.camera = film.camera;
    out.car = film.car;
    out.width = opened->facts().width;
    out.height = opened->facts().height;
    out.frames_per_s = opened->facts().frames_per_s;
    out.duration_s = opened->facts().duration_s;
    out.frames = opened->facts().frames;
    out.sound = opened->facts().sound;
    out.start_unix_s = opened->facts().start_unix_s;
    auto known = kept_films(library);
    if (!known) return pass_on(known.error());
    std::error_code code;
    const double each = 0.8 / static_cast<double>(film.files.size());
    const fs::path videos = library.folder() / "videos";
    const auto take_back = [&] {
        for (const FilmFile& it : out.files)
            if (it.kept) fs::remove(videos / it.file, code);
    };
    for (std::size_t k = 0; k < film.files.size(); ++k) {
        const fs::path file = fs::absolute(film.files[k], code);
        const double from = 0.2 + each * static_cast<double>(k);
        const auto digest = sha256_of_file(file, job.part(from, from + each / 2));
        if (!digest) {
            take_back();
            return pass_on(digest.error());
        }
        for (const KeptFilm& it : *known) {
            if (std::none_of(it.files.begin(), it.files.end(), [&](const FilmFile& f) { return f.digest == *digest; }))
                continue;
            take_back();
            return fail(ErrorCode::exists, "This film is in the library already: " + it.title() + ".", file.string());
        }
        FilmFile one{file.string(), film.keep, *digest, fs::file_size(file, code)};
        if (film.keep) {
            fs::create_directories(videos, code);
            const fs::path to = free_film_name(videos, file);
            if (auto done = copy_file(file, to, job.part(from + each / 2, from + each)); !done) {
                take_back();
                return pass_on(done.error());
            }
            one.file = to.filename().string();
        }
        out.files.push_back(std::move(one));
    }
    // Another window may have added one meanwhile.
    known = kept_films(library);
    if (!known) return pass_on(known.error());
    for (const KeptFilm& it : *known) out.id = std::max(out.id, it.id);
    ++out.id;
    known->push_back(out);
    if (auto done = set_kept_films(library, *known); !done) {
        take_back();
        return pass_on(done.error());
    }
    job.report(1);
    return out;
}

Result<std::vector<std::vector<fs::path>>> films_in(const fs::path& folder, const JobContext& job) {
    std::error_code code;
    std::vector<fs::path> files;
    for (const auto& it : fs::recursive_directory_iterator(folder, fs::directory_options::skip_permission_denied, code))
        if (it.is_regular_file(code) && has_film_ending(it.path())) files.push_back(it.path());
    if (code) return pass_on(io_error("look into the folder", folder, code.value()));
    std::sort(files.begin(), files.end());
    std::vector<std::vector<fs::path>> out;
    std::optional<FilmFacts> before;
    for (std::size_t k = 0; k < files.size(); ++k) {
        const auto film = FilmReader::open({files[k].string()}, {job.stop, {}});
        job.report(static_cast<double>(k + 1) / static_cast<double>(files.size()));
        if (!film && film.error().code == ErrorCode::cancelled) return pass_on(film.error());
        if (!film) {
            before.reset();
            continue;
        }
        const FilmFacts& now = film->facts();
        // Cameras tell their dates to the second.
        const bool follows = before && before->start_unix_s && now.start_unix_s && before->width == now.width &&
                             before->codec == now.codec &&
                             std::abs(*now.start_unix_s - *before->start_unix_s - before->duration_s) < 2.5;
        if (follows)
            out.back().push_back(files[k]);
        else
            out.push_back({files[k]});
        before = now;
    }
    if (out.empty()) return fail(ErrorCode::not_found, "There are no films in this folder.", folder.string());
    return out;
}

Result<std::vector<std::vector<fs::path>>> new_films_in(const Library& library, const fs::path& folder,
                                                        const JobContext& job) {
    const auto kept = kept_films(library);
    if (!kept) return pass_on(kept.error());
    auto found = films_in(folder, job);
    if (!found && found.error().code == ErrorCode::not_found) return std::vector<std::vector<fs::path>>();
    if (!found) return pass_on(found.error());
    const auto known = [&](const fs::path& path) {
        std::error_code code;
        const auto size = fs::file_size(path, code);
        for (const KeptFilm& film : *kept)
            for (const FilmFile& file : film.files)
                if (file.size == size && fs::path(file.file).filename() == path.filename()) return true;
        return false;
    };
    std::erase_if(*found, [&](const auto& film) { return std::all_of(film.begin(), film.end(), known); });
    return std::move(*found);
}

Result<void> drop_film(Library& library, std::int64_t id) {
    auto all = kept_films(library);
    if (!all) return pass_on(all.error());
    const auto found = std::find_if(all->begin(), all->end(), [&](const KeptFilm& it) { return it.id == id; });
    if (found == all->end()) return fail(ErrorCode::not_found, "There is no film " + std::to_string(id) + ".");
    const KeptFilm film = *found;
    all->erase(found);
    if (auto done = set_kept_films(library, *all); !done) return done;
    std::error_code code;
    for (const FilmFile& it : film.files)
        if (it.kept) fs::remove(library.folder() / "videos" / it.file, code);
    fs::remove(small_copy_of(library, film), code);
    return {};
}

std::vector<std::string> film_files(const Library& library, const KeptFilm& film) {
    std::vector<std::string> out;
    for (const FilmFile& it : film.files)
        out.push_back((it.kept ? library.folder() / "videos" / it.file : fs::path(it.file)).string());
    return out;
}

Result<std::vector<std::string>> film_paths(const Library& library, const KeptFilm& film) {
    std::vector<std::string> out = film_files(library, film);
    if (const auto there = check_film_files(out); !there) return pass_on(there.error());
    return out;
}

Result<void> check_film_files(const std::vector<std::string>& files) {
    std::error_code code;
    for (const std::string& it : files) {
        if (!fs::exists(it, code))
            return fail(ErrorCode::not_found,
                        "The film is no longer where it was. Say in which folder it is (Films), and it is found by its "
                        "content.",
                        it);
    }
    return {};
}

Result<std::size_t> find_films_again(Library& library, const fs::path& folder, const JobContext& job) {
    auto all = kept_films(library);
    if (!all) return pass_on(all.error());
    std::vector<FilmFile*> missing;
    std::set<std::uint64_t> sizes;
    std::error_code code;
    for (KeptFilm& film : *all) {
        for (FilmFile& it : film.files) {
            if (fs::exists(it.kept ? library.folder() / "videos" / it.file : fs::path(it.file), code)) continue;
            missing.push_back(&it);
            sizes.insert(it.size);
        }
    }
    std::size_t found = 0;
    for (const auto& it :
         fs::recursive_directory_iterator(folder, fs::directory_options::skip_permission_denied, code)) {
        if (missing.empty()) break;
        if (!it.is_regular_file(code) || !sizes.contains(it.file_size(code))) continue;
        const auto digest = sha256_of_file(it.path(), {job.stop, {}});
        if (!digest && digest.error().code == ErrorCode::cancelled) return pass_on(digest.error());
        if (!digest) continue;
        const auto same =
            std::find_if(missing.begin(), missing.end(), [&](const FilmFile* m) { return m->digest == *digest; });
        if (same == missing.end()) continue;
        (*same)->file = fs::absolute(it.path(), code).string();
        (*same)->kept = false;
        missing.erase(same);
        ++found;
    }
    if (found == 0) return found;
    if (auto done = set_kept_films(library, *all); !done) return pass_on(done.error());
    return found;
}

Result<void> place_film(Library& library, std::int64_t id, const FilmPlace& place) {
    if (const auto known = library.run(place.run); !known) return pass_on(known.error());
    if (!std::isfinite(place.at.offset_s) || !(std::abs(place.at.rate - 1) < 0.02))
        return fail(ErrorCode::bad_input, "A film cannot lie there.");
    auto all = kept_films(library);
    if (!all) return pass_on(all.error());
    for (KeptFilm& film : *all) {
        if (film.id != id) continue;
        std::erase_if(film.places, [&](const FilmPlace& it) { return it.run == place.run; });
        film.places.push_back(place);
        return set_kept_films(library, *all);
    }
    return fail(ErrorCode::not_found, "There is no film " + std::to_string(id) + ".");
}

Result<void> unplace_film(Library& library, std::int64_t id, RunId run) {
    auto all = kept_films(library);
    if (!all) return pass_on(all.error());
    for (KeptFilm& film : *all) {
        if (film.id != id) continue;
        std::erase_if(film.places, [&](const FilmPlace& it) { return it.run == run; });
        return set_kept_films(library, *all);
    }
    return fail(ErrorCode::not_found, "There is no film " + std::to_string(id) + ".");
}

Result<FilmOffset> offset_of_marks(const std::vector<FilmMark>& marks) {
    if (marks.empty()) return fail(ErrorCode::bad_input, "There is no mark.");
    double film = 0, run = 0;
    for (const FilmMark& it : marks) {
        film += it.film_s / static_cast<double>(marks.size());
        run += it.run_s / static_cast<double>(marks.size());
    }
    double wide = 0, both = 0;
    Interval span{marks.front().film_s, marks.front().film_s};
    for (const FilmMark& it : marks) {
        wide += (it.film_s - film) * (it.film_s - film);
        both += (it.film_s - film) * (it.run_s - run);
        span.begin = std::min(span.begin, it.film_s);
        span.end = std::max(span.end, it.film_s);
    }
    FilmOffset out;
    if (span.length() >= 20) out.rate = both / wide;
    if (std::abs(out.rate - 1) > 0.005)
        return fail(ErrorCode::bad_input, "The marks contradict each other: between them the film takes " +
                                              fixed(100 * (1 / out.rate - 1), 1) +
                                              " % longer than the data. Mark the same event in both.");
    out.offset_s = run - out.rate * film;
    // Marks that are near each other must agree to a blink.
    for (const FilmMark& it : marks)
        if (std::abs(out.run_s(it.film_s) - it.run_s) > 0.5)
            return fail(ErrorCode::bad_input, "The marks contradict each other by " +
                                                  fixed(std::abs(out.run_s(it.film_s) - it.run_s), 1) +
                                                  " s. Mark the same event in both.");
    return out;
}

std::optional<FilmOffset> offset_by_clocks(const KeptFilm& film, const RunRow& run) {
    if (!film.start_unix_s || !run.start_unix_s) return std::nullopt;
    const double begin_s = run.window_s ? run.window_s->begin : 0;
    return FilmOffset{begin_s + *film.start_unix_s - *run.start_unix_s, 1};
}

fs::path small_copy_of(const Library& library, const KeptFilm& film) {
    if (film.files.empty()) return {};
    return library.folder() / "videos" / "small" / (film.files.front().digest.substr(0, 24) + ".avi");
}

}  // namespace rendak
