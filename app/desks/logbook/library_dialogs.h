#pragma once

#include "app/workspace/workspace.h"

class QWidget;

namespace rendak::app {

// Dialogs about the library as a whole. Every edit in them can be undone.

/// Car sheets by car and season: the constants that calculations use.
void edit_car_sheets(Workspace& workspace, QWidget* parent);
/// The user's own names for channels.
void edit_channel_names(Workspace& workspace, QWidget* parent);
/// What lies in the bin: put back, or emptied for good.
void show_bin(Workspace& workspace, QWidget* parent);
/// Asks where to, and writes a bundle in the background.
void write_bundle_of(Workspace& workspace, const std::vector<RunId>& runs, QWidget* parent);
/// Asks for a bundle, shows what comes in and what clashes, and brings it in.
void read_bundle(Workspace& workspace, QWidget* parent, const QString& file = {});

}  // namespace rendak::app
