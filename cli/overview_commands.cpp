#include "cli/overview_commands.h"

#include <cmath>
#include <nlohmann/json.hpp>

#include "cli/commands.h"
#include "cli/lap_sets.h"
#include "cli/output.h"
#include "core/analysis/overview.h"
#include "core/analysis/run_differences.h"

namespace rendak::cli {
namespace {

Json sections_json(const std::vector<SideSection>& sections) {
    using Better = SideSection::Better;
    Json out = Json::array();
    for (const SideSection& it : sections)
        out.push_back(
            {{"name", it.section.name},
             {"corner", it.section.corner},
             {"from_m", it.section.range_m.begin},
             {"to_m", it.section.range_m.end},
             {"a_s", it.a_s},
             {"b_s", it.b_s},
             {"a_best_s", it.a_best_s},
             {"b_best_s", it.b_best_s},
             {"low_s", it.likely_s ? Json(it.likely_s->begin) : Json(nullptr)},
             {"high_s", it.likely_s ? Json(it.likely_s->end) : Json(nullptr)},
             {"better", it.better == Better::neither ? Json(nullptr) : Json(it.better == Better::a ? "a" : "b")}});
    return out;
}

Json side_json(const LapSet& set, const SideActivity& it) {
    const RunRow& row = set.runs.front()->row;
    Json out{{"driver", row.driver},
             {"car", row.car},
             {"tyre_set", row.tyre_set},
             {"weather", row.weather},
             {"top_kmh", it.top_mps * 3.6},
             {"lock_ups", it.wheels_known ? Json(it.lock_ups) : Json(nullptr)},
             {"full_s", or_null(it.lap.full_s)},
             {"brake_s", or_null(it.lap.brake_s)},
             {"coasting_s", or_null(it.lap.coasting_s)},
             {"touches_front", or_null(it.touches_front)},
             {"touches_rear", or_null(it.touches_rear)},
             {"lowest_front_mm", it.lowest_front_m ? Json(*it.lowest_front_m * 1e3) : Json(nullptr)},
             {"lowest_rear_mm", it.lowest_rear_m ? Json(*it.lowest_rear_m * 1e3) : Json(nullptr)},
             {"laps", Json::array()}};
    for (const PreparedLap& lap : set.laps)
        out["laps"].push_back({{"run", lap.ref.run.value}, {"lap", lap.ref.lap}, {"time_s", lap.time_s()}});
    return out;
}

Json sentences_json(const std::vector<LapOverview::Sentence>& sentences) {
    Json out = Json::array();
    for (const auto& it : sentences) out.push_back({{"text", it.text}, {"corner", it.corner}, {"at_m", it.at_m}});
    return out;
}

}  // namespace

int print_overview(const std::string& folder, const std::vector<std::string>& a, const std::vector<std::string>& b,
                   bool mixed, const std::string& file) {
    const auto both = sides_of(folder, a, b, mixed);
    if (!both) return report(both.error());
    if (!file.empty()) {
        std::vector<std::string> words{"--out", file};
        for (const std::string& it : a) words.insert(words.end(), {"--a", it});
        for (const std::string& it : b) words.insert(words.end(), {"--b", it});
        if (mixed) words.emplace_back("--mixed");
        return paint("overview", folder, words);
    }
    const auto story = story_of(both->a.laps, both->b.laps);
    if (!story) return report(story.error());
    const LapOverview it = overview_of(both->a.laps, both->b.laps, *story);
    Json not_the_same = Json::array();
    const RunRow &row_a = both->a.runs.front()->row, &row_b = both->b.runs.front()->row;
    if (row_a.id != row_b.id) {
        const auto differences = differences_between(row_a, row_b, {}, {});
        for (const auto* texts : {&differences.changes, &differences.others}) {
            for (const std::string& text : *texts) not_the_same.push_back(text);
        }
    }
    return print({{"a", side_json(both->a, it.a)},
                  {"b", side_json(both->b, it.b)},
                  {"not_the_same", not_the_same},
                  {"total_s", story->ledger.total_s},
                  {"corners_s", it.corners_s},
                  {"straights_s", it.straights_s},
                  {"sectors", sections_json(it.sectors)},
                  {"in_words", sentences_json(it.in_words)},
                  {"first", sentences_json(it.first)},
                  {"best_of_both",
                   {{"lap_s", it.both.lap_s},
                    {"a_lap_s", it.both.a_lap_s},
                    {"b_lap_s", it.both.b_lap_s},
                    {"a_asks_s", it.both.a_asks_s},
                    {"b_asks_s", it.both.b_asks_s},
                    {"sections", sections_json(it.both.sections)}}}});
}

}  // namespace rendak::cli
