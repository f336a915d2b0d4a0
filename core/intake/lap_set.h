#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/intake/run_data.h"

namespace rendak {

/// Laps of a run that are looked at as one, as people write them: "2" all laps that count, "2:best" the best of them,
/// "2:near" those within 0.5 % of the best, "2:3,4" these, whether they count or not.
struct LapWish {
    enum class Which { counting, best, near_best, listed };
    RunId run;
    Which which = Which::counting;
    std::vector<int> laps = {};  ///< when listed
};
[[nodiscard]] Result<LapWish> lap_wish(std::string_view text);

/// The laps of several wishes, one after another, each once.
struct LapSet {
    std::vector<PreparedLap> laps;
    std::vector<std::shared_ptr<const RunData>> runs;  ///< of each wish
    std::string told = {};                             ///< what was left out, in a sentence; empty when nothing was
};
/// `runs` are the opened runs of the wishes, in their order. Laps of other drivers or cars than the first run's are an
/// error unless they may be mixed.
[[nodiscard]] Result<LapSet> lap_set(const std::vector<LapWish>& wishes,
                                     const std::vector<std::shared_ptr<const RunData>>& runs, bool mixed);

}  // namespace rendak
