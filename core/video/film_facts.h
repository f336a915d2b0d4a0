#pragma once

#include <cstddef>
#include <optional>
#include <string>
#include <vector>

namespace rendak {

/// What a film is, as its files say.
struct FilmFacts {
    int width = 0, height = 0;  ///< as it is to be seen: turned upright, with square pixels
    int turned_deg = 0;         ///< clockwise by 0, 90, 180 or 270 for that
    std::string codec, container;
    double frames_per_s = 0;  ///< mean
    bool even = true;         ///< all frames last as long
    double duration_s = 0;
    std::size_t frames = 0;
    bool sound = false;
    int sound_hz = 0;
    std::optional<double> start_unix_s = {};  ///< as the camera wrote it
    std::vector<double> part_begin_s = {};    ///< of each file, in the film
    std::string doubt = {};                   ///< what is wrong with it although it can be seen
};

/// How a film is to be written.
struct FilmWish {
    std::string file;  ///< its ending says the container: .mp4, .mov, .mkv, .avi
    int width = 0, height = 0;
    double frames_per_s = 25;
    int sound_hz = 0;        ///< mono; 0: none
    std::string codec = {};  ///< FFmpeg's name of the encoder; empty: H.264 where there is one, else MPEG-4
    int quality = 23;        ///< as x264 counts: lower is better and larger
    int gop = 0;             ///< frames from key frame to key frame; 0: two seconds
    std::string start = {};  ///< "2026-04-18T09:00:00Z", as a camera writes it; empty: nothing
};

}  // namespace rendak
