#pragma once

#include <memory>
#include <span>

#include "core/intake/run_formulas.h"
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
    std::vector<PictureNote> picture_notes;     ///< written onto its traces and its map
    std::shared_ptr<const PedalScales> scales;  ///< of its pedals, with the limits of its car sheet
    std::shared_ptr<RunFormulas> formulas;      ///< what `recording` derives its formula channels with
};

/// Opens a run. Accelerations that are not logged are added from the path.
[[nodiscard]] Result<std::shared_ptr<const RunData>> load_run(const Library& library, RunId id);

/// The same run with the library's formulas and constants as they are now. What was computed stays where nothing
/// changed that it depends on.
[[nodiscard]] Result<std::shared_ptr<const RunData>> with_new_formulas(const Library& library, const RunData& run);

/// The same run with what is written about it, the library's formulas and constants as they are now.
[[nodiscard]] Result<std::shared_ptr<const RunData>> with_new_papers(const Library& library, const RunData& run);

/// What of a run can be shown as a curve or a colour: the logged quantities in the order of all_quantities() without
/// times, places and counters, those that no quantity stands for by their own names, then the formulas that hold for
/// it.
struct ShownChannel {
    std::string id;
    std::string set = {};  ///< of a formula; empty for a logged one
};
[[nodiscard]] std::vector<ShownChannel> shown_channels(std::span<const std::shared_ptr<const RunData>> runs);

/// Results of formulas as channels to be written to a file: in the unit in which each is shown. `names` may be {"all"}:
/// then those that this run cannot have are left out, else they are the error.
[[nodiscard]] Result<std::vector<Channel>> formula_channels(const RunData& run, std::vector<std::string> names);

/// All complete laps of an opened run, aligned, in the order driven; whether each counts.
struct RunLap {
    PreparedLap lap;
    bool included = false;  ///< flying, and not left out
};
[[nodiscard]] std::vector<RunLap> complete_laps(const RunData& run);

/// Aligns a complete lap of an opened run; fails for out, in and part laps and for runs without a track.
[[nodiscard]] Result<PreparedLap> prepare_lap(const RunData& run, int lap_number);

/// Any lap, or `whole_run`, to be looked at over time only: its map knows when it begins and ends, and has no places
/// (`track` is null, "distances" are seconds). `shift_s` moves what is shown to the right.
[[nodiscard]] Result<PreparedLap> prepare_stretch(const RunData& run, int lap_number, double shift_s = 0);

}  // namespace rendak
