#pragma once

#include <span>
#include <string>
#include <vector>

#include "core/laps/prepared_lap.h"

namespace rendak {

/// A curve of heights, SI.
struct HeightCurve {
    std::vector<double> at;  ///< metres of track, or m/s
    std::vector<double> height_m;
};

/// The lowest that any of the channels shows on any of the laps, every 10 m of track.
[[nodiscard]] HeightCurve lowest_round_the_lap(std::span<const PreparedLap> laps,
                                               std::span<const std::string> channels);

/// How far speed presses the car down: mean height over speed in steps of 2.5 m/s, straight on (below 1 m/s² of lateral
/// acceleration) and neither braking nor pulling hard (below 4 m/s²), where the laps have half a second of it. Empty
/// where one of the channels it takes is not logged.
[[nodiscard]] HeightCurve height_by_speed(std::span<const PreparedLap> laps, const std::string& channel);

}  // namespace rendak
