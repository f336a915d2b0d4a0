#pragma once

#include <QStringList>

namespace rendak::app {

/// `rendak overview --library DIR --a SET … --b SET … [--mixed] --out FILE.png|svg|pdf`: two laps, or two sets of laps,
/// on one page, without a window. Returns the code that the program ends with; errors go to stderr.
[[nodiscard]] int overview_command(const QStringList& arguments);

}  // namespace rendak::app
