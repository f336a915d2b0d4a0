#pragma once

#include "core/track/path.h"
#include "core/track/speed_source.h"
#include "core/track/track.h"

namespace rendak {

/// How the slow error of a receiver behaves in a run, as far as the run itself shows it.
struct SlowError {
    double sd_m = 0;               ///< of each coordinate; 0: none to be seen
    double correlation_s = 0;      ///< how long it stays alike (first-order Gauss–Markov)
    double line_sd_m = 0;          ///< by how much the lines driven differ from the track's
    double line_length_m = 0;      ///< over how many metres such a difference stays alike
    double scatter_m = 0.2;        ///< by how much a driver's line changes from lap to lap …
    double scatter_length_m = 80;  ///< … which stays alike over so many metres; both are what is usual until laps tell
    bool by_speed = false;         ///< the measured speed tells how it changes along the road
};

/// Takes the slow error out of the positions of a run on a track (same origin), as far as it can be told apart from
/// lines that really differ: drivers do drive metres apart, and the line that somebody drives is no error. Three things
/// know of it: the measured speed (how far the car went between two moments), the laps of the run (one driver's line is
/// alike from lap to lap, the error is not), and that lines differ by so much over so many metres while an error
/// is the same for all directions of travel. All are weighed in one least-squares estimate of the error at every half
/// second and of the run's line; the sizes (see SlowError) are taken from the run. What cannot be told stays in, and in
/// `path.sd_m`, which becomes the expected error along the road. Paths by shape are left alone.
SlowError take_out_slow_error(Path& path, const Track& track, const SpeedSource& speed);

/// A track from a run (see learn_track()) whose line does not carry the slow error of the one lap that it is taken
/// from: learnt once, then again from the path without the error that the run's laps show between each other.
[[nodiscard]] Result<Track> learn_steady_track(const Path& path, const std::string& name, const StartLine& start,
                                               const SpeedSource& speed);

}  // namespace rendak
