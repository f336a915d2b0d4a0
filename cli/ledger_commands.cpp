#include "cli/ledger_commands.h"

#include <cmath>
#include <map>
#include <nlohmann/json.hpp>

#include "cli/output.h"
#include "core/analysis/findings.h"
#include "core/analysis/ledger.h"
#include "core/analysis/technique.h"
#include "core/analysis/wheel_events.h"
#include "core/intake/lap_set.h"

namespace rendak::cli {
namespace {

/// Opens each run once.
class Sets {
  public:
    Sets(Library& library, bool mixed) : library_(library), mixed_(mixed) {}

    Result<LapSet> of(const std::vector<std::string>& words) {
        std::vector<LapWish> wishes;
        std::vector<std::shared_ptr<const RunData>> runs;
        for (const std::string& word : words) {
            const auto wish = lap_wish(word);
            if (!wish) return pass_on(wish.error());
            auto& run = opened_[wish->run.value];
            if (run == nullptr) {
                auto loaded = load_checked(library_, wish->run);
                if (!loaded) return pass_on(loaded.error());
                run = *loaded;
            }
            wishes.push_back(*wish);
            runs.push_back(run);
        }
        auto set = lap_set(wishes, runs, mixed_);
        if (set && !set->told.empty()) say(set->told);
        return set;
    }

  private:
    Library& library_;
    bool mixed_;
    std::map<std::int64_t, std::shared_ptr<const RunData>> opened_;
};

struct Sides {
    LapSet a, b;
};
/// Both, of one track.
Result<Sides> sides_of(const std::string& folder, const std::vector<std::string>& a, const std::vector<std::string>& b,
                       bool mixed) {
    const auto library = open_existing(folder);
    if (!library) return pass_on(library.error());
    Sets sets(**library, mixed);
    auto set_a = sets.of(a);
    if (!set_a) return pass_on(set_a.error());
    auto set_b = sets.of(b);
    if (!set_b) return pass_on(set_b.error());
    const RunRow &row_a = set_a->runs.front()->row, &row_b = set_b->runs.front()->row;
    if (row_a.track != row_b.track)
        return fail(ErrorCode::bad_input,
                    "A and B were driven on different tracks (" + row_a.track_name + " and " + row_b.track_name + ").");
    return Sides{std::move(*set_a), std::move(*set_b)};
}

/// One set of laps.
Result<LapSet> set_of(const std::string& folder, const std::vector<std::string>& words, bool mixed) {
    const auto library = open_existing(folder);
    if (!library) return pass_on(library.error());
    return Sets(**library, mixed).of(words);
}

Json laps_of(const LapSet& set) {
    Json out = Json::array();
    for (const PreparedLap& lap : set.laps)
        out.push_back({{"run", lap.ref.run.value}, {"lap", lap.ref.lap}, {"time_s", lap.time_s()}});
    return out;
}

Json or_null(const std::optional<double>& value) {
    return value ? Json(*value) : Json(nullptr);
}

std::optional<double> low(const std::optional<Interval>& it) {
    return it ? std::optional(it->begin) : std::nullopt;
}

std::optional<double> high(const std::optional<Interval>& it) {
    return it ? std::optional(it->end) : std::nullopt;
}

Json to_json(const LedgerRow& row, std::size_t of) {
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
            {"low_own_s", or_null(low(row.likely_own_s))},
            {"high_own_s", or_null(high(row.likely_own_s))},
            {"seen_on", row.seen_on},
            {"of", of},
            {"low_s", or_null(low(row.likely_s))},
            {"high_s", or_null(high(row.likely_s))}};
}

}  // namespace

int print_ledger(const std::string& folder, const std::vector<std::string>& a, const std::vector<std::string>& b,
                 bool mixed) {
    const auto both = sides_of(folder, a, b, mixed);
    if (!both) return report(both.error());
    const LapSet &set_a = both->a, &set_b = both->b;
    const auto ledger = ledger_of(set_a.laps, set_b.laps);
    if (!ledger) return report(ledger.error());
    Json out;
    out["a"] = laps_of(set_a);
    out["b"] = laps_of(set_b);
    out["track"] = set_a.runs.front()->row.track_name;
    out["total_s"] = ledger->total_s;
    out["low_s"] = or_null(low(ledger->likely_s));
    out["high_s"] = or_null(high(ledger->likely_s));
    out["inferred_pedals"] = ledger->inferred;
    out["rows"] = Json::array();
    for (const LedgerRow& row : ledger->rows) out["rows"].push_back(to_json(row, ledger->b_laps));
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
    const auto both = sides_of(folder, a, b, mixed);
    if (!both) return report(both.error());
    const auto found = findings_of(both->a.laps, both->b.laps);
    if (!found) return report(found.error());
    const Track& track = *both->a.laps.front().track;
    Json out;
    out["a"] = laps_of(both->a);
    out["b"] = laps_of(both->b);
    out["findings"] = Json::array();
    for (const LapFinding& it : *found)
        out["findings"].push_back({{"corner", it.corner},
                                   {"at_m", it.at_m},
                                   {"kind", std::string(kind_name(it.kind))},
                                   {"size", std::isfinite(it.size) ? Json(it.size) : Json(nullptr)},
                                   {"unit", it.unit},
                                   {"loss_s", it.loss_s},
                                   {"seen_on", it.seen_on},
                                   {"of", it.of},
                                   {"text", finding_words(it, track)}});
    return print(out);
}

int print_technique(const std::string& folder, const std::vector<std::string>& runs, bool mixed) {
    const auto set = set_of(folder, runs, mixed);
    if (!set) return report(set.error());
    const Track& track = *set->laps.front().track;
    Json out;
    out["corners"] = Json::array();
    for (const Corner& corner : track.corners)
        out["corners"].push_back({{"corner", corner.number}, {"name", corner.title()}, {"laps", Json::array()}});
    for (const PreparedLap& lap : set->laps) {
        const auto techniques = technique_of(lap);
        for (std::size_t k = 0; k < techniques.size(); ++k) {
            const Technique& it = techniques[k];
            const auto g = [](std::optional<double> mps2) {
                return mps2 ? std::optional(*mps2 / 9.80665) : std::nullopt;
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
                 {"coasting_s", it.coasting_s}});
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
