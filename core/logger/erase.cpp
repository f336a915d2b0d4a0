#include <algorithm>

#include "core/base/sha256.h"
#include "core/logger/collect.h"

namespace rendak {
namespace {

/// Why this recording must stay on the card; empty when it may go. The original's digest is computed again.
std::string reason_to_keep(Library& library, const LoggedFile& file, const JobContext& job) {
    const auto state = state_in_library(library, file);
    if (!state) return "the library cannot say whether it is there: " + state.error().message;
    if (!state->run) return "it is not in the library";
    if (state->binned) return "its run lies in the bin";
    const auto damage = library.check_recording(*state->run, {job.stop, {}});
    if (!damage || !damage->empty() || !library.open_run(*state->run)) return "its run cannot be opened";
    if (!state->verified) return "its original is not kept with the library";
    const auto raws = library.raw_files(*state->run);
    if (!raws) return "the library cannot say whether its original is there: " + raws.error().message;
    for (const RawFile& raw : *raws) {
        if (raw.sha256 != file.sha256) continue;
        const auto digest = sha256_of_file(library.folder() / raw.archive_file, {job.stop, {}});
        if (!digest || *digest != file.sha256) return "its kept original is damaged";
    }
    return {};
}

}  // namespace

Result<Erased> erase_verified(Library& library, LoggerLink& link, const std::vector<LoggedFile>& files,
                              const JobContext& job) {
    Erased out;
    std::vector<LoggedFile> asked;
    for (const LoggedFile& file : files) {
        if (job.stopped())
            return fail(ErrorCode::cancelled,
                        "Cancelled; " + std::to_string(asked.size()) + " recordings were erased.");
        if (auto reason = reason_to_keep(library, file, job); !reason.empty()) {
            out.kept.emplace_back(file, std::move(reason));
            continue;
        }
        if (auto erased = link.erase(file, job); !erased) {
            if (erased.error().code == ErrorCode::io) return pass_on(erased.error());
            out.kept.emplace_back(file, erased.error().message);
            continue;
        }
        asked.push_back(file);
        job.report(static_cast<double>(asked.size()) / static_cast<double>(files.size()));
    }
    // The check afterwards: what the logger still lists is not gone.
    const auto left = link.list(job);
    if (!left) return pass_on(left.error());
    for (const LoggedFile& file : asked) {
        const bool there = std::any_of(left->begin(), left->end(),
                                       [&](const LoggedFile& other) { return other.sha256 == file.sha256; });
        if (there)
            out.kept.emplace_back(file, "the logger still lists it after erasing");
        else
            out.gone.push_back(file);
    }
    return out;
}

}  // namespace rendak
