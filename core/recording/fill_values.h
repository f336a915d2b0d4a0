#pragma once

#include <vector>

#include "core/recording/table_rows.h"
#include "core/recording/table_units.h"

namespace rendak {

/// Programs write -9999, 65535 or 1e38 where there was no value. A number of that kind that lies farther from all
/// others of its column than half of what they span, and comes again, becomes a missing sample; said in the table's
/// notes. Returns the extent of each wanted column.
[[nodiscard]] std::vector<Extent> take_out_fill_values(TableRows& rows);

}  // namespace rendak
