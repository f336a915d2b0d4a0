#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/recording/table_shape.h"

namespace rendak {

/// A line of a table with its place in the text; a quoted cell may hold line breaks.
struct TableLine {
    std::string_view text;
    std::size_t offset = 0, number = 1;
};

/// "Speed [km/h]", "Speed (km/h)", "Speed {km/h}", "Speed - km/h", "speed_kmh": name and unit taken apart.
void take_unit_off(TableColumn& column);

/// Samples a second as a head says them: a rate, or the interval between samples, in its unit or without one ("50",
/// "20 ms"); nullopt for a unit of anything else.
[[nodiscard]] std::optional<double> stated_rate(double value, const std::string& unit, bool is_interval);

/// Reads the rows above the first row of numbers: names, units (below or above the names), rows of descriptions, and
/// above those what the logger noted: sample rate or interval, date and time.
void read_head(const std::vector<TableLine>& above, TableShape& shape);

}  // namespace rendak
