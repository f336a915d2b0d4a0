#pragma once

#include <limits>
#include <span>
#include <vector>

namespace rendak {

/// y = offset + slope · x with the least squares in y.
struct LineFit {
    double slope = std::numeric_limits<double>::quiet_NaN();
    double offset = std::numeric_limits<double>::quiet_NaN();
    double sd = std::numeric_limits<double>::quiet_NaN();         ///< of the points about the line
    double slope_sd = std::numeric_limits<double>::quiet_NaN();   ///< standard error of the slope
    double explained = std::numeric_limits<double>::quiet_NaN();  ///< share of the spread of y, 0 … 1 (R²)
    std::size_t count = 0;
    [[nodiscard]] bool known() const { return slope == slope; }
    /// Sum of the squares that are left.
    [[nodiscard]] double rest() const { return sd * sd * static_cast<double>(count - 2); }
};
/// Not known for fewer than three points, or when all x are the same.
[[nodiscard]] LineFit fit_line(std::span<const float> x, std::span<const float> y);
[[nodiscard]] LineFit fit_line(std::span<const double> x, std::span<const double> y);

/// Pairs of which both are finite.
struct FinitePairs {
    std::vector<double> x, y;
};
[[nodiscard]] FinitePairs finite_pairs(std::span<const double> x, std::span<const double> y);

/// Pearson's; NaN with fewer than four finite pairs or without a spread.
[[nodiscard]] double correlation(std::span<const double> x, std::span<const double> y);

}  // namespace rendak
