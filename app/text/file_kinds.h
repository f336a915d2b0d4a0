#pragma once

#include <QStringList>

namespace rendak::app {

/// Patterns of the names of logged files, in small and capital letters: "*.csv", "*.CSV" …
[[nodiscard]] QStringList logged_file_patterns();
/// For a dialog: "Logged files (*.csv …);;All files (*)".
[[nodiscard]] QString logged_file_filter();

}  // namespace rendak::app
