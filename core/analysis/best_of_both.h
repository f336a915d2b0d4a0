#pragma once

#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/laps/prepared_lap.h"

namespace rendak {

/// A section as two laps, or two sets of laps, drive it.
struct SideSection {
    Section section;
    double a_s = 0, b_s = 0;            ///< means
    double a_best_s = 0, b_best_s = 0;  ///< of one lap each
    std::optional<Interval> likely_s;   ///< 95 % of B's mean minus A's; none of one lap against one
    enum class Better { neither, a, b };
    /// Who is better: by more than 0.02 s, and not by chance where laps can tell.
    Better better = Better::neither;
};
[[nodiscard]] std::vector<SideSection> side_by_side(std::span<const PreparedLap> a, std::span<const PreparedLap> b,
                                                    const std::vector<Section>& sections);

/// The lap made of the best sections of both: nobody has driven it, but each part of it was driven.
struct BestOfBoth {
    std::vector<SideSection> sections;
    double lap_s = 0;
    double a_lap_s = 0, b_lap_s = 0;    ///< best laps
    double a_asks_s = 0, b_asks_s = 0;  ///< by which each one's own best sections are slower than that
};
[[nodiscard]] BestOfBoth best_of_both(std::span<const PreparedLap> a, std::span<const PreparedLap> b);

}  // namespace rendak
