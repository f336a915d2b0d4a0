#pragma once

#include <filesystem>

#include "core/recording/handover.h"

namespace rendak {

/// Looks through an HDF5 file for the layout of docs/formats.md and nothing else: data sets are contiguous or chunked
/// and lie inside this file (no links to elsewhere, no external or virtual storage), of known filters and bounded size.
/// Runs in the reader process: HDF5 1.10 can crash on a file of changed bytes. `opened` is called once the file is
/// open: from then on no other file is needed. Of a file of another program that alone is handed over; with `kind_only`
/// of any file.
[[nodiscard]] Result<HandedRecording> lay_open(const std::filesystem::path& file, std::uint64_t file_size,
                                               bool kind_only, HandoverWriter& out, void (*opened)());

}  // namespace rendak
