#pragma once

#include <functional>

#include "core/intake/import.h"

namespace rendak {

/// One thing that the check after import found, and what can be done about it.
struct Finding {
    std::string id;         ///< the same for the same finding of the same run: "date", "split", "dead:Oil Temp" …
    std::string what;       ///< a sentence with figures
    std::string cure;       ///< what the cure does, as a button would say it; empty: nothing to do but to know
    bool accepted = false;  ///< the user said that it is fine as it is
    std::function<Result<void>(Library&)> apply, undo;  ///< empty when there is no cure
    bool is_alternative = false;                        ///< the cure is no mending but another way to have it
};

/// Looks a run over: wrong date, slow and part laps, the logger's line apart from the track's, more than one session in
/// the recording, another recording of the same run, failed sensors, missing positions, a file that ends in the
/// middle. A recording that is not what was filed is the only finding then. Nothing is changed.
[[nodiscard]] Result<std::vector<Finding>> tidy(Library& library, RunId run, const JobContext& job = {});

}  // namespace rendak
