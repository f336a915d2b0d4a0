#pragma once

#include <filesystem>

#include "core/base/job.h"
#include "core/base/result.h"
#include "core/recording/recording.h"

namespace rendak {

/// A cell of a table as text: in quotes where it holds a comma or a line break.
[[nodiscard]] std::string csv_cell(const std::string& text);

/// Writes all channels as one table: a row of names, a row of units, then a row for every instant at which any
/// channel was sampled; cells of channels without a sample at that instant stay empty. Values are in
/// people's units (km/h, bar, °), with as many digits as the samples have. Read back by read_csv.
[[nodiscard]] Result<void> write_csv(const Recording& recording, const std::filesystem::path& file,
                                     const JobContext& job = {});

}  // namespace rendak
