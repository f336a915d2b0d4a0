#pragma once

#include "app/workspace/workspace.h"

class QMenu;

namespace rendak::app {

/// Counts a lap, or leaves it out, by hand; undoable.
void switch_lap(Workspace& workspace, RunId run, const Lap& lap, bool on);
/// Writes about a lap, which switches nothing; undoable.
void note_lap(Workspace& workspace, RunId run, const Lap& lap, const QString& note);
/// Asks for the note of a lap.
void ask_lap_note(Workspace& workspace, LapRef lap, QWidget* parent);
/// The other way than it is now; a doubtful lap is counted.
void toggle_lap(Workspace& workspace, LapRef lap);

/// What can be done with a lap wherever it is seen: count it or leave it out, write about it, show it in the Logbook,
/// pick it or take it away.
void add_lap_actions(QMenu& menu, Workspace& workspace, LapRef lap, QWidget* parent);

}  // namespace rendak::app
