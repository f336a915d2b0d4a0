#pragma once

#include "core/library/library.h"

namespace rendak {

/// The fastest lap of one driver with one car on one track, in all events of a library.
struct BestLap {
    LapRef lap;
    std::string track, car, driver, event, session, run;
    double time_s = 0;
    std::optional<double> start_unix_s;               ///< of the run
    std::string zone;                                 ///< of its event
    int laps = 0;                                     ///< of this driver and car there that count
    bool best_of_track = false, best_of_car = false;  ///< on the track; of all drivers with this car on it
};

/// Laps that count (Lap::counts()) of runs with a track, by track and then from the fastest on.
[[nodiscard]] Result<std::vector<BestLap>> best_laps(const Library& library, const JobContext& job = {});

}  // namespace rendak
