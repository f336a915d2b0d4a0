#pragma once

#include <string>

namespace rendak {

/// A moment as UTC in the words of strftime: utc_text(t, "%Y-%m-%d").
[[nodiscard]] std::string utc_text(double unix_s, const char* format);
/// "2026-06-13T13:47:31.250Z"; never a later second than the one it is in.
[[nodiscard]] std::string utc_iso(double unix_s, int decimals);

}  // namespace rendak
