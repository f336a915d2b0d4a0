#pragma once

#include <filesystem>
#include <memory>

#include "core/base/job.h"
#include "core/base/result.h"
#include "core/recording/recording.h"

namespace rendak {

/// Reads and writes the recording file `.rdk.h5` (layout: docs/formats.md).

/// True when the file starts like an HDF5 file.
[[nodiscard]] bool is_recording_file(const std::filesystem::path& file);

/// Maps the file; the cost does not grow with the recording's length. Channels that are stored contiguously
/// as float32 or float64 are spans into the mapping; anything else is read into memory.
[[nodiscard]] Result<std::shared_ptr<const Recording>> open_recording(const std::filesystem::path& file);

/// Writes all channels with their overview levels under a temporary name, flushes, then renames.
/// On failure or cancel nothing is left behind.
[[nodiscard]] Result<void> write_recording(const Recording& recording, const std::filesystem::path& file,
                                           const JobContext& job = {});

}  // namespace rendak
