#pragma once

#include <algorithm>
#include <cmath>
#include <limits>
#include <vector>

namespace rendak {

/// The middle value (the upper one of two); NaN of nothing.
inline double median_of(std::vector<double> values) {
    if (values.empty()) return std::numeric_limits<double>::quiet_NaN();
    const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
    std::nth_element(values.begin(), middle, values.end());
    return *middle;
}

/// Standard deviation about a value, from the median of the distances to it: outliers have no say. 0 of nothing.
inline double robust_sd(std::vector<double> values, double about = 0) {
    if (values.empty()) return 0;
    for (double& value : values) value = std::abs(value - about);
    return median_of(std::move(values)) / 0.6745;
}

/// Scatter of single samples from their third differences (x₃ − 3 x₂ + 3 x₁ − x₀), which smooth motion hardly shows:
/// the root of 20 times it.
inline double noise_from_third_differences(std::vector<double> differences) {
    return robust_sd(std::move(differences)) / std::sqrt(20.0);
}

}  // namespace rendak
