#pragma once

#include <array>
#include <string>
#include <string_view>
#include <vector>

namespace rendak {

/// Parts of a lap in which a change of the car acts. Together they are the lap.
enum class LapPart { braking, slow_corners, middle_corners, fast_corners, straights };
inline constexpr std::array lap_parts{LapPart::braking, LapPart::slow_corners, LapPart::middle_corners,
                                      LapPart::fast_corners, LapPart::straights};
[[nodiscard]] std::string_view lap_part_name(LapPart part);
/// Corners slower than the first at their slowest place are slow, faster than the second fast.
inline constexpr double slow_corner_mps = 100 / 3.6, fast_corner_mps = 140 / 3.6;
[[nodiscard]] LapPart part_of_corner(double slowest_mps);

/// Where a change acts, from its words; empty where nothing is known of it.
[[nodiscard]] std::vector<LapPart> parts_of_change(std::string_view change);

/// Whether several changes can be told apart: each acts on parts that no other acts on.
struct Separable {
    bool all = false;
    std::string text;  ///< in a sentence
};
[[nodiscard]] Separable separable(const std::vector<std::string>& changes);

}  // namespace rendak
