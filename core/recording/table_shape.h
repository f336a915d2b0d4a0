#pragma once

#include <cstddef>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"
#include "core/recording/cell_time.h"

namespace rendak {

/// One column of a text table as its head and a sample of its rows show it.
struct TableColumn {
    enum class Kind {
        number,
        time_text,   ///< dates, times of day, stop watches
        place,       ///< a latitude or longitude with letters or marks
        place_pair,  ///< both in one cell
        hemisphere,  ///< "N" or "S", "E" or "W" for the column beside it
        text,
    };
    std::string name;
    std::string unit;  ///< as written; empty when none is named
    Kind kind = Kind::number;
    int decimals = 0;          ///< most digits behind the decimal sign in the sampled rows
    bool many_digits = false;  ///< more than a float32 holds
    char decimal_sign = '.';
    std::string example = {};          ///< a cell that is not empty
    std::string suffix = {};           ///< what stands behind the number in every cell: "km/h"
    bool thousand_times_open = false;  ///< its sign may be a decimal one or stand between thousands: "5.743"
    DateOrder order = DateOrder::day_first;
    bool order_open = false;  ///< its dates read both ways
};

/// How a text table is written: found from its first 256 kB and rows from all over it.
struct TableShape {
    char delimiter = ',';
    char decimal_sign = '.';
    std::vector<TableColumn> columns;
    std::size_t data_offset = 0;            ///< byte where the first row of numbers starts
    std::size_t first_data_line = 1;        ///< its line number, from 1
    std::optional<double> rate_hz;          ///< where the head names a rate or an interval ("Sample rate,50")
    std::optional<double> date_s, clock_s;  ///< date and time of day where the head names them
    bool has_names = true;
    bool has_unit_row = false;
};

/// Finds delimiter, decimal sign, header and unit rows by themselves. Fails with a sentence when the text
/// is no table of numbers; `file` is named in the error.
[[nodiscard]] Result<TableShape> find_table_shape(std::string_view text, const std::string& file);

/// Cells of one line; quotes and outer blanks are taken off.
[[nodiscard]] std::vector<std::string_view> split_cells(std::string_view line, char delimiter);

/// True for "", "nan", "n/a", "null", "-" and the like: a missing sample, not a mistake.
[[nodiscard]] bool is_missing(std::string_view cell);

}  // namespace rendak
