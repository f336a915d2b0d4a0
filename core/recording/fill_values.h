#pragma once

#include "core/recording/table_rows.h"

namespace rendak {

/// Programs write -9999, 65535 or 1e38 where there was no value. A number of that kind that lies farther from all
/// others of its column than half of what they span, and comes again, becomes a missing sample; said in the table's
/// notes.
void take_out_fill_values(TableRows& rows);

}  // namespace rendak
