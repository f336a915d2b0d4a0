#pragma once

#include <cstdint>
#include <filesystem>

#include "core/recording/handover.h"

namespace rendak {

/// Lays an HDF5 file of another program out as a text table: a row a sample, tabs between the cells, each clock's time
/// in front of its columns, as core/recording/csv_reader reads it. At most `most_rows` rows; 0: all. Columns of no
/// known clock stand in it only when no column has one, and all are of one length. Runs in the reader process. `opened`
/// is called once the file is open: from then on no other file is needed.
[[nodiscard]] Result<HandedRecording> lay_out_as_table(const std::filesystem::path& file, std::uint64_t file_size,
                                                       std::uint64_t most_rows, HandoverWriter& out, void (*opened)());

}  // namespace rendak
