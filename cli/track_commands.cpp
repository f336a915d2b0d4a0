#include "cli/track_commands.h"

#include <cmath>
#include <nlohmann/json.hpp>

#include "cli/arguments.h"
#include "cli/json_out.h"
#include "core/analysis/alignment.h"
#include "core/analysis/corner_figure.h"
#include "core/analysis/lap_choice.h"
#include "core/analysis/overlay.h"
#include "core/analysis/section_activity.h"
#include "core/analysis/stops.h"
#include "core/base/file_io.h"
#include "core/intake/edit_track.h"
#include "core/intake/lap_pool.h"
#include "core/intake/road_laps.h"
#include "core/intake/shared_track.h"
#include "core/laps/beacon.h"
#include "core/laps/cut.h"
#include "core/track/edit.h"
#include "core/track/learn.h"

namespace rendak::cli {
namespace {

struct Opened {
    std::unique_ptr<Library> library;
    TrackId id;
    Track track;
    TrackState state;
};

Result<Opened> open_track(const std::string& folder, const std::string& name) {
    auto library = open_existing(folder);
    if (!library) return pass_on(library.error());
    const auto id = (*library)->find_track(name);
    if (!id) return pass_on(id.error());
    if (!*id) return fail(ErrorCode::not_found, "There is no track \"" + name + "\". \"track list\" shows them.");
    auto track = read_track(**library, **id);
    if (!track) return pass_on(track.error());
    auto state = track_state(**library, **id);
    if (!state) return pass_on(state.error());
    return Opened{std::move(*library), **id, std::move(*track), std::move(*state)};
}

int print_track(const Library& library, TrackId id, const Json& extra = {}) {
    const auto row = library.track(id);
    if (!row) return report(row.error());
    const auto track = read_track(library, id);
    if (!track) return report(track.error());
    Json out = to_json(*row, *track);
    if (!extra.is_null()) out.update(extra);
    return print(out);
}

Result<LapPool> prepare_all(Library& library, const std::vector<std::int64_t>& numbers, bool mixed) {
    std::vector<std::shared_ptr<const RunData>> runs;
    for (const std::int64_t number : numbers) {
        auto run = load_checked(library, {number});
        if (!run) return pass_on(run.error());
        if ((*run)->track == nullptr)
            return fail(ErrorCode::bad_input, "Run " + std::to_string(number) + " has no track yet: \"track learn\".");
        if (!runs.empty() && runs.front()->row.track != (*run)->row.track)
            return fail(ErrorCode::bad_input, "The runs were driven on different tracks.");
        runs.push_back(std::move(*run));
    }
    LapPool out = pooled_laps(runs, mixed);
    if (out.laps.empty()) return fail(ErrorCode::not_found, "There is no complete lap in these runs.");
    return out;
}

std::string text_of(LapRef ref) {
    return std::to_string(ref.run.value) + ":" + std::to_string(ref.lap);
}

Json json_of(const Spread& spread) {
    return {{"least_s", spread.least},
            {"mean_s", spread.mean},
            {"most_s", spread.most},
            {"sd_s", spread.sd},
            {"laps", spread.count}};
}

}  // namespace

int edit_track(const std::string& folder, const std::string& name, const std::string& file) {
    const auto text = read_text_file(file);
    if (!text) return report(text.error());
    auto track = track_from_geojson(*text, file);
    if (!track) return report(track.error());
    if (!name.empty()) track->name = name;
    if (track->name.empty()) return misuse("the file gives the track no name; give one with --name");
    auto library = Library::open(folder);
    if (!library) return report(library.error());
    const auto filed = file_track(**library, *track, {}, spoken_progress("cutting laps"));
    if (!filed) return report(filed.error());
    Json extra;
    extra["runs_cut"] = Json::array();
    for (const RunId run : filed->runs_cut) extra["runs_cut"].push_back(run.value);
    return print_track(**library, filed->track, extra);
}

int export_track(const std::string& folder, const std::string& name, const std::string& file) {
    const auto opened = open_track(folder, name);
    if (!opened) return report(opened.error());
    if (auto written = write_file(file, opened->state.geojson); !written) return report(written.error());
    return print({{"track", name}, {"file", file}});
}

int move_start_line(const std::string& folder, const std::string& name, const std::string& at) {
    const auto opened = open_track(folder, name);
    if (!opened) return report(opened.error());
    Result<Track> edited = fail(ErrorCode::bad_input, "");
    double moved_m = 0;
    if (const auto metres = number(at)) {
        moved_m = *metres;
        edited = move_start(opened->track, moved_m);
    } else if (const auto place = start_place(at)) {
        const StartLine line = start_line_at(opened->track.origin, place->place, place->heading_deg);
        moved_m = start_distance(opened->track, line);
        edited = place_start(opened->track, line);
    } else {
        return misuse("--at takes a distance in metres or LAT,LON,HEADING_DEG");
    }
    if (!edited) return report(edited.error());
    const auto put = put_track_state(*opened->library, opened->id, edited_state(opened->state, *edited, moved_m), true,
                                     spoken_progress("cutting laps"));
    if (!put) return report(put.error());
    return print_track(*opened->library, opened->id);
}

int survey_track(const std::string& folder, const std::string& name, const std::string& left_edge,
                 const std::string& right_edge) {
    auto opened = open_track(folder, name);
    if (!opened) return report(opened.error());
    Track& track = opened->track;
    const auto laps = road_laps(*opened->library, opened->id, spoken_progress("reading laps"));
    if (!laps) return report(laps.error());
    Result<Edges> edges = fail(ErrorCode::bad_input, "");
    if (left_edge.empty() && right_edge.empty()) {
        edges = edges_from_spread(track, laps->left_m);
    } else {
        const auto left = lap_ref(left_edge), right = lap_ref(right_edge);
        if (!left || !right) return misuse("--left and --right each take a lap as RUN:LAP");
        const auto left_m = driven_offsets(*opened->library, *left), right_m = driven_offsets(*opened->library, *right);
        if (!left_m || !right_m) return report((left_m ? right_m : left_m).error());
        edges = edges_from_edge_laps(track, *left_m, *right_m);
    }
    if (edges)
        track.edges = std::move(*edges);
    else if (!left_edge.empty())
        return report(edges.error());
    else
        say(edges.error().message);
    if (auto road = with_height_and_banking(track, *laps))
        track = std::move(*road);
    else
        say(road.error().message);
    const auto put = put_track_state(*opened->library, opened->id, edited_state(opened->state, track), false);
    if (!put) return report(put.error());
    Json out = {{"track", name}, {"laps", laps->laps.size()}};
    out["edges"] = track.edges.source == Edges::Source::none     ? "none"
                   : track.edges.source == Edges::Source::driven ? "slow laps"
                                                                 : "spread of laps";
    double low = 1e9, high = -1e9;
    for (const double z : track.height.value) {
        low = std::min(low, z);
        high = std::max(high, z);
    }
    out["height_m"] = track.height.value.empty() ? Json(nullptr) : Json({{"low", low}, {"high", high}});
    out["corners"] = Json::array();
    for (const Corner& corner : track.corners) {
        const double left = track.value_at(track.banking.value, corner.apex_m);
        out["corners"].push_back({{"corner", corner.number},
                                  {"banking_deg", or_null((corner.left ? -1 : 1) * left * 57.29577951)},
                                  {"sd_deg", or_null(track.value_at(track.banking.sd, corner.apex_m) * 57.29577951)}});
    }
    return print(out);
}

int print_sections(const std::string& folder, const std::vector<std::int64_t>& runs, bool sectors, bool mixed) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto laps = prepare_all(**library, runs, mixed);
    if (!laps) return report(laps.error());
    const SectionTable table = section_table(
        laps->timed, sectors ? sectors_of(*laps->runs.front()->track) : sections_of(*laps->runs.front()->track));
    Json out;
    out["track"] = laps->runs.front()->track->name;
    out["sections"] = Json::array();
    for (std::size_t k = 0; k < table.sections.size(); ++k) {
        out["sections"].push_back(
            {{"name", table.sections[k].name},
             {"begin_m", table.sections[k].range_m.begin},
             {"end_m", table.sections[k].range_m.end},
             {"best_lap", table.best[k] ? Json(text_of(table.rows[*table.best[k]].ref)) : Json(nullptr)},
             {"times", json_of(table.spread[k])}});
        Json& runs_apart = out["sections"].back()["runs"] = Json::array();
        for (const auto& of : table.runs)
            runs_apart.push_back({{"run", of.run.value}, {"times", json_of(of.spread[k])}});
    }
    std::vector<Interval> ranges;
    for (const Section& section : table.sections) ranges.push_back(section.range_m);
    out["laps"] = Json::array();
    for (std::size_t l = 0; l < table.rows.size(); ++l) {
        const auto& row = table.rows[l];
        Json lap{
            {"lap", text_of(row.ref)}, {"included", row.included}, {"time_s", row.lap_s}, {"section_s", row.section_s}};
        const auto activity = section_activity(laps->laps[l], ranges);
        for (const ActivityFigure& figure : all_activity_figures()) {
            Json& values = lap["activity"][figure.id] = Json::array();
            for (const SectionActivity& of : activity) {
                const double value = of.*figure.value;
                values.push_back(std::isfinite(value) ? Json(value) : Json(nullptr));
            }
        }
        out["laps"].push_back(std::move(lap));
    }
    out["ideal_s"] = table.ideal_s ? Json(*table.ideal_s) : Json(nullptr);
    out["not_counted"] = laps->not_counted();
    return print(out);
}

