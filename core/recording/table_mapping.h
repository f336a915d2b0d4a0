#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "core/base/result.h"
#include "core/recording/table_shape.h"
#include "core/signal/quantity.h"

namespace rendak {

/// What the user says about the columns of a table; remembered for the next file with the same columns.
struct TableMapping {
    static constexpr const char* by_itself = "?";
    struct Column {
        std::string name;  ///< as the file calls it
        bool use = true;
        std::string quantity = by_itself;  ///< id of a known quantity; empty: none; by_itself: by its name
        std::string unit;                  ///< empty: as the file says
        bool operator==(const Column&) const = default;
    };
    std::vector<Column> columns;
    std::optional<double> rate_hz;
    bool operator==(const TableMapping&) const = default;

    [[nodiscard]] const Column* find(const std::string& name) const;
};

/// "COLUMN=QUANTITY[:UNIT]" as an answer to a question of read_csv: nothing behind the "=" keeps the column under its
/// name only, "drop" leaves it out. Fails with a sentence when the text is no such thing or the quantity is not known.
[[nodiscard]] Result<TableMapping::Column> answered_column(const std::string& take);
/// An answer may say something of several columns.
[[nodiscard]] std::vector<std::string> takes_of(const Question::Answer& answer);

[[nodiscard]] std::string to_json(const TableMapping& mapping);
[[nodiscard]] std::optional<TableMapping> table_mapping_from_json(const std::string& text);

/// The same for all files with these columns, in any file.
[[nodiscard]] std::string shape_key(const TableShape& shape);

/// A look into a table before it is imported.
struct TablePreview {
    TableShape shape;
    std::string key;                             ///< shape_key()
    std::vector<std::vector<std::string>> rows;  ///< the first rows of numbers, as written
    std::vector<std::string> matched;            ///< a column: id of the quantity its name stands for, or empty
};
[[nodiscard]] Result<TablePreview> preview_table(const std::filesystem::path& file, const Aliases& aliases = {},
                                                 std::size_t rows = 8);

}  // namespace rendak
