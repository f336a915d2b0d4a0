#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "core/track/geometry.h"

namespace rendak::demo {

/// A corner as the circuit was drawn: the truth that tests compare with.
struct CircuitCorner {
    int number;
    double start_m, apex_m, end_m;
    bool left;
};

/// A made-up road in open water. Points of the centreline are a step of about 1 m apart, starting at the start line. A
/// circuit is closed; an open road goes on behind its finish at `length_m`.
struct Circuit {
    std::string name = "Skerrow Point";
    GeoPoint origin{57.3100, 4.8200};  ///< of the start line
    double heading_deg = 118;          ///< of the main straight
    bool open = false;
    double length_m = 0;  ///< of a lap, or from the start to the finish
    double step_m = 1;
    std::vector<Point> centre;      ///< x east, y north of the origin
    std::vector<Point> direction;   ///< unit vectors
    std::vector<double> curvature;  ///< 1/m, left positive
    std::vector<double> height_m;
    std::vector<double> grade;        ///< dz/ds
    std::vector<double> crest;        ///< d²z/ds², 1/m; negative over a crest
    std::vector<double> banking_rad;  ///< positive where it helps the corner
    std::vector<double> half_width_m;
    std::vector<double> roughness_m, other_roughness_m;  ///< unevenness, the same every lap (suspension.h mixes them)
    std::vector<double> kerb_left_m;  ///< height of the kerb on the left edge (negative: on the right one); 0: none
    std::vector<CircuitCorner> corners;

    /// Of the whole centreline.
    [[nodiscard]] double road_m() const { return step_m * static_cast<double>(centre.size()); }
    [[nodiscard]] std::size_t index(double s) const;
    [[nodiscard]] Point position(double s, double left_m) const;
};

/// Unevenness of a road, a metre a value, the same for every car and lap: its slope is as uneven at every wavelength,
/// as roads are (ISO 8608), up to some thirty metres.
[[nodiscard]] std::vector<double> rough_road(std::size_t metres, std::uint64_t seed);
/// Skerrow Point: a coastal circuit.
[[nodiscard]] Circuit skerrow_point();
/// Corrin Hill: a hill climb of 1.9 km, 125 m up.
[[nodiscard]] Circuit corrin_hill();

}  // namespace rendak::demo
