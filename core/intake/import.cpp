#include "core/intake/import.h"

#include <malloc.h>

#include <algorithm>
#include <cmath>
#include <set>

#include "core/base/spill.h"
#include "core/base/text.h"
#include "core/base/time_zone.h"
#include "core/intake/channel_edits.h"
#include "core/intake/place_run.h"
#include "core/intake/run_path.h"
#include "core/intake/run_recording.h"
#include "core/intake/shared_track.h"
#include "core/intake/sign_check.h"
#include "core/laps/slow_error.h"
#include "core/recording/formats.h"
#include "core/recording/recording_file.h"
#include "core/signal/quantity.h"
#include "core/track/by_shape.h"
#include "core/track/launch.h"
#include "core/track/learn.h"

namespace rendak {
namespace {

/// Which of the quantities that show the bends are logged.
std::vector<std::string> bend_quantities(const Recording& recording) {
    std::vector<std::string> out;
    for (const char* quantity : {"lateral_acceleration", "yaw_rate"}) {
        if (recording.find(quantity) != nullptr) out.emplace_back(quantity);
    }
    return out;
}

/// Positions at 0/0 are a receiver without satellites: missing, not Africa's coast.
void clear_null_positions(Recording& recording, std::vector<std::string>& notes) {
    Channel* latitude = nullptr;
    Channel* longitude = nullptr;
    for (Channel& channel : recording.channels) {
        if (channel.quantity == "latitude") latitude = &channel;
        if (channel.quantity == "longitude") longitude = &channel;
    }
    if (latitude == nullptr || longitude == nullptr || latitude->size() != longitude->size()) return;
    std::size_t nulls = 0;
    for (std::size_t i = 0; i < latitude->size(); ++i) nulls += latitude->at(i) == 0 && longitude->at(i) == 0;
    if (nulls == 0) return;
    for (Channel* channel : {latitude, longitude}) {
        const Channel* other = channel == latitude ? longitude : latitude;
        ChannelStorage storage;
        for (std::size_t i = 0; i < channel->size(); ++i) {
            const bool null = channel->at(i) == 0 && (other->at(i) == 0 || std::isnan(other->at(i)));
            storage.doubles.push_back(null ? std::nan("") : channel->at(i));
        }
        storage.times_s.assign(channel->clock.times_s.begin(), channel->clock.times_s.end());
        Channel cleaned = make_channel(channel->name, channel->quantity, channel->unit, std::move(storage),
                                       channel->clock.start_s, channel->clock.rate_hz);
        cleaned.source_unit = channel->source_unit;
        *channel = std::move(cleaned);
    }
    notes.push_back(counted(nulls, "position is", "positions are") +
                    " 0/0 (the receiver saw no satellites); taken as missing.");
}

/// Channels are known by their names: two of one name are told apart by a number, the first keeps its own.
void tell_names_apart(Recording& recording, std::vector<std::string>& notes) {
    std::set<std::string> taken;
    for (const Channel& channel : recording.channels) taken.insert(channel.name);
    std::set<std::string> seen;
    for (Channel& channel : recording.channels) {
        if (seen.insert(channel.name).second) continue;
        const std::string name = channel.name;
        for (int k = 2; !taken.insert(channel.name).second; ++k) channel.name = name + " (" + std::to_string(k) + ")";
        seen.insert(channel.name);
        notes.push_back("Two channels are called \"" + name + "\"; the second one is \"" + channel.name + "\" here.");
    }
}

/// The event that runs of this track on this day are filed under, whatever it was called; empty: there is none.
Result<std::string> event_of_that_day(const Library& library, TrackId track, double start_unix_s) {
    const auto rows = library.runs();
    if (!rows) return pass_on(rows.error());
    for (auto row = rows->rbegin(); row != rows->rend(); ++row) {
        if (row->track == track && row->start_unix_s &&
            local_text(*row->start_unix_s, row->zone, "%Y-%m-%d") == local_text(start_unix_s, row->zone, "%Y-%m-%d"))
            return row->event;
    }
    return std::string();
}

/// The content is here: out of the bin with it if it lies there, and the raw file is remembered.
Result<ImportResult> already_in(Library& library, RunId id, const Recording& recording, const ImportOptions& options,
                                std::vector<std::string> notes, const JobContext& job) {
    const auto row = library.run(id);
    if (!row) return pass_on(row.error());
    const auto damage = library.check_recording(id, job);
    if (!damage) return pass_on(damage.error());
    if (!damage->empty()) {
        if (auto done = library.mend_recording(id, recording, job); !done) return pass_on(done.error());
        // Laps may have been left as they were while nothing could be read.
        if (auto done = recut_run(library, id); !done) return pass_on(done.error());
        notes.push_back("The recording of " + row->name + " was missing or damaged; it is whole again.");
    }
    if (row->binned_unix_s) {
        if (auto done = library.set_binned(id, false); !done) return pass_on(done.error());
        notes.push_back(row->name + " was in the bin; it is back in its session.");
    }
    // The original at hand counts: the one that was noted may be gone.
    if (options.raw) {
        if (auto done = library.add_raw(id, *options.raw); !done) return pass_on(done.error());
    }
    return ImportResult{id, true, notes, !damage->empty()};
}

/// The reading options with what the library remembers: the user's channel names, and how tables of this shape are
/// read.
Result<ReadOptions> remembered(const Library& library, const std::filesystem::path& file, ReadOptions read) {
    if (read.csv.aliases.empty()) {
        auto aliases = library.aliases();
        if (!aliases) return pass_on(aliases.error());
        read.csv.aliases = std::move(*aliases);
    }
    const auto any = library.has_table_mappings();
    if (!any) return pass_on(any.error());
    if (read.csv.mapping || !*any || !is_table(format_of(file))) return read;
    if (const auto preview = preview_table(file, read.csv.aliases, 0)) {
        const auto mapping = library.table_mapping(preview->key);
        if (!mapping) return pass_on(mapping.error());
        read.csv.mapping = table_mapping_from_json(*mapping);
    }
    if (read.csv.mapping && !read.csv.rate_hz) read.csv.rate_hz = read.csv.mapping->rate_hz;
    return read;
}

/// How much of a file's samples may lie in memory while it is read: of a large one a 32nd of what it is.
std::size_t in_memory_of(const std::filesystem::path& file) {
    constexpr std::size_t large = std::size_t{256} << 20;
    std::error_code none;
    const auto size = std::filesystem::file_size(file, none);
    return none || size < large ? SpillToDisk::usual_in_memory
                                : std::min<std::size_t>(SpillToDisk::usual_in_memory, size / 32);
}

}  // namespace

Result<ImportResult> import_file(Library& library, const std::filesystem::path& file, const ImportOptions& options,
                                 const JobContext& job) {
    const auto how = remembered(library, file, options.read);
    if (!how) return pass_on(how.error());
    // A large recording need not fit into the memory.
    const SpillToDisk spill(library.folder() / "recordings", in_memory_of(file));
    auto read = read_logged_file(file, *how, job.part(0, 0.6));
    if (!read) return pass_on(read.error());
    ::malloc_trim(0);  // what reading a large file took is not kept for the next one
    if (read->recording.source_name.empty()) read->recording.source_name = file.filename().string();
    auto imported = import_recording(library, std::move(*read), options, job.part(0.6, 1));
    if (!imported || !spill.lost()) return imported;
    // Samples that a failing disk did not give back must not be filed as missing ones.
    if (!imported->already_there) {
        if (auto removed = library.remove_run(imported->run); !removed) return pass_on(removed.error());
    }
    return fail(ErrorCode::io,
                "A file became shorter, or the disk failed, while this one was imported; nothing was filed. Check the "
                "disk and import it again.",
                file.string());
}

Result<ImportResult> import_recording(Library& library, ReadRecording read, const ImportOptions& options,
                                      const JobContext& job) {
    Recording& recording = read.recording;
    std::vector<std::string>& notes = read.notes;
    clear_null_positions(recording, notes);
    tell_names_apart(recording, notes);
    recording.digest = content_digest(recording);
    const auto known = library.find_digest(recording.digest);
    if (!known) return pass_on(known.error());
    if (*known) return already_in(library, **known, recording, options, notes, job);

    FilingInfo info;
    static_cast<RunFacts&>(info) = options;
    // What the channels are: as this car's logger has them by template, else as they are told by what they hold.
    const Recording logged = recording;
    auto said = template_edits(library, options.car, recording.logger, recording.start_unix_s);
    if (!said) return pass_on(said.error());
    std::erase_if(*said, [&](const ChannelEdit& edit) { return !check_channel_edit(logged, edit); });
    if (!said->empty())
        notes.push_back("Channels are taken as the template of this car and logger says: " +
                        counted(said->size(), "edit", "edits") + ".");
    recording = with_channel_edits(logged, *said);
    ChannelRoles roles = channel_roles(recording);
    notes.insert(notes.end(), roles.notes.begin(), roles.notes.end());
    info.channel_edits = std::move(*said);
    for (const ChannelEdit& edit : roles.edits) {
        const bool is_said = std::any_of(info.channel_edits.begin(), info.channel_edits.end(),
                                         [&](const ChannelEdit& it) { return it.channel == edit.channel; });
        if (!is_said) info.channel_edits.push_back(edit);
    }
    recording = with_channel_edits(logged, info.channel_edits);
    info.raw = options.raw;
    std::vector<Lap> laps;
    std::vector<std::string> flipped;
    std::string track_name = options.track;
    bool place_unknown = false;
    if (!options.track.empty()) {
        const auto id = library.find_track(options.track);
        if (!id) return pass_on(id.error());
        if (!*id) {
            return fail(ErrorCode::not_found,
                        "There is no track \"" + options.track +
                            "\" in this library. \"track list\" shows the known ones; without a track "
                            "the run can be imported and its track learnt afterwards.");
        }
        info.track = **id;
    }
    auto path = path_of(recording);
    ::malloc_trim(0);  // the smoother's pieces likewise
    std::optional<Track> driven_on;
    if (path) {
        flipped = opposite_signs(recording, *path);
        for (const auto& quantity : flipped) {
            const Quantity* turned = find_quantity(quantity);
            notes.push_back(std::string(turned->label) +
                            " is logged with the opposite sign; it is turned round so that up = " +
                            std::string(turned->positive_word) + ".");
        }
        std::optional<Track> track;
        if (info.track) {
            auto named = read_track(library, info.track);
            if (!named) return pass_on(named.error());
            if (share_on_track(*path, *named) < 0.3) {
                notes.push_back("Hardly any of this run was driven on " + options.track + "; check the track.");
            }
            track = std::move(*named);
        } else {
            auto found = recognised_track(library, *path);
            if (!found) return pass_on(found.error());
            place_unknown = !found->track;
            if (!found->other_layout_of.empty())
                notes.push_back("This was driven at " + found->other_layout_of +
                                ", but not on that layout: roads differ. Learn it as a track of its own.");
            if (found->track) {
                info.track = found->track->id;
                track_name = found->track->track.name;
                notes.push_back("Recognised the track by position: " + track_name + ".");
                track = std::move(found->track->track);
            }
        }
        if (track) {
            *path = {};  // of a day it is large: not both at once
            path = driven_path(recording, &*track);
            if (path) {
                laps = laps_on(recording, *path, *track);
                driven_on = std::move(*track);
            }
        }
    } else if (recording.find("latitude") == nullptr && bend_profile(recording)) {
        bool turned_round = false;
        std::optional<KnownTrack> found;
        if (info.track) {
            auto named = read_track(library, info.track);
            if (!named) return pass_on(named.error());
            turned_round = place_by_shape(*bend_profile(recording), *named).turned_round;
            found = KnownTrack{info.track, std::move(*named)};
        } else {
            auto by_shape = recognised_by_shape(library, recording, turned_round);
            if (!by_shape) return pass_on(by_shape.error());
            found = std::move(*by_shape);
        }
        if (found) {
            if (turned_round) {
                flipped = bend_quantities(recording);
                notes.push_back(
                    "The bends are logged with the opposite sign; they are turned round so that up = left.");
            }
            const Recording upright = turned_round ? with_flipped(recording, flipped) : recording;
            if (const auto on_track = driven_path(upright, &found->track)) {
                info.track = found->id;
                track_name = found->track.name;
                notes.push_back("No positions: placed on " + track_name +
                                " by its bends (shape only); places are good to some metres.");
                laps = laps_on(upright, *on_track, found->track);
            } else {
                notes.push_back(on_track.error().message);
            }
        } else {
            place_unknown = true;
            notes.push_back("No positions: the track's shape can be learnt from the speed and the bends.");
        }
    } else {
        notes.push_back(path.error().message);
    }
    if (!driven_on && laps.empty()) {
        laps = laps_without_track(recording);
        if (!laps.empty())
            notes.push_back("Laps are cut where the logger itself saw the line; they have times but no places.");
    }
    if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled; nothing was kept.", recording.source_name);

    // The clocks of a new event are taken to be this computer's, until somebody says otherwise.
    const double started_s = recording.start_unix_s.value_or(0) + options.clock_shift_s;
    if (recording.start_unix_s) {
        info.about_event.emplace();
        info.about_event->zone = zone_here(started_s);
    }
    if (info.event.empty() && info.track && recording.start_unix_s) {
        auto of_that_day = event_of_that_day(library, info.track, started_s);
        if (!of_that_day) return pass_on(of_that_day.error());
        info.event = std::move(*of_that_day);
    }
    if (info.event.empty()) {
        const std::string place = track_name.empty() ? "Unfiled" : track_name;
        info.event =
            recording.start_unix_s ? place + ", " + local_text(started_s, info.about_event->zone, "%Y-%m-%d") : place;
    }
    if (info.session.empty()) info.session = "Session 1";
    info.notes = notes;
    info.laps = std::move(laps);
    const bool as_logged = flipped.empty();
    info.flipped = std::move(flipped);
    info.clock_shift_s = options.clock_shift_s;
    auto run = library.add_run(logged, info, job);
    if (!run && run.error().code == ErrorCode::exists) {
        if (const auto quicker = library.find_digest(recording.digest); quicker && *quicker)
            return already_in(library, **quicker, logged, options, notes, job);
    }
    if (!run) return pass_on(run.error());
    // Opened next, most likely: its path is at hand then.
    if (const auto row = library.run(*run); row && as_logged && path && driven_on.has_value() == bool(row->track))
        keep_run_path(library, *row, recording, driven_on ? &*driven_on : nullptr, {}, std::move(*path));
    // True today, not for good: said, but not filed with the run.
    if (place_unknown) notes.push_back("The place is not known yet: learn the track to cut laps.");
    return ImportResult{*run, false, notes, false, std::move(roles.questions)};
}

Result<void> recut_run(Library& library, RunId id) {
    const auto row = library.run(id);
    if (!row) return pass_on(row.error());
    if (!row->track) {
        const auto recording = run_recording(library, id);
        if (!recording) return pass_on(recording.error());
        return library.set_laps(id, laps_without_track(*recording));
    }
    const auto track = shared_track(library, row->track);
    if (!track) return pass_on(track.error());
    const auto laps = cut_run(library, id, **track);
    if (!laps) return pass_on(laps.error());
    return library.set_laps(id, *laps);
}

Result<std::vector<Lap>> cut_run(const Library& library, RunId id, const Track& track) {
    const auto recording = run_recording(library, id);
    if (!recording) return pass_on(recording.error());
    const auto correction = library.place_correction(id);
    if (!correction) return pass_on(correction.error());
    const auto row = library.run(id);
    if (!row) return pass_on(row.error());
    const auto found = run_path(library, *row, *recording, &track, *correction);
    if (!found) return pass_on(found.error());
    return laps_on(*recording, found->path, track, *correction);
}

namespace {

/// A track from a run that goes round, that goes from a standing start to a finish, or that has no positions.
Result<Track> track_from_run(const Recording& recording, const Result<Path>& path, const std::string& name,
                             std::optional<StartPlace> start, TrackKind kind) {
    if (!path) {
        if (recording.find("latitude") != nullptr || start || kind == TrackKind::open) return pass_on(path.error());
        return learn_shape(recording, name);
    }
    if (kind == TrackKind::open) {
        const auto launch = find_launch(recording);
        if (!launch)
            return fail(ErrorCode::bad_input,
                        "The car is on the move from the first sample on: a road from start to finish is learnt from "
                        "a run that shows its launch.",
                        recording.source_name);
        return learn_open_track(*path, name, *launch);
    }
    std::optional<StartLine> line;
    if (start)
        line = start_line_at(path->origin, start->place, start->heading_deg);
    else
        line = suggest_start(*path);
    if (!line) {
        return fail(ErrorCode::bad_input,
                    "No place is passed twice in the same direction: the car does not go around in this run. Choose a "
                    "run with at least one complete lap, or learn it as a road from start to finish.",
                    recording.source_name);
    }
    return learn_steady_track(*path, name, *line, SpeedSource(recording, SpeedSource::Prefer::gps));
}

}  // namespace

Result<LearnResult> learn_track_from_run(Library& library, RunId id, const std::string& name,
                                         std::optional<StartPlace> start, const JobContext& job, TrackKind kind) {
    // Every lap will be cut at what comes out of this one.
    const auto damage = library.check_recording(id, {job.stop, {}});
    if (!damage) return pass_on(damage.error());
    const auto recording = run_recording(library, id);
    if (!recording) return pass_on(recording.error());
    const auto row = library.run(id);
    if (!row) return pass_on(row.error());
    auto found = start ? path_of(*recording, start->place) : [&]() -> Result<Path> {
        auto kept = run_path(library, *row, *recording, nullptr, {});
        if (!kept) return pass_on(kept.error());
        return std::move(kept->path);
    }();
    auto track = track_from_run(*recording, found, name, start, kind);
    if (!track) {
        Error error = track.error();
        error.where = recording->source_name;
        return pass_on(std::move(error));
    }
    job.report(0.6);
    if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled; nothing was kept.");
    return file_track(library, *track, {id}, job.part(0.6, 1));
}

namespace {

/// A run whose event nobody named (its place was not known) goes where the next one from there will be filed.
Result<void> file_under_track(Library& library, RunId id, const std::string& track) {
    const auto row = library.run(id);
    if (!row) return pass_on(row.error());
    const std::string unnamed = "Unfiled";
    const bool by_itself =
        row->event == unnamed || (row->event.size() == unnamed.size() + 12 && row->event.starts_with(unnamed + ", "));
    if (!by_itself) return {};
    RunFacts facts = *row;
    facts.event = track + row->event.substr(unnamed.size());
    return library.set_facts(id, facts);
}

}  // namespace

Result<LearnResult> file_track(Library& library, const Track& track, std::vector<RunId> asked_for,
                               const JobContext& job) {
    // As it will be read again: what is written must be readable, and laps are cut at the line that is kept.
    const std::string text = track_to_geojson(track);
    const auto kept = track_from_geojson(text, track.name);
    if (!kept) return pass_on(kept.error());
    const auto known = library.find_track(track.name);
    if (!known) return pass_on(known.error());
    const auto rows = library.runs();
    if (!rows) return pass_on(rows.error());
    // All laps are cut first; then the track and the laps change in one act.
    std::vector<std::pair<RunId, std::vector<Lap>>> cuts;
    for (std::size_t i = 0; i < rows->size(); ++i) {
        const RunRow& row = (*rows)[i];
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled; nothing was changed.");
        const bool asked = std::find(asked_for.begin(), asked_for.end(), row.id) != asked_for.end();
        bool belongs = asked || (*known && row.track == **known);
        if (!belongs && !row.track && !track.shape_only) {
            const auto other = run_recording(library, row.id);
            const auto driven =
                other ? run_path(library, row, *other, nullptr, {}) : Result<RunPath>(pass_on(other.error()));
            belongs = driven && fit_on_track(driven->path, track).place() == TrackFit::Place::here;
        }
        job.report(static_cast<double>(i + 1) / static_cast<double>(rows->size()));
        if (!belongs) continue;
        auto laps = cut_run(library, row.id, *kept);
        if (!laps) return pass_on(laps.error());
        cuts.emplace_back(row.id, std::move(*laps));
    }
    Library::Act act(library);
    if (auto begun = act.begun(); !begun) return pass_on(begun.error());
    const auto track_id = library.put_track(track.name, track.length_m, text);
    if (!track_id) return pass_on(track_id.error());
    LearnResult result{*track_id, {}};
    for (const auto& [run, laps] : cuts) {
        if (auto done = library.set_run_track(run, *track_id); !done) return pass_on(done.error());
        if (auto done = library.set_laps(run, laps); !done) return pass_on(done.error());
        if (auto done = file_under_track(library, run, track.name); !done) return pass_on(done.error());
        result.runs_cut.push_back(run);
    }
    if (auto done = act.commit(); !done) return pass_on(done.error());
    return result;
}

Result<ImportResult> file_again(Library& library, const std::filesystem::path& unfiled, const JobContext& job) {
    auto recording = open_recording(unfiled, job.part(0, 0.2));
    if (!recording) return pass_on(recording.error());
    if (content_digest(**recording) + ".rdk.h5" != unfiled.filename().string())
        return fail(ErrorCode::bad_input,
                    "This recording is damaged: its content is not what its name says. It stays where it is; import or "
                    "fetch what it came from again.",
                    unfiled.string());
    return import_recording(library, {**recording, {"Filed again: the catalogue did not know this recording."}}, {},
                            job.part(0.2, 1));
}

}  // namespace rendak
