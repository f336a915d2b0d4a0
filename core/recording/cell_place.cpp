#include "core/recording/cell_place.h"

#include <cmath>
#include <string>

#include "core/base/text.h"
#include "core/recording/cell_number.h"

namespace rendak {
namespace {

/// Marks of degrees, minutes and seconds become blanks; letters of hemispheres come off.
struct Parts {
    double numbers[3] = {0, 0, 0};
    int count = 0;
    bool negative = false, marked = false;
    char hemisphere = 0;
};

char hemisphere_of(std::string_view word) {
    if (word == "n" || word == "north") return 'N';
    if (word == "s" || word == "south") return 'S';
    if (word == "e" || word == "east") return 'E';
    if (word == "w" || word == "west") return 'W';
    return 0;
}

std::optional<Parts> parts_of(std::string_view cell, char decimal_sign) {
    const std::string text = lower(utf8_of(bare_cell(cell)));
    if (text.empty() || text.size() > 64) return std::nullopt;
    Parts out;
    std::size_t at = 0;
    while (at < text.size()) {
        const char c = text[at];
        if (c == ' ' || c == ':') {
            ++at;
        } else if (c == '\'' || c == '"') {
            out.marked = true;
            ++at;
        } else if (c >= 'a' && c <= 'z') {
            std::size_t end = at;
            while (end < text.size() && text[end] >= 'a' && text[end] <= 'z') ++end;
            const std::string_view word(text.data() + at, end - at);
            if (const char letter = hemisphere_of(word)) {
                if (out.hemisphere != 0) return std::nullopt;
                out.hemisphere = letter;
            } else if (word == "d" || word == "deg" || word == "m" || word == "min" || word == "sec") {
                out.marked = true;
            } else {
                return std::nullopt;
            }
            at = end;
        } else if (static_cast<unsigned char>(c) >= 0x80) {
            std::size_t end = at + 1;
            while (end < text.size() && (static_cast<unsigned char>(text[end]) & 0xC0) == 0x80) ++end;
            const std::string_view mark(text.data() + at, end - at);
            if (mark == "°" || mark == "º" || mark == "′" || mark == "″" || mark == "’" || mark == "”" || mark == "´")
                out.marked = true;
            else if (mark == "−")
                out.negative = true;
            else if (mark != "\xC2\xA0")
                return std::nullopt;
            at = end;
        } else if (c == '-' || c == '+') {
            if (out.count > 0) return std::nullopt;
            out.negative = c == '-';
            ++at;
        } else {
            std::size_t end = at;
            while (end < text.size() &&
                   ((text[end] >= '0' && text[end] <= '9') || text[end] == decimal_sign || text[end] == '.'))
                ++end;
            if (end == at || out.count == 3) return std::nullopt;
            const auto number = loose_number(std::string_view(text.data() + at, end - at), decimal_sign);
            const auto point = number && number->rest.empty()
                                   ? number
                                   : loose_number(std::string_view(text.data() + at, end - at), '.');
            if (!point || !point->rest.empty()) return std::nullopt;
            out.numbers[out.count++] = point->value;
            at = end;
        }
    }
    if (out.count == 0) return std::nullopt;
    return out;
}

std::optional<PlaceCell> place_of(const Parts& parts) {
    PlaceCell out;
    out.hemisphere = parts.hemisphere;
    out.value = parts.numbers[0];
    if (parts.count > 1) {
        const double minutes = parts.numbers[1], seconds = parts.numbers[2];
        if (minutes >= 60 || seconds >= 60 || parts.numbers[0] != std::floor(parts.numbers[0])) return std::nullopt;
        out.value += minutes / 60 + seconds / 3600;
    }
    out.degrees = parts.count > 1 || parts.marked;
    if (parts.negative != (parts.hemisphere == 'S' || parts.hemisphere == 'W')) out.value = -out.value;
    return out;
}

}  // namespace

std::optional<PlaceCell> place_cell(std::string_view cell, char decimal_sign) {
    const auto parts = parts_of(cell, decimal_sign);
    if (!parts || (parts->hemisphere == 0 && !parts->marked && parts->count < 2)) return std::nullopt;
    return place_of(*parts);
}

namespace {

/// Two bare numbers with a comma between are as well one with a decimal comma: "-33,4566823" is no pair.
bool could_be(std::string_view cell, const PlaceCell& first, const PlaceCell& second) {
    if (first.hemisphere != 0 || second.hemisphere != 0 || first.degrees || second.degrees) return true;
    const bool parts = std::abs(first.value) > 180 && std::abs(second.value) > 180;  // of degrees: 1e-7
    return parts || (std::abs(first.value) <= 90 && std::abs(second.value) <= 180 &&
                     cell.find_first_of(".;/ ") != std::string_view::npos);
}

}  // namespace

std::optional<PlacePair> place_pair(std::string_view cell, char decimal_sign) {
    cell = bare_cell(cell);
    if (cell.size() < 5 || cell.size() > 80) return std::nullopt;
    if (cell.front() == '(' && cell.back() == ')') cell = cell.substr(1, cell.size() - 2);
    const auto one = [&](std::string_view text) -> std::optional<PlaceCell> {
        const auto parts = parts_of(text, decimal_sign);
        return parts ? place_of(*parts) : std::nullopt;
    };
    for (const char mark : {';', '/', ',', ' '}) {
        if (mark == decimal_sign) continue;
        for (auto at = cell.find(mark); at != std::string_view::npos; at = cell.find(mark, at + 1)) {
            const auto first = one(cell.substr(0, at)), second = one(cell.substr(at + 1));
            if (!first || !second) continue;
            const auto fits = [](char letter, const char* letters) {
                return letter == 0 || letter == letters[0] || letter == letters[1];
            };
            // Two bare numbers with a blank between are as well degrees and minutes.
            if (mark == ' ' && first->hemisphere == 0 &&
                (cell.substr(0, at).find_first_of(".,") == std::string_view::npos || first->degrees))
                continue;
            if (fits(first->hemisphere, "NS") && fits(second->hemisphere, "EW") && could_be(cell, *first, *second))
                return PlacePair{*first, *second};
        }
    }
    return std::nullopt;
}

int hemisphere_cell(std::string_view cell) {
    switch (hemisphere_of(lower(bare_cell(cell)))) {
        case 'N':
        case 'E':
            return 1;
        case 'S':
        case 'W':
            return -1;
        default:
            return 0;
    }
}

}  // namespace rendak
