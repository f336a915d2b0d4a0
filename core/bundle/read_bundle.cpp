#include <algorithm>
#include <cerrno>

#include "core/base/file_io.h"
#include "core/base/text.h"
#include "core/bundle/bundle.h"
#include "core/bundle/bundle_films.h"
#include "core/bundle/bundle_json.h"
#include "core/bundle/run_difference.h"
#include "core/bundle/zip_file.h"
#include "core/intake/edit_track.h"
#include "core/intake/run_formulas.h"
#include "core/library/writer_lock.h"
#include "core/recording/recording_file.h"
#include "core/signal/quantity.h"
#include "core/track/track.h"

namespace rendak {
namespace {

using Kind = BundleItem::Kind;
using State = BundleItem::State;

constexpr std::size_t most_json = 64U << 20;

struct Opened {
    ZipReader zip;
    BundleJson json;
    std::vector<BundleFilm> films;
};

Result<Opened> open_bundle(const std::filesystem::path& file) {
    auto zip = ZipReader::open(file);
    if (!zip) return pass_on(zip.error());
    const auto text = zip->text("bundle.json", most_json);
    if (!text) return pass_on(text.error());
    auto json = bundle_from_json(*text, file.string());
    if (!json) return pass_on(json.error());
    for (const BundleTrack& track : json->tracks) {
        if (!zip->has(track.file))
            return fail(ErrorCode::bad_input, "The bundle lacks the file of the track " + track.name + ".",
                        file.string());
    }
    auto films = films_in_bundle(*zip, json->runs.size(), file.string());
    if (!films) return pass_on(films.error());
    return Opened{std::move(*zip), std::move(*json), std::move(*films)};
}

std::string run_title(const BundleRun& run) {
    std::string out = run.facts.name;
    for (const std::string* part : {&run.facts.driver, &run.facts.event, &run.facts.session}) {
        if (!part->empty()) out += ", " + *part;
    }
    return out;
}

std::string run_key(const BundleJson& json, std::size_t i) {
    return "run:" + json.runs[i].digest + ":" + std::to_string(i);
}

/// The library's run of this recording and stretch, if it has one.
Result<std::optional<RunRow>> same_run(const Library& library, const BundleRun& run) {
    const auto id = library.find_digest(run.digest);
    if (!id) return pass_on(id.error());
    if (!*id) return std::nullopt;
    if (auto row = library.run(**id); row && row->window_s == run.window_s) return std::optional(std::move(*row));
    auto rows = library.runs();
    if (!rows) return pass_on(rows.error());
    for (RunRow& row : *rows) {
        if (row.digest == run.digest && row.window_s == run.window_s) return std::optional(std::move(row));
    }
    return std::nullopt;
}

/// The library's sheet with the same car, name and values.
Result<std::optional<SetupId>> equal_setup(const Library& library, const Setup& sheet) {
    const auto all = library.setups(sheet.car);
    if (!all) return pass_on(all.error());
    for (const Setup& mine : *all) {
        if (mine.name != sheet.name || mine.car != sheet.car) continue;
        const auto whole = library.setup(mine.id);
        if (!whole) return pass_on(whole.error());
        if (whole->values == sheet.values) return std::optional(mine.id);
    }
    return std::nullopt;
}

Result<std::optional<CarSheet>> same_car_sheet(const Library& library, const CarSheet& sheet) {
    auto all = library.car_sheets();
    if (!all) return pass_on(all.error());
    for (CarSheet& mine : *all) {
        if (mine.car == sheet.car && mine.season == sheet.season) return std::optional(std::move(mine));
    }
    return std::nullopt;
}

Result<std::optional<formula::FormulaSet>> same_formula_set(const Library& library, const formula::FormulaSet& set) {
    auto all = formula_sets(library);
    if (!all) return pass_on(all.error());
    for (formula::FormulaSet& mine : *all) {
        if (mine.name == set.name) return std::optional(std::move(mine));
    }
    return std::nullopt;
}

/// Mine with what the bundle has: formulas that only I have stay.
formula::FormulaSet taken_into(const formula::FormulaSet& mine, const formula::FormulaSet& incoming) {
    std::vector<std::pair<std::string, formula::Merge>> choices;
    for (const formula::Formula& it : incoming.formulas) choices.emplace_back(it.name, formula::Merge::take);
    return formula::merged(mine, incoming, choices);
}

class Taker {
  public:
    Taker(Library& library, const Opened& bundle, const std::set<std::string>& take, const std::set<std::string>& leave,
          const JobContext& job)
        : library_(library), bundle_(bundle), take_(take), leave_(leave), job_(job) {}

