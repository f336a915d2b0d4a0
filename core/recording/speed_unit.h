#pragma once

#include <span>
#include <string>

namespace rendak {

/// The unit of a speed column without one, from the distance between positions (degrees) over time: one of
/// "m/s", "km/h", "mph", "kn". Empty when the car hardly moves or none fits within 12 %. Spans have the same length, or
/// are empty.
[[nodiscard]] std::string speed_unit_from_positions(std::span<const double> times_s, std::span<const double> latitude,
                                                    std::span<const double> longitude, std::span<const double> speed);

/// The same from how the speed changes under an acceleration along the car (m/s²).
[[nodiscard]] std::string speed_unit_from_acceleration(std::span<const double> times_s,
                                                       std::span<const double> acceleration,
                                                       std::span<const double> speed);

}  // namespace rendak
