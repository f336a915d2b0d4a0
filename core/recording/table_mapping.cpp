#include "core/recording/table_mapping.h"

#include <nlohmann/json.hpp>

#include "core/base/json_bounds.h"

#include "core/base/text.h"
#include "core/recording/table_text.h"

namespace rendak {

using Json = nlohmann::json;

const TableMapping::Column* TableMapping::find(const std::string& name) const {
    for (const Column& column : columns) {
        if (column.name == name) return &column;
    }
    return nullptr;
}

Result<TableMapping::Column> answered_column(const std::string& take) {
    const auto equals = take.rfind('=');
    if (equals == std::string::npos || equals == 0)
        return fail(ErrorCode::bad_input, "An answer is written COLUMN=QUANTITY[:UNIT], not \"" + take + "\".");
    TableMapping::Column column{take.substr(0, equals), true, "", ""};
    const std::string what = take.substr(equals + 1);
    const auto colon = what.find(':');
    column.quantity = what.substr(0, colon);
    if (colon != std::string::npos) column.unit = what.substr(colon + 1);
    if (column.quantity == "drop") {
        column.use = false;
        column.quantity.clear();
    }
    if (!column.quantity.empty() && find_quantity(column.quantity) == nullptr)
        return fail(ErrorCode::bad_input,
                    "There is no quantity \"" + column.quantity + "\" (in \"" + take +
                        "\"). Nothing behind the = keeps the column's name only, drop leaves it out.");
    return column;
}

std::vector<std::string> takes_of(const Question::Answer& answer) {
    std::vector<std::string> out;
    for (std::size_t at = 0; at <= answer.take.size();) {
        const std::size_t end = std::min(answer.take.find('\n', at), answer.take.size());
        out.push_back(answer.take.substr(at, end - at));
        at = end + 1;
    }
    return out;
}

std::string to_json(const TableMapping& mapping) {
    Json out;
    out["columns"] = Json::array();
    for (const auto& column : mapping.columns)
        out["columns"].push_back(
            {{"name", column.name}, {"use", column.use}, {"quantity", column.quantity}, {"unit", column.unit}});
    if (mapping.rate_hz) out["rate_hz"] = *mapping.rate_hz;
    return out.dump(-1, ' ', false, Json::error_handler_t::replace);
}

std::optional<TableMapping> table_mapping_from_json(const std::string& text) {
    if (!check_json(text, "")) return std::nullopt;
    const Json json = Json::parse(text, nullptr, false);
    if (!json.is_object() || !json.contains("columns") || !json["columns"].is_array()) return std::nullopt;
    TableMapping out;
    for (const Json& column : json["columns"]) {
        if (!column.is_object()) return std::nullopt;
        const auto text_of = [&](const char* key) {
            return column.contains(key) && column[key].is_string() ? column[key].get<std::string>() : std::string();
        };
        out.columns.push_back({text_of("name"), !column.contains("use") || column["use"] != Json(false),
                               text_of("quantity"), text_of("unit")});
    }
    if (json.contains("rate_hz") && json["rate_hz"].is_number()) out.rate_hz = json["rate_hz"].get<double>();
    return out;
}

std::string shape_key(const TableShape& shape) {
    std::string key;
    for (const TableColumn& column : shape.columns) key += lower(column.name) + "[" + column.unit + "]|";
    return key;
}

Result<TablePreview> preview_table(const std::filesystem::path& file, const Aliases& aliases, std::size_t rows) {
    // As many rows as tell what the columns are.
    const auto opened = TableText::open(file, 4000);
    if (!opened) return pass_on(opened.error());
    const std::string_view text = opened->text();
    auto shape = find_table_shape(text, file.string());
    if (!shape) return pass_on(shape.error());
    TablePreview out;
    out.shape = std::move(*shape);
    out.key = shape_key(out.shape);
    for (const TableColumn& column : out.shape.columns) {
        const Quantity* quantity = match_quantity(column.name, aliases);
        out.matched.emplace_back(quantity == nullptr ? "" : quantity->id);
    }
    std::size_t at = out.shape.data_offset;
    while (at < text.size() && out.rows.size() < rows) {
        const std::size_t end = std::min(text.find('\n', at), text.size());
        std::vector<std::string> cells;
        for (const auto cell : split_cells(text.substr(at, end - at), out.shape.delimiter)) cells.emplace_back(cell);
        cells.resize(out.shape.columns.size());
        out.rows.push_back(std::move(cells));
        at = end + 1;
    }
    return out;
}

}  // namespace rendak
