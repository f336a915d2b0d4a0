#pragma once

#include <vector>

#include "core/library/rows.h"
#include "core/recording/recording.h"

namespace rendak {

/// Laps as the logger itself told them, for recordings without positions: by its running lap time (the line is where
/// that began from zero), else by its beacon (a pulse at the line), else by its lap counter (the line lies half a
/// sample before the step is seen). What is told again within 5 s is the same line. Each complete lap says by what it
/// was cut and how good its time can be. Not counted are laps with a stop; doubtful are laps over 1.6 times as long as
/// the middle one (a missed line), and those under half as long (a line told twice) with the neighbour that they were
/// parted from. Lengths are the speed's, where it is logged. Empty when the logger told no line.
[[nodiscard]] std::vector<Lap> counted_laps(const Recording& recording);

}  // namespace rendak
