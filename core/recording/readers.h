#pragma once

#include "core/recording/csv_reader.h"

namespace rendak {

struct ReadOptions {
    CsvOptions csv;
};

/// Reads a logged file of any known format, told by its content and not by its name.
[[nodiscard]] Result<ReadRecording> read_logged_file(const std::filesystem::path& file, const ReadOptions& options = {},
                                                     const JobContext& job = {});

}  // namespace rendak
