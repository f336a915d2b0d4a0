#pragma once

#include <optional>
#include <string_view>

namespace rendak {

/// Which of "06/07/2026" is the day. Dates that begin with the year, or with points between, need none.
enum class DateOrder { day_first, month_first };

/// A date, a time of day, or both, as a cell tells them.
struct TimeCell {
    std::optional<double> date_s;   ///< midnight of the day, seconds since 1970
    std::optional<double> clock_s;  ///< since midnight, or what a stop watch shows
    double zone_s = 0;              ///< east of UTC; 0 when none is named
    bool day_or_month = false;      ///< the date reads as another one in the other order
    [[nodiscard]] double seconds() const { return date_s.value_or(0) + clock_s.value_or(0) - zone_s; }
};

/// "12:34:56.7", "1:23.4", "13:47:31,25", "1:47:31 PM", "2026-06-13T12:34:56.7+0200", "13.06.2026 13:47",
/// "Jun 13, 2026 1:47 pm", "20260613T134731Z", "13/06/2026"; nullopt for anything else.
[[nodiscard]] std::optional<TimeCell> time_cell(std::string_view cell, char decimal_sign,
                                                DateOrder order = DateOrder::day_first);

/// Its seconds: since midnight, or since 1970 when it has a date.
[[nodiscard]] std::optional<double> parse_time_text(std::string_view cell, char decimal_sign,
                                                    DateOrder order = DateOrder::day_first);

}  // namespace rendak
