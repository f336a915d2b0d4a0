#include "core/recording/table_shape.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "core/base/text.h"
#include "core/recording/cell_number.h"
#include "core/recording/cell_place.h"
#include "core/recording/decimal.h"
#include "core/recording/table_head.h"
#include "core/signal/quantity.h"

namespace rendak {
namespace {

constexpr std::size_t sample_bytes = 256 * 1024;
constexpr std::size_t sample_lines = 400;

/// The first lines, where names may hold line breaks inside quotes.
std::vector<TableLine> first_lines(std::string_view text, std::size_t start) {
    std::vector<TableLine> lines;
    std::size_t at = start, number = 1;
    while (at < text.size() && lines.size() < sample_lines && at - start < sample_bytes) {
        std::size_t end = std::min(text.find('\n', at), text.size()), broken = 0;
        const auto is_open = [&] { return std::count(text.begin() + at, text.begin() + end, '"') % 2 == 1; };
        const std::size_t first_end = end;
        if (lines.size() < 60) {
            while (end < text.size() && is_open() && ++broken < 12)
                end = std::min(text.find('\n', end + 1), text.size());
            if (is_open()) {
                end = first_end;
                broken = 0;
            }
        }
        std::string_view line = text.substr(at, end - at);
        while (!line.empty() && line.back() == '\r') line.remove_suffix(1);
        lines.push_back({line, at, number});
        number += 1 + broken;
        at = end + 1;
    }
    return lines;
}

/// Rows from all over the rest: a column may look different once the car is fast.
void add_lines_from_all_over(std::string_view text, std::size_t from, std::vector<std::string_view>& lines) {
    constexpr std::size_t places = 24, each = 12;
    if (from >= text.size()) return;
    const std::size_t step = std::max<std::size_t>((text.size() - from) / places, 1);
    std::size_t behind = from;
    for (std::size_t place = from; place < text.size(); place += step) {
        std::size_t at = std::max(behind, place);
        if (at > from) at = std::min(text.find('\n', at), text.size() - 1) + 1;
        for (std::size_t i = 0; i < each && at < text.size(); ++i) {
            const std::size_t end = text.find('\n', at);
            if (end == std::string_view::npos || end - at > sample_bytes) break;
            std::string_view line = text.substr(at, end - at);
            while (!line.empty() && line.back() == '\r') line.remove_suffix(1);
            lines.push_back(line);
            at = end + 1;
        }
        behind = at;
    }
}

bool is_number(std::string_view cell, char decimal_sign) {
    double value = 0;
    const char* end = cell.data() + cell.size();
    if (!cell.empty() && parse_decimal(cell.data(), end, decimal_sign, value) == end) return true;
    const auto number = loose_number(cell, decimal_sign);
    return number && number->rest.empty();
}

bool is_value(std::string_view cell, char decimal_sign) {
    return is_number(cell, decimal_sign) || time_cell(cell, decimal_sign) || place_cell(cell, decimal_sign);
}

struct Style {
    char delimiter;
    char decimal_sign;
    std::size_t columns;
    double score;
};

/// How many cells a style makes out of the sampled lines that are numbers.
Style judged(const std::vector<std::string_view>& lines, char delimiter, char decimal_sign) {
    std::map<std::size_t, std::size_t> lines_by_cells;
    for (const auto line : lines) {
        if (!trimmed(line).empty()) ++lines_by_cells[split_cells(line, delimiter).size()];
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
    for (const auto line : lines) {
        const auto cells = split_cells(line, delimiter);
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

/// What the sampled cells of a column are.
struct Cells {
    std::size_t numbers = 0, times = 0, places = 0, pairs = 0, letters = 0, words = 0;
    SignUse point, comma;
    std::string example;
    std::map<std::string, std::size_t> behind;        ///< what follows the numbers, and how often
    std::map<std::string, std::size_t> behind_place;  ///< the same where it may be a hemisphere: "12.5 N", "0.1 s"
    bool day_above_12 = false, month_above_12 = false, day_or_month = false;
    int decimals = 0;
    double largest = 0;
};

void count_number(std::string_view cell, double value, char decimal_sign, Cells& seen) {
    ++seen.numbers;
    seen.largest = std::max(seen.largest, std::abs(value));
    count_use(cell, '.', seen.point);
    count_use(cell, ',', seen.comma);
    seen.decimals = std::max(seen.decimals, decimals_of(cell, decimal_sign));
}

void look_at(std::string_view cell, char decimal_sign, Cells& seen) {
    if (const int sign = hemisphere_cell(cell); sign != 0) {
        ++seen.letters;
        return;
    }
    const auto number = loose_number(cell, decimal_sign);
    if (number && number->rest.empty()) return count_number(cell, number->value, decimal_sign, seen);
    // "-33,4566823" among columns with a decimal point: this column has its own sign.
    const char other_sign = decimal_sign == '.' ? ',' : '.';
    if (number && number->rest.front() == other_sign) {
        if (const auto own = loose_number(cell, other_sign); own && own->rest.empty())
            return count_number(cell, own->value, other_sign, seen);
    }
    if (const auto time = time_cell(cell, decimal_sign)) {
        ++seen.times;
        const auto colon = cell.rfind(':');
        if (colon != std::string_view::npos) {
            const auto seconds = cell.substr(colon);
            seen.decimals = std::max({seen.decimals, decimals_of(seconds, decimal_sign), decimals_of(seconds, '.')});
        }
        if (time->date_s) {
            seen.day_or_month |= time->day_or_month;
            const auto other = time_cell(cell, decimal_sign, DateOrder::month_first);
            const bool same = other && other->date_s == time->date_s;
            // Read the same both ways although its order matters: one of the two is above 12.
            if (same && !time->day_or_month && number && number->value <= 31 && number->rest.size() > 3 &&
                (number->rest.front() == '/' || number->rest.front() == '-')) {
                const auto second = loose_number(number->rest.substr(1), decimal_sign);
                if (number->value > 12) seen.day_above_12 = true;
                if (second && std::abs(second->value) > 12) seen.month_above_12 = true;
            }
        }
        return;
    }
    if (place_cell(cell, decimal_sign)) {
        ++seen.places;
        if (number && number->rest.size() == 1) ++seen.behind_place[utf8_of(number->rest)];
        return;
    }
    if (place_pair(cell, decimal_sign)) {
        ++seen.pairs;
        return;
    }
    if (number && number->rest.size() <= 12) {
        ++seen.behind[utf8_of(number->rest)];
        count_use(cell, '.', seen.point);
        count_use(cell, ',', seen.comma);
        seen.decimals = std::max(seen.decimals, decimals_of(cell, decimal_sign));
        return;
    }
    ++seen.words;
}

/// What most cells are; what stands behind each number becomes the column's suffix.
void decide(const Cells& seen, TableColumn& column) {
    const auto most = std::max_element(seen.behind.begin(), seen.behind.end(),
                                       [](const auto& a, const auto& b) { return a.second < b.second; });
    const std::size_t with_suffix = most == seen.behind.end() ? 0 : most->second;
    const std::size_t numbers = seen.numbers + with_suffix;
    using Kind = TableColumn::Kind;
    const std::pair<std::size_t, Kind> kinds[] = {{numbers, Kind::number},          {seen.times, Kind::time_text},
                                                  {seen.places, Kind::place},       {seen.pairs, Kind::place_pair},
                                                  {seen.letters, Kind::hemisphere}, {seen.words, Kind::text}};
    std::size_t best = 0;
    for (const auto& [count, kind] : kinds) {
        if (count > best) {
            best = count;
            column.kind = kind;
        }
    }
    if (column.kind == Kind::number && with_suffix > seen.numbers) column.suffix = most->first;
    column.decimals = seen.decimals;
    // 2^24, or a distance over a stint in millimetres: digits that somebody counts on.
    column.many_digits = seen.largest > 16'777'216 || (seen.largest >= 20'000 && seen.decimals >= 3);
    if (seen.month_above_12 && !seen.day_above_12) column.order = DateOrder::month_first;
    column.order_open = seen.day_or_month && !seen.day_above_12 && !seen.month_above_12;
}

bool names_a_place(const std::string& name) {
    const Quantity* quantity = match_quantity(name);
    if (quantity != nullptr) return quantity->id == "latitude" || quantity->id == "longitude";
    const std::string text = folded(name);
    for (const std::string_view word : {"lat", "lon", "lng", "pos", "gps", "coord", "place", "breite", "nge"}) {
        if (text.find(word) != std::string::npos) return true;
    }
    return false;
}

/// Newtons and seconds in every cell are no hemispheres, unless the column is one of positions.
void look_again_at_letters(const Cells& seen, TableColumn& column) {
    // Neutral is no north.
    if (column.kind == TableColumn::Kind::hemisphere) {
        const Quantity* quantity = match_quantity(column.name);
        if (quantity != nullptr && quantity->id == "gear") column.kind = TableColumn::Kind::number;
    }
    // "5620/9000" revs are no two positions.
    if (column.kind == TableColumn::Kind::place_pair) {
        const Quantity* quantity = match_quantity(column.name);
        if (quantity != nullptr && !names_a_place(column.name)) column.kind = TableColumn::Kind::text;
    }
    if (column.kind != TableColumn::Kind::place || seen.behind_place.size() != 1 || names_a_place(column.name)) return;
    column.kind = TableColumn::Kind::number;
    column.suffix = seen.behind_place.begin()->first;
    if (column.unit.empty()) column.unit = column.suffix;
}

/// The decimal sign of a column: its own when its cells show it, else that of the table.
void decide_sign(const Cells& seen, char of_table, TableColumn& column) {
    column.decimal_sign = of_table;
    const bool point = seen.point.decimal > seen.comma.decimal, comma = seen.comma.decimal > seen.point.decimal;
    if (point || seen.comma.groups > 0) column.decimal_sign = '.';
    if (comma || seen.point.groups > 0) column.decimal_sign = ',';
}

/// "5.743" in a table that shows nowhere which sign is the decimal one.
void leave_open(const Cells& seen, TableColumn& column) {
    const SignUse& use = seen.point.either > 0 ? seen.point : seen.comma;
    if (use.either == 0) return;
    const char sign = seen.point.either > 0 ? '.' : ',';
    if (use.without * 50 > use.either) {  // thousands begin at a thousand
        column.decimal_sign = sign == '.' ? ',' : '.';
        return;
    }
    column.decimal_sign = sign;
    column.thousand_times_open = true;
}

}  // namespace

std::vector<std::string_view> split_cells(std::string_view line, char delimiter) {
    std::vector<std::string_view> cells;
    std::size_t at = 0;
    if (line.find('"') == std::string_view::npos) {
        for (std::size_t end; (end = line.find(delimiter, at)) != std::string_view::npos; at = end + 1)
            cells.push_back(trimmed(line.substr(at, end - at)));
        cells.push_back(trimmed(line.substr(at)));
        return cells;
    }
    while (true) {
        std::size_t end = at;
        bool quoted = false;
        while (end < line.size() && (quoted || line[end] != delimiter)) {
            // Seconds of arc are no quotes.
            if (line[end] == '"' && (quoted || trimmed(line.substr(at, end - at)).empty())) quoted = !quoted;
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
    const std::string_view bare = bare_cell(cell);
    if (bare.size() > 7 || (!bare.empty() && bare.front() >= '2' && bare.front() <= '9')) return false;
    const std::string text = lower(bare);
    return text.empty() || text == "nan" || text == "na" || text == "n/a" || text == "null" || text == "none" ||
           text == "-" || text == "--" || text == "---" || text == "inf" || text == "-inf" || text == "+inf" ||
           text == "#n/a" || text == "1.#inf" || text == "1.#qnan" || text == "-1.#ind";
}

Result<TableShape> find_table_shape(std::string_view text, const std::string& file) {
    if (text.empty())
        return fail(ErrorCode::bad_input, "The file is empty. Check that the logger wrote it and copy it again.", file);
    const auto head = text.substr(0, 4096);
    if (std::count(head.begin(), head.end(), '\0') * 20 > static_cast<std::ptrdiff_t>(head.size())) {
        return fail(ErrorCode::bad_input,
                    "This is neither a recording (.rdk.h5) nor a text table: it holds binary data. Export it as CSV "
                    "from the logger's own tool and import that.",
                    file);
    }
    const std::size_t start = text.substr(0, 3) == "\xEF\xBB\xBF" ? 3 : 0;
    const auto lines = first_lines(text, start);
    // The lower half of the first lines, where the head is over, and rows from all over.
    std::vector<std::string_view> sample;
    for (std::size_t i = lines.size() < 12 ? 0 : lines.size() / 2; i < lines.size(); ++i)
        sample.push_back(lines[i].text);
    const std::size_t behind = lines.empty() ? 0 : lines.back().offset + lines.back().text.size() + 1;
    if (lines.size() == sample_lines || behind > sample_bytes) add_lines_from_all_over(text, behind, sample);
    const bool quotes = std::any_of(sample.begin(), sample.end(),
                                    [](std::string_view line) { return line.find('"') != std::string_view::npos; });
    Style best{',', '.', 0, 0};
    for (const char delimiter : {',', ';', '\t', '|'}) {
        for (const char decimal_sign : {'.', ','}) {
            if (delimiter == decimal_sign && !quotes) continue;
            const Style style = judged(sample, delimiter, decimal_sign);
            if (style.score > best.score * 1.001) best = style;
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

    // What the sampled rows hold decides which columns are numbers, and which sign is the decimal one.
    const std::size_t width = best.columns;
    std::vector<Cells> seen(width);
    const auto look = [&] {
        std::fill(seen.begin(), seen.end(), Cells());
        for (const auto line : sample) {
            const auto cells = split_cells(line, shape.delimiter);
            if (cells.size() != width) continue;
            // A row without any number belongs to the head.
            if (std::none_of(cells.begin(), cells.end(), [&](std::string_view cell) {
                    return !is_missing(cell) && is_value(cell, shape.decimal_sign);
                }))
                continue;
            for (std::size_t c = 0; c < width; ++c) {
                if (is_missing(cells[c])) continue;
                if (seen[c].example.empty()) seen[c].example = utf8_of(cells[c].substr(0, 40));
                look_at(cells[c], shape.decimal_sign, seen[c]);
            }
        }
    };
    look();
    SignUse point, comma;
    for (const Cells& column : seen) {
        point.decimal += column.point.decimal;
        point.groups += column.point.groups;
        comma.decimal += column.comma.decimal;
        comma.groups += column.comma.groups;
    }
    const bool shown = point.decimal + comma.decimal + point.groups + comma.groups > 0;
    if (shown) {
        const char sign = point.decimal + comma.groups >= comma.decimal + point.groups ? '.' : ',';
        if (sign != shape.decimal_sign && (sign != shape.delimiter || quotes)) {
            shape.decimal_sign = sign;
            look();
        }
    }
    shape.columns.resize(width);
    for (std::size_t c = 0; c < width; ++c) {
        decide(seen[c], shape.columns[c]);
        shape.columns[c].example = seen[c].example;
        decide_sign(seen[c], shape.decimal_sign, shape.columns[c]);
        if (!shown && shape.columns[c].kind == TableColumn::Kind::number) leave_open(seen[c], shape.columns[c]);
    }

    // The first row whose number columns hold numbers starts the data.
    std::size_t data = lines.size();
    for (std::size_t i = 0; i < lines.size() && data == lines.size(); ++i) {
        const auto cells = split_cells(lines[i].text, shape.delimiter);
        if (cells.size() != width) continue;
        std::size_t good = 0, bad = 0;
        for (std::size_t c = 0; c < width; ++c) {
            const TableColumn& column = shape.columns[c];
            if (column.kind == TableColumn::Kind::text || is_missing(cells[c])) continue;
            const auto number = loose_number(cells[c], column.decimal_sign);
            const bool is_one = is_value(cells[c], column.decimal_sign) || place_pair(cells[c], column.decimal_sign) ||
                                (number && !column.suffix.empty() && utf8_of(number->rest) == column.suffix) ||
                                (column.kind == TableColumn::Kind::hemisphere && hemisphere_cell(cells[c]) != 0);
            (is_one ? good : bad) += 1;
        }
        if (good > bad) data = i;
    }
    if (data == lines.size()) return fail(ErrorCode::bad_input, "The table has a head but no rows of numbers.", file);
    shape.data_offset = lines[data].offset;
    shape.first_data_line = lines[data].number;
    read_head({lines.begin(), lines.begin() + static_cast<std::ptrdiff_t>(data)}, shape);
    for (std::size_t c = 0; c < width; ++c) {
        look_again_at_letters(seen[c], shape.columns[c]);
        // A separator at the end of every row makes a column without name and content.
        const Cells& cells = seen[c];
        if (cells.numbers + cells.times + cells.places + cells.pairs + cells.letters + cells.words == 0 &&
            cells.behind.empty() && shape.columns[c].name.starts_with("Column "))
            shape.columns[c].kind = TableColumn::Kind::text;
    }
    return shape;
}

}  // namespace rendak
