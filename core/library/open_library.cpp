// Opening a library: its folder, its catalogue's version, a catalogue that cannot be written, and what a process that
// was killed has left behind.
#include <fcntl.h>
#include <sqlite3.h>
#include <sys/file.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <chrono>
#include <set>

#include "core/base/file_io.h"
#include "core/base/sha256.h"
#include "core/base/text.h"
#include "core/library/derived.h"
#include "core/library/library.h"
#include "core/library/schema.h"
#include "core/library/sql.h"
#include "core/library/writer_lock.h"

namespace rendak {
namespace {

namespace fs = std::filesystem;
using sql::Statement;
using sql::Transaction;

constexpr const char* recording_suffix = ".rdk.h5";

bool is_recording_name(const std::string& name) {
    const std::string_view end = recording_suffix;
    return name.size() > end.size() && name.front() != '.' &&
           std::string_view(name).substr(name.size() - end.size()) == end;
}

std::vector<fs::path> files_in(const fs::path& folder) {
    std::vector<fs::path> out;
    std::error_code code;
    for (fs::directory_iterator at(folder, code), end; !code && at != end; at.increment(code))
        out.push_back(at->path());
    return out;
}

/// A catalogue opened for reading, by whatever way leads in without writing where it lies.
class ReadableCatalogue {
  public:
    explicit ReadableCatalogue(const fs::path& catalogue) {
        if (try_open(catalogue, "")) return;
        std::error_code code;
        fs::path wal = catalogue;
        wal += "-wal";
        const bool nothing_waiting = !fs::exists(wal, code) || fs::file_size(wal, code) == 0;
        if (nothing_waiting && try_open(catalogue, "&immutable=1")) return;
        // Edits that were not yet taken over wait in the second file: both are copied to where they can be.
        for (const fs::path& place : {fs::temp_directory_path(code), fs::path("/dev/shm")}) {
            std::string folder = (place / "rendak-look-XXXXXX").string();
            if (::mkdtemp(folder.data()) == nullptr) continue;
            copies_ = folder;
            fs::copy_file(catalogue, copies_ / "library.sqlite", code);
            if (!code) fs::copy_file(wal, copies_ / "library.sqlite-wal", code);
            if (!code && try_open(copies_ / "library.sqlite", "", false)) return;
            fs::remove_all(copies_, code);
            copies_.clear();
        }
    }
    ~ReadableCatalogue() {
        sqlite3_close_v2(database_);
        std::error_code ignored;
        if (!copies_.empty()) fs::remove_all(copies_, ignored);
    }
    ReadableCatalogue(const ReadableCatalogue&) = delete;
    ReadableCatalogue& operator=(const ReadableCatalogue&) = delete;
    [[nodiscard]] sqlite3* database() const { return database_; }

  private:
    bool try_open(const fs::path& file, const char* how, bool read_only = true) {
        std::string name = "file:";
        for (const char c : file.string()) {
            char escaped[4];
            std::snprintf(escaped, sizeof escaped, "%%%02X", static_cast<unsigned char>(c));
            const bool plain =
                std::isalnum(static_cast<unsigned char>(c)) || c == '/' || c == '.' || c == '-' || c == '_';
            name += plain ? std::string(1, c) : escaped;
        }
        name += read_only ? "?mode=ro" : "?mode=rw";
        name += how;
        const int flags = (read_only ? SQLITE_OPEN_READONLY : SQLITE_OPEN_READWRITE) | SQLITE_OPEN_URI;
        const bool opened =
            sqlite3_open_v2(name.c_str(), &database_, flags, nullptr) == SQLITE_OK &&
            sqlite3_exec(database_, "SELECT COUNT(*) FROM sqlite_master", nullptr, nullptr, nullptr) == SQLITE_OK;
        if (opened) return true;
        sqlite3_close_v2(database_);
        database_ = nullptr;
        return false;
    }

