#pragma once

#include <filesystem>
#include <memory>
#include <optional>

#include "core/base/file_io.h"
#include "core/base/job.h"
#include "core/recording/handover.h"

namespace rendak {

/// What the reader process made of an HDF5 file, and the memory that holds what it had to unpack.
struct ReadInProcess {
    HandedRecording recording;
    std::shared_ptr<const MappedFile> handover;
};

/// What is wanted of an HDF5 file.
struct WantedOfFile {
    enum class What : std::uint8_t { kind, recording, table };
    What what = What::recording;
    std::uint64_t most_rows = 0;  ///< of a table; 0: all
};

/// Has an open file read by `rendak-reader`, a process of its own that may open no other file and take no more than so
/// much memory and time. Whatever the file does to HDF5, it does there.
[[nodiscard]] Result<ReadInProcess> read_in_process(const Descriptor& file, std::uint64_t file_size,
                                                    const std::filesystem::path& shown_name, const WantedOfFile& wanted,
                                                    const JobContext& job);

/// The main function of `rendak-reader`: reads the file open as 3, writes a hand-over of at most `most_bytes` to 4.
int run_reader(std::uint64_t most_bytes, const WantedOfFile& wanted);
[[nodiscard]] std::optional<WantedOfFile> wanted_of_file(const char* what, const char* most_rows);

}  // namespace rendak
