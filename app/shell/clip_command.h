#pragma once

#include <QStringList>

namespace rendak::app {

/// `rendak clip --library DIR --laps RUN:LAP,... --out FILE.mp4`: a film of laps with figures in it, without a window.
/// Returns the code that the program ends with; errors go to stderr.
[[nodiscard]] int clip_command(const QStringList& arguments);

}  // namespace rendak::app
