#pragma once

#include <string>
#include <string_view>

namespace rendak {

[[nodiscard]] std::string_view trimmed(std::string_view text);
/// ASCII letters only; other bytes stay.
[[nodiscard]] std::string lower(std::string_view text);
/// Lower case with everything but letters and digits taken out: "Brake_Pres. F" -> "brakepresf".
[[nodiscard]] std::string folded(std::string_view text);
/// "1 lap", "3 laps".
[[nodiscard]] std::string counted(std::size_t count, std::string_view one, std::string_view many);
/// Fixed decimals with a plain hyphen for minus: for messages and files.
[[nodiscard]] std::string fixed(double value, int decimals);
/// 84.3182 -> "1:24.318"; below a minute "24.318"; not a number -> "–".
[[nodiscard]] std::string lap_time_text(double seconds);

}  // namespace rendak
