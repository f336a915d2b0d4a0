#pragma once

#include <filesystem>

#include "app/desks/stint/lap_figure_model.h"
#include "app/desks/stint/stint_data.h"
#include "app/desks/stint/watch_list.h"
#include "app/focus/comparison.h"

namespace rendak::app {

// What workers do for the desk. Each opens the library for itself.

/// The runs of the tray, A's first: with the letters of their first laps.
[[nodiscard]] std::vector<StintRun> stint_runs(const ComparedLaps& laps);
[[nodiscard]] std::vector<RunInTable> runs_in_table(const ComparedLaps& laps);

struct TableOfLaps {
    std::shared_ptr<const rendak::LapTable> table;
    std::vector<RunInTable> runs;
};
/// Of the runs, and of all others of an event where one is named.
[[nodiscard]] Result<TableOfLaps> table_of_laps(const std::filesystem::path& folder,
                                                const std::vector<LapColumn>& columns,
                                                const std::vector<RunInTable>& runs, const std::string& event,
                                                const JobContext& job);

struct WatchOfRuns {
    std::vector<WatchShown> shown;
    std::vector<RunId> stale;  ///< rules of them have to be checked anew
};
/// What is kept of the runs of the tray.
[[nodiscard]] Result<WatchOfRuns> watch_of(const std::filesystem::path& folder, const ComparedLaps& laps,
                                           const JobContext& job);

}  // namespace rendak::app
