#include "cli/commands.h"

#include <unistd.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "cli/arguments.h"
#include "cli/json_out.h"
#include "cli/output.h"
#include "core/analysis/gap_stretches.h"
#include "core/base/text.h"
#include "core/intake/check_library.h"
#include "core/intake/run_recording.h"
#include "core/intake/watch_book.h"
#include "core/laps/gap.h"
#include "core/recording/formats.h"
#include "demo/write_demo.h"

namespace rendak::cli {
namespace {

struct Pair {
    PreparedLap baseline, lap;
};

/// Both laps, aligned; they must be of the same track.
Result<Pair> prepare_pair(Library& library, LapRef baseline, LapRef lap) {
    const auto run_a = load_checked(library, baseline.run);
    if (!run_a) return pass_on(run_a.error());
    const auto run_b = baseline.run == lap.run ? run_a : load_checked(library, lap.run);
    if (!run_b) return pass_on(run_b.error());
    if ((*run_a)->row.track != (*run_b)->row.track) {
        return fail(ErrorCode::bad_input, "The two laps were driven on different tracks (" + (*run_a)->row.track_name +
                                              " and " + (*run_b)->row.track_name + "); they have no gap.");
    }
    auto a = prepare_lap(**run_a, baseline.lap);
    if (!a) return pass_on(a.error());
    auto b = prepare_lap(**run_b, lap.lap);
    if (!b) return pass_on(b.error());
    return Pair{std::move(*a), std::move(*b)};
}

/// Two laps of a library by their names; none, and told, with what the command ends with in `code`.
std::optional<Pair> pair_of(const std::string& folder, const std::string& baseline, const std::string& lap, int& code) {
    const auto a = lap_ref(baseline), b = lap_ref(lap);
    if (!a || !b) {
        code = misuse("a lap is written RUN:LAP, for example 2:5");
        return std::nullopt;
    }
    const auto library = open_existing(folder);
    auto pair = library ? prepare_pair(**library, *a, *b) : Result<Pair>(pass_on(library.error()));
    if (pair) return std::move(*pair);
    code = report(pair.error());
    return std::nullopt;
}

/// Rules that speak on a run that has just come in.
Json watched_at_import(Library& library, RunId run) {
    Json out = Json::array();
    if (const auto checked = check_watch_rules(library, {run}); !checked) {
        say("The watch rules were not checked: " + checked.error().text());
        return out;
    }
    const auto kept = kept_watch(library, run);
    if (!kept) return out;
    for (const KeptWatch& it : *kept) {
        if (it.told.events.empty()) continue;
        out.push_back(it.rule.name);
        say(it.rule.name + ": " + counted(it.told.events.size(), "time", "times") + " (\"watch check\" says where).");
    }
    return out;
}

}  // namespace

int import_files(const std::string& folder, const std::vector<std::string>& files, const ImportOptions& options) {
    auto library = Library::open(folder);
    if (!library) return report(library.error());
    Json out = Json::array();
    int code = done;
    for (const std::string& file : files) {
        const auto result = import_file(**library, file, options);
        if (!result) {
            code = report(result.error());
            if (!result.error().questions.empty()) out.push_back(questions_to_json(result.error(), file));
            continue;
        }
        for (const std::string& note : result->notes) say(file + ": " + note);
        if (result->already_there) {
            say(file + ": is already in the library as run " + std::to_string(result->run.value) +
                (result->mended ? "; its recording was mended." : "; nothing was imported."));
        }
        Json row = to_json(*result, file);
        row["watch"] = watched_at_import(**library, result->run);
        out.push_back(std::move(row));
    }
    const int printed = print(out);
    return code == done ? printed : code;
}

std::optional<std::string> add_answers(const std::vector<std::string>& takes, TableMapping& mapping) {
    for (const std::string& take : takes) {
        auto column = answered_column(take);
        if (!column) return column.error().message;
        mapping.columns.push_back(std::move(*column));
    }
    return std::nullopt;
}

int list_runs(const std::string& folder) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    Json out = Json::array();
    const auto rows = (*library)->runs();
    if (!rows) return report(rows.error());
    for (const RunRow& run : *rows) {
        const auto laps = (*library)->laps(run.id);
        if (!laps) return report(laps.error());
        if (!run.damage.empty()) say(run.name + ": " + run.damage);
        out.push_back(to_json(run, *laps));
    }
    if (const auto unfiled = (*library)->unfiled_recordings(); unfiled && !unfiled->empty())
        say(counted(unfiled->size(), "recording is", "recordings are") +
            " not in the catalogue: \"unfiled\" lists them, \"unfiled --file\" files them again.");
    return print(out);
}

