#include "demo/run_plan.h"

namespace rendak::demo {
namespace {

using Kind = Cue::Kind;

constexpr double saturday_morning = 1781334000;  // 13 June 2026, 07:00 UTC

LapPlan calm() {
    return {0.86, 0, {}};
}

RunPlan shakedown() {
    RunPlan run;
    run.name = "Run 1";
    run.driver = "Brandvold";
    run.note = "Shakedown";
    run.seed = 101;
    run.start_unix_s = 1072917120;  // the logger's clock had lost its battery
    run.grip_use = 0.95;
    run.from_pits = false;
    run.laps = {{}, {}, {0.74, 0, {}}, {}};
    run.beacon_offset_m = 55;
    return run;
}

RunPlan baseline() {
    RunPlan run;
    run.name = "Run 2";
    run.driver = "Brandvold";
    run.note = "Baseline";
    run.seed = 102;
    run.start_unix_s = saturday_morning + 5400;
    run.laps = {calm(), {}, {}, {}, {}, {}, {}, {}, {}, calm()};
    run.failures = {{Failure::Kind::damper_rr_flat, 3, 4, 60}};
    run.state.floor_drag_mps2 = 0.35;
    run.tyre_laps = 4;
    return run;
}

RunPlan second_driver() {
    RunPlan run;
    run.name = "Run 3";
    run.driver = "Osei";
    run.note = "Same car, second driver";
    run.seed = 103;
    run.start_unix_s = saturday_morning + 9900;
    run.brake_use = 0.92;
    run.grip_use = 0.972;
    const LapPlan habit{1,
                        0,
                        {{Kind::brake_early, 5, 14},
                         {Kind::slower, 5, 0.06},
                         {Kind::lift, 6, 0.25},
                         {Kind::wide, 10, 1.8},
                         {Kind::coast, 13, 30},
                         {Kind::coast, 3, 38}}};
    run.laps = {calm()};
    for (int lap = 1; lap <= 7; ++lap) {
        LapPlan plan = habit;
        if (lap == 2) {
            std::erase_if(plan.cues, [](const Cue& cue) { return cue.kind == Kind::lift; });
            plan.pace = 0.965;
        }
        if (lap == 3)
            plan.cues.insert(plan.cues.end(),
                             {{Kind::traffic, 11, 0.16}, {Kind::traffic, 12, 0.16}, {Kind::traffic, 13, 0.14}});
        if (lap == 5) plan.cues.insert(plan.cues.end(), {{Kind::lock_up, 1, 0.7}, {Kind::off, 1, 9}});
        run.laps.push_back(plan);
    }
    run.laps.push_back(calm());
    run.failures = {{Failure::Kind::gps_missing, 3, 9, 4}};
    run.tyre_laps = 14;
    return run;
}

constexpr double sunday_morning = saturday_morning + 86400;

std::vector<LapPlan> laps_between_pits(int flying) {
    std::vector<LapPlan> laps(static_cast<std::size_t>(flying) + 2);
    laps.front() = laps.back() = calm();
    return laps;
}

/// 18 laps; the pace fades with the front tyres.
RunPlan long_run(const char* name, std::uint64_t seed, double start, double fade_a_lap) {
    RunPlan run;
    run.name = name;
    run.session = "Sunday";
    run.driver = "Brandvold";
    run.seed = seed;
    run.start_unix_s = start;
    run.laps = laps_between_pits(18);
    for (std::size_t lap = 1; lap + 1 < run.laps.size(); ++lap)
        run.laps[lap].pace = 1 - fade_a_lap * static_cast<double>(lap - 1);
    run.state.wear_per_lap = fade_a_lap;
    run.state.fuel_l = 28;
    run.state.burns_l_per_lap = 1.1;
    run.state.floor_drag_mps2 = 0.35;
    run.weather = "dry, 21 °C";
    return run;
}

}  // namespace

std::vector<RunPlan> saturday() {
    return {shakedown(), baseline(), second_driver()};
}

RunPlan less_wing() {
    RunPlan run;
    run.name = "Run 4";
    run.driver = "Brandvold";
    run.note = "Less wing";
    run.changes = "less rear wing; new brake ducts; packers front";
    run.setup = "Base 2";
    run.seed = 104;
    run.start_unix_s = saturday_morning + 14400;
    run.tyre_laps = 23;
    run.car.downforce_m2 = 1.45;
    run.car.drag_m2 = 0.79;
    run.state.front_ride_height_m = 0.027;
    run.state.front_packers_m = 0.006;
    run.state.floor_drag_mps2 = 0.35;
    run.state.brake_cooling = 1.35;
    run.laps = laps_between_pits(6);
    return run;
}

RunPlan cut_off_run() {
    RunPlan run;
    run.name = "Run 4b";
    run.driver = "Osei";
    run.note = "The logger lost its power";
    run.setup = "Base 2";
    run.seed = 114;
    run.start_unix_s = saturday_morning + 18000;
    run.laps = laps_between_pits(3);
    return run;
}

std::vector<RunPlan> two_stints() {
    RunPlan run;
    run.name = "Afternoon";
    run.driver = "Osei";
    run.note = "Two stints in one file";
    run.setup = "Base 2";
    run.seed = 124;
    run.start_unix_s = saturday_morning + 21600;
    run.laps = laps_between_pits(2);
    run.failures = {{Failure::Kind::rear_brake_saturated, 0, 0, 0},
                    {Failure::Kind::tyre_pressure_rl_dead, 0, 0, 0},
                    {Failure::Kind::oil_temperature_spikes, 0, 0, 0}};
    RunPlan second = run;
    second.seed = 125;
    second.driver = "Brandvold";
    return {run, second};
}

std::vector<RunPlan> sunday() {
    std::vector<RunPlan> runs;
    RunPlan x = long_run("Run 5", 105, sunday_morning + 3600, 0.003);
    x.note = "Long run, setup X";
    x.setup = "Long X 1";
    x.changes = "long-run setup";
    x.tyre_set = "C2";
    x.car.understeer_rad_per_g = 0.022;
    x.state.rear_bar_n_per_m = 20e3;
    x.state.front_tyre_heat = 1.22;
    x.state.rear_tyre_heat = 0.9;
    x.state.left_tyre_heat = 1.12;
    x.state.oil_surges = true;
    x.state.worn_per_lap = {0.0255, 0.020, 0.016, 0.0155};
    runs.push_back(x);
    RunPlan y = long_run("Run 6", 106, sunday_morning + 9000, 0.0009);
    y.note = "Long run, setup Y";
    y.setup = "Long Y 1";
    y.changes = "rear bar stiffer, front springs softer";
    y.tyre_set = "C3";
    y.state.front_spring_n_per_m = 100e3;
    y.state.rear_bar_n_per_m = 45e3;
    y.state.front_tyre_heat = 1.03;
    y.state.rear_tyre_heat = 0.92;
    y.state.left_tyre_heat = 1.02;
    y.state.worn_per_lap = {0.0182, 0.0172, 0.0178, 0.0167};
    y.laps[14].stands_s = 40;
    runs.push_back(y);
    for (int step = 0; step < 6; ++step) {
        RunPlan run;
        run.name = "Run " + std::to_string(7 + step);
        run.session = "Sunday";
        run.driver = "Brandvold";
        run.note = "Ladder, rear damper step " + std::to_string(step + 1);
        run.changes = "rear damper bump " + std::to_string(2 * step + 2) + " clicks";
        run.setup = "Ladder " + std::to_string(step + 1);
        run.tyre_set = "C3";
        run.tyre_laps = 18 + 3.0 * step;
        run.weather = "dry, 23 °C";
        run.seed = static_cast<std::uint64_t>(107 + step);
        run.start_unix_s = sunday_morning + 14400 + 1500 * step;
        run.scatter = 0.7;
        run.laps = laps_between_pits(3);
        run.state = y.state;
        run.state.rear_bump_clicks = 2 * step + 2;
        run.state.burns_l_per_lap = 0;
        run.state.worn_per_lap = {};
        runs.push_back(run);
    }
    RunPlan fresh = less_wing();
    fresh.name = "Run 13";
    fresh.session = "Sunday";
    fresh.note = "New tyres";
    fresh.changes = "new tyres";
    fresh.setup = "Base 1";
    fresh.tyre_set = "C4";
    fresh.tyre_laps = 0;
    fresh.seed = 113;
    fresh.start_unix_s = sunday_morning + 25200;
    fresh.weather = "dry, 22 °C";
    fresh.car = Car{};
    fresh.state = CarState{};
    fresh.state.floor_drag_mps2 = 0.35;
    fresh.grip_use = 0.99;
    runs.push_back(fresh);
    return runs;
}

RunPlan guest_car() {
    RunPlan run;
    run.name = "Run 14";
    run.session = "Sunday";
    run.driver = "Arnkell";
    run.car_name = "Guest prototype 8";
    run.note = "Another kind of car, more wing";
    run.tyre_set = "G1";
    run.weather = "dry, 21 °C";
    run.seed = 134;
    run.start_unix_s = sunday_morning + 28800;
    run.car.downforce_m2 = 2.65;
    run.car.drag_m2 = 1.02;
    run.grip_use = 0.985;
    run.laps = laps_between_pits(5);
    return run;
}

RunPlan edge_laps() {
    RunPlan run;
    run.name = "Road edges";
    run.session = "Sunday";
    run.driver = "Osei";
    run.note = "Slow laps along the edges of the road: left, then right";
    run.tyre_set = "C1";
    run.tyre_laps = 40;
    run.weather = "dry, 15 °C";
    run.seed = 120;
    run.start_unix_s = sunday_morning - 3600;
    run.scatter = 0.3;
    run.laps = {{0.6, 0, {}}, {0.5, 1, {}}, {0.6, 0, {}}, {0.5, -1, {}}, {0.6, 0, {}}};
    return run;
}

std::vector<RunPlan> hill_climb() {
    std::vector<RunPlan> runs;
    const double stands[] = {4, 11, 23};
    for (int k = 0; k < 3; ++k) {
        RunPlan run;
        run.name = "Climb " + std::to_string(k + 1);
        run.session = "Climbs";
        run.driver = k == 1 ? "Osei" : "Brandvold";
        run.note = k == 0 ? "First look at the hill" : k == 1 ? "Second driver" : "Knows the road now";
        run.tyre_set = "C4";
        run.tyre_laps = 12 + k;
        run.weather = "dry, 14 °C";
        run.seed = static_cast<std::uint64_t>(130 + k);
        run.start_unix_s = sunday_morning + 6 * 86400 + 1800 * k;
        run.from_pits = false;
        run.stands_s = stands[k];
        run.grip_use = k == 0 ? 0.93 : k == 1 ? 0.95 : 0.97;
        run.laps = {{}};
        runs.push_back(run);
    }
    return runs;
}

}  // namespace rendak::demo
