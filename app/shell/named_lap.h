#pragma once

#include <QString>
#include <optional>

#include "core/library/library.h"

namespace rendak::app {

/// "2:4" is lap 4 of run 2, "2:best" its best, "2:run" all of it. None: `why` says what is wrong.
[[nodiscard]] std::optional<LapRef> named_lap(Library& library, const QString& text, QString& why);

}  // namespace rendak::app
