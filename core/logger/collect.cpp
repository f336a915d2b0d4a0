#include "core/logger/collect.h"

#include <cmath>
#include <future>

#include "core/base/sha256.h"
#include "core/base/text.h"

namespace rendak {

Result<CollectState> state_in_library(const Library& library, const LoggedFile& file) {
    CollectState out;
    const auto found = library.find_raw(file.sha256);
    if (!found) return pass_on(found.error());
    if (!*found) return out;
    const auto row = library.run(**found);
    if (!row) return pass_on(row.error());
    std::error_code missing;
    // One whose recording is gone or damaged is to be fetched again: that mends it.
    if (!row->damage.empty() || !std::filesystem::exists(library.folder() / row->recording_file, missing)) return out;
    out.run = **found;
    out.binned = row->binned_unix_s.has_value();
    if (out.binned) return out;
    const auto raws = library.raw_files(*out.run);
    if (!raws) return pass_on(raws.error());
    for (const RawFile& raw : *raws) {
        if (raw.sha256 != file.sha256 || raw.archive_file.empty()) continue;
        std::error_code code;
        out.verified = std::filesystem::file_size(library.folder() / raw.archive_file, code) == file.size && !code;
    }
    return out;
}

std::vector<Collected> collect(Library& library, LoggerLink& link, const std::vector<LoggedFile>& files,
                               const CollectOptions& options, const JobContext& job) {
    std::vector<Collected> out;
    double total = 0, before = 0;
    for (const LoggedFile& file : files) total += static_cast<double>(file.size) + 1;
    for (const LoggedFile& file : files) {
        const double share = (static_cast<double>(file.size) + 1) / total;
        const JobContext part = job.part(before, before + share);
        before += share;
        Collected one;
        one.file = file;
        if (job.stopped()) {
            one.error = Error{ErrorCode::cancelled, "Cancelled before it was fetched.", file.name};
            out.push_back(std::move(one));
            continue;
        }
        auto fetched = fetch(link, file, library.folder() / "originals", options.fetch, part.part(0, 0.7));
        if (!fetched) {
            one.error = fetched.error();
            out.push_back(std::move(one));
            continue;
        }
        one.fetched = *fetched;
        ImportOptions filing = options.filing;
        // Nobody is asked in the middle of a download: what is open is kept by its name, and said.
        filing.read.csv.keep_unanswered = true;
        filing.clock_shift_s = options.clock_shift_s;
        filing.raw = RawFile{file.sha256, file.name, file.size,
                             std::filesystem::path(fetched->file).lexically_relative(library.folder()).string()};
        auto safe = std::async(std::launch::async, [file = fetched->file] { return keep_safe(file); });
        auto imported = import_file(library, fetched->file, filing, part.part(0.7, 1));
        if (auto kept = safe.get(); !kept)
            one.error = kept.error();
        else if (imported)
            one.imported = std::move(*imported);
        else
            one.error = imported.error();
        out.push_back(std::move(one));
    }
    return out;
}

std::vector<std::string> logger_warnings(const LoggerState& state, double computer_unix_s) {
    std::vector<std::string> out;
    if (state.capacity_bytes > 0 &&
        static_cast<double>(state.free_bytes) < 0.15 * static_cast<double>(state.capacity_bytes)) {
        out.push_back("The card is nearly full: " + std::to_string(100 * state.free_bytes / state.capacity_bytes) +
                      " % is free. Erase what is in the library before the next run.");
    }
    if (state.recordings_limit > 0 && state.recordings * 10 >= state.recordings_limit * 8) {
        out.push_back(std::to_string(state.recordings) + " recordings are on the card; above " +
                      std::to_string(state.recordings_limit) + " the logger no longer records reliably. Erase some.");
    }
    if (state.clock_unix_s && std::abs(*state.clock_unix_s - computer_unix_s) > 2)
        out.push_back("The logger's clock is wrong. Check this computer's clock first, then set the logger's.");
    if (state.recording) out.push_back("The logger is recording now; stop it before you erase anything.");
    return out;
}

}  // namespace rendak
