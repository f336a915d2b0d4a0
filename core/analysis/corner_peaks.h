#pragma once

#include <span>

#include "core/laps/prepared_lap.h"

namespace rendak {

/// What one lap did in one corner. NaN where it is not logged.
struct CornerPeak {
    double peak_mps2 = std::numeric_limits<double>::quiet_NaN();  ///< into the corner, running mean over 0.2 s
    double mean_mps2 = std::numeric_limits<double>::quiet_NaN();  ///< over the time in the corner
    double peak_at_m = 0;
    double slowest_mps = std::numeric_limits<double>::quiet_NaN();
    double slowest_at_m = 0;
};

/// A corner of the track with its lateral limit as seen over all laps.
struct PeakColumn {
    Corner corner;
    bool banked = false;     ///< the road leans by over 1.5°, and by more than twice its standard deviation
    double banking_rad = 0;  ///< mean over the middle of the corner; positive helps
    double best_mps2 = std::numeric_limits<double>::quiet_NaN();  ///< highest peak of the laps that count
};

/// Laps × corners. `limit`: highest peak of all corners of a hand over the laps that count, banked ones left out unless
/// asked for: an observed maximum, to be taken as the limit only where no calculated one is known.
struct CornerPeaks {
    std::vector<PeakColumn> corners;
    std::vector<std::vector<CornerPeak>> laps;  ///< [lap][corner]
    double limit_left_mps2 = std::numeric_limits<double>::quiet_NaN();
    double limit_right_mps2 = std::numeric_limits<double>::quiet_NaN();
    [[nodiscard]] double limit(bool left) const { return left ? limit_left_mps2 : limit_right_mps2; }
};
[[nodiscard]] CornerPeaks corner_peaks(std::span<const PreparedLap> laps, bool banked_count = false);

}  // namespace rendak
