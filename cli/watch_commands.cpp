#include "cli/watch_commands.h"

#include <filesystem>
#include <iostream>
#include <nlohmann/json.hpp>

#include "cli/output.h"
#include "core/base/file_io.h"
#include "core/intake/watch_book.h"

namespace rendak::cli {
namespace {

Json json_of(const WatchRule& rule, const WatchTold& told) {
    return Json::parse(told_to_json(rule, told));
}

/// The rule as it is printed and read, on one line of a list.
int print_rules(const std::vector<WatchRule>& rules) {
    std::cout << watch_rules_to_json(rules) << std::flush;
    return std::cout.good() ? done : failed;
}

}  // namespace

int print_watch_rules(const std::string& folder) {
    // Without a library there are the shipped ones.
    if (!std::filesystem::exists(std::filesystem::path(folder) / "library.sqlite"))
        return print_rules(shipped_watch_rules());
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto book = watch_book(**library);
    if (!book) return report(book.error());
    return print_rules(book->in_force());
}

int add_watch_rule(const std::string& folder, const WatchRule& rule, bool check) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    if (auto put = put_watch_rule(**library, rule); !put) return report(put.error());
    if (!check) return print(Json{{"rule", rule.name}, {"opened", nullptr}});
    const auto rows = (*library)->runs();
    if (!rows) return report(rows.error());
    std::vector<RunId> runs;
    for (const RunRow& row : *rows) runs.push_back(row.id);
    const auto opened = check_watch_rules(**library, runs, spoken_progress("watching"));
    if (!opened) return report(opened.error());
    return print(Json{{"rule", rule.name}, {"opened", *opened}});
}

int drop_watch_rule(const std::string& folder, const std::string& name) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    if (auto removed = remove_watch_rule(**library, name); !removed) return report(removed.error());
    return print(Json{{"rule", name}});
}

int print_watch_trend(const std::string& folder, const std::string& rule, const std::string& car) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto trend = watch_trend(**library, rule, car);
    if (!trend) return report(trend.error());
    Json out{{"rule", rule}, {"car", car}, {"text", trend->text}, {"runs", Json::array()}};
    for (const WatchTrend::Step& it : trend->steps)
        out["runs"].push_back({{"run", it.run.value},
                               {"name", it.name},
                               {"times", it.times},
                               {"first_lap", it.first_lap ? Json(*it.first_lap) : Json(nullptr)},
                               {"worst", or_null(it.worst)},
                               {"fuel_l", or_null(it.fuel_l)}});
    return print(out);
}

int print_watched(const std::string& folder, const std::vector<std::int64_t>& runs, bool all,
                  const std::string& rules_file) {
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
    if (rules_file.empty() && !(*library)->is_look_only()) {
        // The library's own rules: their answers are kept.
        if (const auto checked = check_watch_rules(**library, wished, job); !checked) return report(checked.error());
        for (const RunId id : wished) {
            const auto row = (*library)->run(id);
            if (!row) return report(row.error());
            const auto kept = kept_watch(**library, id);
            if (!kept) return report(kept.error());
            Json told{{"run", id.value}, {"name", row->name}, {"rules", Json::array()}};
            for (const KeptWatch& it : *kept) told["rules"].push_back(json_of(it.rule, it.told));
            out["runs"].push_back(std::move(told));
        }
        return print(out);
    }
    const auto rules = [&]() -> Result<std::vector<WatchRule>> {
        if (rules_file.empty()) {
            const auto book = watch_book(**library);
            if (!book) return pass_on(book.error());
            return book->in_force();
        }
        const auto text = read_text_file(rules_file);
        if (!text) return pass_on(text.error());
        return watch_rules_from_json(*text, rules_file);
    }();
    if (!rules) return report(rules.error());
    for (std::size_t k = 0; k < wished.size(); ++k) {
        const auto run = load_checked(**library, wished[k]);
        if (!run) return report(run.error());
        Json row{{"run", wished[k].value}, {"name", (*run)->row.name}, {"rules", Json::array()}};
        for (const WatchRule& rule : *rules) row["rules"].push_back(json_of(rule, watch_run(**run, rule)));
        out["runs"].push_back(std::move(row));
        job.report(static_cast<double>(k + 1) / static_cast<double>(wished.size()));
    }
    return print(out);
}

}  // namespace rendak::cli
