#include "cli/library_commands.h"

#include <algorithm>
#include <nlohmann/json.hpp>

#include "cli/json_out.h"
#include "cli/output.h"
#include "core/base/text.h"
#include "core/base/time_zone.h"
#include "core/intake/best_laps.h"
#include "core/intake/results.h"
#include "core/library/backup.h"

namespace rendak::cli {
namespace {

/// Behind a time of day in ISO 8601.
std::string zone_mark(const std::string& zone, double unix_s) {
    const std::string text = zone_text(zone, unix_s);
    return text == "UTC" ? "Z" : text;
}

}  // namespace

int back_up_library(const std::string& folder, const std::string& target) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto copied = back_up(**library, target);
    if (!copied) return report(copied.error());
    say(counted(copied->copied, "file was", "files were") + " copied, " + std::to_string(copied->already_there) +
        " were there.");
    return print({{"folder", target},
                  {"copied", copied->copied},
                  {"already_there", copied->already_there},
                  {"bytes", copied->bytes}});
}

int print_best_laps(const std::string& folder, const std::string& track, const std::string& car,
                    const std::string& driver) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto laps = best_laps(**library);
    if (!laps) return report(laps.error());
    Json out = Json::array();
    for (const BestLap& lap : *laps) {
        if ((!track.empty() && lap.track != track) || (!car.empty() && lap.car != car) ||
            (!driver.empty() && lap.driver != driver))
            continue;
        out.push_back({{"track", lap.track},
                       {"car", lap.car},
                       {"driver", lap.driver},
                       {"time_s", lap.time_s},
                       {"lap", std::to_string(lap.lap.run.value) + ":" + std::to_string(lap.lap.lap)},
                       {"event", lap.event},
                       {"session", lap.session},
                       {"run", lap.run},
                       {"start", lap.start_unix_s ? Json(local_text(*lap.start_unix_s, lap.zone, "%Y-%m-%dT%H:%M:%S") +
                                                         zone_mark(lap.zone, *lap.start_unix_s))
                                                  : Json(nullptr)},
                       {"laps", lap.laps},
                       {"best_of_track", lap.best_of_track},
                       {"best_of_car", lap.best_of_car}});
    }
    return print(out);
}

int import_results(const std::string& folder, const std::string& file, std::int64_t run_id, const std::string& car,
                   const std::string& driver) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto row = (*library)->run({run_id});
    if (!row) return report(row.error());
    const auto results = read_results(file);
    if (!results) return report(results.error());
    const auto official = laps_of_car(*results, car, driver, *row);
    if (!official) return report(official.error());
    const auto laps = (*library)->laps(row->id);
    if (!laps) return report(laps.error());
    const ResultsAgreement agreement = hold_against(*official, *laps);
    for (const std::string& sentence : agreement.sentences) say(sentence);
    if (auto kept = (*library)->set_official_laps(row->id, *official); !kept) return report(kept.error());
    Json out{{"run", run_id},
             {"laps", Json::array()},
             {"matched", agreement.matched},
             {"missing", agreement.missing},
             {"extra", agreement.extra},
             {"offset_s", agreement.offset_s},
             {"spread_s", agreement.spread_s},
             {"agrees", agreement.agrees()},
             {"sentences", agreement.sentences}};
    for (const auto& pair : agreement.pairs) {
        const bool both = pair.official && pair.lap;
        out["laps"].push_back({{"official", pair.official ? Json(pair.official->number) : Json(nullptr)},
                               {"official_s", pair.official ? Json(pair.official->time_s) : Json(nullptr)},
                               {"lap", pair.lap ? Json(*pair.lap) : Json(nullptr)},
                               {"cut_s", pair.lap ? Json(pair.cut_s) : Json(nullptr)},
                               {"difference_s", both ? Json(pair.difference_s()) : Json(nullptr)}});
    }
    return print(out);
}

}  // namespace rendak::cli
