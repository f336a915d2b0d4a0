#pragma once

#include <filesystem>

#include "core/logger/logger_link.h"

namespace rendak {

struct FetchOptions {
    int tries = 6;        ///< a lost link is taken up again at the byte where it stopped, so many times in a row
    double wait_s = 0.5;  ///< before the second try; doubled each time
    std::string day = "unsorted";                     ///< name of the dated folder of the originals
    std::function<void(std::uint64_t)> arrived = {};  ///< hears how many more bytes have come over the link
};

struct Fetched {
    std::filesystem::path file;    ///< in originals/<day>/
    std::uint64_t resumed_at = 0;  ///< first byte that had to be fetched now
    int lost_links = 0;
};

/// Fetches a recording into `originals`/<day>/<name> and checks a digest that the logger names, the quicker one where
/// it names two, before it gets that name; keep_safe() comes after it. What has arrived of an unfinished one waits in
/// `originals`/.unfinished/ and is used the next time. A file of the same content that is there already is not fetched
/// again.
[[nodiscard]] Result<Fetched> fetch(LoggerLink& link, const LoggedFile& file, const std::filesystem::path& originals,
                                    const FetchOptions& options = {}, const JobContext& job = {});

/// Waits until the disk has a fetched original and its name: from then on a loss of power cannot take it. An import can
/// go on meanwhile; nothing may be erased before.
[[nodiscard]] Result<void> keep_safe(const std::filesystem::path& original);

/// Today, as 2026-11-23.
[[nodiscard]] std::string day_text(double unix_s);

}  // namespace rendak
