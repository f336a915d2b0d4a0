#pragma once

#include <optional>
#include <span>
#include <vector>

namespace rendak {

/// What rows of a car say about their own scale, before units are known. Spans of one recording have the same length;
/// NaN where a value is missing; positions in degrees. Empty spans: not there.
struct Motion {
    std::span<const double> times, latitude, longitude, speed;
};

/// Distance between positions and the integral of the speed over the same rows, both in the units of the spans.
struct Travelled {
    double by_position = 0, by_speed = 0;
    /// Spread of their ratio from stretch to stretch: small when both tell the same drive.
    double spread = 0;
};
[[nodiscard]] std::optional<Travelled> travelled(const Motion& motion);

/// How lively the speed is: the 90th percentile of |change of speed| over time. nullopt when it hardly changes.
/// A car that is driven gains and loses speed with 0.5 to 40 m/s².
[[nodiscard]] std::optional<double> liveliness(std::span<const double> times, std::span<const double> speed);

/// Speeds between positions (m per unit of time), one a row; NaN where nothing can be told.
[[nodiscard]] std::vector<double> speed_between(const Motion& motion);

/// Median of the finite values; NaN without any.
[[nodiscard]] double median_finite(std::vector<double> values);

}  // namespace rendak
