#include "core/recording/table_rows.h"

namespace rendak {

BodyColumn* TableRows::find(std::string_view quantity) {
    for (BodyColumn& column : columns) {
        if (column.wanted && column.quantity != nullptr && column.quantity->id == quantity) return &column;
    }
    return nullptr;
}

std::vector<double> TableRows::values(const BodyColumn& column) const {
    std::vector<double> out(count);
    for (std::size_t row = 0; row < count; ++row) out[row] = column.at(row);
    return out;
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

bool TableRows::is_answered(const BodyColumn& column) const {
    const auto* said = options.mapping ? options.mapping->find(column.head->name) : nullptr;
    return said != nullptr && (!said->use || !said->unit.empty() || said->quantity.empty());
}

std::string TableRows::where(std::size_t row) const {
    return file + ":" + std::to_string(shape.first_data_line + row);
}

bool wants_double(const BodyColumn& column) {
    using Kind = TableColumn::Kind;
    const std::string_view id = column.quantity == nullptr ? "" : column.quantity->id;
    const Kind kind = column.head->kind;
    return id == "time" || id == "latitude" || id == "longitude" || kind == Kind::time_text || kind == Kind::place ||
           kind == Kind::place_pair;
}

}  // namespace rendak
