#pragma once

#include <span>
#include <vector>

#include "core/base/interval.h"
#include "core/video/film_link.h"

namespace rendak {

/// How loud a film is at each pitch: rows of moments, columns a twenty-fourth of an octave apart, over what is usual at
/// that pitch.
struct EngineSound {
    static constexpr double step_s = 0.025, window_s = 0.1, lowest_hz = 25;
    static constexpr std::size_t pitches = 168;  ///< seven octaves
    double begin_s = 0;                          ///< of the first moment, in the film
    std::vector<std::vector<float>> loud;        ///< by pitch, over the moments

    [[nodiscard]] std::size_t moments() const { return loud.empty() ? 0 : loud.front().size(); }
};
/// Fails where the film has no sound, or is silent.
[[nodiscard]] Result<EngineSound> engine_sound_of(FilmReader& film, Interval film_s, const JobContext& job = {});
/// The same of samples.
[[nodiscard]] EngineSound engine_sound(std::span<const float> samples, int rate_hz, double begin_s);

}  // namespace rendak
