// Tracks, marks and settings. The catalogue holds the text of each track; the files in tracks/ are written from it.
#include <algorithm>
#include <cerrno>

#include "core/base/file_io.h"
#include "core/base/sha256.h"
#include "core/base/text.h"
#include "core/library/library.h"
#include "core/library/sql.h"
#include "core/library/writer_lock.h"

namespace rendak {

using sql::Statement;
using sql::Transaction;

namespace {

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

Result<void> Library::rename_track(TrackId id, const std::string& name) {
    if (name.empty()) return fail(ErrorCode::bad_input, "A track needs a name.");
    const auto taken = find_track(name);
    if (!taken) return pass_on(taken.error());
    if (*taken && **taken != id) return fail(ErrorCode::exists, "There is a track \"" + name + "\" already.");
    return Statement(*database_, "UPDATE tracks SET name = ? WHERE id = ?").bind(name).bind(id.value).run();
}

Result<void> Library::remove_track(TrackId id) {
    const auto row = track(id);
    if (!row) return pass_on(row.error());
    Transaction transaction(*database_);
    if (auto begun = transaction.begun(); !begun) return begun;
    Statement used(*database_, "SELECT COUNT(*) FROM runs WHERE track_id = ?");
    const auto asked = used.bind(id.value).found();
    if (!asked) return pass_on(asked.error());
    if (used.integer(0) > 0) return fail(ErrorCode::exists, "Runs are cut at this track; it cannot be removed.");
    for (const char* text : {"DELETE FROM marks WHERE track_id = ?", "DELETE FROM tracks WHERE id = ?"}) {
        if (auto done = Statement(*database_, text).bind(id.value).run(); !done) return done;
    }
    // Its file goes with it: put aside first, so that the sweep can finish what a kill interrupts.
    const WriterLock lock(folder_, WriterLock::Kind::shared);
    const auto file = folder_ / row->file, aside = temporary_name(file);
    std::error_code code;
    std::filesystem::rename(file, aside, code);
    auto done = transaction.commit();
    if (!done)
        std::filesystem::rename(aside, file, code);
    else
        std::filesystem::remove(aside, code);  // taken back by a larger act, the file is written from the catalogue
    return done;
}

Result<void> Library::set_mark_range(MarkId id, Interval range_m) {
    Statement put(*database_, "UPDATE marks SET begin_m = ?, end_m = ? WHERE id = ?");
    return put.bind(range_m.begin).bind(range_m.end).bind(id.value).run();
}

Result<TrackId> Library::put_track(const std::string& name, double length_m, const std::string& geojson) {
    if (is_look_only()) return pass_on(look_only_error());
    Transaction transaction(*database_);
    if (auto begun = transaction.begun(); !begun) return pass_on(begun.error());
    auto id = find_track(name);
    if (!id) return pass_on(id.error());
    if (!*id) {
        const auto file = free_track_file(name);
        if (!file) return pass_on(file.error());
        Statement put(*database_, "INSERT INTO tracks (name, file, length_m, geojson) VALUES (?,?,?,?)");
        if (auto done = put.bind(name).bind(*file).bind(length_m).bind(geojson).run(); !done)
            return pass_on(done.error());
        id = std::optional(TrackId{database_->last_id()});
    } else {
        Statement put(*database_, "UPDATE tracks SET length_m = ?, geojson = ? WHERE id = ?");
        if (auto done = put.bind(length_m).bind(geojson).bind((*id)->value).run(); !done) return pass_on(done.error());
    }
    if (auto done = transaction.commit(); !done) return pass_on(done.error());
    // The catalogue is the truth: the file follows it, now or, inside a larger act, with that.
    if (!database_->in_transaction()) (void)mirror_tracks();
    return **id;
}

Result<std::string> Library::free_track_file(const std::string& name) const {
    Statement rows(*database_, "SELECT file FROM tracks");
    const auto taken = rows.all([](const Statement& row) { return row.text(0); });
    if (!taken) return pass_on(taken.error());
    std::error_code code;
    std::string file = "tracks/" + file_stem(name) + ".geojson";
    for (int i = 2;
         std::find(taken->begin(), taken->end(), file) != taken->end() || std::filesystem::exists(folder_ / file, code);
         ++i)
        file = "tracks/" + file_stem(name) + "-" + std::to_string(i) + ".geojson";
    return file;
}

Result<void> Library::mirror_tracks() {
    if (is_look_only()) return {};
    Statement rows(*database_, "SELECT id, file, geojson, mirrored FROM tracks WHERE geojson <> ''");
    struct Mirror {
        std::int64_t id;
        std::string file, geojson, mirrored;
    };
    const auto all = rows.all([](const Statement& row) {
        return Mirror{row.integer(0), row.text(1), row.text(2), row.text(3)};
    });
    if (!all) return pass_on(all.error());
    for (const Mirror& it : *all) {
        const std::string wanted = sha256_of(it.geojson);
        const auto file = folder_ / it.file;
        std::error_code code;
        if (it.mirrored == wanted && std::filesystem::file_size(file, code) == it.geojson.size()) continue;
        const WriterLock lock(folder_, WriterLock::Kind::shared);
        if (!lock.held()) return pass_on(io_error("write to the library", folder_ / "writing.lock", errno));
        const auto there = read_text_file(file);
        // What somebody else has written there is kept beside it: it may be all that is left of a newer track.
        if (there && *there != it.geojson && sha256_of(*there) != it.mirrored) {
            auto aside = file;
            for (int i = 1; std::filesystem::exists(aside, code); ++i)
                aside.replace_filename(file.stem().string() + "-kept-" + std::to_string(i) + ".geojson");
            std::filesystem::rename(file, aside, code);
        }
        if (!there || *there != it.geojson) {
            if (auto done = write_file(file, it.geojson); !done) return done;
        }
        Statement put(*database_, "UPDATE tracks SET mirrored = ? WHERE id = ?");
        if (auto done = put.bind(wanted).bind(it.id).run(); !done) return done;
    }
    return {};
}

Result<std::vector<TrackRow>> Library::tracks() const {
    Statement rows(*database_, "SELECT id, name, file, length_m FROM tracks ORDER BY name");
    return rows.all([](const Statement& row) {
        return TrackRow{{row.integer(0)}, row.text(1), row.text(2), row.real(3)};
    });
}

Result<TrackRow> Library::track(TrackId id) const {
    Statement found(*database_, "SELECT id, name, file, length_m FROM tracks WHERE id = ?");
    const auto there = found.bind(id.value).found();
    if (!there) return pass_on(there.error());
    if (*there) return TrackRow{id, found.text(1), found.text(2), found.real(3)};
    return fail(ErrorCode::not_found, "There is no track " + std::to_string(id.value) + " in this library.");
}

Result<std::optional<TrackId>> Library::find_track(const std::string& name) const {
    Statement found(*database_, "SELECT id FROM tracks WHERE name = ?");
    const auto there = found.bind(name).found();
    if (!there) return pass_on(there.error());
    return *there ? std::optional(TrackId{found.integer(0)}) : std::nullopt;
}

Result<std::string> Library::track_geojson(TrackId id) const {
    Statement found(*database_, "SELECT geojson, file FROM tracks WHERE id = ?");
    const auto there = found.bind(id.value).found();
    if (!there) return pass_on(there.error());
    if (!*there)
        return fail(ErrorCode::not_found, "There is no track " + std::to_string(id.value) + " in this library.");
    if (std::string text = found.text(0); !text.empty()) return text;
    // Of an older library whose file was missing when it was taken over.
    return read_text_file(folder_ / found.text(1));
}

Result<MarkId> Library::add_mark(TrackId track, const std::string& name, Interval range_m) {
    Statement insert(*database_, "INSERT INTO marks (track_id, name, begin_m, end_m) VALUES (?,?,?,?)");
    auto done = insert.bind(track.value).bind(name).bind(range_m.begin).bind(range_m.end).run();
    if (!done) return pass_on(done.error());
    return MarkId{database_->last_id()};
}

Result<void> Library::remove_mark(MarkId id) {
    return Statement(*database_, "DELETE FROM marks WHERE id = ?").bind(id.value).run();
}

Result<std::vector<Mark>> Library::marks(TrackId track) const {
    Statement rows(*database_, "SELECT id, name, begin_m, end_m FROM marks WHERE track_id = ? ORDER BY begin_m, id");
    return rows.bind(track.value).all([track](const Statement& row) {
        return Mark{{row.integer(0)}, track, row.text(1), {row.real(2), row.real(3)}};
    });
}

Result<std::string> Library::setting(const std::string& key) const {
    Statement found(*database_, "SELECT value FROM settings WHERE key = ?");
    const auto there = found.bind(key).found();
    if (!there) return pass_on(there.error());
    return *there ? found.text(0) : "";
}

Result<void> Library::set_setting(const std::string& key, const std::string& value) {
    return Statement(*database_,
                     "INSERT INTO settings (key, value) VALUES (?,?) "
                     "ON CONFLICT (key) DO UPDATE SET value = excluded.value")
        .bind(key)
        .bind(value)
        .run();
}

}  // namespace rendak
