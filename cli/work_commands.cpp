#include "cli/work_commands.h"

#include <cmath>
#include <nlohmann/json.hpp>

#include "cli/lap_sets.h"
#include "cli/output.h"
#include "core/intake/work_items.h"

namespace rendak::cli {
namespace {

Json json_of(const WorkItem& item) {
    return {{"id", item.id},     {"run", item.run.value}, {"driver", item.driver}, {"car", item.car},
            {"at_m", item.at_m}, {"figure", item.figure}, {"from", item.from},     {"target", item.target},
            {"step", item.step}, {"note", item.note},     {"closed", item.closed}};
}

}  // namespace

int print_work(const std::string& folder) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto work = work_progress(**library);
    if (!work) return report(work.error());
    Json out;
    out["items"] = Json::array();
    for (const WorkProgress& it : *work) {
        Json row = json_of(it.item);
        row["corner"] = it.corner;
        row["met"] = it.met;
        row["next"] = or_null(it.next);
        row["runs"] = Json::array();
        for (const WorkProgress::Step& step : it.steps)
            row["runs"].push_back(
                {{"run", step.run.value}, {"name", step.name}, {"value", or_null(step.value)}, {"laps", step.laps}});
        out["items"].push_back(std::move(row));
    }
    return print(out);
}

int add_work(const std::string& folder, const std::vector<std::string>& a, const std::vector<std::string>& b,
             bool mixed, int corner, const std::string& kind) {
    const auto both = sides_of(folder, a, b, mixed);
    if (!both) return report(both.error());
    const auto found = findings_of(both->a.laps, both->b.laps);
    if (!found) return report(found.error());
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    Library::Act act(**library);
    if (const auto begun = act.begun(); !begun) return report(begun.error());
    Json out;
    out["items"] = Json::array();
    for (const LapFinding& it : *found) {
        if (it.corner == 0 || (corner != 0 && it.corner != corner) || (!kind.empty() && kind_name(it.kind) != kind))
            continue;
        auto item = work_item_of(it, both->a.laps, both->b.laps, both->b.runs.front()->row);
        if (!item) return report(item.error());
        const auto id = (*library)->add_work_item(*item);
        if (!id) return report(id.error());
        item->id = *id;
        out["items"].push_back(json_of(*item));
    }
    if (out["items"].empty())
        return report(Error{ErrorCode::not_found,
                            "There is no such finding of B against A. `findings` lists those that there are.",
                            {}});
    if (const auto done = act.commit(); !done) return report(done.error());
    return print(out);
}

int close_work(const std::string& folder, std::int64_t item, bool reopen) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    if (const auto done = (*library)->close_work_item(item, !reopen); !done) return report(done.error());
    return print({{"id", item}, {"closed", !reopen}});
}

}  // namespace rendak::cli
