#pragma once

#include <QString>
#include <vector>

#include "app/focus/comparison.h"

namespace rendak::app {

/// "Turn 5": how a zone is called.
[[nodiscard]] QString zone_name(const ZoneDifference& difference);

/// What a lap does differently in a zone, most telling first, at most two things: "brakes 14 m earlier, 2.2 km/h slower
/// at the slowest point". Empty when nothing stands out.
[[nodiscard]] QString evidence(const ZoneDifference& difference);

/// The zones that hold most of the gap (of the gap's own sign), largest first, at most `most`.
[[nodiscard]] std::vector<const ZoneDifference*> largest_zones(const ComparedLap& lap, std::size_t most);

/// "B (Osei, Run 3 lap 6) loses 1.782 s to A. Turns 5, 6 and 4 hold 1.553 s of it."
[[nodiscard]] QString headline(const ComparedLaps& laps, int slot);

/// "Osei, Run 3 lap 6"
[[nodiscard]] QString lap_name(const ComparedLap& lap);

}  // namespace rendak::app
