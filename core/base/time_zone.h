#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace rendak {

// A zone is a name of the time zone database (IANA), "Europe/Berlin", whose clocks change in spring and autumn; or how
// far its clocks are ahead of UTC all year, "+02:00", "-03:30", "+2"; or "UTC", or empty for UTC.

/// Whether it is any of these. Names are those that this computer knows.
[[nodiscard]] bool is_time_zone(std::string_view zone);
/// Seconds east of UTC at a moment; nullopt when it is no zone, or further than 14 hours.
[[nodiscard]] std::optional<double> zone_offset_s(std::string_view zone, double unix_s);
/// The moment at which clocks in that zone show `local_s` (counted as if it were UTC); of the two in autumn the first;
/// in the hour that spring leaves out as if clocks had not changed yet.
[[nodiscard]] double unix_of_local(double local_s, std::string_view zone);
/// A moment as clocks in that zone show it, in the words of strftime; UTC where the zone cannot be read.
[[nodiscard]] std::string local_text(double unix_s, std::string_view zone, const char* format);
/// How far its clocks are ahead at that moment: "+02:00"; "UTC" where they are not.
[[nodiscard]] std::string zone_text(std::string_view zone, double unix_s);
/// The zone of this computer: its name when it has one that goes with its clock at that moment, else "+02:00".
[[nodiscard]] std::string zone_here(double unix_s);
/// All names that this computer knows.
[[nodiscard]] std::vector<std::string> zone_names();

}  // namespace rendak
