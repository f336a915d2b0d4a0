#pragma once

#include <vector>

#include "core/track/path.h"
#include "core/track/track.h"

namespace rendak {

/// Times at which the path crosses the line in its direction (within 70° of it: where a
/// circuit crosses itself the other leg does not count), interpolated along the smoothed path. A path that
/// begins or ends within one sample of the line counts as crossing it there.
[[nodiscard]] std::vector<double> find_crossings(const Path& path, const StartLine& line);

}  // namespace rendak
