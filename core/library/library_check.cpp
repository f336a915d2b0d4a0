// Acts of several edits, and whether what was filed is still there and unchanged.
#include <cerrno>
#include <cstring>

#include "core/base/file_io.h"
#include "core/library/damage.h"
#include "core/library/library.h"
#include "core/library/sql.h"
#include "core/library/whole_files.h"
#include "core/library/writer_lock.h"
#include "core/recording/recording_file.h"
#include "core/signal/overview.h"

namespace rendak {
namespace {

using sql::Statement;
using sql::Transaction;

/// Whether the overview levels are those of the samples: a trace is drawn from them.
bool overviews_fit(const Recording& recording) {
    for (const Channel& channel : recording.channels) {
        if (channel.is_double() || channel.overview.empty()) continue;
        const auto levels = build_overview(channel.floats());
        if (levels.size() != channel.overview.size()) return false;
        for (std::size_t k = 0; k < levels.size(); ++k) {
            const auto& stored = channel.overview[k];
            if (levels[k].size() != stored.size() ||
                std::memcmp(levels[k].data(), stored.data(), stored.size() * sizeof(MinMax)) != 0)
                return false;
        }
    }
    return true;
}

}  // namespace

std::string damage_sentence(const RunRow& row, const Error& error) {
    const std::string mend = row.source_name.empty()
                                 ? " Import or fetch what it came from again: that mends it"
                                 : " Import or fetch " + row.source_name + ", which it came from, again: that mends it";
    const std::string what = error.code == ErrorCode::not_found ? "is missing from the library's folder."
                             : error.code == ErrorCode::exists  ? "is damaged: it is not what was filed."
                                                                : "is damaged: it cannot be read.";
    return "The recording of this run " + what + mend + ", and laps, facts and notes stay.";
}

Result<std::string> Library::check_recording(RunId id, const JobContext& job, Look look) {
    const auto row = run(id);
    if (!row) return pass_on(row.error());
    Statement found(*database_,
                    "SELECT q.id, q.file_digest FROM recordings q JOIN runs r ON r.recording_id = q.id WHERE r.id = ?");
    const auto there = found.bind(id.value).found();
    if (!there) return pass_on(there.error());
    const std::int64_t recording_id = found.integer(0);
    const std::string known_bytes = found.text(1);
    const auto file = folder_ / row->recording_file;
    const WholeFiles whole(folder_);
    if (row->damage.empty() &&
        whole.holds(file, row->digest,
                    look == Look::today ? WholeFiles::Known::today : WholeFiles::Known::in_this_process))
        return std::string();

    Result<std::string> bytes = file_digest(file, job);
    std::string wrong;
    if (!bytes && bytes.error().code == ErrorCode::cancelled) return pass_on(bytes.error());
    if (!bytes) {
        wrong = damage_sentence(*row, bytes.error());
    } else if (known_bytes.empty()) {
        // Filed by an older version, which kept no digest of the bytes: the content's own tells, once.
        const auto opened = open_recording(file, job);
        if (!opened && opened.error().code == ErrorCode::cancelled) return pass_on(opened.error());
        if (!opened)
            wrong = damage_sentence(*row, opened.error());
        else if (content_digest(**opened) != row->digest || !overviews_fit(**opened))
            wrong = damage_sentence(*row, {ErrorCode::exists, "", ""});
    } else if (*bytes != known_bytes) {
        wrong = damage_sentence(*row, {ErrorCode::exists, "", ""});
    }
    if (wrong.empty()) whole.add(file, row->digest, !is_look_only());
    const bool learnt = wrong.empty() && known_bytes.empty();
    if (!is_look_only() && (wrong != row->damage || learnt)) {
        Statement put(*database_, "UPDATE recordings SET damage = ?, file_digest = ? WHERE id = ?");
        if (auto done = put.bind(wrong).bind(learnt ? *bytes : known_bytes).bind(recording_id).run(); !done)
            return pass_on(done.error());
    }
    return wrong;
}

Result<void> Library::mend_recording(RunId id, const Recording& recording, const JobContext& job) {
    if (is_look_only()) return pass_on(look_only_error());
    const auto row = run(id);
    if (!row) return pass_on(row.error());
    const WriterLock lock(folder_, WriterLock::Kind::shared);
    if (!lock.held()) return pass_on(io_error("write to the library", folder_ / "writing.lock", errno));
    Recording stored = recording;
    stored.digest = row->digest;
    if (stored.source_name.empty()) stored.source_name = row->source_name;
    auto written = OutputFile::begin(folder_ / row->recording_file);
    if (!written) return pass_on(written.error());
    if (auto done = write_recording_part(stored, written->part(), folder_ / row->recording_file, job); !done)
        return done;
    const auto bytes = file_digest(written->part());
    if (!bytes) return pass_on(bytes.error());
    // The file first: killed before the row is changed, the run still says that it is damaged, and is mended again.
    if (auto done = written->finish(); !done) return done;
    return Statement(*database_, "UPDATE recordings SET damage = '', file_digest = ? WHERE digest = ?")
        .bind(*bytes)
        .bind(row->digest)
        .run();
}

Result<std::vector<std::string>> Library::check_catalogue() const {
    Statement rows(*database_, "PRAGMA integrity_check(20)");
    auto lines = rows.all([](const Statement& row) { return row.text(0); });
    if (lines && lines->size() == 1 && lines->front() == "ok") lines->clear();
    return lines;
}

Library::Act::Act(Library& library)
    : library_(library), transaction_(std::make_unique<sql::Transaction>(*library.database_)) {}

Library::Act::~Act() = default;

Result<void> Library::Act::begun() const {
    return transaction_->begun();
}

Result<void> Library::Act::commit() {
    if (auto done = transaction_->commit(); !done) return done;
    if (!library_.database_->in_transaction()) (void)library_.mirror_tracks();
    return {};
}

}  // namespace rendak
