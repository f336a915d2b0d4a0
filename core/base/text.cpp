#include "core/base/text.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <cstdint>
#include <cstdio>

namespace rendak {
namespace {

/// Code points of the bytes 0x80 … 0x9f in Windows-1252; 0 where it has none.
constexpr std::array<std::uint16_t, 32> windows_1252 = {0x20ac, 0,      0x201a, 0x0192, 0x201e, 0x2026, 0x2020, 0x2021,
                                                        0x02c6, 0x2030, 0x0160, 0x2039, 0x0152, 0,      0x017d, 0,
                                                        0,      0x2018, 0x2019, 0x201c, 0x201d, 0x2022, 0x2013, 0x2014,
                                                        0x02dc, 0x2122, 0x0161, 0x203a, 0x0153, 0,      0x017e, 0x0178};

/// Bytes of the well-formed UTF-8 character at the start of `text`; 0 when there is none (overlong forms, surrogates).
std::size_t character_size(std::string_view text, std::uint32_t& code) {
    const auto byte = [&](std::size_t i) { return static_cast<unsigned char>(text[i]); };
    const unsigned char first = byte(0);
    if (first < 0x80) {
        code = first;
        return 1;
    }
    const std::size_t size = first >= 0xf0 ? 4 : first >= 0xe0 ? 3 : first >= 0xc2 ? 2 : 0;
    if (size == 0 || first > 0xf4 || text.size() < size) return 0;
    code = first & (0xffU >> (size + 1));
    for (std::size_t i = 1; i < size; ++i) {
        if ((byte(i) & 0xc0) != 0x80) return 0;
        code = code << 6 | (byte(i) & 0x3fU);
    }
    const bool overlong = (size == 3 && code < 0x800) || (size == 4 && code < 0x10000);
    return overlong || (code >= 0xd800 && code < 0xe000) || code > 0x10ffff ? 0 : size;
}

/// A code point below 0x10000 as UTF-8.
void append_code(std::string& out, std::uint32_t code) {
    if (code < 0x80) {
        out += static_cast<char>(code);
    } else if (code < 0x800) {
        out += static_cast<char>(0xc0 | code >> 6);
        out += static_cast<char>(0x80 | (code & 0x3f));
    } else {
        out += static_cast<char>(0xe0 | code >> 12);
        out += static_cast<char>(0x80 | (code >> 6 & 0x3f));
        out += static_cast<char>(0x80 | (code & 0x3f));
    }
}

bool steers(std::uint32_t code) {
    return code < 0x20 || (code >= 0x7f && code < 0xa0) || code == 0x200e || code == 0x200f || code == 0x061c ||
           (code >= 0x2028 && code <= 0x202e) || (code >= 0x2066 && code <= 0x2069) || code == 0xfeff;
}

/// Calls out(code, bytes) for every character.
template <class Out>
void each_character(std::string_view text, Out out) {
    while (!text.empty()) {
        std::uint32_t code = 0;
        std::size_t size = character_size(text, code);
        if (size == 0) {
            const auto byte = static_cast<unsigned char>(text.front());
            const std::uint32_t old = byte < 0xa0 ? windows_1252[byte - 0x80] : byte;
            out(old == 0 ? 0xfffd : old, std::string_view());
            size = 1;
        } else {
            out(code, text.substr(0, size));
        }
        text.remove_prefix(size);
    }
}

}  // namespace

std::string utf8_of(std::string_view text) {
    std::string out;
    out.reserve(text.size());
    each_character(text, [&](std::uint32_t code, std::string_view bytes) {
        bytes.empty() ? append_code(out, code) : void(out += bytes);
    });
    return out;
}

std::string printable(std::string_view text) {
    std::string out = printable_lines(text);
    std::replace(out.begin(), out.end(), '\n', ' ');
    return out;
}

std::string printable_lines(std::string_view text) {
    std::string out;
    out.reserve(text.size());
    each_character(text, [&](std::uint32_t code, std::string_view bytes) {
        if (code == '\n')
            out += '\n';
        else if (code == '\t' || code == '\r')
            out += ' ';
        else if (steers(code) || bytes.empty())
            append_code(out, steers(code) ? 0xfffd : code);
        else
            out += bytes;
    });
    return out;
}

std::string_view trimmed(std::string_view text) {
    const auto is_space = [](char c) { return c == ' ' || c == '\t' || c == '\r' || c == '\n'; };
    while (!text.empty() && is_space(text.front())) text.remove_prefix(1);
    while (!text.empty() && is_space(text.back())) text.remove_suffix(1);
    return text;
}

std::string lower(std::string_view text) {
    std::string out(text);
    for (char& c : out) {
        if (c >= 'A' && c <= 'Z') c = static_cast<char>(c - 'A' + 'a');
    }
    return out;
}

std::string folded(std::string_view text) {
    std::string out;
    for (const char c : lower(text)) {
        if ((c >= 'a' && c <= 'z') || (c >= '0' && c <= '9')) out += c;
    }
    return out;
}

std::string counted(std::size_t count, std::string_view one, std::string_view many) {
    return std::to_string(count) + " " + std::string(count == 1 ? one : many);
}

std::string fixed(double value, int decimals) {
    char buffer[400];
    const int size = std::snprintf(buffer, sizeof buffer, "%.*f", decimals, value);
    return {buffer, static_cast<std::size_t>(size)};
}

std::string lap_time_text(double seconds) {
    if (!std::isfinite(seconds)) return "–";
    const auto milliseconds = std::llround(std::abs(seconds) * 1000);
    const auto minutes = milliseconds / 60000;
    const auto rest = milliseconds % 60000;
    char buffer[64];
    if (minutes > 0) {
        std::snprintf(buffer, sizeof buffer, "%lld:%02lld.%03lld", static_cast<long long>(minutes),
                      static_cast<long long>(rest / 1000), static_cast<long long>(rest % 1000));
    } else {
        std::snprintf(buffer, sizeof buffer, "%lld.%03lld", static_cast<long long>(rest / 1000),
                      static_cast<long long>(rest % 1000));
    }
    return (seconds < 0 ? "-" : "") + std::string(buffer);
}

std::string short_number(double value) {
    std::string text = fixed(value, 3);
    while (text.ends_with('0')) text.pop_back();
    if (text.ends_with('.')) text.pop_back();
    return text;
}

std::string exact_number(double value) {
    std::array<char, 32> digits{};
    return {digits.data(), std::to_chars(digits.data(), digits.data() + digits.size(), value).ptr};
}

std::optional<double> sheet_number(std::string text) {
    std::replace(text.begin(), text.end(), ',', '.');
    const std::string_view digits = trimmed(text);
    double value = 0;
    const char* begin = digits.data() + (digits.starts_with('+') ? 1 : 0);
    const auto read = std::from_chars(begin, digits.data() + digits.size(), value);
    if (read.ec != std::errc() || read.ptr != digits.data() + digits.size() || !std::isfinite(value))
        return std::nullopt;
    return value;
}

}  // namespace rendak
