#include "core/trials/planned_runs.h"

#include <algorithm>
#include <nlohmann/json.hpp>

namespace rendak {
namespace {

using Json = nlohmann::ordered_json;

constexpr const char* setting_name = "planned_runs";

}  // namespace

Result<void> set_planned_runs(Library& library, const std::vector<PlannedRun>& runs) {
    Json all = Json::array();
    for (const PlannedRun& run : runs)
        all.push_back(
            {{"event", run.event}, {"car", run.car}, {"change", run.change}, {"laps", run.laps}, {"why", run.why}});
    return library.set_setting(setting_name, all.dump(-1, ' ', false, Json::error_handler_t::replace));
}

Result<std::vector<PlannedRun>> planned_runs(const Library& library, const std::string& event) {
    const auto text = library.setting(setting_name);
    if (!text) return pass_on(text.error());
    std::vector<PlannedRun> out;
    if (text->empty()) return out;
    try {
        for (const Json& one : Json::parse(*text)) {
            PlannedRun run{one.at("event"), one.at("car"), one.at("change"), one.at("laps"), one.at("why")};
            if (event.empty() || run.event == event) out.push_back(std::move(run));
        }
    } catch (const Json::exception&) {
        return fail(ErrorCode::bad_input, "The run sheet of the library cannot be read.", setting_name);
    }
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
