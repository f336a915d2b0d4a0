#include "core/recording/fill_values.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <limits>
#include <optional>
#include <string>
#include <vector>

#include "core/base/parallel.h"
#include "core/base/text.h"

namespace rendak {
namespace {

/// Nines, a well-known neighbour of them, and what integers of two and four bytes hold at most.
bool stands_for_nothing(double value) {
    const double size = std::abs(value);
    if (size >= 1e30) return true;
    for (const double known : {999.0, 9999.0, 99999.0, 999999.0, 9999999.0, 99999999.0, 999.25, 999.99, 9999.99,
                               32767.0, 32768.0, 65535.0, 2147483647.0, 2147483648.0, 4294967295.0})
        if (size == known || size == static_cast<double>(static_cast<float>(known))) return true;
    return false;
}

/// "-9999", "9.99e+37"
std::string shortly(double value) {
    std::array<char, 32> text{};
    return {text.data(), static_cast<std::size_t>(std::snprintf(text.data(), text.size(),
                                                                std::abs(value) < 1e12 ? "%.12g" : "%.3g", value))};
}

/// Lowest and highest of a column but for one value, and how often that is there.
struct Others {
    double low = std::numeric_limits<double>::infinity(), high = -std::numeric_limits<double>::infinity();
    std::size_t count = 0, same = 0;
};
Others others_than(double value, const BodyColumn& column, std::size_t rows) {
    Others out;
    for (std::size_t row = 0; row < rows; ++row) {
        const double at = column.at(row);
        if (std::isnan(at)) continue;
        if (at == value) {
            ++out.same;
            continue;
        }
        out.low = std::min(out.low, at);
        out.high = std::max(out.high, at);
        ++out.count;
    }
    return out;
}

struct Fill {
    double value = 0;
    std::size_t how_often = 0;
};

/// A fill value at the lower or the upper end of a column.
std::optional<Fill> fill_value_of(const BodyColumn& column, const Extent& extent, std::size_t rows) {
    for (const double value : {extent.low, extent.high}) {
        if (extent.filled == 0 || !stands_for_nothing(value)) continue;
        const Others rest = others_than(value, column, rows);
        // Alone it may be a spike, and what is all there is, is a value.
        if ((rest.same < 2 && std::abs(value) < 1e30) || rest.count < 10) continue;
        // A switch between 0 and 65535 has two values.
        if (rest.low == rest.high && value > 0 && value < 1e30) continue;
        const double away = value > rest.high ? value - rest.high : rest.low - value;
        if (away >= 0.5 * (rest.high - rest.low)) return Fill{value, rest.same};
    }
    return std::nullopt;
}

/// Two at most: one below, one above. `extent` is that of what is left.
std::vector<Fill> take_fills_out(BodyColumn& column, std::size_t rows, Extent& extent) {
    std::vector<Fill> out;
    extent = extent_of(column, rows);
    for (int i = 0; i < 2; ++i) {
        const auto fill = fill_value_of(column, extent, rows);
        if (!fill) break;
        for (std::size_t row = 0; row < rows; ++row)
            if (column.at(row) == fill->value) column.set(row, std::nan(""));
        out.push_back(*fill);
        extent = extent_of(column, rows);
    }
    return out;
}

}  // namespace

std::vector<Extent> take_out_fill_values(TableRows& rows) {
    std::vector<Extent> extents(rows.columns.size());
    std::vector<std::vector<Fill>> fills(rows.columns.size());
    const auto look = [&](std::size_t c) {
        BodyColumn& column = rows.columns[c];
        if (!column.wanted) return;
        const bool is_clock = column.quantity != nullptr && column.quantity->id == "time";
        if (column.head->kind == TableColumn::Kind::number && !is_clock)
            fills[c] = take_fills_out(column, rows.count, extents[c]);
        else
            extents[c] = extent_of(column, rows.count);
        column.let_go();
    };
    parallel_for(fills.size(), 1, look, rows.options.threads);
    for (std::size_t c = 0; c < fills.size(); ++c) {
        for (const Fill& fill : fills[c])
            rows.say("Column \"" + rows.columns[c].head->name + "\": " + shortly(fill.value) +
                     " stands for a missing value in " + counted(fill.how_often, "row", "rows") +
                     "; taken as missing.");
    }
    return extents;
}

}  // namespace rendak
