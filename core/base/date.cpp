#include "core/base/date.h"

#include <array>
#include <cmath>
#include <ctime>

namespace rendak {

std::string utc_text(double unix_s, const char* format) {
    const auto seconds = static_cast<std::time_t>(std::floor(unix_s));
    std::tm parts{};
    if (gmtime_r(&seconds, &parts) == nullptr) return {};
    std::array<char, 64> text{};
    return {text.data(), std::strftime(text.data(), text.size(), format, &parts)};
}

}  // namespace rendak
