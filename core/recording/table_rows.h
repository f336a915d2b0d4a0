#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/base/result.h"
#include "core/recording/csv_reader.h"
#include "core/recording/table_body.h"
#include "core/recording/table_shape.h"

namespace rendak {

/// The rows of a table in memory, on their way to a recording: one value a cell, in the units of the file.
struct TableRows {
    std::string file;
    CsvOptions options;
    TableShape shape;
    std::vector<BodyColumn> columns;
    std::size_t count = 0;
    std::vector<std::string> notes;
    std::vector<Question> questions;

    void say(std::string note) { notes.push_back(std::move(note)); }
    /// The first wanted column of this quantity, or nullptr.
    [[nodiscard]] BodyColumn* find(std::string_view quantity);
    [[nodiscard]] std::vector<double> values(const BodyColumn& column) const;
    /// The same of some rows.
    [[nodiscard]] std::vector<double> values(const BodyColumn& column, std::size_t from, std::size_t to) const;
    /// A stretch of at most 50 000 rows in which the car goes: enough to tell scales and units by, and soon looked at.
    struct Stretch {
        std::size_t from = 0, to = 0;
    };
    [[nodiscard]] Stretch lively_rows();
    /// Keeps these rows (of rising numbers) only.
    void keep(const std::vector<std::size_t>& rows);
    /// Puts the rows into another order.
    void reorder(const std::vector<std::size_t>& rows);
    /// BodyColumn::let_go() of all.
    void let_go_of_columns() const;
    /// True when the user said what this column counts in, or that it is nothing known.
    [[nodiscard]] bool is_answered(const BodyColumn& column) const;
    [[nodiscard]] std::string where(std::size_t row) const;
};

/// One row makes no recording.
[[nodiscard]] tl::unexpected<Error> too_short(const TableRows& rows);

/// Columns whose values are wanted as float64: places and times.
[[nodiscard]] bool wants_double(const BodyColumn& column);

}  // namespace rendak
