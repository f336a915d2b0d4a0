#include "core/base/date.h"

#include <algorithm>
#include <array>
#include <cmath>
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

}  // namespace rendak
