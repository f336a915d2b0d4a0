#pragma once

#include "core/library/library.h"
#include "demo/run_plan.h"

namespace rendak::demo {

/// Files the made-up team's papers: the event, the car sheet of the club prototype and the setup sheets.
[[nodiscard]] Result<void> file_paperwork(Library& library);

/// The guest car's sheet and its setup.
[[nodiscard]] Result<void> file_guest_papers(Library& library);

/// What the engineer wrote down about a run. Its setup sheet is one of those filed.
[[nodiscard]] Result<RunFacts> facts_of(const Library& library, const RunPlan& plan);

inline constexpr const char* event_name = "Skerrow Point test weekend";
inline constexpr const char* car_name = own_car_name;

}  // namespace rendak::demo
