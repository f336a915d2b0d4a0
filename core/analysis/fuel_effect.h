#pragma once

#include <optional>
#include <vector>

#include "core/base/interval.h"

namespace rendak {

/// What a litre of fuel costs, told from lap times: time = offset + fade · lap + effect · litres, with the least
/// squares.
struct FuelEffect {
    double s_per_litre = 0;
    Interval likely;  ///< 95 %, Student's t
    std::size_t laps = 0;
};
/// None where it cannot be told: fewer than eight laps, fuel that only falls along with the laps (then weight and tyres
/// are one thing: it takes a refuelling on the same tyres), or an interval that holds 0 or is wider than the effect.
[[nodiscard]] std::optional<FuelEffect> fitted_fuel_effect(const std::vector<double>& lap_numbers,
                                                           const std::vector<double>& time_s,
                                                           const std::vector<double>& fuel_l);

}  // namespace rendak
