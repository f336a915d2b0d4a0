#include "core/library/library.h"

#include <cerrno>

#include "core/base/file_io.h"
#include "core/base/text.h"
#include "core/library/damage.h"
#include "core/library/run_fields.h"
#include "core/library/sql.h"
#include "core/library/writer_lock.h"
#include "core/recording/recording_file.h"

namespace rendak {
namespace {

using sql::Statement;
using sql::Transaction;

std::string joined(const std::vector<std::string>& lines) {
    std::string out;
    for (const auto& line : lines) out += (out.empty() ? "" : "\n") + line;
    return out;
}

std::vector<std::string> lines_of(const std::string& text) {
    std::vector<std::string> out;
    std::size_t at = 0;
    while (at < text.size()) {
        const auto end = std::min(text.find('\n', at), text.size());
        out.push_back(text.substr(at, end - at));
        at = end + 1;
    }
    return out;
}

const std::string run_columns =
    "SELECT r.id, e.name, s.name, r.name, d.name, c.name, r.track_id, t.name, q.file, q.digest, q.source_name, "
    "q.start_unix_s, q.clock_shift_s, q.begin_s, q.end_s, r.notes, r.begin_s, r.end_s, r.joined_into, r.join_offset_s, "
    "r.setup_id, u.name || ' ' || u.version, r.binned_unix_s, q.logger, q.damage, e.zone" +
    run_field_columns(", r.") +
    " FROM runs r JOIN recordings q ON q.id = r.recording_id "
    "LEFT JOIN sessions s ON s.id = r.session_id LEFT JOIN events e ON e.id = s.event_id "
    "LEFT JOIN drivers d ON d.id = r.driver_id LEFT JOIN cars c ON c.id = r.car_id "
    "LEFT JOIN tracks t ON t.id = r.track_id LEFT JOIN setups u ON u.id = r.setup_id ";

RunRow run_row(const Statement& row) {
    RunRow run;
    run.id = {row.integer(0)};
    run.event = row.text(1);
    run.session = row.text(2);
    run.name = row.text(3);
    run.driver = row.text(4);
    run.car = row.text(5);
    run.track = {row.integer(6)};
    run.track_name = row.text(7);
    run.recording_file = row.text(8);
    run.digest = row.text(9);
    run.source_name = row.text(10);
    run.clock_shift_s = row.real(12);
    Interval span{row.real(13), row.real(14)};
    if (!row.is_null(16)) {
        run.window_s = Interval{row.real(16), row.real(17)};
        span = *run.window_s;
    }
    run.duration_s = span.length();
    // A recording without a clock starts when the user says so: its shift counts from 1970.
    if (!row.is_null(11) || run.clock_shift_s != 0)
        run.start_unix_s = row.real(11) + run.clock_shift_s + (run.window_s ? span.begin : 0);
    run.notes = lines_of(row.text(15));
    run.joined_into = {row.integer(18)};
    run.join_offset_s = row.real(19);
    run.setup = {row.integer(20)};
    run.setup_name = row.text(21);
    run.binned_unix_s = row.optional_real(22);
    run.logger = row.text(23);
    run.damage = row.text(24);
    run.zone = row.text(25);
    int column = 26;
    for (const RunField& field : all_run_fields()) {
        if (field.is_text())
            run.*field.text = row.text(column++);
        else
            run.*field.number = row.optional_real(column++);
    }
    return run;
}

Result<std::optional<RunId>> found_run(Statement& found) {
    const auto there = found.found();
    if (!there) return pass_on(there.error());
    return *there ? std::optional(RunId{found.integer(0)}) : std::nullopt;
}

}  // namespace

Error Library::look_only_error() const {
    return {ErrorCode::io, "The library is open to be looked at only: " + look_only_ + ". Nothing was changed.",
            folder_.string()};
}

const char* lap_kind_name(LapKind kind) {
    switch (kind) {
        case LapKind::out:
            return "out";
        case LapKind::flying:
            return "flying";
        case LapKind::in:
            return "in";
        case LapKind::part:
            return "part";
        case LapKind::stopped:
            return "stopped";
    }
    return "part";
}

LapKind lap_kind_from_name(const std::string& name) {
    for (const auto kind : {LapKind::out, LapKind::flying, LapKind::in, LapKind::stopped}) {
        if (name == lap_kind_name(kind)) return kind;
    }
    return LapKind::part;
}

Result<std::int64_t> Library::name_id(const char* table, const std::string& name) {
    const std::string insert = std::string("INSERT OR IGNORE INTO ") + table + " (name) VALUES (?)";
    if (auto done = Statement(*database_, insert.c_str()).bind(name).run(); !done) return pass_on(done.error());
    const std::string select = std::string("SELECT id FROM ") + table + " WHERE name = ?";
    Statement found(*database_, select.c_str());
    if (!found.bind(name).step()) return pass_on(database_->error());
    return found.integer(0);
}

Result<std::int64_t> Library::session_id(const std::string& event, const std::string& session) {
    const auto event_id = name_id("events", event);
    if (!event_id) return event_id;
    Statement insert(*database_, "INSERT OR IGNORE INTO sessions (event_id, name) VALUES (?, ?)");
    if (auto done = insert.bind(*event_id).bind(session).run(); !done) return pass_on(done.error());
    Statement found(*database_, "SELECT id FROM sessions WHERE event_id = ? AND name = ?");
    if (!found.bind(*event_id).bind(session).step()) return pass_on(database_->error());
    return found.integer(0);
}

Result<std::int64_t> Library::add_recording(const Recording& recording, const std::string& file,
                                            const std::string& bytes_digest, double clock_shift_s) {
    Statement insert(*database_,
                     "INSERT INTO recordings (digest, file, source_name, logger, start_unix_s, begin_s, end_s, "
                     "file_digest, clock_shift_s) VALUES (?,?,?,?,?,?,?,?,?)");
    const Interval span = recording.span_s();
    insert.bind(recording.digest).bind(file).bind(recording.source_name).bind(recording.logger);
    insert.bind(recording.start_unix_s).bind(span.begin).bind(span.end).bind(bytes_digest).bind(clock_shift_s);
    if (auto done = insert.run(); !done) return pass_on(done.error());
    return database_->last_id();
}

Result<void> Library::insert_raw(std::int64_t recording_id, const RawFile& raw) {
    return Statement(*database_,
                     "INSERT INTO raw_files (sha256, recording_id, name, size, archive_file) VALUES (?,?,?,?,?) "
                     "ON CONFLICT (sha256) DO UPDATE SET recording_id = excluded.recording_id, "
                     "archive_file = excluded.archive_file")
        .bind(raw.sha256)
        .bind(recording_id)
        .bind(raw.name)
        .bind(static_cast<std::int64_t>(raw.size))
        .bind(raw.archive_file)
        .run();
}

Result<void> Library::bind_facts(Statement& statement, const RunFacts& facts) {
    const auto session = session_id(facts.event, facts.session);
    if (!session) return pass_on(session.error());
    statement.bind(*session).bind(facts.name);
    for (const auto& [table, value] : {std::pair{"drivers", &facts.driver}, std::pair{"cars", &facts.car}}) {
        if (value->empty()) {
            statement.bind_null();
            continue;
        }
        const auto id = name_id(table, *value);
        if (!id) return pass_on(id.error());
        statement.bind(*id);
    }
    for (const RunField& field : all_run_fields())
        field.is_text() ? statement.bind(facts.*field.text) : statement.bind(facts.*field.number);
    facts.setup ? statement.bind(facts.setup.value) : statement.bind_null();
    return {};
}

Result<RunId> Library::add_run(const Recording& recording, const FilingInfo& info, const JobContext& job) {
    if (is_look_only()) return pass_on(look_only_error());
    const std::string digest = recording.digest.empty() ? content_digest(recording) : recording.digest;
    const auto already_here = [&](RunId id) -> tl::unexpected<Error> {
        const auto row = run(id);
        return fail(ErrorCode::exists,
                    "This recording is already in the library as run " + std::to_string(id.value) +
                        (row && !row->name.empty() ? " (" + row->name + ")" : "") + "; nothing was imported.",
                    recording.source_name);
    };
    const auto known = find_digest(digest);
    if (!known) return pass_on(known.error());
    if (*known) return already_here(**known);

    const WriterLock lock(folder_, WriterLock::Kind::shared);
    if (!lock.held()) return pass_on(io_error("write to the library", folder_ / "writing.lock", errno));
    const auto file = std::filesystem::path("recordings") / (digest + ".rdk.h5");
    Recording stored = recording;
    stored.digest = digest;
    // Until the rows are committed the file has a name that is swept; from then on the sweep gives it its own
    // (open_library.cpp): killed between the two, the run is there, and whole.
    auto written = OutputFile::begin(folder_ / file);
    if (!written) return pass_on(written.error());
    if (auto done = write_recording_part(stored, written->part(), folder_ / file, job); !done)
        return pass_on(done.error());
    const auto bytes = file_digest(written->part(), {job.stop, {}});
    if (!bytes) return pass_on(bytes.error());

    Transaction transaction(*database_);
    if (auto begun = transaction.begun(); !begun) return pass_on(begun.error());
    const auto quicker = find_digest(digest);
    if (!quicker) return pass_on(quicker.error());
    if (*quicker) return already_here(**quicker);  // another Rendak was quicker
    const auto recording_id = add_recording(stored, file.string(), *bytes, info.clock_shift_s);
    if (!recording_id) return pass_on(recording_id.error());
    if (info.raw) {
        if (auto done = insert_raw(*recording_id, *info.raw); !done) return pass_on(done.error());
    }
    const auto id = insert_run(*recording_id, info);
    if (!id) return id;
    if (auto done = transaction.commit(); !done) return pass_on(done.error());
    if (auto done = written->finish(); !done) return pass_on(done.error());
    return id;
}

Result<RunId> Library::insert_run(std::int64_t recording_id, const FilingInfo& info) {
    RunFacts facts = info;
    if (facts.name.empty()) {
        const auto session = session_id(facts.event, facts.session);
        if (!session) return pass_on(session.error());
        Statement count(*database_, "SELECT COUNT(*) FROM runs WHERE session_id = ?");
        const auto counted_runs = count.bind(*session).found();
        if (!counted_runs) return pass_on(counted_runs.error());
        facts.name = "Run " + std::to_string(count.integer(0) + 1);
    }
    std::string places;
    for (std::size_t k = 0; k < all_run_fields().size(); ++k) places += ",?";
    const std::string sql = "INSERT INTO runs (session_id, name, driver_id, car_id" + run_field_columns(", ") +
                            ", setup_id, track_id, recording_id, notes) VALUES (?,?,?,?" + places + ",?,?,?,?)";
    Statement insert(*database_, sql.c_str());
    if (auto bound = bind_facts(insert, facts); !bound) return pass_on(bound.error());
    info.track ? insert.bind(info.track.value) : insert.bind_null();
    insert.bind(recording_id).bind(joined(info.notes));
    if (auto done = insert.run(); !done) return pass_on(done.error());
    const RunId id{database_->last_id()};
    if (info.window_s) {
        if (auto done = set_window(id, info.window_s); !done) return pass_on(done.error());
    }
    if (auto done = insert_laps(id, info.laps); !done) return pass_on(done.error());
    for (const Lap& lap : info.laps) {
        if (!lap.note.empty()) {
            if (auto done = set_lap_note({id, lap.number}, lap.note); !done) return pass_on(done.error());
        }
        if (!lap.switched_by_hand) continue;
        if (auto done = switch_lap({id, lap.number}, lap.included, lap.reason); !done) return pass_on(done.error());
    }
    for (const std::string& quantity : info.flipped) {
        if (auto done = set_flipped(id, quantity, true); !done) return pass_on(done.error());
    }
    for (const ChannelEdit& edit : info.channel_edits) {
        if (auto done = set_channel_edit(id, edit); !done) return pass_on(done.error());
    }
    for (const std::string& channel : info.unused) {
        if (auto done = set_unused(id, channel, true); !done) return pass_on(done.error());
    }
    if (auto done = set_place_correction(id, info.place); !done) return pass_on(done.error());
    for (PictureNote note : info.picture_notes) {
        note.id = 0;  // a number of this library's
        if (auto done = add_picture_note(id, note); !done) return pass_on(done.error());
    }
    if (auto done = insert_official_laps(id, info.official_laps); !done) return pass_on(done.error());
    if (info.about_event) {
        Statement zone(*database_, "UPDATE events SET zone = ? WHERE name = ? AND zone = ''");
        if (auto done = zone.bind(info.about_event->zone).bind(facts.event).run(); !done) return pass_on(done.error());
        Statement put(
            *database_,
            "UPDATE events SET place = ?, date = ?, weather = ?, remarks = ? WHERE name = ? AND place = '' AND "
            "date = '' AND weather = '' AND remarks = ''");
        const EventRow& event = *info.about_event;
        put.bind(event.place).bind(event.date).bind(event.weather).bind(event.remarks).bind(facts.event);
        if (auto done = put.run(); !done) return pass_on(done.error());
    }
    if (info.joined_into) {
        if (auto done = set_join(id, info.joined_into, info.join_offset_s); !done) return pass_on(done.error());
    }
    return id;
}

Result<RunId> Library::add_stretch(RunId of, const FilingInfo& info) {
    Transaction transaction(*database_);
    if (auto begun = transaction.begun(); !begun) return pass_on(begun.error());
    Statement found(*database_, "SELECT recording_id FROM runs WHERE id = ?");
    const auto there = found.bind(of.value).found();
    if (!there) return pass_on(there.error());
    if (!*there) return fail(ErrorCode::not_found, "There is no such run.");
    const auto id = insert_run(found.integer(0), info);
    if (!id) return id;
    if (auto done = transaction.commit(); !done) return pass_on(done.error());
    return id;
}

Result<std::optional<RunId>> Library::find_digest(const std::string& digest) const {
    Statement found(*database_,
                    "SELECT r.id FROM runs r JOIN recordings q ON q.id = r.recording_id WHERE q.digest = ? "
                    "ORDER BY r.binned_unix_s IS NOT NULL, r.id");
    return found_run(found.bind(digest));
}

Result<std::vector<RunRow>> Library::runs_where(const char* condition, std::int64_t value) const {
    Statement rows(*database_, (run_columns + condition + " ORDER BY r.id").c_str());
    return rows.bind(value).all(run_row);
}

Result<std::vector<RunRow>> Library::runs() const {
    return runs_where("WHERE r.binned_unix_s IS NULL AND r.joined_into IS NULL AND r.id > ?", 0);
}

Result<std::vector<RunRow>> Library::joined_runs(RunId id) const {
    return runs_where("WHERE r.binned_unix_s IS NULL AND r.joined_into = ?", id.value);
}

Result<std::vector<RunRow>> Library::binned() const {
    return runs_where("WHERE r.binned_unix_s IS NOT NULL AND r.id > ?", 0);
}

Result<std::vector<RunSummary>> Library::summaries() const {
    std::vector<RunSummary> out;
    std::map<RunId, std::size_t> place;
    auto rows = runs();
    if (!rows) return pass_on(rows.error());
    for (RunRow& row : *rows) {
        place[row.id] = out.size();
        out.push_back({std::move(row), {}, 0, 0, 0});
    }
    Statement laps(
        *database_,
        "SELECT l.run_id, l.number, l.end_s - l.start_s, "
        // As Lap::counts() has it: a doubt stands until the lap is switched in by hand.
        "l.kind = 'flying' AND COALESCE(w.included, l.included) AND (l.doubt = '' OR w.included IS NOT NULL) "
        "FROM laps l LEFT JOIN lap_switches w ON w.run_id = l.run_id AND w.at_s >= l.start_s AND w.at_s < l.end_s");
    while (laps.step()) {
        const auto found = place.find(RunId{laps.integer(0)});
        if (found == place.end()) continue;
        RunSummary& summary = out[found->second];
        ++summary.laps;
        if (laps.integer(3) == 0) continue;
        ++summary.flying;
        const double time_s = laps.real(2);
        if (summary.best_s && *summary.best_s <= time_s) continue;
        summary.best_s = time_s;
        summary.best_lap = static_cast<int>(laps.integer(1));
    }
    if (auto fine = laps.status(); !fine) return pass_on(fine.error());
    return out;
}

Result<RunRow> Library::run(RunId id) const {
    Statement row(*database_, (std::string(run_columns) + "WHERE r.id = ?").c_str());
    if (row.bind(id.value).step()) return run_row(row);
    if (auto fine = row.status(); !fine) return pass_on(fine.error());
    return fail(ErrorCode::not_found,
                "There is no run " + std::to_string(id.value) + " in this library. \"runs\" lists them.",
                folder_.string());
}

Result<std::shared_ptr<const Recording>> Library::open_run(RunId id) const {
    const auto row = run(id);
    if (!row) return pass_on(row.error());
    if (!row->damage.empty()) return fail(ErrorCode::bad_input, row->damage, row->name);
    auto opened = open_recording(folder_ / row->recording_file);
    if (!opened && (opened.error().code == ErrorCode::not_found || opened.error().code == ErrorCode::bad_input))
        return fail(opened.error().code, damage_sentence(*row, opened.error()), row->name);
    return opened;
}

Result<void> Library::set_run_track(RunId id, TrackId track) {
    Statement update(*database_, "UPDATE runs SET track_id = ? WHERE id = ?");
    track ? update.bind(track.value) : update.bind_null();
    return update.bind(id.value).run();
}

Result<void> Library::set_facts(RunId id, const RunFacts& facts) {
    Transaction transaction(*database_);
    if (auto begun = transaction.begun(); !begun) return begun;
    const std::string sql = "UPDATE runs SET session_id = ?, name = ?, driver_id = ?, car_id = ?" +
                            run_field_columns(", ", " = ?") + ", setup_id = ? WHERE id = ?";
    Statement update(*database_, sql.c_str());
    if (auto bound = bind_facts(update, facts); !bound) return bound;
    if (auto done = update.bind(id.value).run(); !done) return done;
    return transaction.commit();
}

Result<void> Library::set_clock_shift(RunId id, double shift_s) {
    return Statement(*database_,
                     "UPDATE recordings SET clock_shift_s = ? WHERE id = (SELECT recording_id FROM runs WHERE id = ?)")
        .bind(shift_s)
        .bind(id.value)
        .run();
}

Result<void> Library::set_join(RunId part, RunId main, double offset_s) {
    if (main == part) return fail(ErrorCode::bad_input, "A run cannot be joined into itself.");
    if (main) {
        const auto row = run(main);
        if (!row) return pass_on(row.error());
        if (row->joined_into)
            return fail(ErrorCode::bad_input, row->name + " is itself a part of another run; join to that one.");
        const auto parts = joined_runs(part);
        if (!parts) return pass_on(parts.error());
        if (!parts->empty())
            return fail(ErrorCode::bad_input, "Other recordings are joined into this run; take them apart first.");
    }
    Statement update(*database_, "UPDATE runs SET joined_into = ?, join_offset_s = ? WHERE id = ?");
    main ? update.bind(main.value) : update.bind_null();
    return update.bind(offset_s).bind(part.value).run();
}

Result<void> Library::set_window(RunId id, std::optional<Interval> window_s) {
    Statement update(*database_, "UPDATE runs SET begin_s = ?, end_s = ? WHERE id = ?");
    update.bind(window_s ? std::optional(window_s->begin) : std::nullopt);
    update.bind(window_s ? std::optional(window_s->end) : std::nullopt);
    return update.bind(id.value).run();
}

Result<RunId> Library::add_window(RunId id, Interval window_s, const std::string& name) {
    Transaction transaction(*database_);
    if (auto begun = transaction.begun(); !begun) return pass_on(begun.error());
    Statement insert(
        *database_,
        "INSERT INTO runs (session_id, name, driver_id, car_id, track_id, recording_id, begin_s, end_s, notes, "
        "tyre_set, weather) SELECT session_id, ?, driver_id, car_id, track_id, recording_id, ?, ?, notes, "
        "tyre_set, weather FROM runs WHERE id = ?");
    insert.bind(name).bind(window_s.begin).bind(window_s.end).bind(id.value);
    if (auto done = insert.run(); !done) return pass_on(done.error());
    const RunId made{database_->last_id()};
    const auto edits = channel_edits(id);
    if (!edits) return pass_on(edits.error());
    for (const ChannelEdit& edit : *edits) {
        if (auto done = set_channel_edit(made, edit); !done) return pass_on(done.error());
    }
    const auto flipped = flipped_quantities(id);
    if (!flipped) return pass_on(flipped.error());
    for (const std::string& quantity : *flipped) {
        if (auto done = set_flipped(made, quantity, true); !done) return pass_on(done.error());
    }
    if (auto done = transaction.commit(); !done) return pass_on(done.error());
    return made;
}

Result<void> Library::set_binned(RunId id, bool binned) {
    const char* text = binned ? "UPDATE runs SET binned_unix_s = strftime('%s','now') WHERE id = ?"
                              : "UPDATE runs SET binned_unix_s = NULL WHERE id = ?";
    return Statement(*database_, text).bind(id.value).run();
}

Result<void> Library::remove_run(RunId id) {
    if (is_look_only()) return pass_on(look_only_error());
    const auto row = run(id);
    if (!row) return pass_on(row.error());
    const WriterLock lock(folder_, WriterLock::Kind::shared);
    if (!lock.held()) return pass_on(io_error("write to the library", folder_ / "writing.lock", errno));
    Transaction transaction(*database_);
    if (auto begun = transaction.begun(); !begun) return begun;
    for (const char* text : {"UPDATE runs SET joined_into = NULL, join_offset_s = 0 WHERE joined_into = ?",
                             "DELETE FROM runs WHERE id = ?"}) {
        if (auto done = Statement(*database_, text).bind(id.value).run(); !done) return done;
    }
    Statement others(*database_, "SELECT 1 FROM runs r JOIN recordings q ON q.id = r.recording_id WHERE q.digest = ?");
    const auto used = others.bind(row->digest).found();
    if (!used) return pass_on(used.error());
    if (*used) return transaction.commit();
    auto done = Statement(*database_, "DELETE FROM recordings WHERE digest = ?").bind(row->digest).run();
    if (!done) return done;
    // Put aside before the row goes: killed in between, the sweep puts it back or takes it away as the catalogue says.
    const auto file = folder_ / row->recording_file, aside = temporary_name(file);
    std::error_code code;
    std::filesystem::rename(file, aside, code);
    done = transaction.commit();
    if (!done)
        std::filesystem::rename(aside, file, code);
    else if (!database_->in_transaction())  // inside a larger act the sweep does it, when that is decided
        std::filesystem::remove(aside, code);
    return done;
}

}  // namespace rendak
