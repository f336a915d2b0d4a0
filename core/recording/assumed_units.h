#pragma once

#include <span>
#include <string>

#include "core/signal/quantity.h"

namespace rendak {

/// The unit a file most likely means when it names none for this quantity, judged by the values' span.
/// Empty when a plain number is meant or nothing can be said.
[[nodiscard]] std::string assume_unit(const Quantity& quantity, double low, double high);

/// The unit of a speed column without one, from the distance between positions (degrees) over time: one of
/// "m/s", "km/h", "mph", "kn". Empty when the car hardly moves. All spans have the same length.
[[nodiscard]] std::string speed_unit_from_positions(std::span<const double> times_s, std::span<const double> latitude,
                                                    std::span<const double> longitude, std::span<const double> speed);

}  // namespace rendak
