#pragma once

#include "app/workspace/workspace.h"

namespace rendak::app {

/// Holds a table of the timing system against the laps of a run and keeps the official times with it.
void hold_results_against(Workspace& workspace, RunId run, const QString& file, QWidget* parent);

}  // namespace rendak::app
