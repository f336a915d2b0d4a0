#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/analysis/observed_limit.h"

namespace rendak {

/// How much of the observed limit a lap uses in one corner: the felt lateral and along acceleration on an ellipse of
/// what was seen of each; the mean over a phase's time, the highest mean of 0.4 s of the corner. Empty where a phase is
/// not driven, or cannot be told.
struct GripUse {
    int corner = 0;
    std::optional<double> braking;  ///< brake on to turn-in
    std::optional<double> entry;    ///< turn-in to the slowest place
    std::optional<double> exit;     ///< slowest place to full throttle, as far as the car turns
    std::optional<double> mean;     ///< over the corner
    std::optional<double> peak;
};
[[nodiscard]] std::vector<GripUse> grip_use(const PreparedLap& lap, const LapMotion& motion,
                                            const ObservedLimit& limit);

/// A share in use over several laps, and on how many of them it is little.
struct GripShare {
    static constexpr double little = 0.8;
    double mean = 0;
    std::size_t laps = 0;         ///< that tell it
    std::size_t little_laps = 0;  ///< that use less than `little`
};
struct GripUseOverLaps {
    int corner = 0;
    std::optional<GripShare> braking, entry, exit, whole;
};
/// A row a corner of the laps' grip_use(), which all are of one track.
[[nodiscard]] std::vector<GripUseOverLaps> grip_over_laps(const std::vector<std::vector<GripUse>>& laps);

/// One corner with the road behind it, from where the lap slows down for it to where it does for the next.
struct PaceRow {
    std::string name;
    int corner = 0;  ///< 0: from the line to the first
    Interval range_m;
    double lap_s = 0, pace_s = 0;
    [[nodiscard]] double unused_s() const { return lap_s - pace_s; }
};

/// The lap that the car has already shown it can do along the line of a lap: nowhere faster than the observed limit,
/// and gained and braked as it was seen to (a quasi-steady-state lap, forward and backward pass with a friction
/// ellipse; Brayshaw and Harrison 2005). A point that holds the road: no tyre warms, no load moves, no driver needs a
/// moment. Corners that set no limit are held to what was reached in them.
struct ShownPace {
    double lap_s = 0;
    std::vector<PaceRow> rows;  ///< in the order of the road; they add up to the laps' times
};
[[nodiscard]] Result<ShownPace> shown_pace(const PreparedLap& lap, const LapMotion& motion, const ObservedLimit& limit);

}  // namespace rendak
