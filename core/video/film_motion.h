#pragma once

#include <array>
#include <span>
#include <vector>

#include "core/base/interval.h"
#include "core/video/film_link.h"

namespace rendak {

/// How a film's picture moves, told between each frame and the one before it.
struct FilmMotion {
    std::vector<double> time_s;  ///< the middle between the two, in the film
    /// Widths of the picture a second that it moves to the right, in its upper, middle and lower part: which of them
    /// shows what is far away is for the data to say. NaN: cannot be told.
    std::array<std::vector<float>, 3> across;
    std::vector<float> change;  ///< how much of it is another one, 0: nothing moves; NaN: a cut of light
};
/// Looks at the frames of a part of the film, small and grey. The way across is found where the columns' means lie best
/// on each other (least squares; to a part of a pixel by Lucas and Kanade 1981); a change of the light of all of it is
/// taken out first.
[[nodiscard]] Result<FilmMotion> film_motion(FilmReader& film, Interval film_s, const JobContext& job = {});

/// Between two grey pictures of `width` columns: pixels that the second one has moved to the right, by part.
struct Moved {
    std::array<float, 3> across_px;
    float change;
};
[[nodiscard]] Moved moved_between(std::span<const std::uint8_t> before, std::span<const std::uint8_t> after, int width,
                                  int height);

}  // namespace rendak
