#pragma once

#include <initializer_list>
#include <optional>
#include <vector>

#include "core/base/interval.h"

namespace rendak {

// What two sets of laps tell of a figure: values of one lap each.

[[nodiscard]] double mean_value(const std::vector<double>& values);

/// Without those that are missing.
[[nodiscard]] std::vector<double> finite_values(std::vector<double> values);

/// 95 % of the mean (Student 1908). None with fewer than two values.
[[nodiscard]] std::optional<Interval> likely_mean(const std::vector<double>& values);

/// 95 % of mean(b) − mean(a): Welch's t (1947); with one value on one side that one's scatter is taken to be the
/// other's. None with one on both.
[[nodiscard]] std::optional<Interval> likely_difference(const std::vector<double>& a, const std::vector<double>& b);

/// A 95 % interval with half widths of other causes, that are not of the same chance, added in squares.
[[nodiscard]] std::optional<Interval> widened(const std::optional<Interval>& likely,
                                              std::initializer_list<double> halves);

/// How many laps a side tell a difference like this from chance, if laps go on scattering as they do; 0: more than 99.
[[nodiscard]] std::size_t laps_needed(const std::vector<double>& a, const std::vector<double>& b);

}  // namespace rendak
