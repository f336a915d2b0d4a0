#include "core/recording/table_rows.h"

#include <algorithm>
#include <cmath>

#include "core/base/text.h"

namespace rendak {

BodyColumn* TableRows::find(std::string_view quantity) {
    for (BodyColumn& column : columns) {
        if (column.wanted && column.quantity != nullptr && column.quantity->id == quantity) return &column;
    }
    return nullptr;
}

std::vector<double> TableRows::values(const BodyColumn& column) const {
    return values(column, 0, count);
}

std::vector<double> TableRows::values(const BodyColumn& column, std::size_t from, std::size_t to) const {
    std::vector<double> out(to - from);
    for (std::size_t row = from; row < to; ++row) out[row - from] = column.at(row);
    return out;
}

TableRows::Stretch TableRows::lively_rows() {
    constexpr std::size_t most = 50'000;
    if (count <= most) return {0, count};
    std::size_t from = (count - most) / 2;
    if (const BodyColumn* speed = find("speed")) {
        // From where it is half as fast as ever: not while it stands in the pits.
        const std::size_t stride = count / most;
        double fastest = 0;
        for (std::size_t row = 0; row < count; row += stride) fastest = std::max(fastest, speed->at(row));
        for (std::size_t row = 0; row < count; row += stride) {
            if (speed->at(row) < 0.5 * fastest || std::isnan(speed->at(row))) continue;
            from = std::min(row, count - most);
            break;
        }
    }
    return {from, from + most};
}

void TableRows::keep(const std::vector<std::size_t>& rows) {
    for (BodyColumn& column : columns) {
        if (!column.wanted) continue;
        for (std::size_t i = 0; i < rows.size(); ++i) column.set(i, column.at(rows[i]));
    }
    count = rows.size();
}

void TableRows::reorder(const std::vector<std::size_t>& rows) {
    for (BodyColumn& column : columns) {
        if (!column.wanted) continue;
        const std::vector<double> old = values(column);
        for (std::size_t i = 0; i < rows.size(); ++i) column.set(i, old[rows[i]]);
    }
    count = rows.size();
}

void TableRows::let_go_of_columns() const {
    for (const BodyColumn& column : columns) column.let_go();
}

bool TableRows::is_answered(const BodyColumn& column) const {
    const auto* said = options.mapping ? options.mapping->find(column.head->name) : nullptr;
    return said != nullptr && (!said->use || !said->unit.empty() || said->quantity.empty());
}

std::string TableRows::where(std::size_t row) const {
    return file + ":" + std::to_string(shape.first_data_line + row);
}

tl::unexpected<Error> too_short(const TableRows& rows) {
    return fail(ErrorCode::bad_input,
                "The table has " + counted(rows.count, "row", "rows") +
                    " of numbers; at least two are needed to make a recording.",
                rows.file);
}

bool wants_double(const BodyColumn& column) {
    using Kind = TableColumn::Kind;
    const std::string_view id = column.quantity == nullptr ? "" : column.quantity->id;
    const Kind kind = column.head->kind;
    return column.head->many_digits || id == "time" || id == "latitude" || id == "longitude" ||
           kind == Kind::time_text || kind == Kind::place || kind == Kind::place_pair;
}

}  // namespace rendak
