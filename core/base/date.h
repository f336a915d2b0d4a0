#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace rendak {

/// A moment as UTC in the words of strftime: utc_text(t, "%Y-%m-%d").
[[nodiscard]] std::string utc_text(double unix_s, const char* format);
/// "2026-06-13T13:47:31.250Z"; never a later second than the one it is in.
[[nodiscard]] std::string utc_iso(double unix_s, int decimals);

/// Seconds east of UTC of a zone written "+02:00", "-03:30", "+2", "UTC" or ""; nullopt when it is no such thing, or
/// further than 14 hours.
[[nodiscard]] std::optional<double> zone_offset_s(std::string_view zone);
/// The same moment as clocks in that zone show it; UTC where the zone cannot be read.
[[nodiscard]] std::string local_text(double unix_s, std::string_view zone, const char* format);
/// The zone of this computer at that moment: "+02:00".
[[nodiscard]] std::string zone_here(double unix_s);

}  // namespace rendak
