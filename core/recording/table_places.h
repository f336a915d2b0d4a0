#pragma once

#include <vector>

#include "core/recording/table_rows.h"

namespace rendak {

/// Columns that are named like a latitude and a longitude but hold accelerations ("Lat", "Long" in g) become those.
/// Letters of hemispheres, in columns of their own or in the names, become signs; degrees and minutes in one number,
/// minutes, radians and ten-millionths of a degree become degrees; longitudes of 0 … 360 become -180 … 180. What cannot
/// be a place is no position any more, and said. Needs no times.
void read_places(TableRows& rows);

/// With the times known: columns that were swapped are put right, and positions that contradict the speed are said.
void check_places(TableRows& rows, const std::vector<double>& times_s);

}  // namespace rendak
