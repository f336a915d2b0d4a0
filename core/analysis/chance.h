#pragma once

#include <cstddef>
#include <vector>

namespace rendak {

// Chances of the usual distributions (regularised incomplete beta function by its continued fraction: Lentz 1976, as in
// Abramowitz & Stegun 26.5, 26.7).

/// Student's t that is passed with a chance of `beyond` on one side.
[[nodiscard]] double t_beyond(double beyond, double degrees_of_freedom);

/// Chance that Fisher's F is at least so large.
[[nodiscard]] double f_chance(double f, double degrees_between, double degrees_within);

/// Whether groups of values have one mean (Fisher 1925): chance of means as far apart as these, and the scatter that
/// the groups share.
struct OneWay {
    double chance = 1;  ///< 1 where it cannot be told
    double sd = 0;      ///< within the groups, pooled; NaN where it cannot be told
    double within = 0;  ///< its degrees of freedom
};
[[nodiscard]] OneWay one_way(const std::vector<std::vector<double>>& groups);

}  // namespace rendak
