#include "demo/truth.h"

#include <cmath>
#include <nlohmann/json.hpp>

#include "demo/suspension.h"

namespace rendak::demo {
namespace {

const char* name_of(Cue::Kind kind) {
    switch (kind) {
        case Cue::Kind::brake_early:
            return "brake_early_m";
        case Cue::Kind::slower:
            return "slower_share";
        case Cue::Kind::lift:
            return "lift_to_throttle";
        case Cue::Kind::coast:
            return "coast_m";
        case Cue::Kind::wide:
            return "wide_m";
        case Cue::Kind::lock_up:
            return "lock_up_fl_s";
        case Cue::Kind::off:
            return "off_m";
        case Cue::Kind::traffic:
            return "traffic_share";
        case Cue::Kind::soft_brake:
            return "soft_brake_share";
        case Cue::Kind::hesitate:
            return "hesitate_to_throttle";
        case Cue::Kind::early_turn:
            return "early_turn_m";
    }
    return "";
}

}  // namespace

std::string truth_json(const Circuit& circuit, const RunPlan& plan, const Drive& drive) {
    nlohmann::ordered_json root;
    root["run"] = plan.name;
    root["driver"] = plan.driver;
    root["lap_length_m"] = circuit.length_m;
    root["crossings_s"] = drive.crossings_s;
    if (circuit.open) root["launch_s"] = drive.launch_s;
    for (const CircuitCorner& corner : circuit.corners) {
        root["corners"].push_back({{"number", corner.number},
                                   {"start_m", corner.start_m},
                                   {"apex_m", corner.apex_m},
                                   {"end_m", corner.end_m},
                                   {"left", corner.left}});
    }
    for (std::size_t lap = 0; lap < plan.laps.size(); ++lap) {
        for (const Cue& cue : plan.laps[lap].cues) {
            root["planted"].push_back(
                {{"lap", lap}, {"corner", cue.corner}, {"what", name_of(cue.kind)}, {"value", cue.value}});
        }
    }
    const Car& car = plan.car;
    const CarState& state = plan.state;
    root["car"] = {{"power_w", car.power_w},
                   {"drag_area_m2", car.drag_m2},
                   {"downforce_area_m2", car.downforce_m2},
                   {"mass_kg", car.mass_kg},
                   {"understeer_rad_per_g", car.understeer_rad_per_g},
                   {"ride_height_front_mm", 1000 * state.front_ride_height_m},
                   {"packers_front_mm", 1000 * state.front_packers_m},
                   {"front_roll_share", front_roll_share(state)},
                   {"bump_rear_clicks", state.rear_bump_clicks},
                   {"best_bump_rear_clicks", best_rear_bump_clicks}};
    nlohmann::ordered_json times = nlohmann::json::array();
    const double last = drive.along_m.back();
    const double first = std::ceil(drive.first_m / 10) * 10;
    root["ten_metres"]["first_m"] = first;
    for (double along = first; along <= last; along += 10) times.push_back(drive.time_at(along));
    root["ten_metres"]["time_s"] = std::move(times);
    return root.dump(1);
}

}  // namespace rendak::demo
