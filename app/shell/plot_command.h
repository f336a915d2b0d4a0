#pragma once

#include <QStringList>

namespace rendak::app {

/// `rendak plot --library DIR --laps RUN:LAP,… [--page NAME] [--range FROM-TO] [--axis distance|time|run]
/// [--size WIDTHxHEIGHT] [--garage] [--imperial] --out FILE.png|svg|pdf|csv`: a picture of traces without a window.
/// Returns the code that the program ends with; errors go to stderr.
[[nodiscard]] int plot_command(const QStringList& arguments);

}  // namespace rendak::app
