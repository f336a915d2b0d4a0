#include "core/base/text.h"

#include <cmath>
#include <cstdio>

namespace rendak {

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

}  // namespace rendak
