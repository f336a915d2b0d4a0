#pragma once

#include <optional>

#include "app/desks/chassis/chassis_look.h"
#include "core/base/interval.h"

namespace rendak::app {

/// A change in a table, where its 95 % does not hold nothing; `factor` brings it into the unit shown.
[[nodiscard]] ChassisTable::Cell change_cell(double change, const std::optional<Interval>& likely, double factor,
                                             int decimals, const QString& unit);

/// " (low to high)", or nothing.
[[nodiscard]] QString likely_text(const std::optional<Interval>& likely, double factor, int decimals);

}  // namespace rendak::app
