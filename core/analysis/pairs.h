#pragma once

#include <span>
#include <string_view>
#include <vector>

#include "core/analysis/line_fit.h"
#include "core/laps/prepared_lap.h"

namespace rendak {

/// Which turns are looked at: cars are seldom the same to both sides.
enum class TurnSide { both, left, right };

/// Whether a moment belongs to a side: on left (right) means that the car corners to that side (DriverActivity).
class SideFilter {
  public:
    SideFilter(const PreparedLap& lap, TurnSide side);
    [[nodiscard]] bool takes(double t_s) const;

  private:
    TurnSide side_;
    DriverActivity driver_;
    const Channel* lateral_;
};

/// Samples of two or three quantities at the same moments, in SI units; moments at which one of them is missing are
/// left out. The clock is the faster one's of x and y; the others are taken between their samples. Of hours every
/// second, third … sample is taken, so that there are at most `most`.
struct PairedSamples {
    std::vector<float> x, y, z;  ///< z empty when no third quantity was asked for
    std::vector<double> time_s;  ///< recording time
    std::size_t every = 1;       ///< 2: every second sample was taken, …
    [[nodiscard]] std::size_t size() const { return x.size(); }
};
[[nodiscard]] PairedSamples paired_samples(const PreparedLap& lap, std::string_view x, std::string_view y,
                                           std::string_view z, Interval time_s, TurnSide side = TurnSide::both,
                                           std::size_t most = 1'000'000);

/// How far a cloud about the origin reaches in each direction: the 95th percentile of the distance in `sectors` equal
/// sectors, the first one about the direction of x. NaN where a sector holds fewer than five points. A notch of less
/// than 40 degrees is chance (a car that brakes a little off straight) and is filled to its edges.
[[nodiscard]] std::vector<double> outline(std::span<const float> x, std::span<const float> y, std::size_t sectors = 36);

/// How much of a stretch a quantity spends in each step of its values.
struct Shares {
    double begin = 0, step = 1;  ///< bin k holds begin + k · step up to the next
    std::vector<double> share;   ///< they add up to 1; empty when nothing is known
    std::size_t every = 1;       ///< of the samples
};
enum class ShareOf { time, distance };
/// Every sample counts until the next one, or with the way that is driven until then.
[[nodiscard]] Shares shares_of(const PreparedLap& lap, std::string_view quantity, Interval time_s, ShareOf of,
                               double step, TurnSide side = TurnSide::both, std::size_t most = 1'000'000);
/// 1, 2 or 5 times a power of ten, so that a range takes 12 to 30 steps.
[[nodiscard]] double usual_step(double range);

}  // namespace rendak
