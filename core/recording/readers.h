#pragma once

#include "core/recording/csv_reader.h"

namespace rendak {

struct ReadOptions {
    CsvOptions csv;  ///< tables only, but for its aliases, which all formats use
};

enum class FileKind { recording, mdf, gpx, table };
/// By the first bytes, not by the name; anything else is tried as a table.
[[nodiscard]] FileKind file_kind(const std::filesystem::path& file);

/// Reads a logged file of any known format, told by its content and not by its name.
[[nodiscard]] Result<ReadRecording> read_logged_file(const std::filesystem::path& file, const ReadOptions& options = {},
                                                     const JobContext& job = {});

}  // namespace rendak
