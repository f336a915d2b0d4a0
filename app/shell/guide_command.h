#pragma once

#include <QStringList>

namespace rendak::app {

/// `rendak guide --library DIR --lap RUN:LAP --out FILE.pdf`: the track guide on paper, without a window. Returns the
/// code that the program ends with; errors go to stderr.
[[nodiscard]] int guide_command(const QStringList& arguments);

}  // namespace rendak::app
