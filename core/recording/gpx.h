#pragma once

#include <filesystem>

#include "core/base/job.h"
#include "core/base/result.h"
#include "core/recording/recording.h"

namespace rendak {

/// True when the text starts like a GPX file.
[[nodiscard]] bool looks_like_gpx(std::string_view text);

/// Reads the track points of a GPX 1.0 or 1.1 file (positions of phones and small loggers): latitude, longitude,
/// height, and speed and course where they are written. Points need times.
[[nodiscard]] Result<ReadRecording> read_gpx(const std::filesystem::path& file, const JobContext& job = {});

/// Writes the positions of a recording as one GPX 1.1 track; speed in an extension of our own.
[[nodiscard]] Result<void> write_gpx(const Recording& recording, const std::filesystem::path& file,
                                     const JobContext& job = {});

}  // namespace rendak
