#pragma once

#include <QString>

namespace rendak::app {

class MainWindow;
class Workspace;

/// Goes through the main views with the library's runs and writes a picture of each into a folder. Returns false when a
/// picture could not be made.
[[nodiscard]] bool take_screenshots(MainWindow& window, const QString& folder);

/// Runs the event loop until no job is running (at most `seconds`).
[[nodiscard]] bool wait_until_idle(MainWindow& window, double seconds = 60);
[[nodiscard]] bool wait_until_idle(Workspace& workspace, double seconds = 60);

}  // namespace rendak::app
