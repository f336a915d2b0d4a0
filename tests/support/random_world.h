#pragma once

#include <vector>

#include "core/recording/recording.h"
#include "core/track/geometry.h"

namespace rendak::test {

/// A circuit that nobody tuned anything to: a closed random road of a given length.
struct RandomRoad {
    GeoPoint origin{44.2, 9.1};
    double length_m = 0;
    std::vector<Point> centre;     ///< a metre apart, the first on the start line
    std::vector<Point> direction;  ///< unit vectors
    std::vector<double> curvature;

    [[nodiscard]] Point position(double s, double left_m) const;
    [[nodiscard]] double curvature_at(double s) const;
};
/// `waves`: the most of a wave round the road; more make more corners.
[[nodiscard]] RandomRoad random_road(unsigned seed, double length_m = 3200, int waves = 9);

/// One that crosses itself in its middle, once to the right and once to the left; `height` of half its width.
[[nodiscard]] RandomRoad figure_of_eight(double height, double length_m = 2600);

/// How somebody drives it: a line that waves about the middle of the road, a pace, and some scatter from lap to lap.
struct RandomDriver {
    double wave_m = 0;       ///< amplitude of the line's waves …
    int waves = 3;           ///< … so many a lap …
    double phase = 0;        ///< … beginning here, radians
    double pace = 1;         ///< share of the grip used
    double scatter_m = 0.2;  ///< of the line, from lap to lap
};

/// The exact motion at every 0.01 s: from some way before the line, `laps` laps, and some way behind it.
struct RandomDrive {
    static constexpr double rate_hz = 100;
    double length_m = 0;
    std::vector<double> along_m;  ///< since the first crossing of the line; negative before it
    std::vector<Point> position;
    std::vector<double> speed_mps, along_mps2, lateral_mps2, yaw_rate;
    std::vector<double> brake, throttle;  ///< 0 … 1, of pedals that make it so

    [[nodiscard]] double time_at(double along_m) const;
    [[nodiscard]] double along_at(double t_s) const;
    [[nodiscard]] double end_s() const { return static_cast<double>(along_m.size() - 1) / rate_hz; }
};
[[nodiscard]] RandomDrive drive(const RandomRoad& road, const RandomDriver& driver, int laps, unsigned seed);

/// The same drive with stands at places of it (9 m/s² down to them, 5 m/s² away from them). What lies before `begin_m`
/// is left out: a stand there is a standing start.
struct Stand {
    double at_m = 0, for_s = 0;
};
[[nodiscard]] RandomDrive with_stands(const RandomDrive& drive, const std::vector<Stand>& stands, double begin_m);

/// A receiver, and what else the logger has.
struct RandomSensors {
    double slow_m = 0, correlation_s = 60;  ///< Gauss–Markov error of each coordinate
    double white_m = 0;                     ///< noise of each coordinate
    double speed_mps = 0.03;                ///< noise of the speed
    double rate_hz = 20;
    double start_late_s = 0;
};
[[nodiscard]] Recording recorded(const RandomRoad& road, const RandomDrive& drive, const RandomSensors& sensors,
                                 unsigned seed);

}  // namespace rendak::test