int list_laps(const std::string& folder, std::int64_t id) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto run = (*library)->run({id});
    if (!run) return report(run.error());
    if (!run->track) say("Run " + std::to_string(id) + " has no track yet: \"track learn\" cuts its laps.");
    Json out = Json::array();
    const auto rows = (*library)->laps({id});
    if (!rows) return report(rows.error());
    for (const Lap& lap : *rows) out.push_back(to_json(lap));
    return print(out);
}

int edit_lap(const std::string& folder, const std::string& text, std::optional<bool> included,
             const std::string& reason, const std::optional<std::string>& note) {
    const auto lap = lap_ref(text);
    if (!lap) return misuse("a lap is written RUN:LAP, for example 2:5");
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    Library::Act act(**library);
    if (auto begun = act.begun(); !begun) return report(begun.error());
    if (included) {
        if (const auto switched = (*library)->switch_lap(*lap, *included, reason); !switched)
            return report(switched.error());
    }
    if (note) {
        if (const auto written = (*library)->set_lap_note(*lap, *note); !written) return report(written.error());
    }
    if (auto kept = act.commit(); !kept) return report(kept.error());
    return list_laps(folder, lap->run.value);
}

int learn_track(const std::string& folder, std::int64_t run, const std::string& name, const std::string& start,
                bool open) {
    std::optional<StartPlace> place;
    if (!start.empty()) {
        place = start_place(start);
        if (!place) return misuse("--start takes LAT,LON,HEADING_DEG: three numbers in degrees");
    }
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto learnt =
        learn_track_from_run(**library, {run}, name, place, {}, open ? TrackKind::open : TrackKind::circuit);
    if (!learnt) return report(learnt.error());
    const auto row = (*library)->track(learnt->track);
    if (!row) return report(row.error());
    const auto text = (*library)->track_geojson(learnt->track);
    if (!text) return report(text.error());
    const auto track = track_from_geojson(*text, name);
    if (!track) return report(track.error());
    Json out = to_json(*row, *track);
    for (const RunId cut : learnt->runs_cut) out["runs_cut"].push_back(cut.value);
    return print(out);
}

int list_tracks(const std::string& folder) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    Json out = Json::array();
    const auto rows = (*library)->tracks();
    if (!rows) return report(rows.error());
    for (const TrackRow& row : *rows) {
        const auto text = (*library)->track_geojson(row.id);
        if (!text) return report(text.error());
        const auto track = track_from_geojson(*text, row.name);
        if (!track) return report(track.error());
        out.push_back(to_json(row, *track));
    }
    return print(out);
}

int print_gap(const std::string& folder, const std::string& baseline, const std::string& lap, double step_m) {
    if (!(step_m >= 0.01)) return misuse("--step must be at least 0.01 m");
    int code = done;
    const auto pair = pair_of(folder, baseline, lap, code);
    if (!pair) return code;
    const GapCurve gap = gap_between(pair->baseline.map, pair->lap.map, step_m);
    Json out;
    out["baseline"] = baseline;
    out["lap"] = lap;
    out["track"] = pair->baseline.track->name;
    out["length_m"] = pair->baseline.map.length_m();
    out["baseline_time_s"] = pair->baseline.time_s();
    out["lap_time_s"] = pair->lap.time_s();
    out["difference_s"] = pair->lap.time_s() - pair->baseline.time_s();
    out["distance_m"] = gap.distance_m;
    out["gap_s"] = gap.gap_s;
    return print(out);
}

int print_gap_changes(const std::string& folder, const std::string& baseline, const std::string& lap) {
    int code = done;
    const auto pair = pair_of(folder, baseline, lap, code);
    if (!pair) return code;
    const GapCurve gap = gap_between(pair->baseline.map, pair->lap.map);
    const Interval whole{0, pair->baseline.map.length_m()};
    const double tolerance = gap_tolerance_s(pair->baseline, pair->lap, gap, whole);
    auto changes = gap_changes(gap_stretches(gap, whole, tolerance));
    std::stable_sort(changes.begin(), changes.end(), [](const GapChange& x, const GapChange& y) {
        return std::abs(x.change_s) > std::abs(y.change_s);
    });
    const auto row = [](const auto& it) {
        Json out;
        out["from_m"] = it.range_m.begin;
        out["to_m"] = it.range_m.end;
        out["change_s"] = it.change_s;
        out["per_100_m_s"] = it.per_100_m();
        return out;
    };
    Json out;
    out["baseline"] = baseline;
    out["lap"] = lap;
    out["difference_s"] = pair->lap.time_s() - pair->baseline.time_s();
    out["not_told_apart_s"] = tolerance;
    out["changes"] = Json::array();
    for (const GapChange& change : changes) {
        Json one = row(change);
        one["parts"] = Json::array();
        for (const GapStretch& part : change.parts) one["parts"].push_back(row(part));
        out["changes"].push_back(std::move(one));
    }
    return print(out);
}

