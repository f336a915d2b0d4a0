#include <algorithm>
#include <map>

#include "core/base/text.h"
#include "core/bundle/bundle.h"
#include "core/bundle/bundle_films.h"
#include "core/bundle/bundle_json.h"
#include "core/bundle/zip_file.h"
#include "core/intake/run_formulas.h"

namespace rendak {
namespace {

std::string recording_entry(const std::string& digest) {
    return "recordings/" + digest + ".rdk.h5";
}

Result<BundleRun> run_of(const Library& library, const RunRow& row) {
    auto laps = library.laps(row.id);
    if (!laps) return pass_on(laps.error());
    auto flipped = library.flipped_quantities(row.id), unused = library.unused_channels(row.id);
    if (!flipped || !unused) return pass_on((flipped ? unused : flipped).error());
    auto edits = library.channel_edits(row.id);
    if (!edits) return pass_on(edits.error());
    auto notes = library.picture_notes(row.id);
    if (!notes) return pass_on(notes.error());
    auto official = library.official_laps(row.id);
    if (!official) return pass_on(official.error());
    const auto place = library.place_correction(row.id);
    if (!place) return pass_on(place.error());
    BundleRun run;
    run.facts = row;
    run.track = row.track_name;
    run.digest = row.digest;
    run.logger = row.logger;
    run.source_name = row.source_name;
    run.clock_shift_s = row.clock_shift_s;
    run.window_s = row.window_s;
    run.laps = std::move(*laps);
    run.flipped = std::move(*flipped);
    run.unused = std::move(*unused);
    run.channel_edits = std::move(*edits);
    run.notes = row.notes;
    run.picture_notes = std::move(*notes);
    run.official_laps = std::move(*official);
    run.place = *place;
    run.join_offset_s = row.join_offset_s;
    return run;
}

}  // namespace

Result<void> write_bundle(Library& library, const BundleContents& contents, const std::filesystem::path& file,
                          const JobContext& job) {
    if (contents.runs.empty()) return fail(ErrorCode::bad_input, "A bundle needs at least one run.", file.string());
    BundleJson json;
    std::vector<ZipEntry> entries{{"bundle.json", "", {}}};
    std::set<std::string> digests, cars, events;
    std::set<std::int64_t> tracks, setups;
    std::vector<RunId> order;  // of the runs in the bundle
    const auto add = [&](const RunRow& row, int joined_into) -> Result<void> {
        // Nothing damaged is passed on.
        const auto damage = library.check_recording(row.id, {job.stop, {}});
        if (!damage) return pass_on(damage.error());
        if (!damage->empty()) return fail(ErrorCode::bad_input, *damage + " No bundle was written.", row.name);
        auto filed = run_of(library, row);
        if (!filed) return pass_on(filed.error());
        BundleRun& run = *filed;
        run.joined_into = joined_into;
        if (digests.insert(row.digest).second)
            entries.push_back({recording_entry(row.digest), "", library.folder() / row.recording_file});
        if (!row.car.empty()) cars.insert(row.car);
        events.insert(row.event);
        if (row.setup) {
            auto sheet = library.setup(row.setup);
            if (!sheet) return pass_on(sheet.error());
            run.setup = setup_key(*sheet);
            if (setups.insert(row.setup.value).second) json.setups.push_back(std::move(*sheet));
        }
        if (row.track && tracks.insert(row.track.value).second) {
            const auto track = library.track(row.track);
            if (!track) return pass_on(track.error());
            auto text = library.track_geojson(row.track);
            if (!text) return pass_on(text.error());
            const std::string name = "tracks/" + std::to_string(json.tracks.size() + 1) + ".geojson";
            json.tracks.push_back({track->name, name, track->length_m});
            entries.push_back({name, std::move(*text), {}});
        }
        json.runs.push_back(std::move(run));
        order.push_back(row.id);
        return {};
    };
    for (const RunId id : contents.runs) {
        const auto row = library.run(id);
        if (!row) return pass_on(row.error());
        const int place = static_cast<int>(json.runs.size());
        if (auto done = add(*row, -1); !done) return done;
        const auto parts = library.joined_runs(id);
        if (!parts) return pass_on(parts.error());
        for (const RunRow& part : *parts) {
            if (auto done = add(part, place); !done) return done;
        }
    }
    if (contents.car_sheets) {
        const auto sheets = library.car_sheets();
        if (!sheets) return pass_on(sheets.error());
        for (const CarSheet& sheet : *sheets) {
            if (cars.contains(sheet.car)) json.car_sheets.push_back(sheet);
        }
    }
    if (contents.aliases) {
        const auto aliases = library.aliases();
        if (!aliases) return pass_on(aliases.error());
        json.aliases.assign(aliases->begin(), aliases->end());
    }
    if (contents.formula_sets) {
        using Kind = formula::Scope::Kind;
        auto sets = formula_sets(library);
        if (!sets) return pass_on(sets.error());
        for (formula::FormulaSet& set : *sets) {
            if (set.scope.kind == Kind::car && !cars.contains(set.scope.name)) continue;
            if (set.scope.kind == Kind::event && !events.contains(set.scope.name)) continue;
            json.formula_sets.push_back(std::move(set));
        }
    }
    const auto all_events = library.events();
    if (!all_events) return pass_on(all_events.error());
    for (const EventRow& event : *all_events) {
        if (events.contains(event.name)) json.events.push_back(event);
    }
    if (contents.films) {
        if (auto done = add_films(library, order, entries); !done) return done;
    }
    entries[0].text = to_json(json);
    return write_zip(entries, file, job);
}

}  // namespace rendak
