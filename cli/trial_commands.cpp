#include "cli/trial_commands.h"

#include <cmath>
#include <ctime>
#include <nlohmann/json.hpp>

#include "cli/lap_sets.h"
#include "cli/output.h"
#include "core/trials/change_trial.h"
#include "core/trials/planned_runs.h"
#include "core/trials/trial_book.h"
#include "core/units/gravity.h"

namespace rendak::cli {
namespace {

Json json_of(const TrialFigure& it) {
    return {{"name", it.name},
            {"change_s", it.change_s},
            {"low_s", low_or_null(it.likely)},
            {"high_s", high_or_null(it.likely)},
            {"seen_on", it.seen_on},
            {"of", it.b.size()},
            {"laps_needed", it.laps_needed > 0 ? Json(it.laps_needed) : Json(nullptr)},
            {"verdict", verdict_name(it.verdict())}};
}

Json json_of(const TyreTrial& it) {
    Json out{{"text", it.text}, {"grip", it.grip}, {"effort", or_null(it.effort)}, {"corners", Json::array()}};
    for (const TyreCorner& corner : it.corners)
        out["corners"].push_back({{"corner", corner.corner},
                                  {"name", corner.name},
                                  {"slowest_kmh", or_null(3.6 * corner.slowest_mps)},
                                  {"peak_a_g", corner.peak_a_mps2 / standard_gravity_mps2},
                                  {"peak_b_g", corner.peak_b_mps2 / standard_gravity_mps2},
                                  {"sure", corner.likely_peak && !corner.likely_peak->contains(0)},
                                  {"braking_a_g", or_null(corner.braking_a_mps2 / standard_gravity_mps2)},
                                  {"braking_b_g", or_null(corner.braking_b_mps2 / standard_gravity_mps2)},
                                  {"effort_a_bar", or_null(corner.effort_a / 1e5)},
                                  {"effort_b_bar", or_null(corner.effort_b / 1e5)}});
    return out;
}

Json json_of(const ChangeTrial& trial) {
    Json out{{"text", trial.text},
             {"a_laps", trial.a_laps},
             {"b_laps", trial.b_laps},
             {"net", json_of(trial.net)},
             {"parts", Json::array()},
             {"carried", trial.carried ? json_of(*trial.carried) : Json(nullptr)},
             {"pull", trial.pull ? json_of(*trial.pull) : Json(nullptr)},
             {"aim", trial.aim.text},
             {"aimed", json_of(trial.aimed)},
             {"elsewhere", json_of(trial.elsewhere)},
             {"changes", trial.differences.changes},
             {"others", trial.differences.others},
             {"unchanged", trial.unchanged},
             {"separable", trial.apart.all},
             {"separable_text", trial.apart.text},
             {"corners", Json::array()}};
    for (const TrialFigure& part : trial.parts) out["parts"].push_back(json_of(part));
    for (const TrialFigure& corner : trial.corners) out["corners"].push_back(json_of(corner));
    out["tyres"] = trial.tyres ? json_of(*trial.tyres) : Json(nullptr);
    return out;
}

Json json_of(const KeptTrial& it) {
    return Json::parse(trial_text(it));
}

struct Tried {
    Sides sides;
    ChangeTrial trial;
};
Result<Tried> tried(const std::string& folder, const std::vector<std::string>& a, const std::vector<std::string>& b,
                    const std::string& aim, bool mixed) {
    const auto target = trial_aim(aim);
    if (!target) return pass_on(target.error());
    const auto library = open_existing(folder);
    if (!library) return pass_on(library.error());
    auto sides = sides_of(folder, a, b, mixed);
    if (!sides) return pass_on(sides.error());
    auto trial = change_trial(**library, sides->a, sides->b, *target);
    if (!trial) return pass_on(trial.error());
    return Tried{std::move(*sides), std::move(*trial)};
}

}  // namespace

int print_new_trial(const std::string& folder, const TrialChoice& choice) {
    const auto made = tried(folder, choice.a, choice.b, choice.aim, choice.mixed);
    if (!made) return report(made.error());
    Json out = json_of(made->trial);
    if (!choice.only_show) {
        auto library = open_existing(folder);
        if (!library) return report(library.error());
        KeptTrial kept;
        kept.name = choice.name;
        for (const std::string& change : made->trial.differences.changes)
            if (choice.name.empty()) kept.name += (kept.name.empty() ? "" : "; ") + change;
        if (kept.name.empty()) kept.name = "Nothing noted";
        kept.a = choice.a;
        kept.b = choice.b;
        kept.aim = choice.aim;
        kept.event = made->sides.b.runs.front()->row.event;
        kept.car = made->sides.b.runs.front()->row.car;
        kept.says = made->trial.text;
        kept.net_s = made->trial.net.change_s;
        kept.verdict = choice.verdict;
        kept.decided_by = choice.by;
        kept.words = choice.words;
        kept.made_unix_s = static_cast<double>(std::time(nullptr));
        const auto id = keep_trial(**library, kept);
        if (!id) return report(id.error());
        out["id"] = *id;
    }
    return print(out);
}

int print_trial(const std::string& folder, std::int64_t id) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto kept = kept_trial(**library, id);
    if (!kept) return report(kept.error());
    const auto made = tried(folder, kept->a, kept->b, kept->aim, true);
    Json out{{"kept", json_of(*kept)}, {"today", nullptr}};
    if (made)
        out["today"] = json_of(made->trial);
    else
        say("Its figures cannot be made today: " + made.error().text());
    return print(out);
}

int print_trials(const std::string& folder) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto all = kept_trials(**library);
    if (!all) return report(all.error());
    Json out = Json::array();
    for (const KeptTrial& it : *all) out.push_back(json_of(it));
    return print(out);
}

int decide_trial(const std::string& folder, const TrialChoice& choice) {
    auto library = open_existing(folder);
    if (!library) return report(library.error());
    auto kept = kept_trial(**library, choice.id);
    if (!kept) return report(kept.error());
    if (!choice.verdict.empty()) kept->verdict = choice.verdict;
    if (!choice.by.empty()) kept->decided_by = choice.by;
    if (!choice.words.empty()) kept->words += (kept->words.empty() ? "" : "\n") + choice.words;
    if (const auto done = keep_trial(**library, *kept); !done) return report(done.error());
    return print(json_of(*kept));
}

int remove_trial(const std::string& folder, std::int64_t id) {
    auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto dropped = drop_trial(**library, id);
    return dropped ? ExitCode::done : report(dropped.error());
}

int print_run_sheet(const std::string& folder, const std::string& event, bool clear) {
    auto library = open_existing(folder);
    if (!library) return report(library.error());
    if (clear) {
        if (const auto done = clear_planned_runs(**library, event); !done) return report(done.error());
    }
    const auto runs = planned_runs(**library, event);
    if (!runs) return report(runs.error());
    Json out = Json::array();
    for (const PlannedRun& run : *runs)
        out.push_back(
            {{"event", run.event}, {"car", run.car}, {"change", run.change}, {"laps", run.laps}, {"why", run.why}});
    return print(out);
}

}  // namespace rendak::cli
