#pragma once

#include <memory>
#include <string>
#include <vector>

#include "core/analysis/section_table.h"
#include "core/intake/run_data.h"

namespace rendak {

/// The laps of some runs of one track that a table shows. All complete laps are shown; bests, limits and means are
/// those of the laps that count: not left out, nothing doubtful about them and, unless drivers and cars may be mixed,
/// of the first run's driver and car.
struct LapPool {
    std::vector<std::shared_ptr<const RunData>> runs;  ///< those of the first one's track
    std::vector<PreparedLap> laps;                     ///< in the order of the runs; `counts` is decided
    std::vector<TimedLap> timed;                       ///< the same laps, as section tables take them
    std::size_t left_out = 0, doubtful = 0, of_others = 0;
    /// "Not counted: 2 laps left out, 1 doubtful, 8 of other drivers or cars."; empty when all count.
    [[nodiscard]] std::string not_counted() const;
};
[[nodiscard]] LapPool pooled_laps(const std::vector<std::shared_ptr<const RunData>>& runs, bool mixed);

}  // namespace rendak
