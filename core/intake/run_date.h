#pragma once

#include <optional>
#include <vector>

#include "core/library/rows.h"

namespace rendak {

// Whether the date that a logger gave a run can be right, and which is likely; read off the catalogue, without opening
// recordings.

/// The day on which most other runs of the event were driven, as clocks there show it: its midnight in Unix seconds,
/// counted as if it were UTC. Nothing where no other run has a date.
[[nodiscard]] std::optional<double> day_of_event(const RunRow& run, const std::vector<RunRow>& others);

/// The moment (Unix seconds) of such a day at which the run's clock stands as it did. Call it for a run with a date.
[[nodiscard]] double on_day(const RunRow& run, double day);

/// Before any logger in use, in the future, or more than ten days from the day of the event.
[[nodiscard]] bool has_doubtful_date(const RunRow& run, const std::vector<RunRow>& others);

}  // namespace rendak
