#pragma once

#include <string>
#include <vector>

#include "core/base/result.h"
#include "core/recording/recording.h"

namespace rendak {

/// How two recordings lie over each other best.
struct Overlay {
    double shift_s = 0;       ///< what happened in `b` at t fits what happened in `a` at t + shift_s
    double likeness = 0;      ///< correlation coefficient there, over what both have
    double overlap_s = 0;     ///< how much both have
    std::string quantity;     ///< by which it was found
    bool by_stretch = false;  ///< all of it was not alike, a stretch of `overlap_s` was
    /// Other shifts that fit nearly as well (within 0.03 of the likeness), as of laps of one road; nearest first, at
    /// most five.
    std::vector<double> others_s;
};

/// The shift at which a quantity that both log (speed, else revs, throttle, lateral or longitudinal acceleration, yaw
/// rate) is most alike: the highest correlation coefficient over all shifts with an overlap of at least 20 s and a
/// third of the shorter recording, first in coarse steps, then to a hundredth of a second. Where all of it is not alike
/// (laps of one road in other times), the liveliest two minutes of `b` are laid over `a`. An error when they share no
/// such channel, are too short, or when nothing is alike (below 0.75; 0.88 of a stretch).
[[nodiscard]] Result<Overlay> overlay_of(const Recording& a, const Recording& b);

}  // namespace rendak
