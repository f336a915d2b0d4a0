#include "core/trials/planned_runs.h"

#include <algorithm>

#include "core/library/setting_list.h"

namespace rendak {
namespace {

using Json = nlohmann::ordered_json;

constexpr const char* planned_setting = "planned_runs";

}  // namespace

Result<void> set_planned_runs(Library& library, const std::vector<PlannedRun>& runs) {
    return put_setting_list(library, planned_setting, runs, [](const PlannedRun& run) -> Json {
        return {{"event", run.event}, {"car", run.car}, {"change", run.change}, {"laps", run.laps}, {"why", run.why}};
    });
}

Result<std::vector<PlannedRun>> planned_runs(const Library& library, const std::string& event) {
    auto out = setting_list<PlannedRun>(library, planned_setting, "The run sheet", [](const Json& one) {
        return PlannedRun{one.at("event"), one.at("car"), one.at("change"), one.at("laps"), one.at("why")};
    });
    if (out && !event.empty()) std::erase_if(*out, [&](const PlannedRun& run) { return run.event != event; });
    return out;
}

Result<void> plan_runs(Library& library, const std::vector<PlannedRun>& runs) {
    auto all = planned_runs(library);
    if (!all) return pass_on(all.error());
    for (const PlannedRun& run : runs)
        if (std::find(all->begin(), all->end(), run) == all->end()) all->push_back(run);
    return set_planned_runs(library, *all);
}

Result<void> clear_planned_runs(Library& library, const std::string& event) {
    auto all = planned_runs(library);
    if (!all) return pass_on(all.error());
    std::erase_if(*all, [&](const PlannedRun& run) { return run.event == event; });
    return set_planned_runs(library, *all);
}

}  // namespace rendak
