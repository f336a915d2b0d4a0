#pragma once

#include <array>
#include <string>
#include <string_view>

#include "core/base/result.h"

namespace rendak {

/// Exponents of the SI base quantities a racing channel can have, and of the plane angle, which is kept
/// apart so that an angle is never added to a ratio.
struct Dimension {
    int length = 0, mass = 0, time = 0, temperature = 0, current = 0, angle = 0;
    bool operator==(const Dimension&) const = default;
};

/// A unit: value_si = value * factor + offset.
struct Unit {
    std::string symbol;
    Dimension dimension;
    double factor = 1;
    double offset = 0;

    [[nodiscard]] double to_si(double value) const { return value * factor + offset; }
    [[nodiscard]] double from_si(double value) const { return (value - offset) / factor; }
};

/// Reads "km/h", "m/s^2", "°C", "1/min", "bar", "%", "" (a plain number) and the usual spellings.
/// Fails with the unit named when it is not known.
[[nodiscard]] Result<Unit> parse_unit(std::string_view text);

/// True when parse_unit would succeed.
[[nodiscard]] bool is_unit(std::string_view text);

}  // namespace rendak
