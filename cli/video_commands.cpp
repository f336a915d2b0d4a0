#include "cli/video_commands.h"

#include <nlohmann/json.hpp>

#include "cli/output.h"
#include "core/base/text.h"
#include "core/recording/readers.h"
#include "core/video/log_offset.h"
#include "core/video/propose_place.h"

namespace rendak::cli {
namespace {

Json json_of(const Library& library, const KeptFilm& film) {
    Json out = Json::parse(film_text(film));
    out["there"] = film_paths(library, film).has_value();
    return out;
}

}  // namespace

int add_films(const std::string& folder, const FilmsToAdd& films) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    std::vector<std::vector<std::filesystem::path>> groups;
    if (films.folder.empty()) {
        groups.emplace_back(films.files.begin(), films.files.end());
    } else {
        auto found = films_in(films.folder, spoken_progress("films"));
        if (!found) return report(found.error());
        groups = std::move(*found);
    }
    Json out = Json::array();
    bool all = true;
    for (const auto& group : groups) {
        const auto film = add_film(**library, {group, films.camera, films.car, films.keep}, spoken_progress("film"));
        if (film) {
            out.push_back(json_of(**library, *film));
            continue;
        }
        report(film.error());
        all = all && film.error().code == ErrorCode::exists;
    }
    print(out);
    return all && (!out.empty() || groups.size() > 1) ? done : failed;
}

int list_films(const std::string& folder) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto films = kept_films(**library);
    if (!films) return report(films.error());
    Json out = Json::array();
    for (const KeptFilm& it : *films) out.push_back(json_of(**library, it));
    return print(out);
}

int sync_film(const std::string& folder, const FilmToSync& wish) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto film = kept_film(**library, wish.film);
    if (!film) return report(film.error());
    const RunId run{wish.run};
    const auto row = (*library)->run(run);
    if (!row) return report(row.error());
    FilmPlace place{run, {}, "by hand", {}};
    const auto write = [&]() -> int {
        if (const auto written = place_film(**library, film->id, place); !written) return report(written.error());
        Json out = Json::parse(place_text(place));
        out["film"] = film->id;
        out["written"] = true;
        return print(out);
    };
    if (!wish.marks.empty()) {
        for (const std::string& text : wish.marks) {
            const auto comma = text.find(',');
            const auto film_s = sheet_number(text.substr(0, comma));
            const auto run_s =
                comma == std::string::npos ? std::optional<double>() : sheet_number(text.substr(comma + 1));
            if (!film_s || !run_s)
                return misuse("video sync: a mark is FILM,RUN in seconds: \"" + text + "\" is none.");
            place.marks.push_back({*film_s, *run_s});
        }
        const auto at = offset_of_marks(place.marks);
        if (!at) return report(at.error());
        place.at = *at;
        return write();
    }
    if (wish.offset_s) {
        place.at.offset_s = *wish.offset_s;
        return write();
    }
    if (wish.nudge_s) {
        const FilmPlace* now = film->place_on(run);
        if (now == nullptr)
            return report(Error{ErrorCode::not_found, "The film does not lie on this run yet.", film->title(), {}});
        place = *now;
        place.at.offset_s += *wish.nudge_s;
        place.how = "by hand";
        place.marks.clear();
        return write();
    }
    if (wish.clocks) {
        const auto at = offset_by_clocks(*film, *row);
        if (!at) return report(Error{ErrorCode::not_found, "The film or the run has no date.", film->title(), {}});
        place.at = *at;
        place.how = "by the clocks";
        return write();
    }
    const auto opened = load_checked(**library, run);
    if (!opened) return report(opened.error());
    std::optional<OffsetHint> near;
    if (wish.near_s) near = OffsetHint{*wish.near_s, 3, "what was said"};
    if (!wish.log.empty()) {
        const auto log = read_logged_file(wish.log);
        if (!log) return report(log.error());
        auto hint = hint_of_log(film->start_unix_s, log->recording, *(*opened)->recording);
        if (!hint) return report(hint.error());
        near = std::move(*hint);
    }
    const auto found = propose_place(**library, *film, **opened, near, spoken_progress("film"));
    if (!found) return report(found.error());
    Json out{{"film", film->id},
             {"run", run.value},
             {"offset_s", found->at ? Json(found->at->offset_s) : Json(nullptr)},
             {"rate", found->at ? Json(found->at->rate) : Json(nullptr)},
             {"clear", found->at ? Json(found->clear) : Json(nullptr)},
             {"why", found->why},
             {"upside_down", found->upside_down},
             {"check_film_s", found->at ? Json(found->check_film_s) : Json(nullptr)},
             {"cues", Json::array()},
             {"written", false}};
    for (const OffsetCue& it : found->cues)
        out["cues"].push_back({{"name", it.name}, {"offset_s", it.offset_s}, {"fits", it.fits}, {"clear", it.clear}});
    if (wish.write && found->at) {
        place.at = *found->at;
        place.how = proposed_how(*found);
        if (const auto written = place_film(**library, film->id, place); !written) return report(written.error());
        out["written"] = true;
    }
    print(out);
    return found->at ? done : failed;
}

int find_films(const std::string& folder, const std::string& where) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto found = find_films_again(**library, where, spoken_progress("films"));
    if (!found) return report(found.error());
    return print(Json{{"found", *found}});
}

int remove_film(const std::string& folder, std::int64_t film) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    if (const auto gone = drop_film(**library, film); !gone) return report(gone.error());
    return print(Json{{"removed", film}});
}

}  // namespace rendak::cli
