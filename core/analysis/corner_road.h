#pragma once

#include <optional>

#include "core/track/track.h"

namespace rendak {

/// How the road lies in a corner, as far as the track tells.
struct CornerRoad {
    /// Mean lean over the middle third; positive helps (the outer side is higher). Empty where it is not known.
    std::optional<double> banking_rad;
    bool banked = false;  ///< by over 1.5°, and by more than twice its standard deviation
};
[[nodiscard]] CornerRoad corner_road(const Track& track, const Corner& corner);

}  // namespace rendak
