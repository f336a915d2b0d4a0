#pragma once

#include <optional>
#include <span>
#include <vector>

#include "core/analysis/lap_profile.h"

namespace rendak {

/// How a car gains speed on full throttle, as its own laps show it: the middle acceleration of the clean stretches by
/// speed, which falls as speed rises (least squares for falling values: Ayer and others 1955). Where the track's height
/// is known the slope is taken out.
struct PullCurve {
    std::vector<double> speed_mps;   ///< rising
    std::vector<double> along_mps2;  ///< falling
    bool inferred = false;           ///< full throttle was told from the acceleration
    std::size_t samples = 0;

    [[nodiscard]] bool known() const { return speed_mps.size() >= 2; }
    [[nodiscard]] double at(double speed_mps) const;
};
/// Of laps of one car. Not known where it is hardly ever on full throttle.
[[nodiscard]] PullCurve pull_curve(std::span<const PreparedLap> laps);

/// What another speed at a place costs further on, if from there on the car gains speed as its pull curve and the road
/// have it: the baseline's own gain, and the difference of the curve at the two speeds.
class Carried {
  public:
    /// `faster_mps`: how much faster (negative: slower) than the baseline the car is at `from_m`; up to `to_m`.
    Carried(const LapProfile& baseline, const PullCurve& pull, double from_m, double faster_mps, double to_m);

    /// Seconds lost (negative: won) between two places; nothing outside the stretch.
    [[nodiscard]] double lost_s(double from_m, double to_m) const { return at(lost_s_, to_m) - at(lost_s_, from_m); }
    [[nodiscard]] double lost_s() const { return lost_s_.back(); }
    /// What is left of the difference of the speeds.
    [[nodiscard]] double faster_at(double place_m) const { return at(faster_mps_, place_m); }

  private:
    [[nodiscard]] double at(const std::vector<double>& values, double place_m) const;
    double from_m_;
    std::vector<double> lost_s_, faster_mps_;  ///< at every metre from there on
};

/// Where the baseline slows down, a slower car goes on until it meets the baseline's speed. Time that is lost so, and
/// the place where they meet. Of a faster one nothing is carried past there.
struct Meeting {
    double lost_s = 0, at_m = 0;
};
[[nodiscard]] Meeting meeting_of(const LapProfile& baseline, const PullCurve& pull, double from_m, double faster_mps);

}  // namespace rendak
