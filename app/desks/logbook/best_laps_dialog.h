#pragma once

#include "app/workspace/workspace.h"

namespace rendak::app {

/// The fastest laps of the library by track, car and driver; a double-click puts a lap into the tray.
void show_best_laps(Workspace& workspace, QWidget* parent);

}  // namespace rendak::app
