#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/library/library.h"
#include "core/recording/recording.h"
#include "core/track/path.h"
#include "core/track/track.h"

namespace rendak {

/// A run whose slow-downs lie elsewhere on the road than those of the others there.
struct PlacesApart {
    std::string what;                      ///< a sentence
    std::string cure;                      ///< what `after` does; empty when there is none
    std::optional<PlaceCorrection> after;  ///< the correction that cures it, tried; none when moving in time does not
};

/// Holds the best lap of a run against those of the latest runs of its car on its track (at most three of `others`):
/// when all of them slow down at least 8 m to the same side, its positions come late or early, and no second sensor of
/// its own tells. Less than that is how drivers differ.
[[nodiscard]] std::optional<PlacesApart> places_apart_from_others(const Library& library,
                                                                  const std::vector<RunRow>& others, const RunRow& row,
                                                                  const Recording& recording, const Path& path,
                                                                  const Track& track, const std::vector<Lap>& laps,
                                                                  const PlaceCorrection& correction);

}  // namespace rendak
