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
/// The same, with what tells its run from others of that name among the picked laps.
[[nodiscard]] QString lap_name(const ComparedLap& lap, const ComparedLaps& among);
/// A run's name; where others that are shown are called the same, with what tells it from them: event, session, day,
/// driver, or at last its number.
[[nodiscard]] QString run_title(const RunRow& run, const std::vector<std::shared_ptr<const RunData>>& among);
/// What a place of the track is called: its corner or straight.
[[nodiscard]] QString place_name(const Track& track, double at_m);
[[nodiscard]] std::vector<std::shared_ptr<const RunData>> runs_of(const ComparedLaps& laps);

}  // namespace rendak::app
