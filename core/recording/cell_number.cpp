#include "core/recording/cell_number.h"

#include <algorithm>
#include <cmath>

#include "core/base/digits.h"
#include "core/base/text.h"
#include "core/recording/decimal.h"

namespace rendak {
namespace {

std::size_t starts_with_any(std::string_view text, std::initializer_list<std::string_view> marks) {
    for (const std::string_view mark : marks) {
        if (text.starts_with(mark)) return mark.size();
    }
    return 0;
}

/// Bytes of the minus sign at the start: ASCII, the Unicode ones, and the dashes of UTF-8 and Windows-1252.
std::size_t minus_at(std::string_view text) {
    return starts_with_any(text, {"-", "\xE2\x88\x92", "\xE2\x80\x90", "\xE2\x80\x91", "\xE2\x80\x92", "\xE2\x80\x93",
                                  "\xE2\x80\x94", "\xEF\xB9\xA3", "\xEF\xBC\x8D", "\x96", "\x97"});
}

/// Bytes of a mark between thousands at the start: blanks of all widths, apostrophes, or the sign that is no decimal
/// sign here.
std::size_t group_mark_at(std::string_view text, char decimal_sign) {
    if (!text.empty() && (text.front() == '.' || text.front() == ',')) return text.front() == decimal_sign ? 0 : 1;
    return starts_with_any(text, {" ", "'", "\xC2\xA0", "\xE2\x80\xAF", "\xE2\x80\x89", "\xE2\x80\x87", "\xE2\x80\x99",
                                  "\xCA\xBC", "\xC2\xB4", "\xA0", "\x92", "\xB4"});
}

/// Whether exactly three digits follow.
bool is_group(std::string_view text) {
    return text.size() >= 3 && is_digit(text[0]) && is_digit(text[1]) && is_digit(text[2]) &&
           (text.size() == 3 || !is_digit(text[3]));
}

std::string_view without_blanks(std::string_view text) {
    while (true) {
        if (const auto size = starts_with_any(text, {" ", "\t", "\xC2\xA0", "\xE2\x80\xAF", "\xE2\x80\x89", "\xA0"}))
            text.remove_prefix(size);
        else
            return trimmed(text);
    }
}

}  // namespace

std::string_view bare_cell(std::string_view cell) {
    const auto bare = [](std::string_view text) {
        while (!text.empty() && (text.front() == '\0' || text.front() == ' ' || text.front() == '\t'))
            text.remove_prefix(1);
        while (!text.empty() &&
               (text.back() == '\0' || text.back() == ' ' || text.back() == '\t' || text.back() == '\r'))
            text.remove_suffix(1);
        return text;
    };
    cell = bare(cell);
    if (cell.size() >= 2 && cell.front() == '"' && cell.back() == '"') cell = bare(cell.substr(1, cell.size() - 2));
    return cell;
}

std::optional<LooseNumber> loose_number(std::string_view cell, char decimal_sign) {
    cell = bare_cell(cell);
    bool negative = false;
    if (cell.size() > 2 && cell.front() == '(' && cell.back() == ')') {
        negative = true;
        cell = without_blanks(cell.substr(1, cell.size() - 2));
    }
    if (const auto minus = minus_at(cell)) {
        negative = !negative;
        cell = without_blanks(cell.substr(minus));
    } else if (!cell.empty() && cell.front() == '+') {
        cell = without_blanks(cell.substr(1));
    }
    char digits[64];
    std::size_t size = 0, leading = 0;
    bool grouped = false, decimals = false;
    while (!cell.empty() && size + 8 < sizeof digits) {
        if (is_digit(cell.front())) {
            digits[size++] = cell.front();
            leading += !decimals;
            cell.remove_prefix(1);
        } else if (cell.front() == decimal_sign && !decimals) {
            decimals = true;
            digits[size++] = '.';
            cell.remove_prefix(1);
        } else {
            const auto mark = decimals ? 0 : group_mark_at(cell, decimal_sign);
            if (mark == 0 || leading == 0 || (!grouped && (leading > 3 || digits[0] == '0')) ||
                !is_group(cell.substr(mark)))
                break;
            grouped = true;
            for (std::size_t i = 0; i < 3; ++i) digits[size++] = cell[mark + i];
            leading += 3;
            cell.remove_prefix(mark + 3);
        }
    }
    if (size == 0 || (size == 1 && digits[0] == '.')) return std::nullopt;
    if (cell.size() > 1 && (cell.front() == 'e' || cell.front() == 'E')) {
        std::size_t at = 1 + (cell[1] == '-' || cell[1] == '+');
        if (at < cell.size() && is_digit(cell[at])) {
            digits[size++] = 'e';
            if (cell[1] == '-') digits[size++] = '-';
            for (; at < cell.size() && is_digit(cell[at]) && size < sizeof digits; ++at) digits[size++] = cell[at];
            cell.remove_prefix(at);
        }
    }
    double value = 0;
    if (parse_decimal_general(digits, digits + size, '.', value) != digits + size) return std::nullopt;
    cell = without_blanks(cell);
    if (const auto minus = minus_at(cell); minus != 0 && minus == cell.size()) {
        negative = !negative;
        cell = {};
    }
    return LooseNumber{negative ? -value : value, cell};
}

void count_use(std::string_view cell, char sign, SignUse& use) {
    cell = bare_cell(cell);
    while (!cell.empty() && !is_digit(cell.front()) && cell.front() != sign) cell.remove_prefix(1);
    std::size_t end = 0;
    while (end < cell.size() && (is_digit(cell[end]) || cell[end] == '.' || cell[end] == ',')) ++end;
    cell = cell.substr(0, end);
    const auto count = std::count(cell.begin(), cell.end(), sign);
    if (count == 0) {
        use.without += std::count_if(cell.begin(), cell.end(), is_digit) >= 3;
        return;
    }
    const char other = sign == '.' ? ',' : '.';
    const auto first = cell.find(sign);
    const std::string_view behind = cell.substr(cell.rfind(sign) + 1);
    if (count > 1 || behind.find(other) != std::string_view::npos)
        ++use.groups;
    else if (cell.find(other) != std::string_view::npos || behind.size() != 3 || first == 0 || first > 3 ||
             cell.front() == '0')
        ++use.decimal;
    else
        ++use.either;
}

}  // namespace rendak
