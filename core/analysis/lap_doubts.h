#pragma once

#include "core/laps/lap_map.h"
#include "core/library/rows.h"

namespace rendak {

/// Says what is doubtful about complete laps; they do not count until the engineer switches them in:
/// - off the track: over 4 m beside where the other laps of the run went (with two laps or fewer: over 8 m beside the
///   line) for 15 m or more, and where the edges are known over 1.5 m outside them;
/// - traffic: some sections in a row lose over 4 % and 0.3 s to the run's usual time while the rest of the lap does
///   not;
/// Poor places (an expected error of over 2.5 m) are said in the reason; they cast no doubt on the lap time.
void note_doubts(std::vector<Lap>& laps, const Path& path, const Track& track);

}  // namespace rendak
