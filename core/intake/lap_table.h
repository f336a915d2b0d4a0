#pragma once

#include <memory>
#include <span>
#include <string>
#include <vector>

#include "core/analysis/lap_figures.h"
#include "core/base/job.h"
#include "core/intake/run_data.h"

namespace rendak {

/// The laps of several runs × figures, in the order of the runs and of their laps.
struct LapTable {
    struct Column {
        LapColumn column;  ///< with its statistic
        std::string unit;  ///< SI; of a share ""
        Better better = Better::neither;
        std::optional<std::size_t> best = std::nullopt;          ///< row with the best figure of those that count
        double mean = std::numeric_limits<double>::quiet_NaN();  ///< of the laps that count
        std::size_t laps = 0;                                    ///< that count and have it
        std::string missing = {};                                ///< why no run has it; else empty
    };
    /// Every lap but those that the recording cuts off; those that are left out are shown and set nothing.
    struct Row {
        LapRef ref;
        LapKind kind = LapKind::flying;
        double time_s = 0;
        bool counts = false;
        std::string why = {};                 ///< it does not
        std::vector<LapFigure> figures = {};  ///< one a column
    };
    /// Over the laps of one run that count.
    struct Trend {
        RunId run;
        std::size_t column = 0;
        LapTrend line;
    };
    std::vector<Column> columns;
    std::vector<Row> rows;
    std::vector<Trend> trends;
    std::optional<std::size_t> best_lap;  ///< row with the shortest time of those that count
};
/// A channel named alone is followed by the figures that its kind proposes. "lap_time" can be had of every lap. Fails
/// where a limit is of another kind than its channel, or has no unit and needs one.
[[nodiscard]] Result<LapTable> lap_table(std::span<const std::shared_ptr<const RunData>> runs,
                                         const std::vector<LapColumn>& wished, const JobContext& job = {});
/// The same from the library: figures that were worked out before come from there as long as nothing changed that they
/// rest on (Freshness), and no recording is opened for them; the others are worked out, a run a thread, and kept.
[[nodiscard]] Result<LapTable> kept_lap_table(Library& library, const std::vector<RunId>& runs,
                                              const std::vector<LapColumn>& wished, const JobContext& job = {});

/// Takes columns away; what is left keeps its order.
void drop_columns(LapTable& table, const std::vector<std::size_t>& dropped);

/// The sets of columns that are shipped.
struct ReadySetName {
    std::string name, title;
};
[[nodiscard]] std::vector<ReadySetName> ready_column_sets();
/// One of them, parted into what one of the runs has and what none has. Fails with the names of all sets.
struct ReadyColumns {
    std::vector<LapColumn> columns, missing;
    std::vector<LapColumn> all;  ///< in the order of the set
};
[[nodiscard]] Result<ReadyColumns> ready_columns(const std::string& name,
                                                 std::span<const std::shared_ptr<const RunData>> runs);

/// "rises by 0.4 s a lap, ± 0.1", "" where it may be chance; the figures in SI times `per_si` ("s").
[[nodiscard]] std::string trend_words(const LapTrend& trend, double per_si, const std::string& unit);

}  // namespace rendak
