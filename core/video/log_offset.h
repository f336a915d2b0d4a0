#pragma once

#include "core/recording/recording.h"
#include "core/video/film_offset.h"

namespace rendak {

/// Where another recording of the same drive lies on a run (a camera's own receiver, with another clock): run time less
/// its time, seconds. By their speeds, where the difference is least (root mean square): told where that is below
/// 1 m/s, a factor of the speeds (wheels, up to 5 %) taken out, and twice as large at every offset more than 2 s beside
/// it. Fails with a sentence else.
[[nodiscard]] Result<double> offset_of_log(const Recording& log, const Recording& run);

/// Where a film lies about, of a camera that logs by the same clock that dates its films; dates count whole seconds.
[[nodiscard]] Result<OffsetHint> hint_of_log(std::optional<double> film_start_unix_s, const Recording& log,
                                             const Recording& run);

}  // namespace rendak
