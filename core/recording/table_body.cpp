#include "core/recording/table_body.h"

#include <cmath>
#include <cstring>

#include "core/base/text.h"
#include "core/recording/cell_number.h"
#include "core/recording/cell_place.h"
#include "core/recording/decimal.h"
#include "core/recording/decimal_cell.h"

namespace rendak {
namespace {

constexpr std::size_t block_bytes = 1 << 20;
constexpr std::size_t marked_bytes = 1 << 15;  // so that lines and their marks stay in the processor's cache
constexpr double missing = std::numeric_limits<double>::quiet_NaN();

}  // namespace

std::size_t end_of_lines(std::string_view text, std::size_t start, std::size_t bytes) {
    if (text.size() - start <= bytes) return text.size();
    const std::size_t end = text.find('\n', start + bytes - 1);
    return end == std::string_view::npos ? text.size() : end + 1;
}

std::vector<TextBlock> cut_into_blocks(std::string_view text, std::size_t start) {
    std::vector<TextBlock> blocks;
    while (start < text.size()) {
        const std::size_t end = end_of_lines(text, start, block_bytes);
        blocks.push_back({start, end});
        start = end;
    }
    return blocks;
}

std::size_t lines_of(std::string_view text) {
    // The library looks for the next line's end many characters at a time.
    std::size_t lines = 0;
    for (std::size_t at = 0; at < text.size(); ++lines) {
        const std::size_t end = text.find('\n', at);
        if (end == std::string_view::npos) return lines + 1;
        at = end + 1;
    }
    return lines;
}

void TableBody::parse(const TextBlock& block, BadRow& bad) const {
    const std::string_view text = text_.substr(0, block.end);
    LineMarks marks;
    std::size_t row = block.first_row;
    for (std::size_t at = block.begin; at < block.end;) {
        const std::size_t behind = end_of_lines(text, at, marked_bytes);
        const char* const lines = text.data() + at;
        marks.find(text.substr(at, behind - at), shape_.delimiter);
        const char* line_begin = lines;
        for (const LineMarks::Line& line : marks.lines()) {
            const char* line_end = lines + marks[line.behind - 1];
            const char* const next = line_end + 1;
            if (line.behind - line.first == columns_.size() && !line.quoted) {
                parse_marked(line_begin, lines, &marks[line.first], row);
            } else {
                if (line_end > line_begin && line_end[-1] == '\r') --line_end;
                const std::size_t cells = parse_line(line_begin, line_end, row);
                if (cells != columns_.size() && !bad.found &&
                    !trimmed({line_begin, static_cast<std::size_t>(line_end - line_begin)}).empty())
                    bad = {row, cells, true};
            }
            line_begin = next;
            ++row;
        }
        at = behind;
    }
}

/// A line that has a cell for each column, and no quotation marks; `marks` are where its cells end, from `lines`.
void TableBody::parse_marked(const char* at, const char* lines, const std::uint32_t* marks, std::size_t row) const {
    const Target* target = targets_.data();
    const std::size_t last = targets_.size() - 1;
    for (std::size_t c = 0; c <= last; ++c, ++target) {
        const char* const mark = lines + marks[c];
        const char* end = mark;
        if (c == last && mark != at && mark[-1] == '\r') --end;
        double value = missing;
        if (at != end &&
            !(target->plain && end - text_.data() >= 16 && parse_decimal_cell(at, end, target->decimal_sign, value)))
            value = other_cell(at, end, row, columns_[c]);
        if (target->doubles != nullptr)
            target->doubles[row] = value;
        else
            target->floats[row] = static_cast<float>(value);
        at = mark + 1;
    }
}

/// A cell whose end is known and that is no short number.
double TableBody::other_cell(const char* at, const char* end, std::size_t row, BodyColumn& column) const {
    double value = missing;
    if (!column.wanted) return value;
    const char* const behind = column.plain ? parse_decimal(at, end, column.head->decimal_sign, value) : nullptr;
    if (behind != end || !std::isfinite(value)) (void)slow_cell(at, end, row, column, value);
    return value;
}

/// Returns the number of cells; empty ones behind the last column are not counted.
std::size_t TableBody::parse_line(const char* at, const char* line_end, std::size_t row) const {
    const char delimiter = shape_.delimiter;
    std::size_t c = 0;
    for (; c < columns_.size(); ++c) {
        BodyColumn& column = columns_[c];
        double value = missing;
        if (column.wanted && at != line_end && *at != delimiter) {
            const char* behind = column.plain ? parse_decimal(at, line_end, column.head->decimal_sign, value) : nullptr;
            if (behind == nullptr || (behind != line_end && *behind != delimiter) || !std::isfinite(value)) {
                behind = slow_cell(at, line_end, row, column, value);
            }
            at = behind;
        } else if (!column.wanted) {
            at = end_of_cell(at, line_end);
        }
        column.set(row, value);
        if (at == line_end) {
            const std::size_t cells = c + 1;
            for (++c; c < columns_.size(); ++c) columns_[c].set(row, missing);
            return cells;
        }
        ++at;  // the delimiter
    }
    for (const char* p = at; p != line_end; ++p) {
        if (*p != delimiter && *p != ' ') return c + 1 + static_cast<std::size_t>(std::count(at, line_end, delimiter));
    }
    return c;
}

const char* TableBody::end_of_cell(const char* at, const char* line_end) const {
    while (at != line_end && (*at == ' ' || *at == '\0')) ++at;
    if (at == line_end || *at != '"') {  // quotes inside are seconds of arc
        while (at != line_end && *at != shape_.delimiter) ++at;
        return at;
    }
    bool quoted = false;
    while (at != line_end && (quoted || *at != shape_.delimiter)) quoted ^= *at++ == '"';
    return at;
}

double TableBody::value_of(std::string_view cell, std::size_t row, BodyColumn& column) {
    const TableColumn& head = *column.head;
    switch (head.kind) {
        case TableColumn::Kind::time_text:
            return parse_time_text(cell, head.decimal_sign, head.order).value_or(missing);
        case TableColumn::Kind::hemisphere: {
            const int sign = hemisphere_cell(cell);
            return sign == 0 ? missing : sign;
        }
        case TableColumn::Kind::place_pair: {
            const auto pair = place_pair(cell, head.decimal_sign);
            if (!pair) return missing;
            if (pair->latitude.degrees) column.in_degrees = true;
            if (column.longitude != nullptr) column.longitude->set(row, pair->longitude.value);
            return pair->latitude.value;
        }
        case TableColumn::Kind::place:
            if (const auto place = place_cell(cell, head.decimal_sign)) {
                if (place->degrees) column.in_degrees = true;
                return place->value;
            }
            break;
        case TableColumn::Kind::number:
        case TableColumn::Kind::text:
            break;
    }
    if (column.quantity != nullptr && column.quantity->id == "gear" && cell.size() == 1) {
        if (cell == "N" || cell == "n" || cell == "P") return 0;
        if (cell == "R" || cell == "r") return -1;
    }
    const auto number = loose_number(cell, head.decimal_sign);
    if (!number || (!number->rest.empty() && lower(utf8_of(number->rest)) != lower(head.suffix))) return missing;
    return number->value;
}

const char* TableBody::slow_cell(const char* at, const char* line_end, std::size_t row, BodyColumn& column,
                                 double& value) const {
    const char* const behind = end_of_cell(at, line_end);
    const auto cell = bare_cell({at, static_cast<std::size_t>(behind - at)});
    value = missing;
    if (is_missing(cell)) return behind;
    value = value_of(cell, row, column);
    if (std::isinf(value)) value = missing;
    if (std::isnan(value)) {
        ++column.bad_cells;
        std::size_t none = 0;
        column.first_bad_line.compare_exchange_strong(none, shape_.first_data_line + row);
    }
    return behind;
}

}  // namespace rendak