int print_ideal(const std::string& folder, const std::vector<std::int64_t>& runs, double effect_s, bool mixed) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto laps = prepare_all(**library, runs, mixed);
    if (!laps) return report(laps.error());
    const auto sections = sections_of(*laps->runs.front()->track);
    const SectionTable table = section_table(laps->timed, sections);
    if (!table.best_lap || !table.ideal_s)
        return report({ErrorCode::not_found, "No flying lap counts in these runs.", {}});
    Json out;
    const double best = table.rows[*table.best_lap].lap_s;
    out["best"] = {{"lap", text_of(table.rows[*table.best_lap].ref)}, {"time_s", best}};
    out["ideal_s"] = *table.ideal_s;
    out["potential_s"] = best - *table.ideal_s;
    out["not_counted"] = laps->not_counted();
    if (const auto loop = fastest_loop(laps->timed, sections))
        out["fastest_loop"] = {{"from_lap", text_of(loop->first)},
                               {"from_m", loop->start_m},
                               {"from_section", loop->section},
                               {"time_s", loop->time_s}};
    out["runs"] = Json::array();
    for (const auto& run : laps->runs) {
        const Consistency found = consistency(run->laps);
        Json item = {{"run", run->row.id.value}, {"times", json_of(found.laps)}, {"verdict", found.verdict}};
        if (found.visible_s) item["visible_s"] = *found.visible_s;
        if (effect_s > 0) item["effect"] = effect_verdict(found, effect_s);
        out["runs"].push_back(item);
    }
    return print(out);
}

