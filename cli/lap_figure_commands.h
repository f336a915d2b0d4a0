#pragma once

#include <cstdint>
#include <string>
#include <vector>

namespace rendak::cli {

/// Laps of runs × figures. `columns` as lap_columns() reads them, `sets` by the names of ready_columns(); as JSON, or
/// as CSV.
int print_lap_figures(const std::string& library, const std::vector<std::int64_t>& runs,
                      const std::vector<std::string>& columns, const std::vector<std::string>& sets, bool csv);

}  // namespace rendak::cli
