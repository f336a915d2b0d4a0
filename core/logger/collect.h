#pragma once

#include "core/intake/import.h"
#include "core/logger/fetch.h"

namespace rendak {

/// What the library knows about a recording on the logger.
struct CollectState {
    std::optional<RunId> run;  ///< it is in the library as this run
    bool binned = false;
    bool verified =
        false;  ///< its recording is there and its original is kept: may be erased (and is looked at again first)
};
[[nodiscard]] Result<CollectState> state_in_library(const Library& library, const LoggedFile& file);

struct CollectOptions {
    ImportOptions filing;      ///< applies to all; its name and raw file are set for each
    double clock_shift_s = 0;  ///< correction of the dates of all of them
    FetchOptions fetch;
};

struct Collected {
    LoggedFile file;
    std::optional<ImportResult> imported;
    std::optional<Error> error;
    Fetched fetched;
};

/// Fetches, verifies and imports one recording after the other. One that fails does not stop the others; a cancel
/// does, and keeps what is finished. `tell` hears what is going on.
[[nodiscard]] std::vector<Collected> collect(Library& library, LoggerLink& link, const std::vector<LoggedFile>& files,
                                             const CollectOptions& options, const JobContext& job = {});

/// Erases those recordings that are verified in the library, checks afterwards that they are gone, and says in a
/// sentence each why another one was not erased.
struct Erased {
    std::vector<LoggedFile> gone;
    std::vector<std::pair<LoggedFile, std::string>> kept;
};
[[nodiscard]] Result<Erased> erase_verified(Library& library, LoggerLink& link, const std::vector<LoggedFile>& files,
                                            const JobContext& job = {});

/// Sentences about a logger that needs attention before the car goes out: a card that is nearly full, a clock that is
/// wrong by more than two seconds.
[[nodiscard]] std::vector<std::string> logger_warnings(const LoggerState& state, double computer_unix_s);

}  // namespace rendak
