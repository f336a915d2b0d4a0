#pragma once

#include <vector>

#include "core/laps/prepared_lap.h"
#include "demo/drive.h"

namespace rendak::test {

/// Skerrow Point as it was drawn, made once a process.
[[nodiscard]] const demo::Circuit& drawn_circuit();
[[nodiscard]] const std::shared_ptr<const Track>& drawn_track();

/// The track of a circuit as it was drawn: its middle, its corners, its height.
[[nodiscard]] std::shared_ptr<const Track> drawn_track(const demo::Circuit& circuit);

/// The flying laps of a drive as its main logger records them, each placed where the car truly was: for what is
/// computed of channels, without what positions add to it.
[[nodiscard]] std::vector<PreparedLap> exact_laps(const demo::Circuit& circuit,
                                                  const std::shared_ptr<const Track>& track, const demo::RunPlan& plan);

}  // namespace rendak::test
