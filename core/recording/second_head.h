#pragma once

#include <optional>
#include <string>
#include <string_view>

#include "core/recording/table_shape.h"

namespace rendak {

/// What a row of text among the numbers says when it is the head of another table: other names, or other units of the
/// same ones. The rows below it cannot be read as those above. nullopt: the same head again, or no head at all.
[[nodiscard]] std::optional<std::string> other_head(std::string_view line, const TableShape& shape);

/// The line above the numbers that names quantities, where rows have more cells than it: numbers with a decimal comma
/// in a table of commas, most likely. nullopt: there is none.
[[nodiscard]] std::optional<std::string> head_of_fewer_cells(std::string_view above, const TableShape& shape);

}  // namespace rendak
