#pragma once

#include <vector>

#include "demo/circuit.h"

namespace rendak::demo {

/// Offsets to the left of the centreline (one a point of the circuit) that make the driven line's bending as
/// small as the track's width, less `margin_m` on each side, allows.
[[nodiscard]] std::vector<double> racing_line(const Circuit& circuit, double margin_m);

}  // namespace rendak::demo
