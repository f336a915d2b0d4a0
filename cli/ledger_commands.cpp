#include "cli/ledger_commands.h"

#include <cmath>
#include <nlohmann/json.hpp>

#include "cli/lap_sets.h"
#include "cli/output.h"
#include "core/analysis/corner_road.h"
#include "core/analysis/excursion.h"
#include "core/analysis/findings.h"
#include "core/analysis/ledger.h"
#include "core/analysis/technique.h"
#include "core/analysis/wheel_events.h"
#include "core/analysis/work_list.h"
#include "core/units/gravity.h"

namespace rendak::cli {
namespace {

Json laps_of(const LapSet& set) {
    Json out = Json::array();
    for (const PreparedLap& lap : set.laps)
        out.push_back({{"run", lap.ref.run.value}, {"lap", lap.ref.lap}, {"time_s", lap.time_s()}});
    return out;
}

Json json_of(const LedgerRow& row, std::size_t of) {
    return {{"name", row.name},
            {"corner", row.corner},
            {"from_m", row.range_m.begin},
            {"to_m", row.range_m.end},
            {"loss_s", row.loss_s},
            {"here_s", row.here_s},
            {"own_s", row.own_s},
            {"carried_s", or_null(row.carried_s)},
            {"pull_s", or_null(row.pull_s)},
            {"phases",
             {{"braking_s", row.braking_s},
              {"entry_s", row.entry_s},
              {"exit_s", row.exit_s},
              {"straight_s", row.straight_s}}},
            {"straight_from_m", row.straight_m.begin},
            {"begin_mps", row.begin_mps},
            {"end_mps", row.end_mps},
            {"straight", verdict_name(row.verdict)},
            {"low_own_s", low_or_null(row.likely_own_s)},
            {"high_own_s", high_or_null(row.likely_own_s)},
            {"seen_on", row.seen_on},
            {"of", of},
            {"laps_needed", row.laps_needed > 0 ? Json(row.laps_needed) : Json(nullptr)},
            {"low_s", low_or_null(row.likely_s)},
            {"high_s", high_or_null(row.likely_s)}};
}

Json json_of(const Ledger& ledger, const LapSet& b) {
    Json out{{"b", laps_of(b)},
             {"groups", group_words(ledger)},
             {"total_s", ledger.total_s},
             {"low_s", low_or_null(ledger.likely_s)},
             {"high_s", high_or_null(ledger.likely_s)},
             {"inferred_pedals", ledger.inferred},
             {"rows", Json::array()}};
    for (const LedgerRow& row : ledger.rows) out["rows"].push_back(json_of(row, ledger.b_laps));
    return out;
}

struct ToldSides {
    Sides sides;
    LapStory story;
};
Result<ToldSides> told_between(const std::string& folder, const std::vector<std::string>& a,
                               const std::vector<std::string>& b, bool mixed) {
    auto both = sides_of(folder, a, b, mixed);
    if (!both) return pass_on(both.error());
    auto story = story_of(both->a.laps, both->b.laps);
    if (!story) return pass_on(story.error());
    return ToldSides{std::move(*both), std::move(*story)};
}

Json json_of(const LapFinding& it, const Track& track, const WordUnits& units) {
    return {{"corner", it.corner},
            {"at_m", it.at_m},
            {"kind", std::string(kind_name(it.kind))},
            {"size", std::isfinite(it.size) ? Json(it.size) : Json(nullptr)},
            {"unit", it.unit},
            {"loss_s", it.loss_s},
            {"seen_on", it.seen_on},
            {"of", it.of},
            {"earlier_m", it.earlier_m > 0 ? Json(it.earlier_m) : Json(nullptr)},
            {"lap", it.lap ? Json(it.lap->lap) : Json(nullptr)},
            {"text", finding_words(it, track, units)},
            {"causes", finding_causes(it)}};
}

}  // namespace

int print_ledger(const std::string& folder, const std::vector<std::string>& a, const std::vector<std::string>& b,
                 bool mixed, const std::vector<std::string>& more) {
    const auto both = sides_of(folder, a, b, mixed, more);
    if (!both) return report(both.error());
    const LapSet &set_a = both->a, &set_b = both->b;
    const auto ledger = ledger_of(set_a.laps, set_b.laps);
    if (!ledger) return report(ledger.error());
    Json out = json_of(*ledger, set_b);
    out["a"] = laps_of(set_a);
    out["track"] = set_a.runs.front()->row.track_name;
    for (const LapSet& set : both->more) {
        const auto other = ledger_of(set_a.laps, set.laps);
        if (!other) return report(other.error());
        out["more"].push_back(json_of(*other, set));
    }
    if (!ledger->pull.known())
        say("How A gains speed cannot be told, so the straights are not split into carried and pull.");
    return print(out);
}

int print_worth(const std::string& folder, const std::vector<std::string>& runs, bool mixed) {
    const auto set = set_of(folder, runs, mixed);
    if (!set) return report(set.error());
    const auto worth = worth_of(set->laps);
    if (!worth) return report(worth.error());
    Json out;
    out["laps"] = laps_of(*set);
    out["corners"] = Json::array();
    for (const Worth& it : *worth)
        out["corners"].push_back({{"corner", it.corner},
                                  {"name", it.name},
                                  {"slowest_m", it.slowest_m},
                                  {"slowest_kmh", it.slowest_mps * 3.6},
                                  {"exit_m", it.exit_m},
                                  {"until_m", it.until_m},
                                  {"slowest_s_per_kmh", it.slowest_s},
                                  {"exit_s_per_kmh", it.exit_s}});
    return print(out);
}

int print_findings(const std::string& folder, const std::vector<std::string>& a, const std::vector<std::string>& b,
                   bool mixed) {
    const auto told = told_between(folder, a, b, mixed);
    if (!told) return report(told.error());
    const auto& [both, story] = *told;
    const Track& track = *both.a.laps.front().track;
    Json out;
    out["a"] = laps_of(both.a);
    out["b"] = laps_of(both.b);
    out["groups"] = group_words(story.ledger);
    out["findings"] = Json::array();
    for (const LapFinding& it : story.lost) out["findings"].push_back(json_of(it, track, {}));
    // The other way round: what A does where B is the better one.
    WordUnits reverse;
    std::swap(reverse.a, reverse.b);
    out["reverse"] = Json::array();
    for (const LapFinding& it : story.won) out["reverse"].push_back(json_of(it, track, reverse));
    out["unsure"] = Json::array();
    for (const LedgerRow& row : story.ledger.rows) {
        if (!needs_more_laps(row)) continue;
        out["unsure"].push_back({{"name", row.name},
                                 {"corner", row.corner},
                                 {"loss_s", row.loss_s},
                                 {"laps_needed", row.laps_needed > 0 ? Json(row.laps_needed) : Json(nullptr)}});
    }
    return print(out);
}

int print_work_list(const std::string& folder, const std::vector<std::string>& a, const std::vector<std::string>& b,
                    bool mixed) {
    const auto told = told_between(folder, a, b, mixed);
    if (!told) return report(told.error());
    const auto& [both, story] = *told;
    const Track& track = *both.a.laps.front().track;
    Json out;
    out["a"] = laps_of(both.a);
    out["b"] = laps_of(both.b);
    out["places"] = Json::array();
    for (const WorkPlace& place : work_list(story)) {
        Json row{{"corner", place.corner},
                 {"name", place.name},
                 {"from_m", place.range_m.begin},
                 {"to_m", place.range_m.end},
                 {"available_s", place.available_s()},
                 {"to_reference_s", place.to_reference_s},
                 {"to_best_s", or_null(place.to_best_s)},
                 {"to_usual_s", or_null(place.to_usual_s)},
                 {"sure", place.sure},
                 {"laps_needed", place.laps_needed > 0 ? Json(place.laps_needed) : Json(nullptr)},
                 {"effort", place.of_driver ? "driver" : "car"}};
        row["findings"] = Json::array();
        for (const LapFinding& it : place.findings) row["findings"].push_back(json_of(it, track, {}));
        out["places"].push_back(std::move(row));
    }
    return print(out);
}

int print_technique(const std::string& folder, const std::vector<std::string>& runs, bool mixed) {
    const auto set = set_of(folder, runs, mixed);
    if (!set) return report(set.error());
    const Track& track = *set->laps.front().track;
    Json out;
    out["corners"] = Json::array();
    for (const Corner& corner : track.corners) {
        const CornerRoad road = corner_road(track, corner);
        out["corners"].push_back(
            {{"corner", corner.number},
             {"name", corner.title()},
             {"banked", road.banked},
             {"banking_deg", or_null(road.banking_rad ? std::optional(*road.banking_rad * 57.29577951) : std::nullopt)},
             {"laps", Json::array()}});
    }
    for (const PreparedLap& lap : set->laps) {
        const auto techniques = technique_of(lap);
        for (std::size_t k = 0; k < techniques.size(); ++k) {
            const Technique& it = techniques[k];
            const auto g = [](std::optional<double> mps2) {
                return mps2 ? std::optional(*mps2 / standard_gravity_mps2) : std::nullopt;
            };
            out["corners"][k]["laps"].push_back(
                {{"run", lap.ref.run.value},
                 {"lap", lap.ref.lap},
                 {"inferred_pedals", it.inferred},
                 {"lift_m", or_null(it.lift_m)},
                 {"brake_on_m", or_null(it.brake_on_m)},
                 {"brake_off_m", or_null(it.brake_off_m)},
                 {"brake_peak_g", or_null(g(it.brake_peak_mps2))},
                 {"brake_peak_at_m", or_null(it.brake_peak_m)},
                 {"brake_rise_s", or_null(it.brake_rise_s)},
                 {"brake_s", it.brake_s},
                 {"brushed", it.brushed},
                 {"trail_s", it.trail_s},
                 {"turn_in_m", or_null(it.turn_in_m)},
                 {"slowest_kmh", or_null(it.slowest_mps ? std::optional(*it.slowest_mps * 3.6) : std::nullopt)},
                 {"slowest_at_m", or_null(it.slowest_m)},
                 {"throttle_touch_m", or_null(it.throttle_touch_m)},
                 {"throttle_on_m", or_null(it.throttle_on_m)},
                 {"throttle_full_m", or_null(it.full_throttle_m)},
                 {"full_for_good_m", or_null(it.full_for_good_m)},
                 {"second_lift_m", or_null(it.second_lift_m)},
                 {"least_throttle", it.least_throttle},
                 {"coasting_s", it.coasting_s},
                 {"lift_to_brake_s", or_null(it.lift_to_brake_s)},
                 {"full_before_m", or_null(it.full_before_m)},
                 {"brake_peak_bar", or_null(it.brake.peak_pa ? std::optional(*it.brake.peak_pa / 1e5) : std::nullopt)},
                 {"room_left_m", or_null(it.brake.room_left_m)},
                 {"brake_hold_s", or_null(it.brake.hold_s)},
                 {"brake_release_s", or_null(it.brake.release_s)},
                 {"brake_release_mean", or_null(it.brake.release_mean)},
                 {"brake_at_turn_in", or_null(it.brake.at_turn_in)},
                 {"brake_reversals", it.brake.reversals},
                 {"brake_kept_s", it.brake.kept_s},
                 {"steering_most_rad", or_null(it.steering.most_rad)},
                 {"steering_corrections", it.steering.corrections ? Json(*it.steering.corrections) : Json(nullptr)},
                 {"throttle_back", or_null(it.throttle.back)},
                 {"throttle_reversals", it.throttle.reversals},
                 {"tightest_m", or_null(it.arc.tightest_m)},
                 {"least_radius_m", or_null(it.arc.least_radius_m)},
                 {"tightest_share", or_null(it.arc.share)},
                 {"tightness", or_null(it.arc.tightness)},
                 {"gear", it.gears.at_slowest ? Json(*it.gears.at_slowest) : Json(nullptr)},
                 {"shift_up_m", or_null(it.gears.shift_up_m)}});
        }
    }
    return print(out);
}

int print_excursions(const std::string& folder, const std::string& lap, const std::vector<std::string>& usual) {
    const auto own = set_of(folder, {lap}, true);
    if (!own) return report(own.error());
    // Without others named: those of its run that count.
    const std::string run = lap.substr(0, lap.find(':'));
    const auto others = set_of(folder, usual.empty() ? std::vector{run} : usual, true);
    if (!others) return report(others.error());
    const Track& track = *own->laps.front().track;
    Json out;
    out["excursions"] = Json::array();
    for (const PreparedLap& of : own->laps) {
        std::vector<PreparedLap> rest;
        for (const PreparedLap& it : others->laps) {
            if (it.ref != of.ref) rest.push_back(it);
        }
        for (const Excursion& it : excursions_of(of, rest)) {
            Json row{{"run", of.ref.run.value},           {"lap", of.ref.lap},      {"corner", it.corner},
                     {"from_m", it.range_m.begin},        {"to_m", it.range_m.end}, {"beside_m", it.beside_m},
                     {"text", excursion_words(it, track)}};
            row["steps"] = Json::array();
            for (const Excursion::Step& step : it.steps)
                row["steps"].push_back({{"question", step.question},
                                        {"answer", step.answer == Excursion::Step::Answer::cannot_be_told
                                                       ? Json(nullptr)
                                                       : Json(step.answer == Excursion::Step::Answer::yes)},
                                        {"figures", step.figures}});
            out["excursions"].push_back(std::move(row));
        }
    }
    return print(out);
}

int print_wheel_events(const std::string& folder, const std::vector<std::string>& runs, bool mixed) {
    const auto set = set_of(folder, runs, mixed);
    if (!set) return report(set.error());
    Json out;
    out["events"] = Json::array();
    for (const PreparedLap& lap : set->laps) {
        for (const WheelEvent& it : wheel_events(lap))
            out["events"].push_back({{"run", lap.ref.run.value},
                                     {"lap", lap.ref.lap},
                                     {"kind", it.kind == WheelEvent::Kind::locks_up ? "locks_up" : "spins"},
                                     {"wheel", it.wheel},
                                     {"from_m", it.range_m.begin},
                                     {"to_m", it.range_m.end},
                                     {"duration_s", it.duration_s},
                                     {"slip", it.depth}});
    }
    return print(out);
}

}  // namespace rendak::cli
