#pragma once

#include "core/library/library.h"

namespace rendak {

/// The recording of a run as it is worked with: the run's stretch of it, signs turned round, unused channels left
/// out, and the channels of the recordings that were joined into it, moved onto its clock. Views where nothing
/// had to change.
[[nodiscard]] Result<Recording> run_recording(const Library& library, RunId id);

/// A recording with the signs of some quantities turned round.
[[nodiscard]] Recording with_flipped(const Recording& recording, const std::vector<std::string>& quantities);

/// A channel over its own copy of the samples, each value · factor + offset.
[[nodiscard]] Channel rescaled(const Channel& channel, double factor, double offset);

/// Position, height, and a speed whose name says that it is the GPS receiver's.
[[nodiscard]] bool comes_from_receiver(const Channel& channel);

/// Only the samples inside `window_s`; channels without any are left out.
[[nodiscard]] Recording cut_to(const Recording& recording, Interval window_s);

/// A channel whose samples were taken `offset_s` later.
[[nodiscard]] Channel moved_in_time(const Channel& channel, double offset_s);

}  // namespace rendak
