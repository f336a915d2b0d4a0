#include "core/intake/check_library.h"

#include <set>

#include "core/base/sha256.h"
#include "core/intake/shared_track.h"

namespace rendak {
namespace {

/// "" when an original is what was noted of it.
std::string fault_of_original(const Library& library, const RawFile& raw, const JobContext& job) {
    if (raw.archive_file.empty()) return {};
    const auto digest = sha256_of_file(library.folder() / raw.archive_file, job);
    if (digest && *digest == raw.sha256) return {};
    if (!digest && digest.error().code == ErrorCode::cancelled) return {};
    return "The original " + raw.archive_file +
           (digest ? " is not what was fetched any more." : " cannot be read: " + digest.error().message) +
           " Fetch it again while it is on the logger or the card.";
}

}  // namespace

Result<LibraryCheck> check_library(Library& library, const JobContext& job) {
    LibraryCheck out;
    auto catalogue = library.check_catalogue();
    if (!catalogue) return pass_on(catalogue.error());
    out.catalogue = std::move(*catalogue);
    std::vector<RunRow> rows;
    for (auto read : {&Library::runs, &Library::binned}) {
        auto some = (library.*read)();
        if (!some) return pass_on(some.error());
        for (RunRow& row : *some) {
            const auto parts = library.joined_runs(row.id);
            if (!parts) return pass_on(parts.error());
            rows.insert(rows.end(), parts->begin(), parts->end());
            rows.push_back(std::move(row));
        }
    }
    std::set<std::string> seen;
    for (std::size_t i = 0; i < rows.size(); ++i) {
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
        const double n = static_cast<double>(rows.size());
        const JobContext part = job.part(static_cast<double>(i) / n, static_cast<double>(i + 1) / n);
        const RunRow& row = rows[i];
        const auto damage = library.check_recording(row.id, part.part(0, 0.5));
        if (!damage) return pass_on(damage.error());
        if (!damage->empty()) out.damaged.push_back({row.id, row.name, *damage});
        if (!seen.insert(row.digest).second) continue;
        ++out.recordings;
        const auto raws = library.raw_files(row.id);
        if (!raws) return pass_on(raws.error());
        for (const RawFile& raw : *raws) {
            if (std::string fault = fault_of_original(library, raw, part.part(0.5, 1)); !fault.empty())
                out.originals.push_back(std::move(fault));
        }
    }
    const auto tracks = library.tracks();
    if (!tracks) return pass_on(tracks.error());
    for (const TrackRow& row : *tracks) {
        if (const auto track = read_track(library, row.id); !track)
            out.tracks.push_back("Track " + row.name + ": " + track.error().message);
    }
    auto unfiled = library.unfiled_recordings();
    if (!unfiled) return pass_on(unfiled.error());
    out.unfiled = std::move(*unfiled);
    std::error_code code;
    for (std::filesystem::directory_iterator at(library.folder() / "originals" / ".unfinished", code), end;
         !code && at != end; at.increment(code)) {
        if (at->path().extension() != ".lock") out.unfinished.push_back(at->path());
    }
    return out;
}

Result<std::string> check_runs(Library& library, const std::vector<RunId>& runs, const JobContext& job) {
    // All of them, also behind a damaged one: each is kept with its run.
    std::string first;
    for (const RunId run : runs) {
        const auto parts = library.joined_runs(run);
        if (!parts) return pass_on(parts.error());
        std::vector<RunId> all{run};
        for (const RunRow& part : *parts) all.push_back(part.id);
        for (const RunId id : all) {
            auto damage = library.check_recording(id, job, Library::Look::today);
            if (!damage) return damage;
            if (first.empty()) first = std::move(*damage);
        }
    }
    return first;
}

}  // namespace rendak
