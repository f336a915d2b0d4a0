#pragma once

#include <optional>
#include <vector>

#include "core/base/interval.h"

namespace rendak {

/// How a figure comes to its end over the laps of a run: y = end + begin_off · exp(−lap / laps_to_a_third), with the
/// least squares.
struct Settling {
    double end = 0;            ///< what it comes to
    double off_at_first = 0;   ///< of the first lap's value from it
    double time_constant = 0;  ///< laps in which what is left shrinks to 37 %
    double scatter = 0;        ///< of the laps about the curve, one standard deviation
    /// The first lap within a twentieth of the way from its end, or within the scatter; none where the run ends
    /// before. `likely`: between which laps it is (95 %, by what the time constant may be).
    std::optional<int> from_lap;
    Interval likely;
};
/// None with fewer than five laps, or where the values do not run out along such a curve (a line would do as well).
[[nodiscard]] std::optional<Settling> settling(const std::vector<double>& lap_numbers,
                                               const std::vector<double>& values);

/// Where a figure over laps begins to rise more steeply: two lines that meet, against one.
struct BreakAway {
    int from_lap = 0;
    double before_per_lap = 0, after_per_lap = 0;
};
/// None with fewer than eight laps, or where one line does nearly as well (F of the two more parameters under 8).
[[nodiscard]] std::optional<BreakAway> break_away(const std::vector<double>& lap_numbers,
                                                  const std::vector<double>& values);

}  // namespace rendak