    sqlite3* database_ = nullptr;
    fs::path copies_;
};

/// The whole catalogue in memory; null when it cannot be read either.
sqlite3* copy_in_memory(const fs::path& catalogue) {
    const ReadableCatalogue source(catalogue);
    if (source.database() == nullptr) return nullptr;
    sqlite3* out = nullptr;
    bool fine = sqlite3_open_v2(":memory:", &out, SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE, nullptr) == SQLITE_OK;
    if (fine) {
        sqlite3_backup* copy = sqlite3_backup_init(out, "main", source.database(), "main");
        fine = copy != nullptr && sqlite3_backup_step(copy, -1) == SQLITE_DONE;
        sqlite3_backup_finish(copy);
    }
    if (fine) return out;
    sqlite3_close_v2(out);
    return nullptr;
}

/// Why a library can be looked at but not written; empty when it can, as far as this look tells.
std::string cannot_be_written(const fs::path& folder) {
    for (const fs::path& place : {folder, folder / "library.sqlite"}) {
        if (::access(place.c_str(), W_OK) == 0) continue;
        return errno == EROFS ? "its disk is read-only" : "the rights to write it are missing";
    }
    return {};
}

}  // namespace

WriterLock::WriterLock(const fs::path& folder, Kind kind)
    : file_(::open((folder / "writing.lock").c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0600)),
      held_(file_.ok() && ::flock(file_.fd(), kind == Kind::shared ? LOCK_SH : LOCK_EX | LOCK_NB) == 0) {}

Result<void> Library::write_catalogue(const fs::path& file) const {
    auto target = OutputFile::begin(file);
    if (!target) return pass_on(target.error());
    sqlite3* out = nullptr;
    const auto refused = [&] {
        const std::string why = out == nullptr ? "no memory" : sqlite3_errmsg(out);
        sqlite3_close_v2(out);
        return fail(ErrorCode::io, "The catalogue could not be copied (" + why + "). Is there room on the disk?",
                    file.string());
    };
    if (sqlite3_open_v2(target->part().c_str(), &out, SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE, nullptr) != SQLITE_OK)
        return refused();
    const ReadableCatalogue source(folder_ / "library.sqlite");
    if (source.database() == nullptr) return refused();
    sqlite3_backup* copy = sqlite3_backup_init(out, "main", source.database(), "main");
    const bool copied = copy != nullptr && sqlite3_backup_step(copy, -1) == SQLITE_DONE;
    sqlite3_backup_finish(copy);
    // One file: whoever copies the backup on must not forget a log beside it.
    if (!copied || sqlite3_exec(out, "PRAGMA journal_mode = DELETE", nullptr, nullptr, nullptr) != SQLITE_OK)
        return refused();
    if (sqlite3_close(out) != SQLITE_OK) return refused();
    return target->finish();
}

Result<std::unique_ptr<Library>> Library::open(const fs::path& folder, Open mode) {
    const auto catalogue = folder / "library.sqlite";
    std::error_code code;
    if (!fs::exists(catalogue, code)) {
        if (mode == Open::existing) {
            std::size_t recordings = 0;
            for (const fs::path& file : files_in(folder / "recordings"))
                recordings += is_recording_name(file.filename().string());
            if (recordings > 0)
                return fail(ErrorCode::not_found,
                            "The catalogue library.sqlite is missing, but " +
                                counted(recordings, "recording is", "recordings are") +
                                " here. Restore it from a backup, or have them filed anew (\"unfiled --file\").",
                            folder.string());
            return fail(ErrorCode::not_found,
                        "There is no library here. Check the folder, or import a file to begin one.", folder.string());
        }
        const bool is_new = !fs::exists(folder, code);
        for (const auto& part : {folder, folder / "recordings", folder / "tracks"}) {
            fs::create_directories(part, code);
            if (code) return pass_on(io_error("make the library folder", part, code.value()));
        }
        // What the driver did is nobody's business but the owner's, until the owner says otherwise.
        if (is_new) fs::permissions(folder, fs::perms::owner_all, code);
    }
    const auto look_only = [&](const std::string& why) -> Result<std::unique_ptr<Library>> {
        sqlite3* copy = copy_in_memory(catalogue);
        if (copy == nullptr)
            return fail(ErrorCode::io, "The library cannot be opened, not even to look: " + why + ".", folder.string());
        std::unique_ptr<Library> library(new Library(folder, std::make_unique<sql::Connection>(copy)));
        library->look_only_ = why;
        if (auto done = library->bring_up_to_date(); !done) return pass_on(done.error());
        if (auto done = Statement(*library->database_, "PRAGMA query_only = ON").run(); !done)
            return pass_on(done.error());
        return library;
    };
    if (const std::string why = cannot_be_written(folder); !why.empty() && fs::exists(catalogue, code))
        return look_only(why);
    sqlite3* database = nullptr;
    const int opened =
        sqlite3_open_v2(catalogue.c_str(), &database, SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE, nullptr);
    std::unique_ptr<Library> library(new Library(folder, std::make_unique<sql::Connection>(database)));
    if (opened != SQLITE_OK) return pass_on(library->database_->error());
    sqlite3_busy_timeout(database, 5000);
    if (auto prepared = library->prepare(); !prepared) {
        const int why = sqlite3_errcode(database) & 0xff;
        Error error = prepared.error();
        library.reset();
        const bool disk = why == SQLITE_FULL || why == SQLITE_IOERR || why == SQLITE_CANTOPEN || why == SQLITE_READONLY;
        if (disk && fs::file_size(catalogue, code) > 0) {
            if (auto looked_at = look_only("its disk is full, or refuses to be written")) return looked_at;
        }
        if (error.where.empty()) error.where = catalogue.string();
        return pass_on(std::move(error));
    }
    library->sweep();
    (void)library->mirror_tracks();  // written again at the next start when the disk has no room now
    return library;
}

Library::Library(fs::path folder, std::unique_ptr<sql::Connection> database)
    : folder_(std::move(folder)), database_(std::move(database)) {}

Library::~Library() = default;

Result<void> Library::prepare() {
    for (const char* pragma : {"PRAGMA journal_mode = WAL", "PRAGMA synchronous = FULL"}) {
        if (auto done = Statement(*database_, pragma).run(); !done) return done;
    }
    if (auto done = bring_up_to_date(); !done) return done;
    // Only now: while tables are rebuilt, dropping an old one must not cascade into the new ones.
    return Statement(*database_, "PRAGMA foreign_keys = ON").run();
}

Result<void> Library::bring_up_to_date() {
    const auto version_now = [this]() -> Result<std::int64_t> {
        Statement version(*database_, "PRAGMA user_version");
        if (version.step()) return version.integer(0);
        return pass_on(database_->error());
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
    Transaction transaction(*database_);
    if (auto begun = transaction.begun(); !begun) return begun;
    version = version_now();  // another process may have been quicker
    if (!version) return pass_on(version.error());
    if (*version == schema_version) return {};
    // Step by step, each from the version it knows to the one it makes.
    while (*version != schema_version) {
        const auto steps = catalogue_steps();
        const auto step =
            std::find_if(steps.begin(), steps.end(), [&](const CatalogueStep& it) { return it.from == *version; });
        if (step == steps.end())
            return fail(ErrorCode::bad_input,
                        "The catalogue has version " + std::to_string(*version) + ", which no Rendak ever wrote.",
                        folder_.string());
        if (auto done = database_->execute(step->sql); !done) return done;
        version = step->to;
    }
    if (auto done = database_->execute("PRAGMA user_version = " + std::to_string(schema_version)); !done) return done;
    if (auto done = take_over_track_files(); !done) return done;
    return transaction.commit();
}

Result<void> Library::take_over_track_files() {
    Statement rows(*database_, "SELECT id, file FROM tracks WHERE geojson = ''");
    const auto all = rows.all([](const Statement& row) { return std::pair{row.integer(0), row.text(1)}; });
    if (!all) return pass_on(all.error());
    for (const auto& [id, file] : *all) {
        const auto text = read_text_file(folder_ / file);
        if (!text) continue;  // said when the track is asked for
        Sha256 digest;
        digest.add(*text);
        Statement put(*database_, "UPDATE tracks SET geojson = ?, mirrored = ? WHERE id = ?");
        if (auto done = put.bind(*text).bind(digest.hex()).bind(id).run(); !done) return done;
    }
    return {};
}

Result<std::vector<std::string>> Library::known_files() const {
    Statement rows(*database_, "SELECT file FROM recordings");
    return rows.all([](const Statement& row) { return fs::path(row.text(0)).filename().string(); });
}

void Library::sweep() const {
    // Only when nobody is writing now, and only what has a name that nothing but unfinished files of ours have.
    const WriterLock lock(folder_, WriterLock::Kind::alone_or_not_at_all);
    if (!lock.held()) return;
    const auto known = known_files();
    if (!known) return;
    const std::set<std::string> names(known->begin(), known->end());
    std::error_code code;
    for (const fs::path& file : files_in(folder_ / "recordings")) {
        const std::string stands_for = name_behind(file);
        if (stands_for.empty()) continue;
        // The catalogue decides: a recording that it knows gets its name, whether it was coming in or going out.
        const fs::path place = folder_ / "recordings" / stands_for;
        if (names.contains(stands_for) && !fs::exists(place, code))
            (void)move_into_place(file, place);
        else
            fs::remove(file, code);
    }
    for (const fs::path& file : files_in(folder_ / "tracks")) {
        if (is_temporary_name(file)) fs::remove(file, code);
    }
    Derived::sweep(folder_, [&](const std::string& digest) { return names.contains(digest + recording_suffix); });
    sweep_downloads();
}

/// Downloads that wait for the rest: those whose recording is in the library by now are not needed, and one that nobody
/// took up for a month has left its logger.
void Library::sweep_downloads() const {
    std::error_code code;
    const auto now = fs::file_time_type::clock::now();
    for (const fs::path& file : files_in(folder_ / "originals" / ".unfinished")) {
        if (file.extension() == ".lock") continue;
        fs::path lock_name = file;
        lock_name += ".lock";
        const Descriptor fetching(::open(lock_name.c_str(), O_RDWR | O_CLOEXEC));
        if (fetching.ok() && ::flock(fetching.fd(), LOCK_EX | LOCK_NB) != 0) continue;
        const auto known = find_raw(file.filename().string());
        if (!known) return;
        const auto age = now - fs::last_write_time(file, code);
        if (*known || (!code && age > std::chrono::hours(24 * 30))) {
            fs::remove(file, code);
            fs::remove(lock_name, code);
        }
    }
}

Result<std::vector<fs::path>> Library::unfiled_recordings() const {
    const auto known = known_files();
    if (!known) return pass_on(known.error());
    const std::set<std::string> names(known->begin(), known->end());
    std::vector<fs::path> out;
    for (const fs::path& file : files_in(folder_ / "recordings")) {
        const std::string name = file.filename().string();
        if (is_recording_name(name) && !names.contains(name)) out.push_back(file);
    }
    std::sort(out.begin(), out.end());
    return out;
}

}  // namespace rendak
