#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/analysis/channel_faults.h"
#include "core/base/job.h"
#include "core/library/library.h"

namespace rendak {

/// One channel of a run's recording: what it is, what it is taken for and why, and what it holds.
struct ChannelLine {
    std::string name;         ///< in the logger
    std::string quantity;     ///< id of what it is taken for; empty: by its own name only
    std::string why;          ///< in words: by its name, by hand, by a template, by what it holds …
    std::string unit;         ///< of the values below (SI, or the logger's own)
    std::string source_unit;  ///< as the logger gave it
    double rate_hz = 0;
    double low = 0, mean = 0, high = 0;  ///< NaN when it holds nothing
    double missing_share = 0;            ///< of the samples
    std::vector<std::string> faults;     ///< in words
    bool unused = false, flipped = false;
    std::optional<ChannelEdit> edit;  ///< what is said of it
    /// How sure the name's meaning is: "sure" when said by somebody or agreeing with the positions, "likely" by its
    /// name, "unknown" when it is taken for nothing.
    std::string sureness;
};

/// All channels of a run as its logger has them, in the recording's order. Without a look at the samples of channels
/// that were not asked for it takes a moment on long recordings: progress and cancel.
[[nodiscard]] Result<std::vector<ChannelLine>> channel_sheet(const Library& library, RunId run,
                                                             const JobContext& job = {});

}  // namespace rendak
