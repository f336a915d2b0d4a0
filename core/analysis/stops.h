#pragma once

#include <limits>
#include <string>
#include <vector>

#include "core/base/interval.h"
#include "core/library/rows.h"
#include "core/recording/recording.h"
#include "core/track/path.h"
#include "core/track/track.h"

namespace rendak {

/// A standing start, or a stop on the way, of a run on a circuit.
struct Stop {
    bool is_start = false;  ///< before the first complete lap, and away hard: 100 km/h within 10 s
    Interval standing_s;    ///< recording time
    int lap = 0;            ///< in which the car moved off again
    /// From moving off to 100 km/h; NaN when it is not reached within 20 s.
    double to_100_kmh_s = std::numeric_limits<double>::quiet_NaN();
    /// Of a start: its launch to the end of the first complete lap, less what a usual lap takes over that road. Of a
    /// stop: the time of its lap and of the laps next to it that do not count (in, out, stopped), less as many usual
    /// laps. The usual lap is the middle one of the flying laps that count. NaN when that cannot be told.
    double lost_s = std::numeric_limits<double>::quiet_NaN();
    std::vector<int> laps;  ///< whose time `lost_s` is made of
};

/// Standing starts and stops in the order driven. Standing before the first metre and after the last is none, unless
/// it is a start. `path` and `track` may be null: then what a start costs cannot be told.
[[nodiscard]] std::vector<Stop> stops_of(const Recording& recording, const std::vector<Lap>& laps, const Path* path,
                                         const Track* track);

/// "stood 24.3 s in lap 7, 61.2 s lost with laps 6 to 8".
[[nodiscard]] std::string stop_words(const Stop& stop);

}  // namespace rendak
