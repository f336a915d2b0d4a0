#pragma once

namespace rendak::app {

/// What an edit changed in the library: who shows something reads again what that kind can have changed, and no more.
enum class Change {
    marks,       ///< ranges saved under a name; nothing that is opened depends on them
    rules,       ///< watch rules: every run is checked by them again
    formulas,    ///< formula sets, car sheets, names of channels: results are computed anew
    papers,      ///< what is written about runs, or which runs there are: opened recordings stay open
    recordings,  ///< laps, corrections, tracks, damage: opened runs are opened again
};

}  // namespace rendak::app
