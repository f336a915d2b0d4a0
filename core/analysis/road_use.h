#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/analysis/technique.h"
#include "core/laps/prepared_lap.h"

namespace rendak {

/// A place of a lap across the road.
struct AcrossRoad {
    double at_m = 0;
    double out_m = 0;             ///< of the track's line, positive to the outside of the corner
    std::optional<double> gap_m;  ///< between the car's side and the edge; below 0 beyond it; without edges not known
};

/// How one corner is driven on its road. Empty where there are no positions.
struct CornerLine {
    int corner = 0;
    std::optional<AcrossRoad> turn_in;  ///< to the outer edge, where the car turns in
    std::optional<AcrossRoad> entry;    ///< furthest out before the apex
    std::optional<AcrossRoad> apex;     ///< nearest to the inner edge; its gap is to that one
    std::optional<double> late_m;       ///< of the corner's own apex; below 0: early
    std::optional<AcrossRoad> exit;     ///< furthest out behind the apex, up to where the next corner begins
    /// To the outside of the track's line where the corner begins, at its apex and where it ends: what is held against
    /// other laps.
    std::optional<double> begin_out_m, middle_out_m, end_out_m;
    std::optional<double> tightness;  ///< greatest curvature over the arc's mean
};

struct RoadUse {
    Edges::Source source = Edges::Source::none;
    /// Expected error of a place across the road, one standard deviation: of the positions, and of edges that were
    /// driven (of 0.25 m). It does not fall with the number of laps of a run: a receiver's slow error stays.
    double error_m = 0;
    std::vector<CornerLine> corners;
};
/// `car_width_m` lies about the positions.
[[nodiscard]] RoadUse road_use(const PreparedLap& lap, double car_width_m = 1.8);
[[nodiscard]] RoadUse road_use(const PreparedLap& lap, const std::vector<Technique>& techniques,
                               double car_width_m = 1.8);

/// What a set of laps leaves of the road in one corner: means.
struct LineMean {
    int corner = 0;
    std::size_t laps = 0;
    double turn_in_gap_m = 0, entry_gap_m = 0, apex_gap_m = 0, late_m = 0, exit_gap_m = 0;  ///< NaN: not known
    /// The same, further in or out than another set; NaN without one.
    double apex_out_m = 0, exit_out_m = 0, entry_out_m = 0;
    std::size_t misses = 0;          ///< laps that miss the apex by more than can be in doubt
    std::optional<double> missed_m;  ///< mean gap at the apex, where it is a miss
    bool told = false;               ///< the edges are known well enough to call a miss one
};
/// A miss is one from half a metre on, and from twice the expected error on; edges that come from the spread of laps
/// are no edges to miss by. `against`: another set, or empty.
[[nodiscard]] std::vector<LineMean> line_means(const std::vector<RoadUse>& lines,
                                               const std::vector<RoadUse>& against = {});
/// "Turn 3: misses the apex by 0.8 m, 12 m late, on 5 of 6 laps; leaves 2.1 m of the road at the exit."
[[nodiscard]] std::string line_words(const LineMean& it, const RoadUse& line, const Track& track);
/// Over the lap.
[[nodiscard]] std::string line_words(const std::vector<LineMean>& means, const RoadUse& line, const Track& track);

}  // namespace rendak
