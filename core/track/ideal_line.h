#pragma once

#include "core/track/track.h"

namespace rendak {

/// How far left of the track's line the line of least curvature runs, one value a point of the line: the offsets inside
/// the edges (less `margin_m`, half a car) that make the sum of squared curvatures smallest (Braghin et al. 2008),
/// found with a log barrier and Newton steps (Boyd and Vandenberghe 2004). Empty when the track's edges are not known.
[[nodiscard]] std::vector<double> ideal_line(const Track& track, double margin_m = 1.0);

}  // namespace rendak
