#pragma once

#include "core/chassis/power.h"
#include "core/chassis/sheet.h"
#include "core/intake/run_data.h"

namespace rendak {

/// What the sheets of a run say of its chassis: of the setup sheet first ("Spring front", "Bar rate front", "Ride
/// height front", "Motion ratio front"; front and rear alike where only "Motion ratio" is said), then of the car sheet
/// (mass, wheelbase, track width, steering ratio, motion ratio, ride height front least).
[[nodiscard]] Result<ChassisSheet> chassis_sheet(const Library& library, const RunData& run);

/// Mass and air of a run: mass of the car sheet; density from the temperature and pressure that were noted
/// (p / (287.05 J/(kg K) · T)), with 1013.25 hPa where only the temperature was; the wind where its speed and its
/// direction were.
[[nodiscard]] PowerInput power_input(const RunData& run);

}  // namespace rendak
