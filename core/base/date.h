#pragma once

#include <string>

namespace rendak {

/// A moment as UTC in the words of strftime: utc_text(t, "%Y-%m-%d").
[[nodiscard]] std::string utc_text(double unix_s, const char* format);

}  // namespace rendak