int print_peaks(const std::string& folder, const std::vector<std::int64_t>& runs, bool banked_count, bool mixed) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto laps = prepare_all(**library, runs, mixed);
    if (!laps) return report(laps.error());
    const CornerPeaks peaks = corner_peaks(laps->laps, banked_count);
    const CornerFigureTable figures = corner_figure_table(laps->laps, peaks);
    Json out = {{"limit_left_mps2", or_null(peaks.limit_left_mps2)},
                {"limit_right_mps2", or_null(peaks.limit_right_mps2)}};
    out["not_counted"] = laps->not_counted();
    out["corners"] = Json::array();
    for (const PeakColumn& column : peaks.corners)
        out["corners"].push_back({{"corner", column.corner.number},
                                  {"name", column.corner.name},
                                  {"left", column.corner.left},
                                  {"banked", column.banked},
                                  {"banking_deg", column.banking_rad * 57.29577951},
                                  {"best_mps2", or_null(column.best_mps2)}});
    out["laps"] = Json::array();
    for (std::size_t r = 0; r < laps->laps.size(); ++r) {
        Json row = {{"lap", text_of(laps->laps[r].ref)}, {"corners", Json::array()}};
        for (const auto& corner : figures[r]) {
            Json of_corner;
            for (std::size_t k = 0; k < corner.size(); ++k) of_corner[all_corner_figures()[k].id] = or_null(corner[k]);
            row["corners"].push_back(of_corner);
        }
        out["laps"].push_back(row);
    }
    return print(out);
}

