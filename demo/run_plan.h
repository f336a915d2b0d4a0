#pragma once

#include <cstdint>
#include <string>
#include <vector>

namespace rendak::demo {

/// Something a driver does at one corner of one lap, on cue.
struct Cue {
    enum class Kind {
        brake_early,  ///< value: metres
        slower,       ///< value: share of the corner's speed given up
        lift,         ///< value: throttle left; for 70 m before the corner until its apex
        coast,        ///< value: metres on no pedal before the brake
        wide,         ///< value: metres off the apex
        lock_up,      ///< front left locks under braking; value: seconds
        off,          ///< runs off at the exit; value: metres beyond the line
        traffic,      ///< value: share of the speed given up from this corner to the next
    };
    Kind kind;
    int corner;
    double value;
};

struct LapPlan {
    double pace = 1;  ///< share of the grip that is used
    std::vector<Cue> cues;
};

/// A stretch of time for which a sensor fails.
struct Failure {
    enum class Kind { gps_missing, damper_rr_flat };
    Kind kind;
    int lap;     ///< index in `laps`
    int corner;  ///< it begins 60 m before this corner
    double seconds;
};

struct RunPlan {
    std::string name, driver, note;
    std::uint64_t seed = 1;
    double start_unix_s = 0;
    double brake_use = 0.93, grip_use = 0.975;  ///< the driver's habits
    double scatter = 1;                         ///< from lap to lap
    bool from_pits = true;       ///< stands 6 s in the pits, out lap, laps, in lap; else starts and ends in mid-lap
    std::vector<LapPlan> laps;   ///< every lap from line to line, out and in lap included when from the pits
    double beacon_offset_m = 0;  ///< by which the logger's own start line lies behind the real one
    std::vector<Failure> failures;
};

/// Saturday's runs 1 to 3.
[[nodiscard]] std::vector<RunPlan> saturday();

}  // namespace rendak::demo
