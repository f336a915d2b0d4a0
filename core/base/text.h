#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace rendak {

/// Valid UTF-8 in any case: bytes that are none are read as Windows-1252, as spreadsheets and old loggers write.
[[nodiscard]] std::string utf8_of(std::string_view text);
/// The same without characters that would steer a terminal or turn the reading direction round: for names from outside
/// and for everything that is printed. They become U+FFFD; tabs and line ends become spaces.
[[nodiscard]] std::string printable(std::string_view text);
/// The same, but line ends stay: for remarks and other texts of several lines.
[[nodiscard]] std::string printable_lines(std::string_view text);
[[nodiscard]] std::string_view trimmed(std::string_view text);
/// ASCII letters only; other bytes stay.
[[nodiscard]] std::string lower(std::string_view text);
/// Lower case with everything but letters and digits taken out: "Brake_Pres. F" -> "brakepresf".
[[nodiscard]] std::string folded(std::string_view text);
/// "1 lap", "3 laps".
[[nodiscard]] std::string counted(std::size_t count, std::string_view one, std::string_view many);
/// Fixed decimals with a plain hyphen for minus: for messages and files.
[[nodiscard]] std::string fixed(double value, int decimals);
/// Up to three decimals, those that are needed: "8", "2.5".
[[nodiscard]] std::string short_number(double value);
/// As few digits as read back as the same value.
[[nodiscard]] std::string exact_number(double value);
/// A number as sheets have it, with a decimal point or comma; none for anything else.
[[nodiscard]] std::optional<double> sheet_number(std::string text);
/// 84.3182 -> "1:24.318"; below a minute "24.318"; not a number -> "–".
[[nodiscard]] std::string lap_time_text(double seconds);

}  // namespace rendak
