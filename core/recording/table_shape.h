#pragma once

#include <cstddef>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"

namespace rendak {

/// One column of a text table as its head and first rows show it.
struct TableColumn {
    enum class Kind { number, time_text, text };
    std::string name;
    std::string unit;  ///< as written; empty when none is named
    Kind kind = Kind::number;
    int decimals = 0;  ///< most digits behind the decimal sign in the sampled rows
};

/// How a text table is written: found from its first 256 kB.
struct TableShape {
    char delimiter = ',';
    char decimal_sign = '.';
    std::vector<TableColumn> columns;
    std::size_t data_offset = 0;      ///< byte where the first row of numbers starts
    std::size_t first_data_line = 1;  ///< its line number, from 1
    std::optional<double> rate_hz;    ///< where the head names one ("Sample rate,50")
    bool has_names = true;
    bool has_unit_row = false;
};

/// Finds delimiter, decimal sign, header and unit rows by themselves. Fails with a sentence when the text
/// is no table of numbers; `file` is named in the error.
[[nodiscard]] Result<TableShape> find_table_shape(std::string_view text, const std::string& file);

/// Seconds since midnight or since 1970 from "12:34:56.7", "1:23.4" or "2026-06-13T12:34:56.7Z"; nullopt for
/// anything else. With a date the result is Unix time.
[[nodiscard]] std::optional<double> parse_time_text(std::string_view cell, char decimal_sign);

/// Cells of one line; quotes and outer blanks are taken off.
[[nodiscard]] std::vector<std::string_view> split_cells(std::string_view line, char delimiter);

/// True for "", "nan", "n/a", "null", "-" and the like: a missing sample, not a mistake.
[[nodiscard]] bool is_missing(std::string_view cell);

}  // namespace rendak
