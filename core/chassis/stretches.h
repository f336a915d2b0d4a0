#pragma once

#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "core/laps/prepared_lap.h"

namespace rendak {

/// Parts of a lap in which the chassis is looked at.
enum class StretchKind {
    lap,        ///< all of it
    straights,  ///< between corners, 100 m and more
    corners,    ///< from start to end of each
    exits,      ///< of slow corners onto straights: from the slowest place for 4 s, or to where the next braking begins
    kerbs,      ///< in corners, where a damper moves far faster than over the lap, on more than half of the laps
};
[[nodiscard]] std::string_view stretch_kind_name(StretchKind kind);
[[nodiscard]] std::optional<StretchKind> stretch_kind(std::string_view name);

/// A damper that moves so many times faster than over the lap is on a kerb or a bump.
inline constexpr double loud_share = 2.5;

struct Stretch {
    std::string name;
    Interval range_m;
    int corner = 0;     ///< its number; 0: none
    bool left = false;  ///< the corner turns left: the right wheels are loaded
    double time_s = 0;  ///< that the reference lap spends there
};
/// Of a kind, as the quickest of these laps drives them (they are of one track); in the order of the road. A corner is
/// slow when its slowest place is below 60 % of the lap's top speed, and leads onto a straight when the next corner
/// begins 150 m behind its end.
[[nodiscard]] std::vector<Stretch> stretches_of(StretchKind kind, std::span<const PreparedLap> laps);

/// One stretch that somebody chose.
[[nodiscard]] Stretch own_stretch(Interval range_m, std::span<const PreparedLap> laps);

/// When a lap is on a stretch, in recording time.
[[nodiscard]] Interval time_on(const PreparedLap& lap, const Stretch& stretch);

/// The quickest of laps; none is not allowed.
[[nodiscard]] const PreparedLap& quickest_of(std::span<const PreparedLap> laps);

}  // namespace rendak
