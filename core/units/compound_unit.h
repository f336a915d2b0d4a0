#pragma once

#include <string>
#include <vector>

#include "core/units/unit.h"

namespace rendak {

/// Like parse_unit, and also products, quotients and whole powers of its units: "N/mm", "kg/m³", "K/s", "mm/s²",
/// "N·m/°". Here "kN" is a thousand newtons (parse_unit, which reads the tables of loggers, takes it for knots), and
/// J, kJ, MJ and Wh are known. Units with an offset (°C, °F) stand alone; in a product they count as differences.
[[nodiscard]] Result<Unit> parse_compound_unit(std::string_view text);

/// What a difference of two values in this unit is measured in: the same without its offset; °C becomes K.
[[nodiscard]] Unit difference_unit(const Unit& unit);

/// "kg·m²/s³": the SI unit of a dimension, written with base units; "" for a plain number.
[[nodiscard]] std::string si_symbol(const Dimension& dimension);

/// Units that a value of this dimension is usually shown in, people's first ("km/h", "m/s", "mph"); never empty.
[[nodiscard]] std::vector<std::string> units_of(const Dimension& dimension);

}  // namespace rendak
