#pragma once

#include <optional>

#include "core/laps/prepared_lap.h"

namespace rendak {

/// How far one lap lies off another along the track, told from the shape of what was driven and not from the start
/// line: the lags at which the slow-downs of the two speed curves fit best, corner by corner.
struct AlongOffset {
    double behind_m = 0;   ///< median over the corners; positive = the same happens further on
    double scatter_m = 0;  ///< of the corners (drivers brake at different places)
    int corners = 0;
    /// More than chance: beyond 4 m and three standard errors.
    [[nodiscard]] bool stands_out() const;
};
[[nodiscard]] std::optional<AlongOffset> along_offset(const PreparedLap& reference, const PreparedLap& lap);

/// By how much later the positions come than the wheels (or the accelerometer) say: the lag at which their speeds fit
/// best. None without a second sensor, or when the fit is no clear one. Uses the positions alone: the
/// fused path follows the other sensors half-way.
struct PositionDelay {
    double delay_s = 0;
    double uncertainty_s = 0;
    [[nodiscard]] bool stands_out() const { return std::abs(delay_s) > 0.06 && std::abs(delay_s) > 4 * uncertainty_s; }
};
[[nodiscard]] std::optional<PositionDelay> position_delay(const Recording& recording);

/// Positions of a whole run that lie off the track's line by the same amount on every lap: another receiver's frame.
struct PositionShift {
    Point shift;           ///< mean over the laps; to be taken away
    double scatter_m = 0;  ///< of the laps about it
    [[nodiscard]] bool stands_out() const { return length(shift) > 2.5 && length(shift) > 3 * scatter_m; }
};
[[nodiscard]] std::optional<PositionShift> position_shift(const Path& path, const Track& track,
                                                          const std::vector<Lap>& laps);

}  // namespace rendak
