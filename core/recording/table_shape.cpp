#include "core/recording/table_shape.h"

#include <algorithm>
#include <chrono>
#include <map>

#include "core/base/text.h"
#include "core/recording/decimal.h"
#include "core/signal/quantity.h"
#include "core/units/unit.h"

namespace rendak {
namespace {

constexpr std::size_t sample_bytes = 256 * 1024;
constexpr std::size_t sample_lines = 400;

struct Line {
    std::string_view text;
    std::size_t offset;
};

std::vector<Line> first_lines(std::string_view text, std::size_t start) {
    std::vector<Line> lines;
    std::size_t at = start;
    while (at < text.size() && lines.size() < sample_lines && at - start < sample_bytes) {
        const std::size_t end = std::min(text.find('\n', at), text.size());
        std::string_view line = text.substr(at, end - at);
        while (!line.empty() && line.back() == '\r') line.remove_suffix(1);
        lines.push_back({line, at});
        at = end + 1;
    }
    return lines;
}

bool is_number(std::string_view cell, char decimal_sign) {
    double value = 0;
    const char* end = cell.data() + cell.size();
    return !cell.empty() && parse_decimal(cell.data(), end, decimal_sign, value) == end;
}

bool is_value(std::string_view cell, char decimal_sign) {
    return is_number(cell, decimal_sign) || parse_time_text(cell, decimal_sign).has_value();
}

struct Style {
    char delimiter;
    char decimal_sign;
    std::size_t columns;
    double score;
};

/// How many cells a style makes out of the sampled lines that are numbers.
Style judged(const std::vector<Line>& lines, char delimiter, char decimal_sign) {
    std::map<std::size_t, std::size_t> lines_by_cells;
    std::size_t from = lines.size() / 2;  // the lower half: the head is over by then
    if (lines.size() < 12) from = 0;
    for (std::size_t i = from; i < lines.size(); ++i) {
        if (!trimmed(lines[i].text).empty()) ++lines_by_cells[split_cells(lines[i].text, delimiter).size()];
    }
    std::size_t columns = 0, most = 0;
    for (const auto& [cells, count] : lines_by_cells) {
        if (cells >= 2 && count >= most) {
            most = count;
            columns = cells;
        }
    }
    if (columns == 0) return {delimiter, decimal_sign, 0, 0};
    double numbers = 0, filled = 0;
    for (std::size_t i = from; i < lines.size(); ++i) {
        const auto cells = split_cells(lines[i].text, delimiter);
        if (cells.size() != columns) continue;
        for (const auto cell : cells) {
            if (cell.empty()) continue;
            ++filled;
            if (is_value(cell, decimal_sign)) ++numbers;
        }
    }
    const double share = filled > 0 ? numbers / filled : 0;
    return {delimiter, decimal_sign, columns, numbers * share * share};
}

int decimals_of(std::string_view cell, char decimal_sign) {
    const auto sign = cell.rfind(decimal_sign);
    if (sign == std::string_view::npos) return 0;
    int count = 0;
    for (std::size_t i = sign + 1; i < cell.size() && cell[i] >= '0' && cell[i] <= '9'; ++i) ++count;
    return count;
}

/// "Speed [km/h]", "Speed (km/h)", "speed_kmh": name and unit taken apart.
void take_unit_off(TableColumn& column) {
    std::string& name = column.name;
    for (const auto& [open, close] : {std::pair{'[', ']'}, std::pair{'(', ')'}}) {
        const auto from = name.rfind(open);
        if (from == std::string::npos || name.back() != close || from == 0) continue;
        const std::string inside = name.substr(from + 1, name.size() - from - 2);
        if (!is_unit(inside) && find_quantity(folded(inside)) != nullptr) continue;
        if (column.unit.empty()) column.unit = inside;
        name = std::string(trimmed(std::string_view(name).substr(0, from)));
        return;
    }
    if (match_quantity(name) != nullptr || !column.unit.empty()) return;
    const auto mark = name.find_last_of("_ ");
    if (mark == std::string::npos || mark == 0 || mark + 1 == name.size()) return;
    // "speed_m_s" and "accel_m_s2" write the stroke as another mark.
    const auto mark_before = name.find_last_of("_ ", mark - 1);
    if (mark_before != std::string::npos && mark_before > 0) {
        const std::string joined = name.substr(mark_before + 1, mark - mark_before - 1) + "/" + name.substr(mark + 1);
        if (is_unit(joined) && match_quantity(name.substr(0, mark_before)) != nullptr) {
            column.unit = joined;
            name.resize(mark_before);
            return;
        }
    }
    if (is_unit(name.substr(mark + 1)) && match_quantity(name.substr(0, mark)) != nullptr) {
        column.unit = name.substr(mark + 1);
        name.resize(mark);
    }
}

bool looks_like_units(const std::vector<std::string_view>& cells) {
    std::size_t filled = 0, units = 0;
    for (const auto cell : cells) {
        if (cell.empty()) continue;
        ++filled;
        if (is_unit(cell)) ++units;
    }
    return filled > 0 && units * 10 >= filled * 6;
}

}  // namespace

std::vector<std::string_view> split_cells(std::string_view line, char delimiter) {
    std::vector<std::string_view> cells;
    std::size_t at = 0;
    while (true) {
        std::size_t end = at;
        bool quoted = false;
        while (end < line.size() && (quoted || line[end] != delimiter)) {
            if (line[end] == '"') quoted = !quoted;
            ++end;
        }
        auto cell = trimmed(line.substr(at, end - at));
        if (cell.size() >= 2 && cell.front() == '"' && cell.back() == '"')
            cell = trimmed(cell.substr(1, cell.size() - 2));
        cells.push_back(cell);
        if (end >= line.size()) return cells;
        at = end + 1;
    }
}

bool is_missing(std::string_view cell) {
    const std::string text = lower(trimmed(cell));
    return text.empty() || text == "nan" || text == "na" || text == "n/a" || text == "null" || text == "none" ||
           text == "-" || text == "--" || text == "inf" || text == "-inf" || text == "+inf";
}

std::optional<double> parse_time_text(std::string_view cell, char decimal_sign) {
    double date_s = 0;
    const auto digits = [](std::string_view text) {
        return !text.empty() && std::all_of(text.begin(), text.end(), [](char c) { return c >= '0' && c <= '9'; });
    };
    const auto number = [](std::string_view text) {
        double value = 0;
        for (const char c : text) value = value * 10 + (c - '0');
        return value;
    };
    if (cell.size() > 11 && cell[4] == '-' && cell[7] == '-' && (cell[10] == 'T' || cell[10] == ' ')) {
        if (!digits(cell.substr(0, 4)) || !digits(cell.substr(5, 2)) || !digits(cell.substr(8, 2))) return std::nullopt;
        using namespace std::chrono;
        const year_month_day date{year(static_cast<int>(number(cell.substr(0, 4)))),
                                  month(static_cast<unsigned>(number(cell.substr(5, 2)))),
                                  day(static_cast<unsigned>(number(cell.substr(8, 2))))};
        if (!date.ok()) return std::nullopt;
        date_s = 86400.0 * static_cast<double>(sys_days(date).time_since_epoch().count());
        cell.remove_prefix(11);
        if (!cell.empty() && cell.back() == 'Z') cell.remove_suffix(1);
        if (cell.size() > 6 && (cell[cell.size() - 6] == '+' || cell[cell.size() - 6] == '-') &&
            cell[cell.size() - 3] == ':') {
            if (!digits(cell.substr(cell.size() - 5, 2)) || !digits(cell.substr(cell.size() - 2))) return std::nullopt;
            const double offset =
                number(cell.substr(cell.size() - 5, 2)) * 3600 + number(cell.substr(cell.size() - 2)) * 60;
            date_s -= cell[cell.size() - 6] == '+' ? offset : -offset;
            cell.remove_suffix(6);
        }
    }
    double total = 0;
    int parts = 0;
    while (true) {
        const auto colon = cell.find(':');
        if (colon == std::string_view::npos) break;
        if (!digits(cell.substr(0, colon)) || ++parts > 2) return std::nullopt;
        total = total * 60 + number(cell.substr(0, colon));
        cell.remove_prefix(colon + 1);
    }
    if (parts == 0 || cell.empty() || cell.front() < '0' || cell.front() > '9') return std::nullopt;
    double seconds = 0;
    const char* end = cell.data() + cell.size();
    if (parse_decimal(cell.data(), end, decimal_sign, seconds) != end &&
        parse_decimal(cell.data(), end, '.', seconds) != end) {
        return std::nullopt;
    }
    return date_s + total * 60 + seconds;
}

Result<TableShape> find_table_shape(std::string_view text, const std::string& file) {
    if (text.empty())
        return fail(ErrorCode::bad_input, "The file is empty. Check that the logger wrote it and copy it again.", file);
    if (text.size() >= 2 && (text.substr(0, 2) == "\xFF\xFE" || text.substr(0, 2) == "\xFE\xFF")) {
        return fail(ErrorCode::unsupported, "The text is UTF-16. Save it as UTF-8 or plain CSV and import that.", file);
    }
    if (text.substr(0, 4096).find('\0') != std::string_view::npos) {
        return fail(ErrorCode::bad_input,
                    "This is neither a recording (.rdk.h5) nor a text table: it holds binary data. Export it as CSV "
                    "from the logger's own tool and import that.",
                    file);
    }
    const std::size_t start = text.substr(0, 3) == "\xEF\xBB\xBF" ? 3 : 0;
    const auto lines = first_lines(text, start);
    Style best{',', '.', 0, 0};
    for (const char delimiter : {',', ';', '\t', '|'}) {
        for (const char decimal_sign : {'.', ','}) {
            if (delimiter == decimal_sign) continue;
            const Style style = judged(lines, delimiter, decimal_sign);
            if (style.score > best.score) best = style;
        }
    }
    if (best.score <= 0) {
        return fail(ErrorCode::bad_input,
                    "No table of numbers was found. A table needs one row a line, at least two columns and the same "
                    "separator (comma, semicolon, tab or |) throughout.",
                    file);
    }
    TableShape shape;
    shape.delimiter = best.delimiter;
    shape.decimal_sign = best.decimal_sign;

    // What the rows in the lower half hold decides which columns are numbers.
    const std::size_t width = best.columns;
    std::vector<std::size_t> numbers(width, 0), times(width, 0), words(width, 0);
    std::vector<int> decimals(width, 0);
    for (std::size_t i = lines.size() < 12 ? 0 : lines.size() / 2; i < lines.size(); ++i) {
        const auto cells = split_cells(lines[i].text, shape.delimiter);
        if (cells.size() != width) continue;
        // A row without any number belongs to the head.
        const auto holds_value = [&](std::string_view cell) {
            return !is_missing(cell) && is_value(cell, shape.decimal_sign);
        };
        if (std::none_of(cells.begin(), cells.end(), holds_value)) continue;
        for (std::size_t c = 0; c < width; ++c) {
            if (is_missing(cells[c])) continue;
            if (is_number(cells[c], shape.decimal_sign)) {
                ++numbers[c];
                decimals[c] = std::max(decimals[c], decimals_of(cells[c], shape.decimal_sign));
            } else if (parse_time_text(cells[c], shape.decimal_sign)) {
                ++times[c];
                decimals[c] = std::max(decimals[c], decimals_of(cells[c], shape.decimal_sign));
            } else {
                ++words[c];
            }
        }
    }
    shape.columns.resize(width);
    for (std::size_t c = 0; c < width; ++c) {
        TableColumn& column = shape.columns[c];
        column.decimals = decimals[c];
        if (words[c] > numbers[c] + times[c]) column.kind = TableColumn::Kind::text;
        if (times[c] > numbers[c] && times[c] >= words[c]) column.kind = TableColumn::Kind::time_text;
    }

    // The first row whose number columns hold numbers starts the data.
    std::size_t data = lines.size();
    for (std::size_t i = 0; i < lines.size() && data == lines.size(); ++i) {
        const auto cells = split_cells(lines[i].text, shape.delimiter);
        if (cells.size() != width) continue;
        std::size_t good = 0, bad = 0;
        for (std::size_t c = 0; c < width; ++c) {
            if (shape.columns[c].kind == TableColumn::Kind::text || is_missing(cells[c])) continue;
            (is_value(cells[c], shape.decimal_sign) ? good : bad) += 1;
        }
        if (good > bad) data = i;
    }
    if (data == lines.size()) return fail(ErrorCode::bad_input, "The table has a head but no rows of numbers.", file);
    shape.data_offset = lines[data].offset;
    shape.first_data_line = data + 1;

    // Above it: a row of names, perhaps a row of units, and before those whatever the logger noted.
    std::size_t above = data;
    const auto full_row_above = [&]() -> std::optional<std::vector<std::string_view>> {
        std::size_t i = above;
        while (i > 0 && trimmed(lines[i - 1].text).empty()) --i;
        if (i == 0) return std::nullopt;
        auto cells = split_cells(lines[i - 1].text, shape.delimiter);
        // A separator at the end of the rows, or missing there, is no reason to lose the names.
        if (cells.size() == width + 1 && cells.back().empty()) cells.pop_back();
        if (cells.size() + 1 == width) cells.emplace_back();
        if (cells.size() != width) return std::nullopt;
        above = i - 1;
        return cells;
    };
    shape.has_names = false;
    if (auto row = full_row_above()) {
        const std::size_t below = above;
        if (looks_like_units(*row)) {
            if (auto names = full_row_above()) {
                for (std::size_t c = 0; c < width; ++c) shape.columns[c].unit = utf8_of((*row)[c]);
                shape.has_unit_row = true;
                row = std::move(names);
            } else {
                above = below;
            }
        }
        shape.has_names = true;
        for (std::size_t c = 0; c < width; ++c) shape.columns[c].name = utf8_of((*row)[c]);
    }
    for (std::size_t c = 0; c < width; ++c) {
        if (shape.columns[c].name.empty()) {
            shape.columns[c].name = "Column " + std::to_string(c + 1);
            // A separator at the end of every row makes a column without name and content.
            if (numbers[c] + times[c] + words[c] == 0) shape.columns[c].kind = TableColumn::Kind::text;
        } else {
            take_unit_off(shape.columns[c]);
        }
    }
    for (std::size_t i = 0; i < above; ++i) {
        const auto cells = split_cells(lines[i].text, shape.delimiter);
        if (cells.size() < 2) continue;
        const std::string key = lower(cells[0]);
        double value = 0;
        const char* end = cells[1].data() + cells[1].size();
        if ((key.find("rate") != std::string::npos || key.find("frequency") != std::string::npos) &&
            parse_decimal(cells[1].data(), end, shape.decimal_sign, value) != nullptr && value > 0) {
            shape.rate_hz = value;
        }
    }
    return shape;
}

}  // namespace rendak
