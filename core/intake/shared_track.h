#pragma once

#include <memory>

#include "core/library/library.h"
#include "core/track/track.h"

namespace rendak {

/// A track of the library under the name that the catalogue has for it. The runs of an event share one: reading its
/// text takes longer than the rest of opening a run. The tracks that were asked for last are remembered by their whole
/// text, so that what was changed, here or by another program, is never answered with what it was. From any thread.
[[nodiscard]] Result<std::shared_ptr<const Track>> shared_track(const Library& library, TrackId id);

/// The same as a copy, for who changes it.
[[nodiscard]] Result<Track> read_track(const Library& library, TrackId id);

}  // namespace rendak
