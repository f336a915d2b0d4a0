#pragma once

#include "core/intake/run_data.h"
#include "core/video/film_book.h"

namespace rendak {

/// Looks at a film and listens to it, and holds it against a run: find_offset() of all of it. With a hint nothing
/// farther from it is looked at, and where picture and sound tell nothing there, a hint that is enough is what is
/// found. Without one, what cannot be told of all the run is looked for within 3 s of where the film lies on it
/// already.
[[nodiscard]] Result<OffsetFound> propose_place(const Library& library, const KeptFilm& film, const RunData& run,
                                                const std::optional<OffsetHint>& near = {}, const JobContext& job = {});

}  // namespace rendak
