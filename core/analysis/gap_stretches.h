#pragma once

#include <optional>
#include <vector>

#include "core/laps/gap.h"
#include "core/laps/prepared_lap.h"

namespace rendak {

/// A stretch of a lap over which the gap grows or shrinks at one pace.
struct GapStretch {
    Interval range_m;
    double change_s = 0;  ///< positive: time is lost
    [[nodiscard]] double per_100_m() const { return range_m.length() > 0 ? 100 * change_s / range_m.length() : 0; }
};

/// How far off the gap at a place may be because places are: expected error of both laps over the baseline's speed.
/// 0 where that is not known.
[[nodiscard]] double gap_error_s(const PreparedLap& baseline, const PreparedLap& lap, double distance_m);

/// The places where a gap changes its slope, and the stretches between them, in order. They join without a hole, so
/// that their changes add up to the gap's over `range_m`. The curve is simplified to straight pieces that stay within
/// `tolerance_s` of it (Douglas and Peucker 1973, with the distance taken along the gap).
[[nodiscard]] std::vector<GapStretch> gap_stretches(const GapCurve& gap, Interval range_m, double tolerance_s);

/// Neighbouring stretches that are one event to a reader: all losing, or all winning, at more than the lap's mean pace
/// of change; or all at less, whatever their sign. Their changes add up as the stretches' do.
struct GapChange {
    Interval range_m;
    double change_s = 0;
    std::vector<GapStretch> parts;
    [[nodiscard]] double per_100_m() const { return range_m.length() > 0 ? 100 * change_s / range_m.length() : 0; }
};
[[nodiscard]] std::vector<GapChange> gap_changes(const std::vector<GapStretch>& stretches);

/// The tolerance for two laps: a tenth of what is won or lost in all, between 5 and 20 ms, and not finer than
/// gap_error_s() in the mean.
[[nodiscard]] double gap_tolerance_s(const PreparedLap& baseline, const PreparedLap& lap, const GapCurve& gap,
                                     Interval range_m);

}  // namespace rendak
