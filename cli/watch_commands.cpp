#include "cli/watch_commands.h"

#include <iostream>
#include <nlohmann/json.hpp>

#include "cli/output.h"
#include "core/base/file_io.h"
#include "core/intake/watch_run.h"

namespace rendak::cli {
namespace {

Json json_of(const WatchRule& rule, const WatchTold& told) {
    Json out{{"rule", rule.name},
             {"known_s", told.known_s},
             {"unit", told.value_unit},
             {"why_not", told.why_not},
             {"events", Json::array()}};
    for (const WatchEvent& it : told.events) {
        Json beside = Json::array();
        for (std::size_t k = 0; k < it.beside.size(); ++k)
            beside.push_back(
                {{"what", rule.beside[k]}, {"value", or_null(it.beside[k])}, {"unit", told.beside_units[k]}});
        out["events"].push_back({{"from_s", it.when.time_s.begin},
                                 {"to_s", it.when.time_s.end},
                                 {"lap", it.lap ? Json(*it.lap) : Json(nullptr)},
                                 {"kind", it.lap ? Json(lap_kind_name(it.kind)) : Json(nullptr)},
                                 {"place_m", or_null(it.place_m)},
                                 {"worst", or_null(it.when.worst)},
                                 {"worst_at_s", it.when.worst_at_s},
                                 {"beside", std::move(beside)}});
    }
    return out;
}

}  // namespace

int print_watch_rules() {
    std::cout << watch_rules_to_json(shipped_watch_rules()) << std::flush;
    return std::cout.good() ? done : failed;
}

int print_watched(const std::string& folder, const std::vector<std::int64_t>& runs, bool all,
                  const std::string& rules_file) {
    std::vector<WatchRule> rules = shipped_watch_rules();
    if (!rules_file.empty()) {
        const auto text = read_text_file(rules_file);
        if (!text) return report(text.error());
        auto read = watch_rules_from_json(*text, rules_file);
        if (!read) return report(read.error());
        rules = std::move(*read);
    }
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    std::vector<RunId> wished;
    for (const std::int64_t id : runs) wished.push_back({id});
    if (all) {
        const auto rows = (*library)->runs();
        if (!rows) return report(rows.error());
        for (const RunRow& row : *rows) wished.push_back(row.id);
    }
    const JobContext job = spoken_progress("watching");
    Json out{{"runs", Json::array()}};
    for (std::size_t k = 0; k < wished.size(); ++k) {
        const auto run = load_checked(**library, wished[k]);
        if (!run) return report(run.error());
        Json row{{"run", wished[k].value}, {"name", (*run)->row.name}, {"rules", Json::array()}};
        for (const WatchRule& rule : rules) row["rules"].push_back(json_of(rule, watch_run(**run, rule)));
        out["runs"].push_back(std::move(row));
        job.report(static_cast<double>(k + 1) / static_cast<double>(wished.size()));
    }
    return print(out);
}

}  // namespace rendak::cli
