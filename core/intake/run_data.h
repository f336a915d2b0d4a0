#pragma once

#include <memory>

#include "core/laps/prepared_lap.h"
#include "core/library/library.h"

namespace rendak {

/// A run opened for work: its recording (corrections applied), its path on the track and its laps.
struct RunData {
    RunRow row;
    std::shared_ptr<const Recording> recording;
    std::shared_ptr<const Track> track;  ///< null while the run has none
    std::shared_ptr<const Path> path;    ///< null without positions
    std::vector<Lap> laps;
};

/// Opens a run. Accelerations that are not logged are added from the path.
[[nodiscard]] Result<std::shared_ptr<const RunData>> load_run(const Library& library, RunId id);

/// All complete laps of an opened run, aligned, in the order driven; whether each counts.
struct RunLap {
    PreparedLap lap;
    bool included = false;  ///< flying, and not left out
};
[[nodiscard]] std::vector<RunLap> complete_laps(const RunData& run);

/// Aligns a complete lap of an opened run; fails for out, in and part laps and for runs without a track.
[[nodiscard]] Result<PreparedLap> prepare_lap(const RunData& run, int lap_number);

}  // namespace rendak