int print_stops(const std::string& folder, std::int64_t id) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto run = load_checked(**library, {id});
    if (!run) return report(run.error());
    Json out = Json::array();
    for (const Stop& stop : stops_of(*(*run)->recording, (*run)->laps, (*run)->path.get(), (*run)->track.get()))
        out.push_back({{"start", stop.is_start},
                       {"from_s", stop.standing_s.begin},
                       {"to_s", stop.standing_s.end},
                       {"standing_s", stop.standing_s.length()},
                       {"lap", stop.lap},
                       {"to_100_kmh_s", or_null(stop.to_100_kmh_s)},
                       {"lost_s", or_null(stop.lost_s)},
                       {"laps", stop.laps},
                       {"words", stop_words(stop)}});
    return print(out);
}

int print_overlay(const std::string& folder, std::int64_t baseline, std::int64_t id) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto a = load_checked(**library, {baseline});
    if (!a) return report(a.error());
    const auto b = load_checked(**library, {id});
    if (!b) return report(b.error());
    const auto found = overlay_of(*(*a)->recording, *(*b)->recording);
    if (!found) return report(found.error());
    return print({{"baseline", baseline},
                  {"run", id},
                  {"shift_s", found->shift_s},
                  {"likeness", found->likeness},
                  {"overlap_s", found->overlap_s},
                  {"by", found->quantity},
                  {"by_stretch", found->by_stretch},
                  {"fits_nearly_as_well_s", found->others_s}});
}

int print_alignment(const std::string& folder, const std::vector<std::int64_t>& runs) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto laps = prepare_all(**library, runs, true);
    if (!laps) return report(laps.error());
    // The first run's best lap is the reference.
    const Lap* best = best_lap(laps->runs.front()->laps);
    if (best == nullptr) return report({ErrorCode::not_found, "No flying lap of the first run counts.", {}});
    const auto reference = prepare_lap(*laps->runs.front(), best->number);
    if (!reference) return report(reference.error());
    Json out = {{"reference", text_of(reference->ref)}, {"runs", Json::array()}};
    for (const auto& run : laps->runs) {
        Json item = {{"run", run->row.id.value}};
        const Lap* own = best_lap(run->laps);
        item["trust_m"] = own == nullptr ? Json(nullptr) : Json(own->trust_m);
        if (own != nullptr) {
            const auto lap = prepare_lap(*run, own->number);
            if (!lap) return report(lap.error());
            const auto offset = along_offset(*reference, *lap);
            item["behind_m"] = offset ? Json(offset->behind_m) : Json(nullptr);
            item["scatter_m"] = offset ? Json(offset->scatter_m) : Json(nullptr);
            item["misplaced"] = offset && offset->stands_out();
        }
        const auto shift = position_shift(*run->path, *run->track, run->laps);
        item["shift_m"] = shift ? Json({{"east", shift->shift.x}, {"north", shift->shift.y}}) : Json(nullptr);
        const auto delay = position_delay(*run->recording);
        item["positions_late_s"] = delay ? Json(delay->delay_s) : Json(nullptr);
        const auto beacon = beacon_offset(*run->recording, *run->path, run->laps);
        item["loggers_line_behind_m"] = beacon ? Json(beacon->behind_m) : Json(nullptr);
        out["runs"].push_back(item);
    }
    return print(out);
}

int set_launch(const std::string& folder, std::int64_t run, std::optional<double> at_s) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    auto correction = (*library)->place_correction({run});
    if (!correction) return report(correction.error());
    correction->launch_s = at_s;
    Library::Act act(**library);
    if (auto begun = act.begun(); !begun) return report(begun.error());
    if (auto put = (*library)->set_place_correction({run}, *correction); !put) return report(put.error());
    if (auto cut = recut_run(**library, {run}); !cut) return report(cut.error());
    if (auto kept = act.commit(); !kept) return report(kept.error());
    Json out = Json::array();
    const auto laps = (*library)->laps({run});
    if (!laps) return report(laps.error());
    for (const Lap& lap : *laps) out.push_back(to_json(lap));
    return print(out);
}

}  // namespace rendak::cli
