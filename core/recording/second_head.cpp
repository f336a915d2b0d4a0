#include "core/recording/second_head.h"

#include <algorithm>

#include "core/base/text.h"
#include "core/recording/table_head.h"
#include "core/signal/quantity.h"

namespace rendak {
namespace {

/// Name and unit that a cell of a head would give a column.
TableColumn column_of(std::string_view cell) {
    TableColumn out;
    out.name = std::string(cell);
    take_unit_off(out);
    return out;
}

}  // namespace

std::optional<std::string> other_head(std::string_view line, const TableShape& shape) {
    const auto cells = split_cells(line, shape.delimiter);
    if (!shape.has_names || cells.size() != shape.columns.size()) return std::nullopt;
    std::size_t same = 0, known = 0;
    std::string other_unit;
    for (std::size_t c = 0; c < cells.size(); ++c) {
        const TableColumn here = column_of(cells[c]), &above = shape.columns[c];
        if (match_quantity(here.name) != nullptr) ++known;
        if (here.name.empty() || folded(here.name) != folded(above.name)) continue;
        ++same;
        if (!here.unit.empty() && !above.unit.empty() && lower(here.unit) != lower(above.unit))
            other_unit = "\"" + above.name + "\" in " + here.unit + " instead of " + above.unit;
    }
    if (!other_unit.empty()) return other_unit;
    if (same * 2 < cells.size() && known >= 2) return "other columns";
    return std::nullopt;
}

std::optional<std::string> head_of_fewer_cells(std::string_view above, const TableShape& shape) {
    if (shape.has_names) return std::nullopt;
    while (!above.empty()) {
        const auto end = std::min(above.find('\n'), above.size());
        const std::string_view line = trimmed(above.substr(0, end));
        above.remove_prefix(std::min(end + 1, above.size()));
        const auto cells = split_cells(line, shape.delimiter);
        if (cells.size() < 3 || cells.size() >= shape.columns.size()) continue;
        const auto known = std::count_if(cells.begin(), cells.end(), [](std::string_view cell) {
            return match_quantity(column_of(cell).name) != nullptr;
        });
        if (known >= 2) return std::string(line.substr(0, 80));
    }
    return std::nullopt;
}

}  // namespace rendak
