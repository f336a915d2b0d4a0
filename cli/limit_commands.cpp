#include "cli/limit_commands.h"

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "cli/lap_sets.h"
#include "cli/output.h"
#include "core/analysis/shown_pace.h"
#include "core/base/parallel.h"
#include "core/intake/car_limits.h"
#include "core/units/gravity.h"

namespace rendak::cli {
namespace {

Json json_of(const LimitLine& line) {
    return {{"at_rest_g", line.at_rest_mps2 / standard_gravity_mps2},
            {"per_v2_1_per_m", line.per_v2},
            {"by_speed", line.by_speed},
            {"from_kmh", line.seen_mps.begin * 3.6},
            {"to_kmh", line.seen_mps.end * 3.6},
            {"support", line.support}};
}

Json corner_json(const CornerReach& it, const Track& track) {
    Json out{{"corner", it.corner},
             {"left", it.left},
             {"left_out", it.left_out == CornerReach::Left_out::no ? Json(nullptr) : Json(left_out_name(it.left_out))},
             {"kmh", it.speed_mps * 3.6},
             {"lateral_g", it.lateral_mps2 / standard_gravity_mps2},
             {"used", it.used},
             {"higher_lap", it.higher_lap ? Json{{"run", it.higher_lap->run.value},
                                                 {"lap", it.higher_lap->lap},
                                                 {"lateral_g", it.higher_mps2 / standard_gravity_mps2},
                                                 {"quickest_lap_g", it.quickest_lap_mps2 / standard_gravity_mps2}}
                                          : Json(nullptr)}};
    out["name"] = corner_title(track, it.corner);
    return out;
}

Json json_of(const ObservedLimit& limit, const Track& track, const formula::Constants& sheet) {
    Json out{{"laps", limit.laps},
             {"lateral", json_of(limit.lateral)},
             {"left_share", or_null(limit.left_share)},
             {"right_share", or_null(limit.right_share)},
             {"braking", limit.braking ? json_of(*limit.braking) : Json(nullptr)},
             {"traction_share", limit.traction_share},
             {"corners", Json::array()},
             {"by_speed", Json::array()}};
    for (const CornerReach& it : limit.corners) out["corners"].push_back(corner_json(it, track));
    // Side by side with what somebody calculated. Nothing is told of speeds that were not seen.
    const CalculatedLimit lateral = calculated_limit(sheet, "lateral"), braking = calculated_limit(sheet, "braking"),
                          driving = calculated_limit(sheet, "driving");
    const auto seen = [](const std::optional<LimitLine>& line, double v) {
        constexpr double about = 0.1;
        const bool told = line && v >= (1 - about) * line->seen_mps.begin && v <= (1 + about) * line->seen_mps.end;
        return told ? Json(line->at(v) / standard_gravity_mps2) : Json(nullptr);
    };
    const auto calculated = [](const CalculatedLimit& it, double v) {
        return it.known() ? Json(it.at(v) / standard_gravity_mps2) : Json(nullptr);
    };
    for (double kmh = 40; kmh <= 320; kmh += 20) {
        const double v = kmh / 3.6;
        const bool pulls =
            limit.driving.known() && v >= limit.driving.speed_mps.front() && v <= limit.driving.speed_mps.back();
        out["by_speed"].push_back(
            {{"kmh", kmh},
             {"lateral_g", seen(limit.lateral, v)},
             {"braking_g", seen(limit.braking, v)},
             {"driving_g", pulls ? Json(limit.driving.at(v) / standard_gravity_mps2) : Json(nullptr)},
             {"calculated_lateral_g", calculated(lateral, v)},
             {"calculated_braking_g", calculated(braking, v)},
             {"calculated_driving_g", calculated(driving, v)}});
    }
    return out;
}

Json group_json(const LapSet& set, const ObservedLimit& limit) {
    const RunRow& row = set.runs.front()->row;
    Json out = json_of(limit, *set.laps.front().track, set.runs.front()->formulas->inputs().constants);
    out["car"] = row.car;
    out["track"] = row.track_name;
    out["tyre_set"] = row.tyre_set;
    out["runs"] = Json::array();
    for (const auto& run : set.runs) out["runs"].push_back(run->row.id.value);
    return out;
}

std::vector<LapMotion> motions_of(const std::vector<PreparedLap>& laps) {
    std::vector<LapMotion> out(laps.size());
    parallel_for(laps.size(), 1, [&](std::size_t k) { out[k] = motion_of(laps[k]); });
    return out;
}

}  // namespace

int print_limit(const std::string& folder, const std::vector<std::string>& runs, const std::string& car,
                const std::set<int>& put_back, bool mixed) {
    Json out{{"limits", Json::array()}};
    std::vector<std::vector<std::string>> groups;
    if (!runs.empty()) groups.push_back(runs);
    if (!car.empty()) {
        const auto library = open_existing(folder);
        if (!library) return report(library.error());
        const auto all = (*library)->runs();
        if (!all) return report(all.error());
        for (const LimitGroup& group : limit_groups(*all, car)) {
            auto& words = groups.emplace_back();
            for (const RunId run : group.runs) words.push_back(std::to_string(run.value));
        }
        if (groups.empty())
            return report(
                {ErrorCode::not_found, "No run of a car " + car + " on a known track is in the library.", {}});
    }
    for (const auto& words : groups) {
        // Of a whole car several drivers show what it can do.
        const auto set = set_of(folder, words, mixed || !car.empty());
        const auto limit = set ? observed_limit(set->laps, put_back) : pass_on(set.error());
        if (limit) {
            out["limits"].push_back(group_json(*set, *limit));
        } else if (groups.size() == 1) {
            return report(limit.error());
        } else {
            out["not_told"].push_back({{"runs", words}, {"why", limit.error().text()}});
        }
    }
    return print(out);
}

int print_pace(const std::string& folder, const std::vector<std::string>& runs, const std::vector<std::string>& usual,
               const std::set<int>& put_back, bool mixed) {
    const auto set = set_of(folder, runs, mixed);
    if (!set) return report(set.error());
    const auto all = set_of(folder, usual.empty() ? runs : usual, mixed || !usual.empty());
    if (!all) return report(all.error());
    const auto limit = observed_limit(all->laps, put_back);
    if (!limit) return report(limit.error());
    const auto motions = motions_of(set->laps);
    Json out{{"limit", group_json(*all, *limit)}, {"laps", Json::array()}, {"use", Json::array()}};
    std::vector<std::vector<GripUse>> uses;
    for (std::size_t k = 0; k < set->laps.size(); ++k) {
        const PreparedLap& lap = set->laps[k];
        const auto pace = shown_pace(lap, motions[k], *limit);
        if (!pace) return report(pace.error());
        Json row{{"run", lap.ref.run.value},
                 {"lap", lap.ref.lap},
                 {"time_s", lap.time_s()},
                 {"pace_s", pace->lap_s},
                 {"corners", Json::array()}};
        const auto& use = uses.emplace_back(grip_use(lap, motions[k], *limit));
        for (const PaceRow& it : pace->rows) {
            Json corner{{"corner", it.corner},      {"name", it.name},   {"from_m", it.range_m.begin},
                        {"to_m", it.range_m.end},   {"lap_s", it.lap_s}, {"pace_s", it.pace_s},
                        {"unused_s", it.unused_s()}};
            for (const GripUse& grip : use) {
                if (grip.corner != it.corner) continue;
                corner["used_braking"] = or_null(grip.braking);
                corner["used_entry"] = or_null(grip.entry);
                corner["used_exit"] = or_null(grip.exit);
                corner["used_mean"] = or_null(grip.mean);
                corner["used_peak"] = or_null(grip.peak);
            }
            row["corners"].push_back(std::move(corner));
        }
        out["laps"].push_back(std::move(row));
    }
    for (const GripUseOverLaps& it : grip_over_laps(uses)) {
        Json row{{"corner", it.corner}};
        const auto add = [&](const char* phase, const std::optional<GripShare>& share) {
            row[phase] = share ? Json{{"mean", share->mean}, {"laps", share->laps}, {"little_laps", share->little_laps}}
                               : Json(nullptr);
        };
        add("braking", it.braking);
        add("entry", it.entry);
        add("exit", it.exit);
        add("whole", it.whole);
        out["use"].push_back(std::move(row));
    }
    return print(out);
}

}  // namespace rendak::cli
