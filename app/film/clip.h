#pragma once

#include <QSize>
#include <string>

#include "app/film/film_paint.h"
#include "core/video/film_book.h"

namespace rendak::app {

/// A lap, or a part of it, as one camera filmed it.
struct ClipPart {
    std::vector<std::string> files;
    FilmOffset at;
    std::shared_ptr<const RunData> run;
    PreparedLap lap;
    int slot = 0;
    Interval run_s;  ///< what is to be seen
};

struct ClipWish {
    std::vector<ClipPart> parts;
    /// The first two beside each other, locked on the same place; else one after another.
    bool beside = false;
    FilmStyle style = usual_film_style();
    std::string file;  ///< .mp4, .mov, .mkv, .avi
    QSize size = {};   ///< of one picture; empty: as it was filmed
};

struct ClipMade {
    std::size_t frames = 0;
    double seconds = 0;
    std::string coded_as;  ///< "H.264 and AAC"
    std::uintmax_t bytes = 0;
};

/// The part of a lap between two places, with seconds before and behind it; without places the whole lap.
[[nodiscard]] Interval clip_span(const PreparedLap& lap, std::optional<Interval> range_m, double lead_s);
/// About how large it becomes, bytes.
[[nodiscard]] double expected_clip_bytes(QSize size, double frames_per_s, double seconds);

/// Decodes, paints and encodes; nothing is at its place before it is whole. Fails where a film does not cover what is
/// to be seen.
[[nodiscard]] Result<ClipMade> make_clip(const ClipWish& wish, const JobContext& job);

/// The camera's film that lies on a run, opened for a clip.
[[nodiscard]] Result<ClipPart> clip_part(const Library& library, const std::string& camera,
                                         std::shared_ptr<const RunData> run, const PreparedLap& lap, int slot,
                                         Interval run_s);

}  // namespace rendak::app
