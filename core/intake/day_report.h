#pragma once

#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/analysis/lap_figures.h"
#include "core/base/job.h"
#include "core/intake/run_data.h"

namespace rendak {

/// A figure of a run: mean of the laps that count, and what became of it since the run of the same driver and car
/// before.
struct DayFigure {
    std::string column, unit;  ///< as LapColumn::text(); SI
    Better better = Better::neither;
    double mean = std::numeric_limits<double>::quiet_NaN();
    std::optional<double> change = {};
    std::optional<Interval> likely = {};  ///< 95 % of that change
    [[nodiscard]] bool sure() const { return likely && (likely->begin > 0 || likely->end < 0); }
    [[nodiscard]] bool improved() const {
        return sure() && ((better == Better::less && *change < 0) || (better == Better::more && *change > 0));
    }
    [[nodiscard]] bool worsened() const { return sure() && better != Better::neither && !improved(); }
};

struct DayRun {
    RunRow run;
    std::size_t laps = 0;                                      ///< that count
    double best_s = std::numeric_limits<double>::quiet_NaN();  ///< of them; NaN without
    double mean_s = best_s, scatter_s = best_s;                ///< one standard deviation; NaN with one lap
    std::vector<DayFigure> figures = {};
    std::optional<RunId> since = {};                                        ///< the run that changes are told against
    std::vector<std::string> improved = {}, worsened = {}, ruled_out = {};  ///< in sentences, the largest share first
    std::string next = {};  ///< what is the next to improve; empty where nothing is told from chance
};

/// Runs in the order driven: what each driver did, what improved, what is next, and what cannot be the cause of a
/// lower top speed with the reason noted. `runs` are opened; they need not be of one day.
[[nodiscard]] Result<std::vector<DayRun>> day_report(std::span<const std::shared_ptr<const RunData>> runs,
                                                     const JobContext& job = {});

}  // namespace rendak
