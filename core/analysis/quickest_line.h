#pragma once

#include <string>
#include <vector>

#include "core/analysis/observed_limit.h"
#include "core/base/job.h"

namespace rendak {

/// A line across the road with the time that a point with the car's observed limits takes along it.
struct ModelledLine {
    std::vector<double> left_m;  ///< of the track's line, a place each `step_m`
    double lap_s = 0;
};

/// The line on which that point is quickest inside the road's edges, for comparison only: it has no length, no tyres
/// that warm, nobody in it. What it gains is held against the same point on the line that was driven.
struct QuickestLine {
    static constexpr double step_m = 5;
    ModelledLine quickest, driven, gentlest;  ///< gentlest: of least curvature (ideal_line())
    struct Row {
        int corner = 0;  ///< 0: from the line to the first
        std::string name;
        Interval range_m;  ///< from the middle of the straight before to that of the straight behind
        double driven_s = 0, quickest_s = 0;
        [[nodiscard]] double gain_s() const { return driven_s - quickest_s; }
    };
    std::vector<Row> rows;  ///< they add up to the laps
    [[nodiscard]] double left_at(double distance_m) const;
};
/// Begins at the line of least curvature and moves it by smooth bumps, wide ones first, as long as that is quicker (a
/// descent along coordinates; the lap by forward and backward passes as in shown_pace()). `margin_m`: kept from the
/// edges, half a car. Fails where the edges are not known, or how the car gains and loses speed is not.
[[nodiscard]] Result<QuickestLine> quickest_line(const PreparedLap& lap, const ObservedLimit& limit,
                                                 const JobContext& job = {}, double margin_m = 1.0);

}  // namespace rendak
