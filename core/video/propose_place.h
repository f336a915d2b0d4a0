#pragma once

#include "core/intake/run_data.h"
#include "core/video/film_book.h"

namespace rendak {

/// Looks at a film and listens to it, and holds it against a run: find_offset() of all of it.
[[nodiscard]] Result<OffsetFound> propose_place(const Library& library, const KeptFilm& film, const RunData& run,
                                                const JobContext& job = {});

}  // namespace rendak
