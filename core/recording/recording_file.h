#pragma once

#include <filesystem>
#include <memory>
#include <string_view>

#include "core/base/job.h"
#include "core/base/result.h"
#include "core/recording/recording.h"

namespace rendak {

/// Called with every recording that is about to be opened, on the thread that opens it: tests make a library slow with
/// it, and see who opens what. Empty otherwise.
using OpeningHook = std::function<void(const std::filesystem::path&)>;
void set_opening_hook(OpeningHook hook);

/// Reads and writes the recording file `.rdk.h5` (layout: docs/formats.md).

/// True when a file that begins so is HDF5; something of up to 2 kB may stand before its signature.
[[nodiscard]] bool looks_like_hdf5(std::string_view head);
/// True for HDF5 that another program wrote: it is read as a table. False for a damaged file: its reader says why.
[[nodiscard]] bool is_hdf5_of_others(const std::filesystem::path& file);

/// Maps the file; the cost does not grow with the recording's length. Channels that are stored contiguously
/// as float32 or float64 are spans into the mapping; anything else is read into memory. HDF5 itself runs in a process
/// of its own (reader_process.h), so a hostile or damaged file is an error and nothing worse.
[[nodiscard]] Result<std::shared_ptr<const Recording>> open_recording(const std::filesystem::path& file,
                                                                      const JobContext& job = {});

/// Writes all channels with their overview levels under a temporary name, flushes, then renames.
/// On failure or cancel nothing is left behind.
[[nodiscard]] Result<void> write_recording(const Recording& recording, const std::filesystem::path& file,
                                           const JobContext& job = {});
/// The same into a file that does not exist yet and that its caller names and, on failure, takes away.
[[nodiscard]] Result<void> write_recording_part(const Recording& recording, const std::filesystem::path& part,
                                                const std::filesystem::path& shown_name, const JobContext& job);

/// 32 hex digits over the bytes of a file (XXH3, 128 bit).
[[nodiscard]] Result<std::string> file_digest(const std::filesystem::path& file, const JobContext& job = {});

}  // namespace rendak
