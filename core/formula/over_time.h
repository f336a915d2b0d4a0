#pragma once

#include <span>
#include <vector>

#include "core/formula/run_view.h"

namespace rendak::formula {

/// Functions with a memory, over all samples of a clock. Conditions are 1 and 0. Missing samples (NaN) are missing in
/// the result; sums go on behind them without what was missing.

/// Change per second: central differences, one-sided at the ends (second order also on uneven clocks).
[[nodiscard]] std::vector<float> gradient(std::span<const float> x, const SampleClock& clock);

/// Trapezoids. `begin_anew` holds 1 where the sum starts again at 0; empty: never.
[[nodiscard]] std::vector<float> cumulative_trapezoid(std::span<const float> x, const SampleClock& clock,
                                                      std::span<const float> begin_anew);

/// x(t - by): linear between samples, or the previous one of a state; missing outside.
[[nodiscard]] std::vector<float> delayed(std::span<const float> x, const SampleClock& clock, double by_s,
                                         bool is_state);

[[nodiscard]] std::vector<float> hysteresis(std::span<const float> x, std::span<const float> low,
                                            std::span<const float> high);
[[nodiscard]] std::vector<float> debounced(std::span<const float> x, const SampleClock& clock, double time_s);
/// A stretch lasts from its first sample to the first one after it.
[[nodiscard]] std::vector<float> lasting(std::span<const float> x, const SampleClock& clock, double time_s);

/// Samples [from, to) of each stretch that is counted for itself: the laps, or the whole run.
struct Stretch {
    std::size_t from = 0, to = 0;
    double start_s = 0, end_s = 0;
    const LapMap* map = nullptr;
    bool operator==(const Stretch&) const = default;
};
[[nodiscard]] std::vector<Stretch> stretches_of(const std::vector<LapSpan>& laps, const SampleClock& clock);

/// How often x has become true so far in each stretch.
[[nodiscard]] std::vector<float> count_rises(std::span<const float> x, const std::vector<Stretch>& stretches);

/// Sum so far of `step[i]`, what passed between samples i - 1 and i, where x held at sample i - 1; divided by the sum
/// of all steps when `share`.
[[nodiscard]] std::vector<float> sum_while(std::span<const float> x, std::span<const double> step,
                                           const std::vector<Stretch>& stretches, bool share);

enum class Figure { mean, low, high, deviation, spread, median, first, last };
/// The figure of each stretch, the same for all its samples. Only samples are taken where `where` holds (empty: all),
/// and that lie between the two places when `from_m` < `to_m` (missing where the stretch has no map).
[[nodiscard]] std::vector<float> figure_of(std::span<const float> x, const SampleClock& clock, Figure figure,
                                           const std::vector<Stretch>& stretches, std::span<const float> where,
                                           Interval place_m);

/// Linear (or previous-value) samples of x at other moments; missing outside its span.
[[nodiscard]] std::vector<float> sampled(std::span<const float> x, const SampleClock& clock, bool is_state,
                                         const SampleClock& at, std::size_t from, std::size_t to);

}  // namespace rendak::formula
