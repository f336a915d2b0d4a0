#pragma once

#include <span>
#include <vector>

#include "core/laps/prepared_lap.h"

namespace rendak {

/// A lap, or the mean of several, at every metre of track: what is added up over the road.
struct LapProfile {
    static constexpr double step_m = 1;
    double length_m = 0;
    std::vector<double> elapsed_s;  ///< since the line, at 0, 1, 2 … m; the last one at `length_m`
    std::vector<double> speed_mps;  ///< at the same places, mean of 0.3 s

    [[nodiscard]] double elapsed_at(double distance_m) const { return at(elapsed_s, distance_m); }
    [[nodiscard]] double speed_at(double distance_m) const { return at(speed_mps, distance_m); }
    [[nodiscard]] double lap_s() const { return elapsed_s.back(); }

  private:
    [[nodiscard]] double at(const std::vector<double>& values, double distance_m) const;
};

/// Without a logged speed it is that of the places.
[[nodiscard]] LapProfile profile_of(const PreparedLap& lap);
/// Of laps of one track; the speeds' mean is over the road.
[[nodiscard]] LapProfile mean_of(std::span<const LapProfile> laps);

}  // namespace rendak
