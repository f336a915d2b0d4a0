#include "demo/run_plan.h"

namespace rendak::demo {
namespace {

using Kind = Cue::Kind;

constexpr double saturday_morning = 1781334000;  // 13 June 2026, 07:00 UTC

LapPlan calm() {
    return {0.86, {}};
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
    run.laps = {{}, {}, {0.74, {}}, {}};
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
    return run;
}

}  // namespace

std::vector<RunPlan> saturday() {
    return {shakedown(), baseline(), second_driver()};
}

}  // namespace rendak::demo
