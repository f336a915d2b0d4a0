#pragma once

#include <filesystem>

#include "core/base/job.h"
#include "core/base/result.h"
#include "core/recording/recording.h"
#include "core/signal/quantity.h"

namespace rendak {

/// True when the text starts like an MDF 4 file, finished or not.
[[nodiscard]] bool looks_like_mdf(std::string_view text);

/// Reads an ASAM MDF 4 measurement file (4.00 – 4.20): sorted and unsorted groups, DT, DZ, DL and HL data, integer
/// and float channels of both byte orders at any bit, linear, rational and table conversions, value names (the
/// numbers are kept, the names are said), invalid samples, several groups with their own time. Samples become SI
/// units. A file that ends in the middle gives what is there, and says so.
[[nodiscard]] Result<ReadRecording> read_mdf(const std::filesystem::path& file, const Aliases& aliases = {},
                                             const JobContext& job = {});

struct MdfWriteOptions {
    bool compress = false;  ///< transposed deflate
    /// Length of a data block in time; the blocks of all groups take turns, as a logger writes them. 0: one block
    /// a group.
    double slice_s = 0;
};

/// Writes all channels as MDF 4.10, one group a clock, samples as they are stored (SI, float32 or float64):
/// read_mdf gives the same samples back, bit for bit.
[[nodiscard]] Result<void> write_mdf(const Recording& recording, const std::filesystem::path& file,
                                     const MdfWriteOptions& options = {}, const JobContext& job = {});

}  // namespace rendak
