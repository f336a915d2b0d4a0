#pragma once

#include "core/recording/csv_reader.h"

namespace rendak {

struct ReadOptions {
    CsvOptions csv;  ///< tables only, but for its aliases, which all formats use
};

/// Channels without a quantity get the one that the user gave their name, when the unit agrees.
void apply_aliases(Recording& recording, const Aliases& aliases);

/// Reads a logged file of any known format, told by its content and not by its name.
[[nodiscard]] Result<ReadRecording> read_logged_file(const std::filesystem::path& file, const ReadOptions& options = {},
                                                     const JobContext& job = {});

}  // namespace rendak
