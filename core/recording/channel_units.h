#pragma once

#include <string>

#include "core/signal/quantity.h"

namespace rendak {

/// How the samples of a logger's channel become stored ones: stored = logged * factor + offset.
struct UnitPlan {
    std::string quantity;     ///< id, or empty when the unit does not fit the quantity that the name suggests
    std::string stored_unit;  ///< SI (degrees for positions); the logger's own when it is not known
    double factor = 1, offset = 0;
    std::string note;  ///< what had to be said about it; a sentence or empty
    [[nodiscard]] bool changes_values() const { return factor != 1 || offset != 0; }
};

/// `wanted` is the quantity the name stands for (may be null); `low` and `high` span the logged values.
[[nodiscard]] UnitPlan plan_units(const std::string& channel, const std::string& source_unit, const Quantity* wanted,
                                  double low, double high);

}  // namespace rendak
