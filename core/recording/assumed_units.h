#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/signal/quantity.h"

namespace rendak {

/// What else is known of the file when a unit is told.
struct UnitHints {
    std::string_view name;  ///< of the column: "Lateral G" names its unit
    bool metric = false;    ///< other columns name metric units
    bool imperial = false;  ///< … mph, psi, °F …
    bool moves = false;     ///< the car is driven in the recording
};

/// The unit a column most likely has when it names none.
struct UnitGuess {
    std::vector<std::string>
        fitting;  ///< one: it is told. Several: only the owner knows. None: plain numbers, or too little to say
    std::string reason = "by the size of its values";
};

/// Judged by the span of the values against what this quantity does in a car that is driven. Quantities without a
/// choice (degrees of a heading, litres) come back with their usual unit.
[[nodiscard]] UnitGuess guess_unit(const Quantity& quantity, double low, double high, const UnitHints& hints);

/// Whether values of this size in a named unit are beyond anything a car does: the unit, or the name, is wrong.
[[nodiscard]] bool is_beyond(const Quantity& quantity, std::string_view name, const std::string& unit, double size,
                             bool moves);

}  // namespace rendak
