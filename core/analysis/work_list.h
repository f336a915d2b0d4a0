#pragma once

#include <algorithm>
#include <string>
#include <vector>

#include "core/analysis/findings.h"

namespace rendak {

/// Corners that are driven faster take courage: more speed is asked for in small steps.
inline constexpr double commitment_mps = 140 / 3.6;

/// A corner, or what is the same in most of them, with the seconds that could be found there.
struct WorkPlace {
    int corner = 0;  ///< 0: everywhere
    std::string name;
    Interval range_m;
    double to_reference_s = 0;  ///< B's mean against A's
    /// B's mean against B's own best there, and against B's usual (the middle lap): what odd laps cost. Of one lap, and
    /// of two, not told.
    std::optional<double> to_best_s, to_usual_s;
    bool sure = false;            ///< the loss stands out of the scatter
    std::size_t laps_needed = 0;  ///< laps a side that would tell, where it is not sure; 0: more than 99, or one lap
    bool of_driver = true;        ///< something that the driver could do otherwise; else the car
    std::vector<LapFinding> findings;

    [[nodiscard]] double available_s() const { return std::max(to_reference_s, to_best_s.value_or(0)); }
};
/// What to work on: sure before unsure, driver before car (it is quicker to change, and cheaper), then by the seconds.
/// One thing at a time: what comes first is to be tried alone. Corners in which next to nothing can be found are left
/// out.
[[nodiscard]] std::vector<WorkPlace> work_list(const LapStory& story);

/// The corners of a ledger in groups: by far the most, some, alike, better.
struct LedgerGroups {
    std::vector<std::size_t> most, some, alike, better;  ///< rows; `most`, `some`, `better` the largest first
    double most_s = 0, some_s = 0, better_s = 0;
};
/// Alike is what differs by less than 0.02 s, or could as well be chance.
[[nodiscard]] LedgerGroups ledger_groups(const Ledger& ledger);
/// "Most of it in Turn 5 and Turn 6 (+0.82 s), some in Turn 9 (+0.11 s), alike in 6 corners, better in Turn 2
/// (−0.05 s)."
[[nodiscard]] std::string group_words(const Ledger& ledger);

}  // namespace rendak
