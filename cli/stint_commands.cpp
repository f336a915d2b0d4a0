#include "cli/stint_commands.h"

#include <cmath>
#include <nlohmann/json.hpp>

#include "cli/output.h"
#include "core/intake/day_report.h"
#include "core/intake/lap_scatter.h"
#include "core/intake/stint_pair.h"
#include "core/intake/tread.h"
#include "core/intake/windows.h"

namespace rendak::cli {
namespace {

Json json_of(const std::optional<LapTrend>& it) {
    if (!it) return nullptr;
    return {{"laps", it->laps},
            {"per_lap", it->per_lap},
            {"likely", {it->likely.begin, it->likely.end}},
            {"scatter", it->scatter}};
}

Json json_of(const Settling& it) {
    return {{"from_lap", it.from_lap ? Json(*it.from_lap) : Json(nullptr)},
            {"likely", {it.likely.begin, it.likely.end}},
            {"end", it.end},
            {"off_at_first", it.off_at_first},
            {"time_constant_laps", it.time_constant}};
}

Json json_of(const StintBalance& it) {
    Json wheels = Json::object();
    for (std::size_t w = 0; w < wheel_ids.size(); ++w) wheels[wheel_ids[w]] = or_null(it.mean[w]);
    return {{"kind", wheel_kinds()[it.kind].id},
            {"wheels", std::move(wheels)},
            {"front_minus_rear", or_null(it.front_minus_rear)},
            {"left_minus_right_front", or_null(it.left_minus_right_front)},
            {"left_minus_right_rear", or_null(it.left_minus_right_rear)},
            {"spread", or_null(it.spread)}};
}

Json json_of(const TreadReading::Apart& it) {
    return {{"inner_minus_outer", or_null(it.inner_minus_outer)},
            {"middle_minus_edges", or_null(it.middle_minus_edges)},
            {"seconds", it.seconds}};
}

Json json_of(const StintFigure& it) {
    constexpr const char* verdicts[] = {"better", "worse", "alike", "other", "unknown"};
    return {{"title", it.title},
            {"like", it.shown_as.empty() ? "time" : it.shown_as},
            {"a", or_null(it.a)},
            {"b", or_null(it.b)},
            {"likely", it.likely ? Json{it.likely->begin, it.likely->end} : Json(nullptr)},
            {"verdict", verdicts[static_cast<std::size_t>(it.verdict())]}};
}

Json json_of(const LapScatter& it) {
    Json out{{"sd_s", it.laps.laps.sd}, {"laps", it.laps.laps.count}, {"sections", Json::array()}};
    for (const LapScatter::Of& of : it.sections)
        out["sections"].push_back({{"section", of.section}, {"sd_s", of.sd_s}, {"share", of.share}});
    return out;
}

/// The first run against another one.
Json json_of(RunId run, const StintPair& pair, const DuctReading& ducts) {
    constexpr const char* says[] = {"", "gain", "too hot", "costs nothing", "cooler"};
    Json out{{"run", run.value}, {"text", pair.text}, {"figures", Json::array()}};
    for (const StintFigure& it : pair.figures) out["figures"].push_back(json_of(it));
    out["b_quicker_from"] = pair.b_quicker_from ? Json(*pair.b_quicker_from) : Json(nullptr);
    out["a_quicker_from"] = pair.a_quicker_from ? Json(*pair.a_quicker_from) : Json(nullptr);
    out["discs"] = {{"hottest_a", or_null(ducts.hottest_a)},
                    {"hottest_b", or_null(ducts.hottest_b)},
                    {"most", or_null(ducts.most)},
                    {"top_speed_a", or_null(ducts.top_speed_a)},
                    {"top_speed_b", or_null(ducts.top_speed_b)},
                    {"says", says[static_cast<std::size_t>(ducts.says)]}};
    return out;
}

Json json_of(RunId run, const Stint& stint) {
    Json out{{"run", run.value}, {"text", stint.text}, {"s_per_litre", or_null(stint.s_per_litre)}};
    out["settled_from"] = stint.settled_from ? Json(*stint.settled_from) : Json(nullptr);
    out["fall_off"] = json_of(stint.fall_off);
    out["breaks"] = nullptr;
    if (stint.breaks)
        out["breaks"] = {{"from_lap", stint.breaks->from_lap},
                         {"before_per_lap", stint.breaks->before_per_lap},
                         {"after_per_lap", stint.breaks->after_per_lap}};
    out["fitted"] = nullptr;
    if (stint.fitted) out["fitted"] = {stint.fitted->likely.begin, stint.fitted->likely.end};
    out["balance"] = Json::array();
    for (const StintBalance& it : stint.balances) out["balance"].push_back(json_of(it));
    out["laps"] = Json::array();
    for (std::size_t k = 0; k < stint.laps.size(); ++k)
        out["laps"].push_back({{"lap", stint.laps[k]},
                               {"counts", stint.counts[k] != 0},
                               {"settled", stint.cold[k] == 0},
                               {"time_s", stint.time_s[k]},
                               {"steady_s", or_null(stint.steady_s[k])},
                               {"fuel_l", or_null(stint.fuel_l[k])}});
    out["readings"] = Json::array();
    for (const StintReading& it : stint.readings) {
        Json values = Json::array();
        for (const double value : it.values) values.push_back(or_null(value));
        out["readings"].push_back({{"channel", it.channel},
                                   {"unit", it.unit},
                                   {"values", std::move(values)},
                                   {"settling", it.settling ? json_of(*it.settling) : Json(nullptr)},
                                   {"trend", json_of(it.trend)},
                                   {"goes_with_pace", or_null(it.goes_with_pace)}});
    }
    return out;
}

}  // namespace

int print_stints(const std::string& folder, const std::vector<std::int64_t>& runs, std::optional<double> s_per_litre) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    Json out{{"runs", Json::array()}, {"against_first", Json::array()}};
    std::vector<std::shared_ptr<const RunData>> opened;
    std::vector<Stint> stints;
    for (const std::int64_t id : runs) {
        auto run = load_checked(**library, {id});
        if (!run) return report(run.error());
        auto stint = stint_of(*run, s_per_litre);
        if (!stint) return report(stint.error());
        Json told = json_of({id}, *stint);
        told["tread"] = Json::object();
        const auto treads = tread_readings(**run, *stint);
        for (std::size_t w = 0; w < treads.size(); ++w)
            told["tread"][wheel_ids[w]] = {{"loaded", json_of(treads[w].loaded)},
                                           {"straight", json_of(treads[w].straight)}};
        told["scatter"] = json_of(lap_scatter({*run}).front());
        out["runs"].push_back(std::move(told));
        opened.push_back(std::move(*run));
        stints.push_back(std::move(*stint));
    }
    for (std::size_t k = 1; k < stints.size(); ++k) {
        const auto ducts = compare_ducts(opened[0], stints[0], opened[k], stints[k]);
        if (!ducts) return report(ducts.error());
        out["against_first"].push_back(json_of(opened[k]->row.id, compare_stints(stints[0], stints[k]), *ducts));
    }
    return print(out);
}

