#pragma once

#include <optional>
#include <vector>

#include "core/recording/table_rows.h"

namespace rendak {

/// The rows' times in seconds from the start of the recording.
struct RowTimes {
    std::vector<double> times_s;
    std::optional<double> start_unix_s;
    double tolerance_s = 1e-6;  ///< half a step of what the file writes
    /// What the first row's clock showed where times count from that row: since 1970, or since midnight.
    std::optional<double> first_row_at_s = {};
};

/// Finds the clock of a table: a column of numbers in any unit, of texts, of spreadsheet days, of hhmmss numbers, dates
/// in a column of their own, or rows per second. A unit that is not named is told by the motion of the car; where two
/// fit it is asked (needs_answer). Rows out of order are put in order, a clock that is set back goes on, rows without a
/// time are left out; all that is said in the table's notes. `rows` keeps the rows that have a time.
[[nodiscard]] Result<RowTimes> find_row_times(TableRows& rows);

}  // namespace rendak
