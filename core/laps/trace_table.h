#pragma once

#include <string>
#include <vector>

#include "core/base/job.h"
#include "core/base/result.h"
#include "core/laps/trace.h"

namespace rendak {

/// One column of a table of traces: a quantity of a lap, or what lies between it and the baseline ("gap",
/// "line_offset"), in the unit it is shown in: shown = (si − offset) / factor.
struct TracedColumn {
    std::string head;  ///< as it stands in the table, without commas
    PreparedLap lap;
    std::string quantity;
    GapCurve gap = {};
    LineOffset line = {};
    double factor = 1, offset = 0;
    int decimals = 3;
    double slid_m = 0;  ///< by which its values are slid along the road, where x is metres
};

/// The columns over a common x as comma-separated text: metres of track, or seconds since each lap's line. A row a
/// metre or a hundredth of a second; ten, a hundred … times as much where that would be more than `most_rows`. Cells
/// that are missing are empty. Computes formulas: for a worker.
[[nodiscard]] Result<std::string> trace_table(const std::vector<TracedColumn>& columns, Axis axis, Interval x,
                                              std::size_t most_rows, const JobContext& job = {});

}  // namespace rendak
