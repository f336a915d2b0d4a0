#pragma once

#include <memory>
#include <string>
#include <vector>

#include "core/analysis/lap_choice.h"
#include "core/intake/run_data.h"

namespace rendak {

/// How alike the laps of a run are, and where their scatter comes from.
struct LapScatter {
    RunId run;
    Consistency laps;
    struct Of {
        std::string section;
        Interval range_m;
        double sd_s = 0;
        double share = 0;  ///< of the variance of the lap times: covariance with them; all sections add up to 1
    };
    std::vector<Of> sections;  ///< the largest share first; empty with fewer than four laps or without a track
};
[[nodiscard]] std::vector<LapScatter> lap_scatter(const std::vector<std::shared_ptr<const RunData>>& runs);

}  // namespace rendak
