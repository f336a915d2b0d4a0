#pragma once

#include <map>
#include <string>
#include <vector>

#include "core/intake/lap_table.h"
#include "core/library/library.h"

namespace rendak {

/// Sets of columns of lap figures that people made, by name; kept in the library. Each is written as lap_columns()
/// reads it.
using ColumnSets = std::map<std::string, std::string>;
[[nodiscard]] Result<ColumnSets> column_sets(const Library& library);
/// Fails where the columns cannot be read, or the name is that of a set that is shipped.
[[nodiscard]] Result<void> put_column_set(Library& library, const std::string& name, const std::string& columns);
[[nodiscard]] Result<void> remove_column_set(Library& library, const std::string& name);
/// All of them at once; fails, and changes nothing, where one is not right.
[[nodiscard]] Result<void> set_column_sets(Library& library, const ColumnSets& sets);

/// Columns of a shipped set or an own one. Fails with the names of all sets.
[[nodiscard]] Result<std::vector<LapColumn>> columns_of_set(const Library& library, const std::string& name);

/// To be given to somebody else, and back (docs/formats.md).
[[nodiscard]] std::string column_sets_to_json(const ColumnSets& sets);
[[nodiscard]] Result<ColumnSets> column_sets_from_json(const std::string& text, const std::string& where);

}  // namespace rendak
