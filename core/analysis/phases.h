#pragma once

#include "core/laps/prepared_lap.h"

namespace rendak {

/// What the driver does at a moment.
enum class Phase { straight, braking, turning, full_throttle };

/// A stretch of the lap in one phase. Spans cover 0 … length.
struct PhaseSpan {
    Interval range_m;
    Phase phase;
};

/// The phases of a lap, sampled every 2 m; stretches shorter than 6 m join their neighbour. Turning =
/// cornering (or the track's curvature, where no lateral acceleration is known) without brake or full throttle. What
/// brake, throttle and cornering are says DriverActivity.
[[nodiscard]] std::vector<PhaseSpan> phases_of(const PreparedLap& lap);

}  // namespace rendak
