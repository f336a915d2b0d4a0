#include "core/recording/channel_units.h"

#include <algorithm>
#include <numbers>

#include "core/units/unit.h"

namespace rendak {
namespace {

/// The unit samples of an unknown quantity are stored in.
std::string si_symbol(const Unit& unit) {
    for (const Quantity& quantity : all_quantities()) {
        if (const auto stored = parse_unit(quantity.unit);
            stored && stored->dimension == unit.dimension && stored->factor == 1)
            return std::string(quantity.unit);
    }
    return unit.symbol;
}

}  // namespace

UnitPlan plan_units(const std::string& channel, const std::string& source_unit, const Quantity* wanted, double low,
                    double high) {
    UnitPlan plan;
    plan.stored_unit = source_unit;
    const std::string column = "Column \"" + channel + "\"";
    auto unit = parse_unit(source_unit);
    if (!unit) {
        plan.note = column + ": " + unit.error().message;
        return plan;
    }
    const Quantity* quantity = wanted;
    // "1/s" of revs counts turns.
    if (quantity != nullptr && quantity->id == "engine_speed" && unit->dimension == Dimension{0, 0, -1, 0, 0, 0}) {
        unit->dimension.angle = 1;
        unit->factor *= 2 * std::numbers::pi;
    }
    Unit target = quantity == nullptr ? Unit{} : *parse_unit(quantity->unit);
    if (quantity != nullptr && !(target.dimension == unit->dimension) && quantity->id == "brake") {
        // A channel called just "brake" may hold the position of the pedal or a pressure.
        quantity = find_quantity("brake_front");
        target = *parse_unit("Pa");
    }
    if (quantity != nullptr && !(target.dimension == unit->dimension)) {
        plan.note = column + " is named like " + std::string(wanted->label) + " but its unit is " +
                    (source_unit.empty() ? "a plain number" : source_unit) + "; it is kept under its own name only.";
        quantity = nullptr;
    }
    const bool degrees = quantity != nullptr && quantity->unit == "deg";
    plan.factor = unit->factor * (degrees ? 1 / target.factor : 1);
    plan.offset = unit->offset;
    plan.stored_unit = quantity != nullptr ? std::string(quantity->unit) : si_symbol(*unit);
    const double furthest = std::max(-low, high) * plan.factor;
    if (quantity != nullptr &&
        ((quantity->id == "latitude" && furthest > 90) || (quantity->id == "longitude" && furthest > 360))) {
        plan.note = column + " goes beyond what degrees can be; it is not used as a position.";
        quantity = nullptr;
    }
    if (quantity != nullptr) plan.quantity = quantity->id;
    return plan;
}

}  // namespace rendak
