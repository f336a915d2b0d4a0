#include "core/library/library.h"

#include <fcntl.h>
#include <sqlite3.h>
#include <sys/file.h>
#include <unistd.h>

#include <cerrno>
#include <set>

#include "core/base/file_io.h"
#include "core/base/text.h"
#include "core/library/schema.h"
#include "core/library/sql.h"
#include "core/recording/recording_file.h"

namespace rendak {
namespace {

using sql::Statement;
using sql::Transaction;

/// Held (shared) while files are written, so that nobody sweeps them away as left-overs.
class WriterLock {
  public:
    WriterLock(const std::filesystem::path& folder, int kind)
        : fd_(::open((folder / "writing.lock").c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0644)),
          held_(fd_ >= 0 && ::flock(fd_, kind) == 0) {}
    ~WriterLock() {
        if (fd_ >= 0) ::close(fd_);
    }
    WriterLock(const WriterLock&) = delete;
    WriterLock& operator=(const WriterLock&) = delete;
    [[nodiscard]] bool held() const { return held_; }

  private:
    int fd_;
    bool held_;
};

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

constexpr const char* run_columns =
    "SELECT r.id, e.name, s.name, r.name, d.name, c.name, r.track_id, t.name, q.file, q.digest, q.source_name, "
    "q.start_unix_s, q.clock_shift_s, q.begin_s, q.end_s, r.notes, r.begin_s, r.end_s, r.joined_into, r.join_offset_s, "
    "r.tyre_set, r.tyre_laps, r.fuel_l, r.official_time_s, r.weather, r.changes, r.remarks, r.setup_id, "
    "u.name || ' ' || u.version, r.binned_unix_s, q.logger FROM runs r JOIN recordings q ON q.id = r.recording_id "
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
    run.tyre_set = row.text(20);
    run.tyre_laps = row.optional_real(21);
    run.fuel_l = row.optional_real(22);
    run.official_time_s = row.optional_real(23);
    run.weather = row.text(24);
    run.changes = row.text(25);
    run.remarks = row.text(26);
    run.setup = {row.integer(27)};
    run.setup_name = row.text(28);
    run.binned_unix_s = row.optional_real(29);
    run.logger = row.text(30);
    return run;
}

/// A file name made of the letters and digits of a name.
std::string file_stem(const std::string& name) {
    std::string out;
    for (const char c : lower(name)) {
        const bool plain = (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9');
        if (plain)
            out += c;
        else if (!out.empty() && out.back() != '-')
            out += '-';
    }
    while (!out.empty() && out.back() == '-') out.pop_back();
    return out.empty() ? "track" : out.substr(0, 60);
}

}  // namespace

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

Result<std::unique_ptr<Library>> Library::open(const std::filesystem::path& folder, Open mode) {
    const auto catalogue = folder / "library.sqlite";
    std::error_code code;
    if (!std::filesystem::exists(catalogue, code)) {
        if (mode == Open::existing) {
            return fail(ErrorCode::not_found,
                        "There is no library here. Check the folder, or import a file to begin one.", folder.string());
        }
        for (const auto& part : {folder, folder / "recordings", folder / "tracks"}) {
            std::filesystem::create_directories(part, code);
            if (code) return pass_on(io_error("make the library folder", part, code.value()));
        }
    }
    sqlite3* database = nullptr;
    const int opened =
        sqlite3_open_v2(catalogue.c_str(), &database, SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE, nullptr);
    std::unique_ptr<Library> library(new Library(folder, database));
    if (opened != SQLITE_OK) return pass_on(sql::database_error(database));
    sqlite3_busy_timeout(database, 5000);
    if (auto prepared = library->prepare(); !prepared) {
        Error error = prepared.error();
        if (error.where.empty()) error.where = catalogue.string();
        return pass_on(std::move(error));
    }
    library->sweep();
    return library;
}

Library::~Library() {
    sqlite3_close_v2(database_);
}

Result<void> Library::prepare() {
    for (const char* pragma : {"PRAGMA journal_mode = WAL", "PRAGMA synchronous = FULL"}) {
        if (auto done = Statement(database_, pragma).run(); !done) return done;
    }
    if (auto done = bring_up_to_date(); !done) return done;
    // Only now: while tables are rebuilt, dropping an old one must not cascade into the new ones.
    return Statement(database_, "PRAGMA foreign_keys = ON").run();
}

Result<void> Library::bring_up_to_date() {
    const auto version_now = [this]() -> Result<std::int64_t> {
        Statement version(database_, "PRAGMA user_version");
        if (version.step()) return version.integer(0);
        return pass_on(sql::database_error(database_));
    };
    auto version = version_now();
    if (!version) return pass_on(version.error());
    if (*version > schema_version) {
        return fail(ErrorCode::too_new,
                    "This library was written by a newer version of Rendak (catalogue version " +
                        std::to_string(*version) + ", this program knows " + std::to_string(schema_version) +
                        "). Update Rendak; nothing was changed.",
                    folder_.string());
    }
    if (*version == schema_version) return {};
    Transaction transaction(database_);
    if (auto begun = transaction.begun(); !begun) return begun;
    version = version_now();  // another process may have been quicker
    if (!version) return pass_on(version.error());
    if (*version == schema_version) return {};
    std::string script = schema_sql;
    // Renaming must leave what refers to the old names alone.
    if (*version == 1)
        script = "PRAGMA legacy_alter_table = ON;" + std::string(before_version_2_sql) + script + after_version_2_sql;
    if (*version == 2) script = std::string(after_version_3_sql) + after_version_4_sql;
    if (*version == 3) script = after_version_4_sql;
    script += "PRAGMA user_version = " + std::to_string(schema_version) + ";";
    if (sqlite3_exec(database_, script.c_str(), nullptr, nullptr, nullptr) != SQLITE_OK) {
        return pass_on(sql::database_error(database_));
    }
    return transaction.commit();
}

void Library::sweep() const {
    // Left-overs of a process that was killed: only when nobody is writing now.
    const WriterLock lock(folder_, LOCK_EX | LOCK_NB);
    if (!lock.held()) return;
    std::set<std::string> known;
    Statement runs(database_, "SELECT file FROM recordings");
    while (runs.step()) known.insert(std::filesystem::path(runs.text(0)).filename().string());
    if (!runs.status()) return;
    std::error_code code;
    for (const auto* sub : {"recordings", "tracks", "originals"}) {
        for (const auto& entry : std::filesystem::directory_iterator(folder_ / sub, code)) {
            const std::string name = entry.path().filename().string();
            const bool part = name.rfind(".part-", 0) == 0;
            const bool orphan = std::string(sub) == "recordings" && name.size() > 7 &&
                                name.substr(name.size() - 7) == ".rdk.h5" && !known.contains(name);
            std::error_code ignored;
            if (part || orphan) std::filesystem::remove(entry.path(), ignored);
        }
    }
}

Result<std::int64_t> Library::name_id(const char* table, const std::string& name) {
    const std::string insert = std::string("INSERT OR IGNORE INTO ") + table + " (name) VALUES (?)";
    if (auto done = Statement(database_, insert.c_str()).bind(name).run(); !done) return pass_on(done.error());
    const std::string select = std::string("SELECT id FROM ") + table + " WHERE name = ?";
    Statement found(database_, select.c_str());
    if (!found.bind(name).step()) return pass_on(sql::database_error(database_));
    return found.integer(0);
}

Result<std::int64_t> Library::session_id(const std::string& event, const std::string& session) {
    const auto event_id = name_id("events", event);
    if (!event_id) return event_id;
    Statement insert(database_, "INSERT OR IGNORE INTO sessions (event_id, name) VALUES (?, ?)");
    if (auto done = insert.bind(*event_id).bind(session).run(); !done) return pass_on(done.error());
    Statement found(database_, "SELECT id FROM sessions WHERE event_id = ? AND name = ?");
    if (!found.bind(*event_id).bind(session).step()) return pass_on(sql::database_error(database_));
    return found.integer(0);
}

Result<std::int64_t> Library::add_recording(const Recording& recording, const std::string& file) {
    Statement insert(database_,
                     "INSERT INTO recordings (digest, file, source_name, logger, start_unix_s, begin_s, end_s) "
                     "VALUES (?,?,?,?,?,?,?)");
    const Interval span = recording.span_s();
    insert.bind(recording.digest).bind(file).bind(recording.source_name).bind(recording.logger);
    insert.bind(recording.start_unix_s).bind(span.begin).bind(span.end);
    if (auto done = insert.run(); !done) return pass_on(done.error());
    return sqlite3_last_insert_rowid(database_);
}

Result<void> Library::insert_raw(std::int64_t recording_id, const RawFile& raw) {
    return Statement(database_,
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
    statement.bind(facts.tyre_set).bind(facts.tyre_laps).bind(facts.fuel_l).bind(facts.official_time_s);
    statement.bind(facts.weather).bind(facts.changes).bind(facts.remarks);
    facts.setup ? statement.bind(facts.setup.value) : statement.bind_null();
    return {};
}

Result<RunId> Library::add_run(const Recording& recording, const FilingInfo& info, const JobContext& job) {
    const std::string digest = recording.digest.empty() ? content_digest(recording) : recording.digest;
    const auto already_here = [&](RunId id) -> tl::unexpected<Error> {
        const auto row = run(id);
        return fail(ErrorCode::exists,
                    "This recording is already in the library as run " + std::to_string(id.value) +
                        (row && !row->name.empty() ? " (" + row->name + ")" : "") + "; nothing was imported.",
                    recording.source_name);
    };
    if (const auto known = find_digest(digest)) return already_here(*known);

    const WriterLock lock(folder_, LOCK_SH);
    if (!lock.held()) return pass_on(io_error("write to the library", folder_ / "writing.lock", errno));
    const std::filesystem::path file = std::filesystem::path("recordings") / (digest + ".rdk.h5");
    Recording stored = recording;
    stored.digest = digest;
    if (auto written = write_recording(stored, folder_ / file, job); !written) return pass_on(written.error());

    // From here on the file is an orphan until the row is committed; sweep() takes orphans away.
    auto transaction = std::make_unique<Transaction>(database_);
    const auto give_up = [&](Error error) -> tl::unexpected<Error> {
        transaction.reset();  // our own row must be gone before we ask whether anybody else has filed this content
        std::error_code ignored;
        if (!find_digest(digest)) std::filesystem::remove(folder_ / file, ignored);
        return pass_on(std::move(error));
    };
    if (auto begun = transaction->begun(); !begun) return give_up(begun.error());
    if (const auto known = find_digest(digest)) return already_here(*known);  // another Rendak was quicker
    RunFacts facts = info;
    if (facts.name.empty()) {
        const auto session = session_id(facts.event, facts.session);
        if (!session) return give_up(session.error());
        Statement count(database_, "SELECT COUNT(*) FROM runs WHERE session_id = ?");
        facts.name = "Run " + std::to_string(count.bind(*session).step() ? count.integer(0) + 1 : 1);
    }
    const auto recording_id = add_recording(stored, file.string());
    if (!recording_id) return give_up(recording_id.error());
    Statement insert(database_,
                     "INSERT INTO runs (session_id, name, driver_id, car_id, tyre_set, tyre_laps, fuel_l, "
                     "official_time_s, weather, changes, remarks, setup_id, track_id, recording_id, notes) "
                     "VALUES (?,?,?,?,?,?,?,?,?,?,?,?,?,?,?)");
    if (auto bound = bind_facts(insert, facts); !bound) return give_up(bound.error());
    info.track ? insert.bind(info.track.value) : insert.bind_null();
    insert.bind(*recording_id).bind(joined(info.notes));
    if (auto done = insert.run(); !done) return give_up(done.error());
    const RunId id{sqlite3_last_insert_rowid(database_)};
    if (info.raw) {
        if (auto done = insert_raw(*recording_id, *info.raw); !done) return give_up(done.error());
    }
    if (auto done = insert_laps(id, info.laps); !done) return give_up(done.error());
    for (const std::string& quantity : info.flipped) {
        if (auto done = set_flipped(id, quantity, true); !done) return give_up(done.error());
    }
    if (auto done = transaction->commit(); !done) return give_up(done.error());
    return id;
}

std::optional<RunId> Library::find_digest(const std::string& digest) const {
    Statement found(database_,
                    "SELECT r.id FROM runs r JOIN recordings q ON q.id = r.recording_id WHERE q.digest = ? "
                    "ORDER BY r.binned_unix_s IS NOT NULL, r.id");
    if (!found.bind(digest).step()) return std::nullopt;
    return RunId{found.integer(0)};
}

std::vector<RunRow> Library::runs_where(const char* condition, std::int64_t value) const {
    std::vector<RunRow> out;
    Statement rows(database_, (std::string(run_columns) + condition + " ORDER BY r.id").c_str());
    rows.bind(value);
    while (rows.step()) out.push_back(run_row(rows));
    return out;
}

std::vector<RunRow> Library::runs() const {
    return runs_where("WHERE r.binned_unix_s IS NULL AND r.joined_into IS NULL AND r.id > ?", 0);
}

std::vector<RunRow> Library::joined_runs(RunId id) const {
    return runs_where("WHERE r.binned_unix_s IS NULL AND r.joined_into = ?", id.value);
}

std::vector<RunRow> Library::binned() const {
    return runs_where("WHERE r.binned_unix_s IS NOT NULL AND r.id > ?", 0);
}

std::vector<RunSummary> Library::summaries() const {
    std::vector<RunSummary> out;
    std::map<RunId, std::size_t> place;
    for (RunRow& row : runs()) {
        place[row.id] = out.size();
        out.push_back({std::move(row), {}, 0, 0, 0});
    }
    Statement laps(
        database_,
        "SELECT l.run_id, l.number, l.end_s - l.start_s, l.kind = 'flying' AND COALESCE(w.included, l.included) "
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
    return out;
}

Result<RunRow> Library::run(RunId id) const {
    Statement row(database_, (std::string(run_columns) + "WHERE r.id = ?").c_str());
    if (row.bind(id.value).step()) return run_row(row);
    if (auto fine = row.status(); !fine) return pass_on(fine.error());
    return fail(ErrorCode::not_found,
                "There is no run " + std::to_string(id.value) + " in this library. \"runs\" lists them.",
                folder_.string());
}

Result<std::shared_ptr<const Recording>> Library::open_run(RunId id) const {
    const auto row = run(id);
    if (!row) return pass_on(row.error());
    return open_recording(folder_ / row->recording_file);
}

Result<void> Library::set_run_track(RunId id, TrackId track) {
    Statement update(database_, "UPDATE runs SET track_id = ? WHERE id = ?");
    track ? update.bind(track.value) : update.bind_null();
    return update.bind(id.value).run();
}

Result<void> Library::set_facts(RunId id, const RunFacts& facts) {
    Transaction transaction(database_);
    if (auto begun = transaction.begun(); !begun) return begun;
    Statement update(
        database_,
        "UPDATE runs SET session_id = ?, name = ?, driver_id = ?, car_id = ?, tyre_set = ?, tyre_laps = ?, "
        "fuel_l = ?, official_time_s = ?, weather = ?, changes = ?, remarks = ?, setup_id = ? WHERE id = ?");
    if (auto bound = bind_facts(update, facts); !bound) return bound;
    if (auto done = update.bind(id.value).run(); !done) return done;
    return transaction.commit();
}

Result<void> Library::set_clock_shift(RunId id, double shift_s) {
    return Statement(database_,
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
        if (!joined_runs(part).empty())
            return fail(ErrorCode::bad_input, "Other recordings are joined into this run; take them apart first.");
    }
    Statement update(database_, "UPDATE runs SET joined_into = ?, join_offset_s = ? WHERE id = ?");
    main ? update.bind(main.value) : update.bind_null();
    return update.bind(offset_s).bind(part.value).run();
}

Result<void> Library::set_window(RunId id, std::optional<Interval> window_s) {
    Statement update(database_, "UPDATE runs SET begin_s = ?, end_s = ? WHERE id = ?");
    update.bind(window_s ? std::optional(window_s->begin) : std::nullopt);
    update.bind(window_s ? std::optional(window_s->end) : std::nullopt);
    return update.bind(id.value).run();
}

Result<RunId> Library::add_window(RunId id, Interval window_s, const std::string& name) {
    Statement insert(
        database_,
        "INSERT INTO runs (session_id, name, driver_id, car_id, track_id, recording_id, begin_s, end_s, notes, "
        "tyre_set, weather) SELECT session_id, ?, driver_id, car_id, track_id, recording_id, ?, ?, notes, "
        "tyre_set, weather FROM runs WHERE id = ?");
    insert.bind(name).bind(window_s.begin).bind(window_s.end).bind(id.value);
    if (auto done = insert.run(); !done) return pass_on(done.error());
    const RunId made{sqlite3_last_insert_rowid(database_)};
    for (const std::string& quantity : flipped_quantities(id)) {
        if (auto done = set_flipped(made, quantity, true); !done) return pass_on(done.error());
    }
    return made;
}

Result<void> Library::set_binned(RunId id, bool binned) {
    const char* text = binned ? "UPDATE runs SET binned_unix_s = strftime('%s','now') WHERE id = ?"
                              : "UPDATE runs SET binned_unix_s = NULL WHERE id = ?";
    return Statement(database_, text).bind(id.value).run();
}

Result<void> Library::remove_run(RunId id) {
    const auto row = run(id);
    if (!row) return pass_on(row.error());
    Transaction transaction(database_);
    if (auto begun = transaction.begun(); !begun) return begun;
    for (const char* text : {"UPDATE runs SET joined_into = NULL, join_offset_s = 0 WHERE joined_into = ?",
                             "DELETE FROM runs WHERE id = ?"}) {
        if (auto done = Statement(database_, text).bind(id.value).run(); !done) return done;
    }
    Statement others(database_, "SELECT 1 FROM runs r JOIN recordings q ON q.id = r.recording_id WHERE q.digest = ?");
    const bool used = others.bind(row->digest).step();
    if (!used) {
        auto done = Statement(database_, "DELETE FROM recordings WHERE digest = ?").bind(row->digest).run();
        if (!done) return done;
    }
    if (auto done = transaction.commit(); !done) return done;
    std::error_code ignored;
    if (!used) std::filesystem::remove(folder_ / row->recording_file, ignored);
    return {};
}

Result<void> Library::set_laps(RunId id, std::span<const Lap> laps) {
    Transaction transaction(database_);
    if (auto begun = transaction.begun(); !begun) return begun;
    if (auto done = Statement(database_, "DELETE FROM laps WHERE run_id = ?").bind(id.value).run(); !done) return done;
    if (auto done = insert_laps(id, laps); !done) return done;
    return transaction.commit();
}

Result<void> Library::insert_laps(RunId id, std::span<const Lap> laps) {
    for (const Lap& lap : laps) {
        Statement insert(database_,
                         "INSERT INTO laps (run_id, number, kind, start_s, end_s, length_m, included, reason, trust_m) "
                         "VALUES (?,?,?,?,?,?,?,?,?)");
        insert.bind(id.value)
            .bind(lap.number)
            .bind(std::string(lap_kind_name(lap.kind)))
            .bind(lap.start_s)
            .bind(lap.end_s);
        insert.bind(lap.length_m).bind(lap.included ? 1 : 0).bind(lap.reason).bind(lap.trust_m);
        if (auto done = insert.run(); !done) return done;
    }
    return {};
}

std::vector<Lap> Library::laps(RunId id) const {
    std::vector<Lap> out;
    Statement rows(
        database_,
        "SELECT number, kind, start_s, end_s, length_m, included, reason, trust_m FROM laps WHERE run_id = ? "
        "ORDER BY number");
    rows.bind(id.value);
    while (rows.step()) {
        Lap lap;
        lap.number = static_cast<int>(rows.integer(0));
        lap.kind = lap_kind_from_name(rows.text(1));
        lap.start_s = rows.real(2);
        lap.end_s = rows.real(3);
        lap.length_m = rows.real(4);
        lap.included = rows.integer(5) != 0;
        lap.reason = rows.text(6);
        lap.trust_m = rows.real(7);
        out.push_back(std::move(lap));
    }
    Statement switches(database_, "SELECT at_s, included, reason FROM lap_switches WHERE run_id = ?");
    switches.bind(id.value);
    while (switches.step()) {
        const double at_s = switches.real(0);
        for (Lap& lap : out) {
            if (at_s < lap.start_s || at_s >= lap.end_s) continue;
            lap.included = switches.integer(1) != 0;
            lap.reason = switches.text(2);
            lap.switched_by_hand = true;
        }
    }
    return out;
}

Result<void> Library::switch_lap(LapRef ref, bool included, const std::string& reason) {
    for (const Lap& lap : laps(ref.run)) {
        if (lap.number != ref.lap) continue;
        if (auto done = unswitch_lap(ref); !done) return done;
        // Kept by a moment in the middle of the lap, so that it survives another start line.
        return Statement(database_, "INSERT INTO lap_switches (run_id, at_s, included, reason) VALUES (?,?,?,?)")
            .bind(ref.run.value)
            .bind(0.5 * (lap.start_s + lap.end_s))
            .bind(included ? 1 : 0)
            .bind(reason)
            .run();
    }
    return fail(ErrorCode::not_found,
                "Run " + std::to_string(ref.run.value) + " has no lap " + std::to_string(ref.lap) + ".");
}

Result<void> Library::unswitch_lap(LapRef ref) {
    for (const Lap& lap : laps(ref.run)) {
        if (lap.number != ref.lap) continue;
        return Statement(database_, "DELETE FROM lap_switches WHERE run_id = ? AND at_s >= ? AND at_s < ?")
            .bind(ref.run.value)
            .bind(lap.start_s)
            .bind(lap.end_s)
            .run();
    }
    return {};
}

std::vector<std::string> Library::flipped_quantities(RunId id) const {
    std::vector<std::string> out;
    Statement rows(database_, "SELECT quantity FROM flipped_quantities WHERE run_id = ?");
    rows.bind(id.value);
    while (rows.step()) out.push_back(rows.text(0));
    return out;
}

Result<void> Library::set_flipped(RunId id, const std::string& quantity, bool flipped) {
    const char* text = flipped ? "INSERT OR IGNORE INTO flipped_quantities (run_id, quantity) VALUES (?,?)"
                               : "DELETE FROM flipped_quantities WHERE run_id = ? AND quantity = ?";
    return Statement(database_, text).bind(id.value).bind(quantity).run();
}

PlaceCorrection Library::place_correction(RunId id) const {
    Statement found(database_, "SELECT east_m, north_m, delay_s, launch_s FROM place_corrections WHERE run_id = ?");
    if (!found.bind(id.value).step()) return {};
    return {found.real(0), found.real(1), found.real(2), found.optional_real(3)};
}

Result<void> Library::set_place_correction(RunId id, const PlaceCorrection& correction) {
    if (correction == PlaceCorrection{})
        return Statement(database_, "DELETE FROM place_corrections WHERE run_id = ?").bind(id.value).run();
    Statement put(database_,
                  "INSERT OR REPLACE INTO place_corrections (run_id, east_m, north_m, delay_s, launch_s) "
                  "VALUES (?,?,?,?,?)");
    put.bind(id.value).bind(correction.east_m).bind(correction.north_m).bind(correction.delay_s);
    return put.bind(correction.launch_s).run();
}

Result<void> Library::rename_track(TrackId id, const std::string& name) {
    if (name.empty()) return fail(ErrorCode::bad_input, "A track needs a name.");
    if (const auto taken = find_track(name); taken && *taken != id)
        return fail(ErrorCode::exists, "There is a track \"" + name + "\" already.");
    return Statement(database_, "UPDATE tracks SET name = ? WHERE id = ?").bind(name).bind(id.value).run();
}

Result<void> Library::remove_track(TrackId id) {
    Statement used(database_, "SELECT COUNT(*) FROM runs WHERE track_id = ?");
    if (used.bind(id.value).step() && used.integer(0) > 0)
        return fail(ErrorCode::exists, "Runs are cut at this track; it cannot be removed.");
    Transaction transaction(database_);
    if (auto begun = transaction.begun(); !begun) return begun;
    if (auto done = Statement(database_, "DELETE FROM marks WHERE track_id = ?").bind(id.value).run(); !done)
        return done;
    if (auto done = Statement(database_, "DELETE FROM tracks WHERE id = ?").bind(id.value).run(); !done) return done;
    return transaction.commit();
}

Result<void> Library::set_mark_range(MarkId id, Interval range_m) {
    Statement put(database_, "UPDATE marks SET begin_m = ?, end_m = ? WHERE id = ?");
    return put.bind(range_m.begin).bind(range_m.end).bind(id.value).run();
}

Result<TrackId> Library::put_track(const std::string& name, double length_m, const std::string& geojson) {
    const auto old = find_track(name);
    std::string file;
    if (old) {
        const auto row = track(*old);
        if (!row) return pass_on(row.error());
        file = row->file;
    } else {
        std::error_code code;
        file = "tracks/" + file_stem(name) + ".geojson";
        for (int i = 2; std::filesystem::exists(folder_ / file, code); ++i) {
            file = "tracks/" + file_stem(name) + "-" + std::to_string(i) + ".geojson";
        }
    }
    const WriterLock lock(folder_, LOCK_SH);
    if (auto written = write_file(folder_ / file, geojson); !written) return pass_on(written.error());
    Statement put(database_,
                  "INSERT INTO tracks (name, file, length_m) VALUES (?,?,?) "
                  "ON CONFLICT (name) DO UPDATE SET file = excluded.file, length_m = excluded.length_m");
    if (auto done = put.bind(name).bind(file).bind(length_m).run(); !done) return pass_on(done.error());
    return *find_track(name);
}

std::vector<TrackRow> Library::tracks() const {
    std::vector<TrackRow> out;
    Statement rows(database_, "SELECT id, name, file, length_m FROM tracks ORDER BY name");
    while (rows.step()) out.push_back({{rows.integer(0)}, rows.text(1), rows.text(2), rows.real(3)});
    return out;
}

Result<TrackRow> Library::track(TrackId id) const {
    for (const TrackRow& row : tracks()) {
        if (row.id == id) return row;
    }
    return fail(ErrorCode::not_found, "There is no track " + std::to_string(id.value) + " in this library.");
}

std::optional<TrackId> Library::find_track(const std::string& name) const {
    Statement found(database_, "SELECT id FROM tracks WHERE name = ?");
    if (!found.bind(name).step()) return std::nullopt;
    return TrackId{found.integer(0)};
}

Result<std::string> Library::track_geojson(TrackId id) const {
    const auto row = track(id);
    if (!row) return pass_on(row.error());
    const auto mapping = MappedFile::open(folder_ / row->file);
    if (!mapping) return pass_on(mapping.error());
    return std::string((*mapping)->text());
}

Result<MarkId> Library::add_mark(TrackId track, const std::string& name, Interval range_m) {
    Statement insert(database_, "INSERT INTO marks (track_id, name, begin_m, end_m) VALUES (?,?,?,?)");
    auto done = insert.bind(track.value).bind(name).bind(range_m.begin).bind(range_m.end).run();
    if (!done) return pass_on(done.error());
    return MarkId{sqlite3_last_insert_rowid(database_)};
}

Result<void> Library::remove_mark(MarkId id) {
    return Statement(database_, "DELETE FROM marks WHERE id = ?").bind(id.value).run();
}

std::vector<Mark> Library::marks(TrackId track) const {
    std::vector<Mark> out;
    Statement rows(database_, "SELECT id, name, begin_m, end_m FROM marks WHERE track_id = ? ORDER BY begin_m, id");
    rows.bind(track.value);
    while (rows.step()) out.push_back({{rows.integer(0)}, track, rows.text(1), {rows.real(2), rows.real(3)}});
    return out;
}

std::string Library::setting(const std::string& key) const {
    Statement found(database_, "SELECT value FROM settings WHERE key = ?");
    return found.bind(key).step() ? found.text(0) : "";
}

Result<void> Library::set_setting(const std::string& key, const std::string& value) {
    return Statement(database_,
                     "INSERT INTO settings (key, value) VALUES (?,?) "
                     "ON CONFLICT (key) DO UPDATE SET value = excluded.value")
        .bind(key)
        .bind(value)
        .run();
}

}  // namespace rendak
