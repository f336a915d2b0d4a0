#pragma once

#include <algorithm>
#include <atomic>
#include <span>
#include <string_view>
#include <thread>
#include <vector>

#include "core/base/job.h"
#include "core/base/mapping_guard.h"
#include "core/base/parallel.h"
#include "core/base/spill.h"
#include "core/recording/line_marks.h"
#include "core/recording/table_shape.h"
#include "core/signal/quantity.h"

namespace rendak {

/// A column while it is read: one value a row, NaN where the cell is empty.
struct BodyColumn {
    TableColumn* head = nullptr;
    bool wanted = true;
    bool is_double = false;
    bool plain = false;  ///< wanted, numbers, and none of them has the delimiter for its decimal sign
    const Quantity* quantity = nullptr;
    SpillBuffer<float> floats;
    SpillBuffer<double> doubles;
    BodyColumn* longitude = nullptr;      ///< where the second number of a pair of positions goes
    double parts_of_degree = 0;           ///< what whole numbers were multiplied by to be degrees
    std::atomic<bool> in_degrees{false};  ///< a cell told degrees and minutes apart
    std::atomic<std::size_t> bad_cells{0};
    std::atomic<std::size_t> first_bad_line{0};

    [[nodiscard]] double at(std::size_t row) const {
        return is_double ? doubles[row] : static_cast<double>(floats[row]);
    }
    /// Of a large table the values lie in files: those that were read leave this process's memory until somebody asks.
    void let_go() const {
        rendak::let_go(floats.data(), floats.size() * sizeof(float));
        rendak::let_go(doubles.data(), doubles.size() * sizeof(double));
    }
    void set(std::size_t row, double value) {
        if (is_double)
            doubles[row] = value;
        else
            floats[row] = static_cast<float>(value);
    }
};

/// A piece of whole lines that one thread parses.
struct TextBlock {
    std::size_t begin, end;
    std::size_t first_row = 0;
    std::size_t rows = 0;
};

/// The first row whose number of cells is wrong.
struct BadRow {
    std::size_t row = 0, cells = 0;
    bool found = false;
};

/// Blocks of about 1 MB that end with a line.
[[nodiscard]] std::vector<TextBlock> cut_into_blocks(std::string_view text, std::size_t start);

/// The end of the whole lines, about `bytes` of them, that begin at `start`.
[[nodiscard]] std::size_t end_of_lines(std::string_view text, std::size_t start, std::size_t bytes);

/// Lines of a text; the last one may have no end.
[[nodiscard]] std::size_t lines_of(std::string_view text);

/// Runs `work(block index)` on several threads, this one included; only this one reports progress.
void for_each_block(std::size_t count, unsigned threads, const JobContext& job, const auto& work) {
    std::atomic<std::size_t> done{0};
    const auto here = std::this_thread::get_id();
    const auto one = [&](std::size_t i) {
        if (job.stopped()) return;
        work(i);
        const std::size_t so_far = ++done;
        if (std::this_thread::get_id() == here) job.report(static_cast<double>(so_far) / static_cast<double>(count));
    };
    parallel_for(count, 1, one, threads);
}

/// Parses the rows below a table's head straight into its columns. Blocks may be parsed at the same time.
class TableBody {
  public:
    TableBody(std::string_view text, const TableShape& shape, std::span<BodyColumn> columns)
        : text_(text), shape_(shape), columns_(columns) {
        for (BodyColumn& column : columns)
            targets_.push_back({column.floats.data(), column.is_double ? column.doubles.data() : nullptr, column.plain,
                                column.head->decimal_sign});
    }
    void parse(const TextBlock& block, BadRow& bad) const;

  private:
    /// Where the column's numbers go, and how its cells are read at first.
    struct Target {
        float* floats;
        double* doubles;  ///< nullptr: floats
        bool plain;
        char decimal_sign;
    };
    [[nodiscard]] std::size_t parse_line(const char* at, const char* line_end, std::size_t row) const;
    void parse_marked(const char* at, const char* lines, const std::uint32_t* marks, std::size_t row) const;
    [[nodiscard]] double other_cell(const char* at, const char* end, std::size_t row, BodyColumn& column) const;
    [[nodiscard]] const char* end_of_cell(const char* at, const char* line_end) const;
    [[nodiscard]] const char* slow_cell(const char* at, const char* line_end, std::size_t row, BodyColumn& column,
                                        double& value) const;
    [[nodiscard]] static double value_of(std::string_view cell, std::size_t row, BodyColumn& column);

    std::string_view text_;
    const TableShape& shape_;
    std::span<BodyColumn> columns_;
    std::vector<Target> targets_;  ///< one a column
};

}  // namespace rendak
