#include "app/focus/focus_state.h"

#include <nlohmann/json.hpp>

namespace rendak::app {

std::string focus_to_json(const FocusState& state) {
    nlohmann::ordered_json out;
    out["laps"] = nlohmann::json::array();
    for (const LapRef lap : state.laps) out["laps"].push_back({lap.run.value, lap.lap});
    out["active_slot"] = state.active_slot;
    out["fastest_is_a"] = state.fastest_is_a;
    out["range_m"] = {state.range_m.begin, state.range_m.end};
    out["cursor_m"] = state.cursor_m;
    out["axis"] = state.axis == Axis::run ? "run" : state.axis == Axis::time ? "time" : "distance";
    out["run_range_s"] = {state.run_range_s.begin, state.run_range_s.end};
    out["run_cursor_s"] = state.run_cursor_s;
    if (state.pin_m) out["pin_m"] = *state.pin_m;
    if (state.run_pin_s) out["run_pin_s"] = *state.run_pin_s;
    out["shifts_s"] = nlohmann::json::array();
    for (const auto& [run, shift] : state.shifts_s) out["shifts_s"].push_back({run.value, shift});
    out["slid_m"] = nlohmann::json::array();
    for (const auto& [lap, by_m] : state.slid_m) out["slid_m"].push_back({lap.run.value, lap.lap, by_m});
    return out.dump();
}

std::optional<FocusState> focus_from_json(const std::string& text) {
    try {
        const auto in = nlohmann::json::parse(text);
        FocusState state;
        for (const auto& lap : in.at("laps"))
            state.laps.push_back({{lap.at(0).get<std::int64_t>()}, lap.at(1).get<int>()});
        if (state.laps.size() > most_laps) state.laps.resize(most_laps);
        state.active_slot = in.at("active_slot").get<int>();
        state.fastest_is_a = in.at("fastest_is_a").get<bool>();
        state.range_m = {in.at("range_m").at(0).get<double>(), in.at("range_m").at(1).get<double>()};
        state.cursor_m = in.at("cursor_m").get<double>();
        const auto axis = in.at("axis").get<std::string>();
        state.axis = axis == "run" ? Axis::run : axis == "time" ? Axis::time : Axis::distance;
        if (in.contains("run_range_s"))
            state.run_range_s = {in["run_range_s"].at(0).get<double>(), in["run_range_s"].at(1).get<double>()};
        state.run_cursor_s = in.value("run_cursor_s", 0.0);
        if (in.contains("pin_m")) state.pin_m = in["pin_m"].get<double>();
        if (in.contains("run_pin_s")) state.run_pin_s = in["run_pin_s"].get<double>();
        if (in.contains("shifts_s")) {
            for (const auto& it : in["shifts_s"])
                state.shifts_s[{it.at(0).get<std::int64_t>()}] = it.at(1).get<double>();
        }
        if (in.contains("slid_m")) {
            for (const auto& it : in["slid_m"])
                state.slid_m[{{it.at(0).get<std::int64_t>()}, it.at(1).get<int>()}] = it.at(2).get<double>();
        }
        return state;
    } catch (const nlohmann::json::exception&) {
        return std::nullopt;  // written by another version: start afresh
    }
}

}  // namespace rendak::app
