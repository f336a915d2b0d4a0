#include "cli/ledger_commands.h"

#include <map>
#include <nlohmann/json.hpp>

#include "cli/output.h"
#include "core/analysis/ledger.h"
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
            {"seen_on", row.seen_on},
            {"of", of},
            {"low_s", or_null(low(row.likely_s))},
            {"high_s", or_null(high(row.likely_s))}};
}

}  // namespace

int print_ledger(const std::string& folder, const std::vector<std::string>& a, const std::vector<std::string>& b,
                 bool mixed) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    Sets sets(**library, mixed);
    const auto set_a = sets.of(a);
    if (!set_a) return report(set_a.error());
    const auto set_b = sets.of(b);
    if (!set_b) return report(set_b.error());
    if (set_a->runs.front()->row.track != set_b->runs.front()->row.track)
        return report(Error{ErrorCode::bad_input,
                            "A and B were driven on different tracks (" + set_a->runs.front()->row.track_name +
                                " and " + set_b->runs.front()->row.track_name + ").",
                            {}});
    const auto ledger = ledger_of(set_a->laps, set_b->laps);
    if (!ledger) return report(ledger.error());
    Json out;
    out["a"] = laps_of(*set_a);
    out["b"] = laps_of(*set_b);
    out["track"] = set_a->runs.front()->row.track_name;
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
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto set = Sets(**library, mixed).of(runs);
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

}  // namespace rendak::cli
