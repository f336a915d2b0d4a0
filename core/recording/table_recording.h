#pragma once

#include "core/base/job.h"
#include "core/recording/recording.h"
#include "core/recording/table_rows.h"

namespace rendak {

/// Makes a recording of the rows of a table: finds the clock, the places, the unit of every column, and turns all into
/// SI units. `source_name` is the file's name.
[[nodiscard]] Result<ReadRecording> recording_of(TableRows rows, const std::string& source_name, const JobContext& job);

}  // namespace rendak