int paint(const char* what, const std::string& folder, const std::vector<std::string>& arguments) {
    std::error_code code;
    const auto program = std::filesystem::read_symlink("/proc/self/exe", code).parent_path() / "rendak";
    if (!std::filesystem::exists(program, code))
        return report(Error{ErrorCode::io, "The program rendak, which paints, is missing beside this one. Install it.",
                            program.string()});
    std::vector<std::string> words{program.string(), what, "--library", folder};
    words.insert(words.end(), arguments.begin(), arguments.end());
    std::vector<char*> pointers;
    for (std::string& word : words) pointers.push_back(word.data());
    pointers.push_back(nullptr);
    ::execv(program.c_str(), pointers.data());
    return report(Error{ErrorCode::io, "The program rendak could not be started.", program.string()});
}

int print_where(const std::string& folder, const std::string& baseline, const std::string& lap) {
    int code = done;
    const auto pair = pair_of(folder, baseline, lap, code);
    if (!pair) return code;
    const GapCurve gap = gap_between(pair->baseline.map, pair->lap.map);
    Json out = Json::array();
    for (const ZoneDifference& difference : differences_by_zone(pair->baseline, pair->lap, gap))
        out.push_back(to_json(difference));
    return print(out);
}

int export_run(const std::string& folder, std::int64_t run, const std::string& format, const std::string& file,
               const std::vector<std::string>& formulas) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    auto recording = recording_checked(**library, {run});
    if (!recording) return report(recording.error());
    if (!formulas.empty()) {
        const auto data = load_checked(**library, {run});
        if (!data) return report(data.error());
        auto more = formula_channels(**data, formulas);
        if (!more) return report(more.error());
        for (Channel& channel : *more) recording->channels.push_back(std::move(channel));
    }
    const auto written = find_format(format)->write(*recording, file);
    if (!written) return report(written.error());
    return print({{"run", run}, {"format", format}, {"file", file}});
}

int check_folder(const std::string& folder) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto found = check_library(**library, spoken_progress("checking"));
    if (!found) return report(found.error());
    Json out = {{"recordings", found->recordings}, {"catalogue", found->catalogue}};
    out["damaged"] = Json::array();
    for (const auto& it : found->damaged) {
        out["damaged"].push_back({{"run", it.run.value}, {"name", it.name}, {"what", it.what}});
        say(it.name + ": " + it.what);
    }
    for (const std::string& line : found->catalogue) say("The catalogue: " + line);
    for (const auto& lines : {found->originals, found->tracks})
        for (const std::string& line : lines) say(line);
    out["originals"] = found->originals;
    out["tracks"] = found->tracks;
    out["unfiled"] = Json::array();
    for (const auto& file : found->unfiled) out["unfiled"].push_back(file.string());
    out["unfinished_downloads"] = Json::array();
    for (const auto& file : found->unfinished) out["unfinished_downloads"].push_back(file.string());
    const int printed = print(out);
    return found->all_well() ? printed : failed;
}

int unfiled_recordings(const std::string& folder, bool file) {
    auto library = file ? Library::open(folder) : open_existing(folder);
    if (!library) return report(library.error());
    const auto unfiled = (*library)->unfiled_recordings();
    if (!unfiled) return report(unfiled.error());
    Json out = Json::array();
    int code = done;
    for (const auto& recording : *unfiled) {
        Json entry = {{"file", recording.string()}, {"run", nullptr}};
        if (file) {
            const auto filed = file_again(**library, recording);
            if (!filed) code = report(filed.error());
            if (filed) entry["run"] = filed->run.value;
        }
        out.push_back(std::move(entry));
    }
    const int printed = print(out);
    return code == done ? printed : code;
}

int write_demo(const std::string& folder) {
    if (const auto written = demo::write_demo(folder, spoken_progress("writing the demo data")); !written)
        return report(written.error());
    return list_runs(folder);
}

}  // namespace rendak::cli
