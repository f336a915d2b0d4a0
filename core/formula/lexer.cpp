#include "core/formula/lexer.h"

#include <fast_float/fast_float.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "core/base/digits.h"
#include "core/units/compound_unit.h"

namespace rendak::formula {
namespace {

bool is_letter(char c) {
    return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_';
}
bool is_word(char c) {
    return is_letter(c) || is_digit(c);
}
bool is_blank(char c) {
    return c == ' ' || c == '\t' || c == '\n' || c == '\r';
}

constexpr std::array<std::string_view, 26> marks{"**", "<=", ">=", "==", "!=", "²", "³", "−", "·", "×", "≤", "≥", "≠",
                                                 "+",  "-",  "*",  "/",  "<",  ">", "(", ")", "[", "]", ",", "=", "."};

/// The same mark however it was typed.
std::string_view usual(std::string_view mark) {
    if (mark == "−") return "-";
    if (mark == "·" || mark == "×") return "*";
    if (mark == "≤") return "<=";
    if (mark == "≥") return ">=";
    if (mark == "≠") return "!=";
    return mark;
}

/// Bytes of the unit at the beginning of `text`; 0 when there is none.
std::size_t unit_length(std::string_view text) {
    // What a unit can be made of; only a letter, ° , µ or % can begin one.
    const auto part = [&](std::size_t at) -> std::size_t {
        const char c = text[at];
        if (is_word(c) || c == '%' || c == '/' || c == '^') return c == '_' ? 0 : 1;
        for (const std::string_view sign : {"°", "µ", "²", "³", "·"}) {
            if (text.substr(at).starts_with(sign)) return sign.size();
        }
        return 0;
    };
    if (text.empty() || !(is_letter(text[0]) || text[0] == '%' || text.starts_with("°") || text.starts_with("µ")))
        return 0;
    std::vector<std::size_t> ends;
    std::size_t at = 0;
    while (at < text.size() && at < 40) {
        const std::size_t size = part(at);
        if (size == 0) break;
        at += size;
        const bool inside_word = at < text.size() && is_word(text[at]) && is_word(text[at - 1]);
        if (!inside_word) ends.push_back(at);
    }
    for (auto end = ends.rbegin(); end != ends.rend(); ++end) {
        const std::string_view unit = text.substr(0, *end);
        const char last = unit.back();
        if (last == '/' || last == '^' || unit.ends_with("·")) continue;
        if (unit == "if" || unit == "and" || unit == "or" || unit == "else") return 0;
        if (parse_compound_unit(unit)) return *end;
    }
    return 0;
}

}  // namespace

Checked<std::vector<Token>> tokens_of(std::string_view text) {
    if (text.size() > longest_text)
        return tl::unexpected(Problem{0, text.size(),
                                      "The formula is longer than " + std::to_string(longest_text) +
                                          " characters. Split it into several formulas."});
    std::vector<Token> out;
    std::size_t at = 0;
    while (true) {
        while (at < text.size() && is_blank(text[at])) ++at;
        if (at < text.size() && text[at] == '#') {
            while (at < text.size() && text[at] != '\n') ++at;
            continue;
        }
        if (at == text.size()) break;
        Token token;
        token.from = at;
        const char c = text[at];
        if (is_digit(c) || (c == '.' && at + 1 < text.size() && is_digit(text[at + 1]))) {
            const char* end = text.data() + text.size();
            const auto read = fast_float::from_chars(text.data() + at, end, token.number);
            if (read.ec != std::errc() || !std::isfinite(token.number))
                return tl::unexpected(Problem{at, at + 1, "This number is too large or too small to be held."});
            token.kind = Token::Kind::number;
            at = static_cast<std::size_t>(read.ptr - text.data());
            std::size_t behind = at;
            while (behind < text.size() && (text[behind] == ' ' || text[behind] == '\t')) ++behind;
            if (const std::size_t size = unit_length(text.substr(behind)); size > 0) {
                token.text = std::string(text.substr(behind, size));
                at = behind + size;
            }
        } else if (is_letter(c)) {
            while (at < text.size() && is_word(text[at])) ++at;
            token.kind = Token::Kind::name;
            token.text = std::string(text.substr(token.from, at - token.from));
        } else {
            const auto found =
                std::find_if(marks.begin(), marks.end(), [&](auto mark) { return text.substr(at).starts_with(mark); });
            if (found == marks.end()) {
                std::size_t size = 1;
                while (at + size < text.size() && (static_cast<unsigned char>(text[at + size]) & 0xC0U) == 0x80U)
                    ++size;
                std::string shown(text.substr(at, size));
                if (size == 1 && (static_cast<unsigned char>(c) < 0x20 || static_cast<unsigned char>(c) >= 0x7F))
                    shown = "byte " + std::to_string(static_cast<unsigned char>(c));
                std::string hint = c == '^'   ? " A power is written ** or ²."
                                   : c == '&' ? " Write \"and\", or bitwise_and( , ) for bits."
                                   : c == '|' ? " Write \"or\", or bitwise_or( , ) for bits."
                                   : c == '!' ? " Write \"not\"."
                                   : c == '?' ? " A choice is written: this if condition else that."
                                   : c == '\'' || c == '"'
                                       ? " Channels are written as plain words, such as oil_pressure."
                                       : "";
                return tl::unexpected(Problem{at, at + size, "\"" + shown + "\" means nothing in a formula." + hint});
            }
            token.kind = Token::Kind::mark;
            token.text = std::string(usual(*found));
            at += found->size();
        }
        token.to = at;
        out.push_back(std::move(token));
        if (out.size() > 3 * most_nodes)
            return tl::unexpected(
                Problem{at - 1, at, "The formula has too many parts. Split it into several formulas."});
    }
    Token end;
    end.from = end.to = text.size();
    out.push_back(end);
    return out;
}

}  // namespace rendak::formula
