#include "cli/arguments.h"

#include <charconv>
#include <cmath>

namespace rendak::cli {

std::optional<double> number(std::string_view text) {
    double value = 0;
    const auto result = std::from_chars(text.data(), text.data() + text.size(), value);
    if (text.empty() || result.ec != std::errc() || result.ptr != text.data() + text.size()) return std::nullopt;
    return value;
}

std::optional<LapRef> lap_ref(const std::string& text) {
    const auto colon = text.find(':');
    if (colon == std::string::npos) return std::nullopt;
    const auto run = number(std::string_view(text).substr(0, colon)),
               lap = number(std::string_view(text).substr(colon + 1));
    if (!run || !lap || *run != static_cast<double>(static_cast<std::int64_t>(*run)) || *lap != static_cast<int>(*lap))
        return std::nullopt;
    return LapRef{{static_cast<std::int64_t>(*run)}, static_cast<int>(*lap)};
}

std::optional<StartPlace> start_place(const std::string& whole) {
    const auto first = whole.find(','), second = whole.find(',', first + 1);
    if (first == std::string::npos || second == std::string::npos) return std::nullopt;
    const std::string_view text(whole);
    const auto latitude = number(text.substr(0, first)), longitude = number(text.substr(first + 1, second - first - 1)),
               heading = number(text.substr(second + 1));
    if (!latitude || !longitude || !heading || std::abs(*latitude) > 90 || std::abs(*longitude) > 360)
        return std::nullopt;
    return StartPlace{{*latitude, *longitude}, *heading};
}

}  // namespace rendak::cli
