#pragma once

#include <string>
#include <vector>

#include "core/library/library.h"

namespace rendak {

/// A run that is still to be driven: a line of the run sheet of an event.
struct PlannedRun {
    std::string event, car;
    std::string change;  ///< "Bump rear 7 clicks"
    int laps = 0;        ///< that it should have
    std::string why;     ///< "between 6 and 8: ladder of Bump rear"
    bool operator==(const PlannedRun&) const = default;
};
/// Of the library, in the order written; `event` empty: of all events.
[[nodiscard]] Result<std::vector<PlannedRun>> planned_runs(const Library& library, const std::string& event = {});
/// Writes lines below those that are there; one that is there already is not written twice.
[[nodiscard]] Result<void> plan_runs(Library& library, const std::vector<PlannedRun>& runs);
/// All of them at once.
[[nodiscard]] Result<void> set_planned_runs(Library& library, const std::vector<PlannedRun>& runs);
/// Takes all lines of an event away.
[[nodiscard]] Result<void> clear_planned_runs(Library& library, const std::string& event);

}  // namespace rendak
