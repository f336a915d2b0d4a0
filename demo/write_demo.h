#pragma once

#include <filesystem>

#include "core/base/job.h"
#include "core/base/result.h"

namespace rendak::demo {

struct DemoParts {
    bool sunday = true;   ///< runs 5 to 13, the laps along the edges, the hill climb
    bool waiting = true;  ///< what is on the card and not yet in the library
    bool films = true;    ///< of the cameras in Saturday's car, of the quickest laps of runs 2 and 3
};

/// Makes `folder` a library with Skerrow Point, the team's papers, Saturday's runs 1 to 3 and Sunday's runs 5 to 13.
/// Beside them demo-files/: the card of the car's logger with all of Saturday (what the stand-in logger serves), a
/// pocket logger's files, and the truth that tests read (truth/). Runs that are already there stay as they are.
[[nodiscard]] Result<void> write_demo(const std::filesystem::path& folder, const JobContext& job = {},
                                      DemoParts parts = {});

}  // namespace rendak::demo
