#pragma once

#include <vector>

#include "core/laps/prepared_lap.h"

namespace rendak {

/// How a lap moves, at every metre of track: what a limit is seen from, and what a lap along the same line is worked
/// out of. SI, ISO 8855 axes; NaN where it is not logged.
struct LapMotion {
    static constexpr double step_m = 1;
    double length_m = 0;
    std::vector<double> speed_mps;     ///< mean of 0.3 s
    std::vector<double> step_s;        ///< from this place to the next; the last one ends at `length_m`
    std::vector<double> lateral_mps2;  ///< as felt: without what a leaning road carries; left positive; mean of 0.2 s
    std::vector<double> along_mps2;    ///< from the speed over 0.4 s, with the slope taken out where it is known
    std::vector<double> grade;         ///< rise a metre; 0 where the height is not known
    std::vector<double> lean_mps2;     ///< what the lean of the road carries of a turn to the left; 0 where not known
    std::vector<double> crest;         ///< bending of the road's height over 80 m, 1/m; negative over a crest; or 0

    [[nodiscard]] std::size_t size() const { return speed_mps.size(); }
    [[nodiscard]] double place_m(std::size_t i) const { return static_cast<double>(i) * step_m; }
    [[nodiscard]] std::size_t cell(double distance_m) const;
};
[[nodiscard]] LapMotion motion_of(const PreparedLap& lap);

}  // namespace rendak
