#pragma once

#include "core/library/library.h"

namespace rendak {

struct BackupDone {
    std::size_t copied = 0, already_there = 0;  ///< files
    std::uint64_t bytes = 0;                    ///< copied
};

/// Copies a library into another folder while it is in use: recordings, tracks and originals first, each whole or not
/// at all, then the catalogue. The folder is new, empty, or an earlier backup of this library; then only what is new is
/// copied, and nothing in it is taken away. Stopped or killed at any moment, an earlier backup stays as it was. What is
/// in `derived/` can be computed again and is left out. The copy is a library like any other.
[[nodiscard]] Result<BackupDone> back_up(Library& library, const std::filesystem::path& folder,
                                         const JobContext& job = {});

/// Removes the files of a library, and the folder when nothing else is in it. What does not belong to a library stays.
/// For a library that was copied elsewhere and is open nowhere.
[[nodiscard]] Result<void> remove_library(const std::filesystem::path& folder);

}  // namespace rendak
