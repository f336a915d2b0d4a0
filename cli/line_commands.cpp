#include "cli/line_commands.h"

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "cli/lap_sets.h"
#include "cli/output.h"
#include "core/analysis/quickest_line.h"
#include "core/analysis/road_use.h"

namespace rendak::cli {
namespace {

Json gap_json(const std::optional<AcrossRoad>& it) {
    return it && it->gap_m ? Json(*it->gap_m) : Json(nullptr);
}

Json place_json(const std::optional<AcrossRoad>& it) {
    return it ? Json(it->at_m) : Json(nullptr);
}

/// With the car's own width where its sheet has one.
std::vector<RoadUse> lines_of(const LapSet& set) {
    std::vector<RoadUse> out;
    const auto& sheet = set.runs.front()->formulas->inputs().constants.values;
    const auto width = sheet.find("width");
    for (const PreparedLap& lap : set.laps)
        out.push_back(width == sheet.end() ? road_use(lap) : road_use(lap, width->second.value));
    return out;
}

const char* source_name(Edges::Source source) {
    return source == Edges::Source::driven ? "driven" : source == Edges::Source::spread ? "spread" : "none";
}

/// Against the best lap of the set, with the limit that the set shows.
Result<Json> quickest_json(const LapSet& set) {
    const auto limit = observed_limit(set.laps);
    if (!limit) return pass_on(limit.error());
    const auto best =
        std::min_element(set.laps.begin(), set.laps.end(),
                         [](const PreparedLap& a, const PreparedLap& b) { return a.time_s() < b.time_s(); });
    const auto line = quickest_line(*best, *limit, spoken_progress("quickest line"));
    if (!line) return pass_on(line.error());
    Json out{{"run", best->ref.run.value},
             {"lap", best->ref.lap},
             {"quickest_s", line->quickest.lap_s},
             {"driven_s", line->driven.lap_s},
             {"gentlest_s", line->gentlest.lap_s},
             {"step_m", QuickestLine::step_m},
             {"left_m", line->quickest.left_m},
             {"driven_left_m", line->driven.left_m},
             {"corners", Json::array()}};
    for (const QuickestLine::Row& row : line->rows)
        out["corners"].push_back({{"corner", row.corner},
                                  {"name", row.name},
                                  {"from_m", row.range_m.begin},
                                  {"to_m", row.range_m.end},
                                  {"gain_s", row.gain_s()}});
    return out;
}

}  // namespace

int print_line(const std::string& folder, const std::vector<std::string>& runs, const std::vector<std::string>& against,
               bool quickest, bool mixed) {
    const auto set = set_of(folder, runs, mixed);
    if (!set) return report(set.error());
    const Track& track = *set->laps.front().track;
    const auto lines = lines_of(*set);
    std::vector<RoadUse> others;
    if (!against.empty()) {
        const auto other = set_of(folder, against, mixed);
        if (!other) return report(other.error());
        if (other->runs.front()->row.track != set->runs.front()->row.track)
            return report({ErrorCode::bad_input, "The laps to hold it against were driven on another track.", {}});
        others = lines_of(*other);
    }
    const auto means = line_means(lines, others);
    Json out{{"edges", source_name(lines.front().source)},
             {"error_m", lines.front().error_m},
             {"text", line_words(means, lines.front(), track)},
             {"corners", Json::array()}};
    for (std::size_t c = 0; c < means.size(); ++c) {
        const LineMean& it = means[c];
        Json corner{{"corner", it.corner},
                    {"name", track.corners[c].title()},
                    {"turn_in_gap_m", or_null(it.turn_in_gap_m)},
                    {"entry_gap_m", or_null(it.entry_gap_m)},
                    {"apex_gap_m", or_null(it.apex_gap_m)},
                    {"late_m", or_null(it.late_m)},
                    {"exit_gap_m", or_null(it.exit_gap_m)},
                    {"missed_m", or_null(it.missed_m)},
                    {"told", it.told},
                    {"misses", it.misses},
                    {"of", it.laps},
                    {"entry_further_out_m", or_null(it.entry_out_m)},
                    {"apex_further_out_m", or_null(it.apex_out_m)},
                    {"exit_further_out_m", or_null(it.exit_out_m)},
                    {"text", line_words(it, lines.front(), track)},
                    {"laps", Json::array()}};
        for (std::size_t k = 0; k < lines.size(); ++k) {
            const CornerLine& line = lines[k].corners[c];
            corner["laps"].push_back({{"run", set->laps[k].ref.run.value},
                                      {"lap", set->laps[k].ref.lap},
                                      {"turn_in_at_m", place_json(line.turn_in)},
                                      {"turn_in_gap_m", gap_json(line.turn_in)},
                                      {"entry_gap_m", gap_json(line.entry)},
                                      {"entry_at_m", place_json(line.entry)},
                                      {"apex_gap_m", gap_json(line.apex)},
                                      {"apex_at_m", place_json(line.apex)},
                                      {"exit_gap_m", gap_json(line.exit)},
                                      {"exit_at_m", place_json(line.exit)},
                                      {"tightness", or_null(line.tightness)}});
        }
        out["corners"].push_back(std::move(corner));
    }
    if (quickest) {
        const auto found = quickest_json(*set);
        if (!found) return report(found.error());
        out["quickest"] = *found;
    }
    return print(out);
}

}  // namespace rendak::cli
