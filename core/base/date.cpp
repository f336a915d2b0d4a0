#include "core/base/date.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <ctime>

#include "core/base/text.h"

namespace rendak {

std::string utc_text(double unix_s, const char* format) {
    const auto seconds = static_cast<std::time_t>(std::floor(unix_s));
    std::tm parts{};
    if (gmtime_r(&seconds, &parts) == nullptr) return {};
    std::array<char, 64> text{};
    return {text.data(), std::strftime(text.data(), text.size(), format, &parts)};
}

std::string utc_iso(double unix_s, int decimals) {
    const double steps = std::pow(10.0, decimals), part = std::round((unix_s - std::floor(unix_s)) * steps);
    return utc_text(unix_s, "%Y-%m-%dT%H:%M:%S") + fixed(std::min(part, steps - 1) / steps, decimals).substr(1) + "Z";
}

std::optional<double> zone_offset_s(std::string_view zone) {
    if (zone.empty() || zone == "UTC" || zone == "Z") return 0.0;
    const bool west = zone.front() == '-';
    if (!west && zone.front() != '+') return std::nullopt;
    zone.remove_prefix(1);
    const auto colon = zone.find(':');
    const std::string_view hours_text = zone.substr(0, colon),
                           minutes_text = colon == std::string_view::npos ? "00" : zone.substr(colon + 1);
    const auto number = [](std::string_view text) -> std::optional<double> {
        if (text.empty() || text.size() > 2) return std::nullopt;
        double value = 0;
        for (const char c : text) {
            if (c < '0' || c > '9') return std::nullopt;
            value = value * 10 + (c - '0');
        }
        return value;
    };
    const auto hours = number(hours_text), minutes = number(minutes_text);
    if (!hours || !minutes || *hours > 14 || *minutes >= 60) return std::nullopt;
    const double offset = *hours * 3600 + *minutes * 60;
    return west ? -offset : offset;
}

std::string local_text(double unix_s, std::string_view zone, const char* format) {
    return utc_text(unix_s + zone_offset_s(zone).value_or(0), format);
}

std::string zone_here(double unix_s) {
    const auto seconds = static_cast<std::time_t>(std::floor(unix_s));
    std::tm parts{};
    if (localtime_r(&seconds, &parts) == nullptr) return "+00:00";
    const long minutes = parts.tm_gmtoff / 60, size = minutes < 0 ? -minutes : minutes;
    std::array<char, 16> text{};
    const int count =
        std::snprintf(text.data(), text.size(), "%c%02ld:%02ld", minutes < 0 ? '-' : '+', size / 60, size % 60);
    return {text.data(), static_cast<std::size_t>(count)};
}

}  // namespace rendak
