#include "cli/chassis_commands.h"

#include <cmath>
#include <nlohmann/json.hpp>

#include "cli/lap_sets.h"
#include "cli/output.h"
#include "cli/stretch_choice.h"
#include "core/analysis/set_difference.h"
#include "core/chassis/air_load.h"
#include "core/chassis/balance.h"
#include "core/chassis/damper_speed.h"
#include "core/chassis/dampers.h"
#include "core/chassis/heights.h"
#include "core/chassis/power.h"
#include "core/chassis/strikes.h"
#include "core/trials/chassis_sheet.h"
#include "core/trials/setup_hints.h"
#include "core/units/gravity.h"

namespace rendak::cli {
namespace {

/// Two ends of an interval as two fields.
void put_likely(Json& out, const std::string& what, const std::optional<Interval>& likely) {
    out["low_" + what] = low_or_null(likely);
    out["high_" + what] = high_or_null(likely);
}

/// One set or two, with what their sheets say.
struct Looked {
    LapSet a;
    std::optional<LapSet> b;
    ChassisSheet sheet_a, sheet_b;
};
Result<Looked> looked_at(const std::string& folder, const ChassisSets& sets) {
    const auto library = open_existing(folder);
    if (!library) return pass_on(library.error());
    Looked out;
    if (sets.against.empty()) {
        auto set = set_of(folder, sets.laps, sets.mixed);
        if (!set) return pass_on(set.error());
        out.a = std::move(*set);
    } else {
        auto both = sides_of(folder, sets.laps, sets.against, sets.mixed);
        if (!both) return pass_on(both.error());
        out.a = std::move(both->a);
        out.b = std::move(both->b);
    }
    if (out.a.laps.empty() || (out.b && out.b->laps.empty()))
        return fail(ErrorCode::not_found, "No lap of these counts. Name laps (RUN:LAP) or switch them in.");
    auto sheet = chassis_sheet(**library, *out.a.runs.front());
    if (!sheet) return pass_on(sheet.error());
    out.sheet_a = *sheet;
    if (!out.b) return out;
    sheet = chassis_sheet(**library, *out.b->runs.front());
    if (!sheet) return pass_on(sheet.error());
    out.sheet_b = *sheet;
    return out;
}

/// Of one side or two, each made by `make`.
template <class Make>
int print_sides(const Looked& looked, const Make& make, Json out = Json::object()) {
    const auto a = make(looked.a, looked.sheet_a);
    if (!a) return report(a.error());
    out["a"] = *a;
    if (looked.b) {
        const auto b = make(*looked.b, looked.sheet_b);
        if (!b) return report(b.error());
        out["b"] = *b;
    }
    return print(out);
}

Json json_of(const SetFigure& figure) {
    if (!figure.known()) return nullptr;
    Json out{{"mean", figure.mean}, {"sd", figure.sd}, {"on", figure.on}, {"of", figure.laps.size()}};
    put_likely(out, "mean", figure.likely);
    return out;
}

Json shares_json(const DamperShares& shares) {
    return {{"rebound_fast", shares.rebound_fast},
            {"rebound_slow", shares.rebound_slow},
            {"bump_slow", shares.bump_slow},
            {"bump_fast", shares.bump_fast}};
}

}  // namespace

int print_heights(const std::string& folder, const ChassisSets& sets) {
    const auto looked = looked_at(folder, sets);
    if (!looked) return report(looked.error());
    const auto heights = heights_of(looked->a.laps, looked->sheet_a);
    if (!heights) return report(heights.error());
    Json out{{"laps", heights->laps}, {"axles", Json::array()}, {"places", Json::array()}};
    for (const Heights::Axle& axle : heights->axles)
        out["axles"].push_back({{"axle", axle.front ? "front" : "rear"},
                                {"channels", axle.channels},
                                {"from_dampers", axle.from_dampers},
                                {"limit_mm", 1000 * axle.limit_m},
                                {"limit_from_sheet", axle.limit_from_sheet},
                                {"lowest_mm", 1000 * axle.lowest_m},
                                {"lowest_at_m", axle.lowest_at_m},
                                {"times_a_lap", axle.times}});
    for (const LowPlace& place : heights->places) {
        Json row{{"axle", place.front ? "front" : "rear"},
                 {"place", place.title},
                 {"from_m", place.range_m.begin},
                 {"to_m", place.range_m.end},
                 {"lowest_at_m", place.lowest_at_m},
                 {"on", place.on},
                 {"of", place.of},
                 {"lowest_mm", 1000 * place.lowest_m},
                 {"depth_mm", 1000 * place.depth_m},
                 {"below_s", place.time_s},
                 {"times_a_lap", place.times},
                 {"speed_kmh", or_null(3.6 * place.speed_mps)},
                 {"lateral_g", or_null(place.lateral_mps2 / standard_gravity_mps2)},
                 {"left_mm", place.left_m ? Json(1000 * *place.left_m) : Json(nullptr)},
                 {"right_mm", place.right_m ? Json(1000 * *place.right_m) : Json(nullptr)},
                 {"cause", std::string(low_cause_name(place.cause))},
                 {"remedy", std::string(low_remedy(place.cause))},
                 {"speed_cost_kmh", place.speed_cost_mps ? Json(3.6 * *place.speed_cost_mps) : Json(nullptr)}};
        auto likely = place.speed_cost_likely;
        if (likely) likely = Interval{3.6 * likely->begin, 3.6 * likely->end};
        put_likely(row, "speed_cost_kmh", likely);
        out["places"].push_back(std::move(row));
    }
    for (const std::string& untold : heights->untold) say(untold);
    return sets.csv ? print_rows(out["places"]) : print(out);
}

int print_dampers(const std::string& folder, const ChassisSets& sets, const StretchChoice& stretch, double fast_mps) {
    const auto looked = looked_at(folder, sets);
    if (!looked) return report(looked.error());
    const auto stretches = chosen_stretches(stretch, looked->a.laps, StretchKind::lap);
    if (!stretches) return report(stretches.error());
    const auto a = dampers_of(looked->a.laps, *stretches, fast_mps);
    if (!a) return report(a.error());
    Result<std::vector<DamperFigures>> b;
    if (looked->b) {
        b = dampers_of(looked->b->laps, *stretches, fast_mps);
        if (!b) return report(b.error());
    }
    Json out{{"fast_mm_s", 1000 * fast_mps}, {"stretches", stretches_json(*stretches)}, {"wheels", Json::array()}};
    Json table = Json::array();
    for (const DamperFigures& wheel : *a) {
        const auto row_of = [](const DamperFigures& it) {
            Json row{{"laps", it.laps.size()},
                     {"rms_mm_s", 1000 * mean_value(it.rms_mps)},
                     {"bump_mm_s", 1000 * it.bump_mps},
                     {"rebound_mm_s", 1000 * it.rebound_mps},
                     {"symmetry", it.symmetry()},
                     {"fastest_bump_mm_s", 1000 * it.fastest_bump_mps},
                     {"fastest_rebound_mm_s", 1000 * it.fastest_rebound_mps},
                     {"beyond", it.beyond},
                     {"ride_hz", or_null(it.ride_hz)},
                     {"damping", or_null(it.damping)}};
            put_likely(row, "damping", it.damping_likely);
            row["says"] = says_name(it.says);
            row["text"] = damper_words(it);
            row["shares"] = shares_json(it.shares);
            row["histogram"] = it.share;
            return row;
        };
        Json row{{"wheel", wheel.wheel}};
        row.update(row_of(wheel));
        for (const DamperFigures& other : b ? *b : std::vector<DamperFigures>{}) {
            if (other.wheel != wheel.wheel) continue;
            row["against"] = row_of(other);
            // Each share lap by lap, so that what does not differ is said not to.
            const auto differs = [&](const char* name, double DamperShares::*share) {
                std::vector<double> left, right;
                for (const DamperShares& lap : wheel.laps) left.push_back(lap.*share);
                for (const DamperShares& lap : other.laps) right.push_back(lap.*share);
                Json change{{"change", mean_value(right) - mean_value(left)}};
                put_likely(change, "change", likely_difference(left, right));
                row["changes"][name] = std::move(change);
            };
            differs("rebound_fast", &DamperShares::rebound_fast);
            differs("rebound_slow", &DamperShares::rebound_slow);
            differs("bump_slow", &DamperShares::bump_slow);
            differs("bump_fast", &DamperShares::bump_fast);
        }
        out["wheels"].push_back(std::move(row));
    }
    if (!sets.csv) return print(out);
    for (std::size_t bin = 0; bin < DamperScale::bins; ++bin) {
        Json row{{"from_mm_s", 1000 * (DamperScale::middle_mps(bin) - DamperScale::step_mps / 2)},
                 {"to_mm_s", 1000 * (DamperScale::middle_mps(bin) + DamperScale::step_mps / 2)}};
        for (const DamperFigures& wheel : *a) row[wheel.wheel] = wheel.share[bin];
        for (const DamperFigures& wheel : looked->b ? *b : std::vector<DamperFigures>{})
            row["against_" + wheel.wheel] = wheel.share[bin];
        table.push_back(std::move(row));
    }
    return print_rows(table);
}

int print_balance(const std::string& folder, const ChassisSets& sets) {
    const auto looked = looked_at(folder, sets);
    if (!looked) return report(looked.error());
    Json table = Json::array();
    const auto make = [&](const LapSet& set, const ChassisSheet& sheet) -> Result<Json> {
        const auto balance = balance_of(set.laps, sheet);
        if (!balance) return pass_on(balance.error());
        for (const std::string& untold : balance->untold) say(untold);
        Json out{{"laps", balance->laps}, {"text", balance_words(*balance)}, {"corners", Json::array()}};
        for (const CornerBalance& corner : balance->corners) {
            Json row{{"corner", corner.corner},
                     {"name", corner.name},
                     {"left", corner.left},
                     {"slowest_kmh", or_null(3.6 * corner.speed_mps)},
                     {"peak_g", or_null(corner.lateral_mps2 / standard_gravity_mps2)}};
            row["angle_rad"] = json_of(corner.whole);
            Json flat = row;
            flat.erase("angle_rad");
            flat["angle_rad"] = or_null(corner.whole.mean);
            for (std::size_t p = 0; p < corner_parts.size(); ++p) {
                const std::string name = corner_part_name(corner_parts[p]);
                row[name + "_rad"] = json_of(corner.parts[p]);
                flat[name + "_rad"] = or_null(corner.parts[p].mean);
            }
            out["corners"].push_back(std::move(row));
            table.push_back(std::move(flat));
        }
        for (std::size_t p = 0; p < corner_parts.size(); ++p)
            out[corner_part_name(corner_parts[p])] = json_of(balance->parts[p]);
        out["slope_rad_per_mps2"] = json_of(balance->slope);
        out["left_corners_rad"] = json_of(balance->left);
        out["right_corners_rad"] = json_of(balance->right);
        out["slower_corners_rad"] = json_of(balance->slow);
        out["faster_corners_rad"] = json_of(balance->fast);
        out["roll_rad_per_mps2"] = json_of(balance->roll_per_mps2);
        out["pitch_rad_per_mps2"] = json_of(balance->pitch_per_mps2);
        out["front_roll_share"] = json_of(balance->front_roll_share);
        out["front_roll_share_sheet"] = or_null(balance->front_roll_share_sheet);
        out["front_minus_rear_tyre_k"] = json_of(balance->front_minus_rear_k);
        out["ride_hz_front"] = or_null(balance->ride_hz[0]);
        out["ride_hz_rear"] = or_null(balance->ride_hz[1]);
        return out;
    };
    if (!sets.csv) return print_sides(*looked, make);
    const auto made = make(looked->a, looked->sheet_a);
    return made ? print_rows(table) : report(made.error());
}

int print_pull(const std::string& folder, const ChassisSets& sets) {
    const auto looked = looked_at(folder, sets);
    if (!looked) return report(looked.error());
    const auto make = [&](const LapSet& set, const ChassisSheet& sheet) -> Result<Json> {
        const auto fit = power_of(set.laps, power_input(*set.runs.front()));
        if (!fit) return pass_on(fit.error());
        const bool by_mass = fit->mass_kg.has_value();
        Json out{{"laps", fit->laps.size()},
                 {by_mass ? "power_w" : "power_w_per_kg", fit->power},
                 {by_mass ? "drag_area_m2" : "drag_area_m2_per_kg", fit->drag_area},
                 {"top_kmh", 3.6 * fit->top_mps},
                 {"metres", fit->metres},
                 {"from_kmh", 3.6 * fit->least_mps},
                 {"to_kmh", 3.6 * fit->most_mps},
                 {"with_slope", fit->with_slope},
                 {"with_wind", fit->with_wind},
                 {"with_height", fit->with_height},
                 {"near_road", fit->near_road},
                 {"doubts", fit->doubts}};
        put_likely(out, "power", fit->power_likely);
        put_likely(out, "drag_area", fit->drag_likely);
        const auto air = air_load_of(set.laps, sheet, power_input(*set.runs.front()).air_kg_per_m3);
        if (!air) say(air.error().text());
        out["downforce_area_front_m2"] = air ? json_of(air->front_m2) : Json(nullptr);
        out["downforce_area_rear_m2"] = air ? json_of(air->rear_m2) : Json(nullptr);
        out["downforce_front_share"] = air ? json_of(air->front_share) : Json(nullptr);
        return out;
    };
    Json out = Json::object();
    if (looked->b) {
        const auto a = power_of(looked->a.laps, power_input(*looked->a.runs.front()));
        const auto b = power_of(looked->b->laps, power_input(*looked->b->runs.front()));
        const PowerChange change = a && b ? power_change(*a, *b) : PowerChange{};
        put_likely(out, "change_power", change.power);
        put_likely(out, "change_drag_area", change.drag_area);
        out["by_speed"] = Json::array();
        for (const SpeedStep& step : pull_by_speed(looked->a.laps, looked->b->laps)) {
            Json row{{"from_kmh", 3.6 * step.from_mps},
                     {"a_mps2", mean_value(step.a)},
                     {"b_mps2", mean_value(step.b)},
                     {"a_laps", step.a.size()},
                     {"b_laps", step.b.size()}};
            put_likely(row, "difference_mps2", step.likely);
            out["by_speed"].push_back(std::move(row));
        }
    }
    if (!sets.csv) return print_sides(*looked, make, std::move(out));
    if (looked->b) return print_rows(out["by_speed"]);
    const auto fit = power_of(looked->a.laps, power_input(*looked->a.runs.front()));
    if (!fit) return report(fit.error());
    Json rows = Json::array();
    for (const LapPower& lap : fit->laps)
        rows.push_back({{"run", lap.lap.run.value},
                        {"lap", lap.lap.lap},
                        {"power_w_per_kg", lap.power_w_per_kg},
                        {"drag_area_m2_per_kg", lap.drag_m2_per_kg},
                        {"top_kmh", 3.6 * lap.top_mps}});
    return print_rows(rows);
}

int print_strikes(const std::string& folder, const ChassisSets& sets) {
    const auto looked = looked_at(folder, sets);
    if (!looked) return report(looked.error());
    const Strikes strikes = strikes_of(looked->a.laps);
    if (!strikes.dampers) say("Kerbs cannot be told: no damper travel is logged.");
    if (!strikes.wheel_speeds) say("Lock-ups cannot be told: no wheel speeds are logged.");
    Json out{{"laps", strikes.laps}, {"front_brake_share", or_null(strikes.brake_share)}, {"corners", Json::array()}};
    Json table = Json::array();
    for (const CornerStrikes& corner : strikes.corners) {
        for (std::size_t w = 0; w < 4; ++w) {
            if (corner.kerb_laps[w] == 0 && corner.lock_ups[w] == 0) continue;
            table.push_back({{"corner", corner.corner},
                             {"name", corner.name},
                             {"wheel", wheel_corners[w]},
                             {"kerb_laps", corner.kerb_laps[w]},
                             {"kerb_mm_s", corner.kerb_laps[w] > 0 ? Json(1000 * corner.kerb_mps[w]) : Json(nullptr)},
                             {"lock_ups", corner.lock_ups[w]},
                             {"locked_s", corner.locked_s[w]},
                             {"front_brake_share", or_null(corner.brake_share)}});
        }
    }
    out["corners"] = table;
    return sets.csv ? print_rows(table) : print(out);
}

int print_hints(const std::string& folder, const ChassisSets& sets) {
    const auto looked = looked_at(folder, sets);
    if (!looked) return report(looked.error());
    const auto hints = setup_hints(looked->a.laps, looked->sheet_a);
    if (!hints) return report(hints.error());
    Json out{{"none", hints->none}, {"hints", Json::array()}};
    for (const SetupHint& hint : hints->hints)
        out["hints"].push_back({{"evidence", hint.evidence},
                                {"driver_first", hint.driver_first},
                                {"possible", hint.possible},
                                {"share_of_laps", hint.sure}});
    return sets.csv ? print_rows(out["hints"]) : print(out);
}

}  // namespace rendak::cli
