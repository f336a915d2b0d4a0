#pragma once

#include <filesystem>
#include <optional>

#include "core/base/job.h"
#include "core/base/result.h"
#include "core/recording/recording.h"
#include "core/recording/table_mapping.h"

namespace rendak {

struct CsvOptions {
    std::optional<double> rate_hz;             ///< for tables without a time column
    unsigned threads = 0;                      ///< 0: as many as the machine has cores
    Aliases aliases = {};                      ///< the user's own names for channels
    std::optional<TableMapping> mapping = {};  ///< what the user said about the columns
    /// Columns that only their owner understands are kept under their names only, instead of being asked for.
    bool keep_unanswered = false;
};

/// Reads a text table: delimiter, decimal sign, header and unit rows are found by themselves; a time column or
/// a fixed rate; channels of different rates as empty cells, or with time columns of their own. Samples are converted
/// to SI units (degrees for positions). Whatever had to be assumed or was left out is said in the notes. What can be
/// understood in several ways fails with needs_answer and Error::questions; the answers go into `mapping`.
[[nodiscard]] Result<ReadRecording> read_csv(const std::filesystem::path& file, const CsvOptions& options = {},
                                             const JobContext& job = {});

}  // namespace rendak
