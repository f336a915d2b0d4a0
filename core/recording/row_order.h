#pragma once

#include <string>
#include <vector>

#include "core/recording/table_rows.h"

namespace rendak {

/// Puts the rows of a table into the order of time and keeps those that have one; returns their times, strictly rising.
/// Rows out of order are sorted where that leaves no hole; a clock that runs over (midnight, a week, a counter) or is
/// set back goes on from the row before; single times that jump are left out; rows of one time are merged where their
/// cells do not clash. All is said. Fails with needs_rate when too little remains.
[[nodiscard]] Result<std::vector<double>> order_rows(TableRows& rows, std::vector<double> seconds,
                                                     const std::string& column);

}  // namespace rendak