    Result<BundleTaken> take() {
        if (auto done = take_all(); !done) {
            Error error = done.error();
            error.message += out_.told.empty() ? " Nothing was brought in." : " What had come in before stays:";
            for (const std::string& what : out_.told) error.message += " " + what;
            return pass_on(std::move(error));
        }
        return std::move(out_);
    }

  private:
    /// The small things in one act, then each run in an act of its own: killed in between, what is in is whole, and
    /// taking the bundle again goes on where it stopped.
    Result<void> take_all() {
        const std::size_t told_before = out_.told.size();
        if (auto done = take_small_things(); !done) {
            out_.told.resize(told_before);
            return done;
        }
        for (const BundleTrack& track : bundle_.json.tracks) {
            if (auto done = replace_track(track); !done) return done;
        }
        // Runs that others are joined into come first: a part is filed together with its place in them.
        const auto& runs = bundle_.json.runs;
        ids_.assign(runs.size(), RunId{});
        std::size_t finished = 0;
        for (const bool parts : {false, true}) {
            for (std::size_t i = 0; i < runs.size(); ++i) {
                if ((runs[i].joined_into >= 0) != parts) continue;
                const double n = static_cast<double>(runs.size()), at = static_cast<double>(finished++);
                if (job_.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
                if (auto done = take_run(i, job_.part(at / n, (at + 1) / n)); !done) return done;
            }
        }
        for (const BundleFilm& film : bundle_.films) {
            const auto mine = same_film(library_, film);
            if (!mine) return pass_on(mine.error());
            if (*mine != 0 || leave_.contains(film.key())) continue;
            if (auto done = take_film(library_, bundle_.zip, film, ids_, {job_.stop, {}}); !done) return done;
            told("Film " + film.film.title() + ".");
        }
        return {};
    }

    Result<void> take_small_things() {
        Library::Act act(library_);
        if (auto begun = act.begun(); !begun) return begun;
        for (const Setup& sheet : bundle_.json.setups) {
            if (auto done = take_setup(sheet); !done) return done;
        }
        for (const CarSheet& sheet : bundle_.json.car_sheets) {
            const auto mine = same_car_sheet(library_, sheet);
            if (!mine) return pass_on(mine.error());
            if ((*mine && **mine == sheet) || !wanted("car:" + sheet.car + "|" + sheet.season, mine->has_value()))
                continue;
            if (auto done = library_.put_car_sheet(sheet); !done) return done;
            told("Car sheet of " + sheet.car + ", " + sheet.season + ".");
        }
        for (const formula::FormulaSet& set : bundle_.json.formula_sets) {
            const auto mine = same_formula_set(library_, set);
            if (!mine) return pass_on(mine.error());
            const formula::FormulaSet after = *mine ? taken_into(**mine, set) : set;
            if ((*mine && **mine == after) || !wanted("formulas:" + set.name, mine->has_value())) continue;
            const auto version = library_.add_formula_version(set.name, formula::set_to_json(after), "from a bundle");
            if (!version) return pass_on(version.error());
            told("Formula set " + set.name + ", version " + std::to_string(*version) + ".");
        }
        const auto aliases = library_.aliases();
        if (!aliases) return pass_on(aliases.error());
        for (const auto& [alias, quantity] : bundle_.json.aliases) {
            const auto mine = aliases->find(alias);
            if (find_quantity(quantity) == nullptr || (mine != aliases->end() && mine->second == quantity)) continue;
            if (!wanted("alias:" + alias, mine != aliases->end())) continue;
            if (auto done = library_.set_alias(alias, quantity); !done) return done;
        }
        for (const BundleTrack& track : bundle_.json.tracks) {
            if (auto done = add_track(track); !done) return done;
        }
        return act.commit();
    }

    [[nodiscard]] bool wanted(const std::string& key, bool clash) const {
        return clash ? take_.contains(key) : !leave_.contains(key);
    }
    void told(std::string text) { out_.told.push_back(std::move(text)); }

    Result<void> take_setup(const Setup& sheet) {
        const auto mine = equal_setup(library_, sheet);
        if (!mine) return pass_on(mine.error());
        if (*mine) {
            setups_[setup_key(sheet)] = **mine;
            return {};
        }
        if (leave_.contains("setup:" + setup_key(sheet))) return {};
        const auto made = library_.add_setup(sheet.car, sheet.name, sheet.values, sheet.remarks);
        if (!made) return pass_on(made.error());
        setups_[setup_key(sheet)] = *made;
        told("Setup sheet " + sheet.title() + ".");
        return {};
    }

    Result<void> add_track(const BundleTrack& track) {
        const auto mine = library_.find_track(track.name);
        if (!mine) return pass_on(mine.error());
        if (*mine) {
            tracks_[track.name] = **mine;
            return {};
        }
        if (leave_.contains("track:" + track.name)) return {};
        const auto text = bundle_.zip.text(track.file, most_json);
        if (!text) return pass_on(text.error());
        const auto read = track_from_geojson(*text, track.name);
        if (!read) return pass_on(read.error());
        const auto put = library_.put_track(track.name, read->length_m, *text);
        if (!put) return pass_on(put.error());
        tracks_[track.name] = *put;
        told("Track " + track.name + ".");
        return {};
    }

    /// The bundle's line instead of one's own, when that is asked for: one's own runs are cut again with it.
    Result<void> replace_track(const BundleTrack& track) {
        if (!take_.contains("track:" + track.name) || !tracks_.contains(track.name)) return {};
        const TrackId id = tracks_[track.name];
        auto before = track_state(library_, id);
        if (!before) return pass_on(before.error());
        auto text = bundle_.zip.text(track.file, most_json);
        if (!text) return pass_on(text.error());
        if (before->geojson == *text) return {};
        if (auto done = put_track_state(library_, id, {std::move(*text), std::move(before->marks)}, true); !done)
            return done;
        told("Track " + track.name + ", and its runs were cut again.");
        return {};
    }

    Result<void> take_run(std::size_t i, const JobContext& job) {
        const BundleRun& run = bundle_.json.runs[i];
        const RunFacts facts = facts_for(run, setups_);
        const auto mine = same_run(library_, run);
        if (!mine) return pass_on(mine.error());
        if (*mine) {
            ids_[i] = (*mine)->id;
            const auto damage = library_.check_recording((*mine)->id, job.part(0, 0.2));
            if (!damage) return pass_on(damage.error());
            if (!damage->empty()) {
                if (auto done = mend_run(run, (*mine)->id, job.part(0.2, 1)); !done) return done;
                told(run_title(run) + ": its recording was missing or damaged; it is whole again.");
            }
            const std::string key = run_key(bundle_.json, i);
            return take_.contains(key) ? take_facts(**mine, run, facts) : Result<void>();
        }
        if (leave_.contains(run_key(bundle_.json, i))) return {};
        const auto made = file_run(run, facts, job);
        if (!made) return pass_on(made.error());
        ids_[i] = *made;
        out_.runs.push_back(*made);
        told(run_title(run) + ".");
        return {};
    }

    /// One's own run with the bundle's facts, official laps, and notes besides one's own.
    Result<void> take_facts(const RunRow& mine, const BundleRun& run, const RunFacts& facts) {
        const auto difference = difference_of(library_, mine, run, facts);
        if (!difference) return pass_on(difference.error());
        if (difference->empty()) return {};
        const auto notes = new_notes(library_, mine.id, run);
        if (!notes) return pass_on(notes.error());
        if (auto done = library_.set_facts(mine.id, facts); !done) return done;
        if (!run.official_laps.empty()) {
            if (auto done = library_.set_official_laps(mine.id, run.official_laps); !done) return done;
        }
        for (const PictureNote& note : *notes) {
            if (auto done = library_.add_picture_note(mine.id, note); !done) return pass_on(done.error());
        }
        told(run_title(run) + ": its facts are the bundle's now" +
             (notes->empty() ? "." : ", and its notes on pictures are there."));
        return {};
    }

    /// Everything that belongs to a run, to be filed in one act.
    FilingInfo filing_of(const BundleRun& run, const RunFacts& facts) const {
        FilingInfo info;
        static_cast<RunFacts&>(info) = facts;
        if (info.event.empty()) info.event = "From a bundle";
        if (info.session.empty()) info.session = "Session 1";
        const auto track = tracks_.find(run.track);
        if (track != tracks_.end()) info.track = track->second;
        info.notes = run.notes;
        info.picture_notes = run.picture_notes;
        info.official_laps = run.official_laps;
        info.laps = run.laps;
        info.flipped = run.flipped;
        info.unused = run.unused;
        info.channel_edits = run.channel_edits;
        info.clock_shift_s = run.clock_shift_s;
        info.window_s = run.window_s;
        info.place = run.place;
        for (const EventRow& event : bundle_.json.events) {
            if (event.name == info.event) info.about_event = event;
        }
        if (run.joined_into >= 0) {
            info.joined_into = ids_[static_cast<std::size_t>(run.joined_into)];
            info.join_offset_s = run.join_offset_s;
        }
        return info;
    }

    Result<RunId> file_run(const BundleRun& run, const RunFacts& facts, const JobContext& job) {
        // Another stretch of a recording that is here already.
        const auto other = library_.find_digest(run.digest);
        if (!other) return pass_on(other.error());
        if (*other && run.window_s) return library_.add_stretch(**other, filing_of(run, facts));
        auto recording = unpacked(run, job.part(0, 0.5));
        if (!recording) return pass_on(recording.error());
        return library_.add_run(*recording, filing_of(run, facts), job.part(0.5, 1));
    }

    Result<void> mend_run(const BundleRun& run, RunId id, const JobContext& job) {
        auto recording = unpacked(run, job.part(0, 0.5));
        if (!recording) return pass_on(recording.error());
        return library_.mend_recording(id, *recording, job.part(0.5, 1));
    }

    /// The recording of a run, checked against its digest. Its file is unpacked into the library's folder, where there
    /// is room for it if anywhere, under the writer's lock; it goes away with the last copy of the result.
    Result<Recording> unpacked(const BundleRun& run, const JobContext& job) {
        const WriterLock lock(library_.folder(), WriterLock::Kind::shared);
        if (!lock.held()) return pass_on(io_error("write to the library", library_.folder(), errno));
        const auto temporary = OutputFile::begin(library_.folder() / "recordings" / (run.digest + ".unpacked"));
        if (!temporary) return pass_on(temporary.error());
        auto done = bundle_.zip.extract("recordings/" + run.digest + ".rdk.h5", temporary->part(), job);
        if (!done) return pass_on(done.error());
        const auto recording = open_recording(temporary->part(), job);
        if (!recording) return pass_on(recording.error());
        Recording checked = **recording;
        checked.digest = content_digest(checked);
        if (checked.digest != run.digest)
            return fail(ErrorCode::bad_input,
                        "The recording of \"" + run.facts.name +
                            "\" is not what the bundle says it is (its digest differs); it was not brought in.");
        checked.source_name = run.source_name;
        return checked;  // its mapping outlives the name of the file
    }

    Library& library_;
    const Opened& bundle_;
    const std::set<std::string>&take_, &leave_;
    JobContext job_;
    std::map<std::string, SetupId> setups_;
    std::map<std::string, TrackId> tracks_;
    std::vector<RunId> ids_;
    BundleTaken out_;
};

}  // namespace

Result<std::vector<BundleItem>> preview_bundle(const Library& library, const std::filesystem::path& file) {
    const auto bundle = open_bundle(file);
    if (!bundle) return pass_on(bundle.error());
    const BundleJson& json = bundle->json;
    std::vector<BundleItem> out;
    std::map<std::string, SetupId> setups;
    for (const Setup& sheet : json.setups) {
        const auto mine = equal_setup(library, sheet);
        if (!mine) return pass_on(mine.error());
        if (*mine) setups[setup_key(sheet)] = **mine;
        out.push_back({Kind::setup, *mine ? State::same : State::fresh, "setup:" + setup_key(sheet),
                       "Setup sheet " + sheet.title() + (sheet.car.empty() ? "" : ", " + sheet.car), ""});
    }
    for (const CarSheet& sheet : json.car_sheets) {
        const auto mine = same_car_sheet(library, sheet);
        if (!mine) return pass_on(mine.error());
        const State state = !*mine ? State::fresh : **mine == sheet ? State::same : State::clash;
        out.push_back({Kind::car_sheet, state, "car:" + sheet.car + "|" + sheet.season,
                       "Car sheet " + sheet.car + ", " + sheet.season,
                       state == State::clash ? "its values differ; taking it replaces yours" : ""});
    }
    for (const formula::FormulaSet& set : json.formula_sets) {
        const auto mine = same_formula_set(library, set);
        if (!mine) return pass_on(mine.error());
        const State state = !*mine ? State::fresh : taken_into(**mine, set) == **mine ? State::same : State::clash;
        out.push_back({Kind::formula_set, state, "formulas:" + set.name, "Formula set " + set.name,
                       state == State::clash ? "formulas differ; taking it makes a new version of yours with the "
                                               "bundle's, the one before stays in its history"
                                             : ""});
    }
    for (const BundleTrack& track : json.tracks) {
        const auto mine = library.find_track(track.name);
        if (!mine) return pass_on(mine.error());
        State state = State::fresh;
        if (*mine) {
            const auto own = library.track_geojson(**mine);
            const auto theirs = bundle->zip.text(track.file, most_json);
            state = own && theirs && *own == *theirs ? State::same : State::clash;
        }
        out.push_back({Kind::track, state, "track:" + track.name, "Track " + track.name,
                       state == State::clash
                           ? "line or start differ; taking it replaces yours, and your runs are cut again"
                           : ""});
    }
    const auto aliases = library.aliases();
    if (!aliases) return pass_on(aliases.error());
    for (const auto& [alias, quantity] : json.aliases) {
        const auto mine = aliases->find(alias);
        const State state = mine == aliases->end()     ? State::fresh
                            : mine->second == quantity ? State::same
                                                       : State::clash;
        out.push_back({Kind::alias, state, "alias:" + alias, "Channel name " + alias + " = " + quantity,
                       state == State::clash ? "is " + mine->second + " here" : ""});
    }
    for (std::size_t i = 0; i < json.runs.size(); ++i) {
        const BundleRun& run = json.runs[i];
        BundleItem item{Kind::run, State::fresh, run_key(json, i), run_title(run), ""};
        if (!bundle->zip.has("recordings/" + run.digest + ".rdk.h5"))
            return fail(ErrorCode::bad_input, "The bundle lacks the recording of \"" + run.facts.name + "\".",
                        file.string());
        const auto mine = same_run(library, run);
        if (!mine) return pass_on(mine.error());
        if (*mine) {
            auto difference = difference_of(library, **mine, run, facts_for(run, setups));
            if (!difference) return pass_on(difference.error());
            item.difference = std::move(*difference);
            item.state = item.difference.empty() ? State::same : State::clash;
        }
        out.push_back(std::move(item));
    }
    for (const BundleFilm& film : bundle->films) {
        const auto mine = same_film(library, film);
        if (!mine) return pass_on(mine.error());
        out.push_back(
            {Kind::film, *mine == 0 ? State::fresh : State::same, film.key(), "Film " + film.film.title(), ""});
    }
    return out;
}

Result<BundleTaken> take_bundle(Library& library, const std::filesystem::path& file, const std::set<std::string>& take,
                                const std::set<std::string>& leave, const JobContext& job) {
    const auto bundle = open_bundle(file);
    if (!bundle) return pass_on(bundle.error());
    return Taker(library, *bundle, take, leave, job).take();
}

}  // namespace rendak
