#include "core/base/time_zone.h"

#include <date/tz.h>

#include <array>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <ctime>
#include <exception>

#include "core/base/date.h"

namespace rendak {
namespace {

/// "+02:00", "-3", of at most 14 hours.
std::optional<double> fixed_offset_s(std::string_view zone) {
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

/// Nullptr: this computer does not know it. The library says that, and that it has no database, with exceptions.
const date::time_zone* named_zone(std::string_view name) {
    if (name.find('/') == std::string_view::npos) return nullptr;  // "EST" and "GB" are no places
    try {
        return date::locate_zone(name);
    } catch (const std::exception&) {
        return nullptr;
    }
}

std::optional<double> offset_in_s(const date::time_zone& zone, double unix_s) {
    if (!(std::abs(unix_s) < 1e11)) return std::nullopt;
    try {
        const date::sys_seconds moment{std::chrono::seconds(static_cast<std::int64_t>(std::floor(unix_s)))};
        return static_cast<double>(zone.get_info(moment).offset.count());
    } catch (const std::exception&) {
        return std::nullopt;
    }
}

std::string offset_text(double offset_s) {
    const long minutes = std::lround(offset_s / 60), size = minutes < 0 ? -minutes : minutes;
    std::array<char, 16> text{};
    const int count =
        std::snprintf(text.data(), text.size(), "%c%02ld:%02ld", minutes < 0 ? '-' : '+', size / 60, size % 60);
    return {text.data(), static_cast<std::size_t>(count)};
}

/// What the environment or the system says; empty when nobody does.
std::string name_here() {
    if (const char* said = std::getenv("TZ"); said != nullptr && *said != '\0') return said + (*said == ':' ? 1 : 0);
    try {
        return date::current_zone()->name();
    } catch (const std::exception&) {
        return {};
    }
}

}  // namespace

bool is_time_zone(std::string_view zone) {
    return fixed_offset_s(zone) || named_zone(zone) != nullptr;
}

std::optional<double> zone_offset_s(std::string_view zone, double unix_s) {
    if (const auto fixed = fixed_offset_s(zone)) return fixed;
    const auto* const named = named_zone(zone);
    return named == nullptr ? std::nullopt : offset_in_s(*named, unix_s);
}

double unix_of_local(double local_s, std::string_view zone) {
    constexpr double day_s = 86400;
    const double before = zone_offset_s(zone, local_s - day_s).value_or(0),
                 after = zone_offset_s(zone, local_s + day_s).value_or(0);
    for (const double ahead : {before, after}) {
        if (zone_offset_s(zone, local_s - ahead).value_or(0) == ahead) return local_s - ahead;
    }
    return local_s - before;  // the hour that spring leaves out
}

std::string local_text(double unix_s, std::string_view zone, const char* format) {
    return utc_text(unix_s + zone_offset_s(zone, unix_s).value_or(0), format);
}

std::string zone_text(std::string_view zone, double unix_s) {
    const double offset_s = zone_offset_s(zone, unix_s).value_or(0);
    return offset_s == 0 ? "UTC" : offset_text(offset_s);
}

std::string zone_here(double unix_s) {
    const auto seconds = static_cast<std::time_t>(std::floor(unix_s));
    std::tm parts{};
    if (localtime_r(&seconds, &parts) == nullptr) return "+00:00";
    const auto offset_s = static_cast<double>(parts.tm_gmtoff);
    const std::string name = name_here();
    const bool is_place = !name.starts_with("Etc/") && named_zone(name) != nullptr;
    return is_place && zone_offset_s(name, unix_s) == offset_s ? name : offset_text(offset_s);
}

std::vector<std::string> zone_names() {
    std::vector<std::string> out;
    try {
        for (const auto& zone : date::get_tzdb().zones) {
            if (named_zone(zone.name()) != nullptr && !zone.name().starts_with("Etc/")) out.push_back(zone.name());
        }
    } catch (const std::exception&) {
        out.clear();
    }
    return out;
}

}  // namespace rendak