int print_day(const std::string& folder, const std::string& event) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto rows = (*library)->runs();
    if (!rows) return report(rows.error());
    std::vector<std::shared_ptr<const RunData>> runs;
    for (const RunRow& row : *rows) {
        if (row.event != event || row.joined_into.value != 0) continue;
        auto run = load_checked(**library, row.id);
        if (!run) return report(run.error());
        runs.push_back(std::move(*run));
    }
    if (runs.empty()) return report({ErrorCode::not_found, "No run of an event " + event + " is in the library.", {}});
    const auto day = day_report(runs, spoken_progress("the day"));
    if (!day) return report(day.error());
    Json out{{"event", event}, {"runs", Json::array()}};
    for (const DayRun& it : *day) {
        Json figures = Json::array();
        for (const DayFigure& figure : it.figures)
            figures.push_back(
                {{"column", figure.column},
                 {"unit", figure.unit},
                 {"mean", or_null(figure.mean)},
                 {"change", or_null(figure.change)},
                 {"likely", figure.likely ? Json{figure.likely->begin, figure.likely->end} : Json(nullptr)}});
        out["runs"].push_back({{"run", it.run.id.value},
                               {"name", it.run.name},
                               {"session", it.run.session},
                               {"driver", it.run.driver},
                               {"laps", it.laps},
                               {"best_s", or_null(it.best_s)},
                               {"mean_s", or_null(it.mean_s)},
                               {"scatter_s", or_null(it.scatter_s)},
                               {"weather", it.run.weather},
                               {"tyre_set", it.run.tyre_set},
                               {"changes", it.run.changes},
                               {"since", it.since ? Json(it.since->value) : Json(nullptr)},
                               {"improved", it.improved},
                               {"worsened", it.worsened},
                               {"next", it.next},
                               {"ruled_out", it.ruled_out},
                               {"figures", std::move(figures)}});
    }
    return print(out);
}

int print_windows(const std::string& folder, std::int64_t id) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto run = load_checked(**library, {id});
    if (!run) return report(run.error());
    const auto windows = windows_of(*run);
    if (!windows) return report(windows.error());
    if (!windows->stale.empty()) say(windows->stale);
    Json out{{"run", id},
             {"sheet", windows->sheet},
             {"stale", windows->stale},
             {"windows", Json::array()},
             {"unknown", windows->unknown}};
    for (const WindowShare& it : windows->shares)
        out["windows"].push_back({{"channel", it.channel},
                                  {"low", or_null(it.window.low)},
                                  {"high", or_null(it.window.high)},
                                  {"below", it.below},
                                  {"inside", it.inside},
                                  {"above", it.above},
                                  {"laps", it.laps}});
    return print(out);
}

}  // namespace rendak::cli
