#pragma once

#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "core/intake/run_data.h"

namespace rendak {

/// Laps of a run that are looked at as one, as people write them: "2" all laps that count, "2:best" the best of them,
/// "2:near" those within 0.5 % of the best, "2:3,4" these, whether they count or not, "2:day" all that count of the
/// driver's day: of all runs like runs_of_day().
struct LapWish {
    enum class Which { counting, best, near_best, listed, day };
    RunId run;
    Which which = Which::counting;
    std::vector<int> laps = {};  ///< when listed
};
[[nodiscard]] Result<LapWish> lap_wish(std::string_view text);

/// A day stands for one wish for each of its runs; others for themselves.
[[nodiscard]] Result<std::vector<LapWish>> whole_wishes(const Library& library, const LapWish& wish);

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

/// The laps that words name ("2:best"), each run opened by `open`.
using OpenRun = std::function<Result<std::shared_ptr<const RunData>>(RunId)>;
[[nodiscard]] Result<LapSet> named_lap_set(const Library& library, const std::vector<std::string>& words, bool mixed,
                                           const OpenRun& open);

/// Runs of the same driver and car on the same track and day as this one, itself among them, in the order driven. A day
/// is one of the event's clock; runs without a clock are of the day of their event.
[[nodiscard]] Result<std::vector<RunId>> runs_of_day(const Library& library, RunId run);

}  // namespace rendak
