#pragma once

#include <array>
#include <cstdint>
#include <string>
#include <vector>

#include "demo/car.h"

namespace rendak::demo {

inline constexpr const char* own_car_name = "Club prototype 27";

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
        soft_brake,   ///< value: share of the usual braking that is used
        hesitate,     ///< value: throttle left for 35 m, from 15 m behind the apex on
        early_turn,   ///< value: metres by which the line through the corner is driven earlier; less than 0: later
    };
    Kind kind;
    int corner;
    double value;
};

struct LapPlan {
    double pace = 1;     ///< share of the grip that is used
    int along_edge = 0;  ///< 1: slowly along the left edge of the road, -1: along the right one
    std::vector<Cue> cues;
    double stands_s = 0;  ///< it stops before the line, for so long, and drives on on the same tyres
};

/// A stretch of time for which a sensor fails.
struct Failure {
    enum class Kind {
        gps_missing,
        damper_rr_flat,
        rear_brake_saturated,
        tyre_pressure_rl_dead,
        oil_temperature_spikes
    };
    Kind kind;
    int lap;     ///< index in `laps`
    int corner;  ///< it begins 60 m before this corner; 0: it lasts the whole run
    double seconds;
};

/// What is special about the car's parts in a run.
struct CarState {
    double front_ride_height_m = 0.021, rear_ride_height_m = 0.046;
    double front_packers_m = 0;
    double floor_drag_mps2 = 0;              ///< what the floor on the road costs
    double wind_mps = 0, wind_from_deg = 0;  ///< from where it blows, clockwise from north
    double front_spring_n_per_m = 110e3, front_bar_n_per_m = 45e3, rear_bar_n_per_m = 32e3;  ///< at the wheel
    double rear_bump_clicks = 8;
    double front_tyre_heat = 1, rear_tyre_heat = 1, left_tyre_heat = 1;
    double wear_per_lap = 0;  ///< share of the front tyres' grip lost a lap
    /// Share of each tyre's tread worn off a lap: FL FR RL RR; all zero: no sensor looks at it.
    std::array<double, 4> worn_per_lap{};
    double brake_cooling = 1;
    double fuel_l = 34;
    /// The car becomes lighter as it burns so many litres a lap; 0: it weighs what it weighs half full.
    double burns_l_per_lap = 0;
    bool oil_surges = false;  ///< oil pressure sags in long lefts once the tank is half empty
};

struct RunPlan {
    std::string name, driver, note;
    std::string car_name = own_car_name;
    std::string session = "Saturday", changes, tyre_set = "C1", setup = "Base 1", weather = "dry, 17 °C";
    double tyre_laps = 0;
    Car car;
    CarState state;
    std::uint64_t seed = 1;
    double start_unix_s = 0;
    double brake_use = 0.93, grip_use = 0.975;  ///< the driver's habits
    double scatter = 1;                         ///< from lap to lap
    bool from_pits = true;       ///< stands 6 s in the pits, out lap, laps, in lap; else starts and ends in mid-lap
    std::vector<LapPlan> laps;   ///< every lap from line to line, out and in lap included when from the pits
    double stands_s = 6;         ///< before it moves, where it starts from rest
    double beacon_offset_m = 0;  ///< by which the logger's own start line lies behind the real one
    std::vector<Failure> failures;
};

/// Saturday's runs 1 to 3, which the demo library holds.
[[nodiscard]] std::vector<RunPlan> saturday();
/// Saturday's later recordings, which wait on the logger: run 4 with less wing, a short run whose file is cut off, and
/// the two stints that one file holds.
[[nodiscard]] RunPlan less_wing();
[[nodiscard]] RunPlan cut_off_run();
[[nodiscard]] std::vector<RunPlan> two_stints();
/// Sunday's runs 5 to 13: two long runs, a ladder of the rear dampers, new tyres.
[[nodiscard]] std::vector<RunPlan> sunday();
/// A car of another kind on Sunday's evening: half as much wing again as number 27, and the drag that it costs.
[[nodiscard]] RunPlan guest_car();
/// Two slow laps of Skerrow Point along the edges of the road, left and right.
[[nodiscard]] RunPlan edge_laps();
/// Three runs up Corrin Hill; the logger was started at different times before the launch.
[[nodiscard]] std::vector<RunPlan> hill_climb();

}  // namespace rendak::demo
