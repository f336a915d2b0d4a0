#pragma once

#include <array>

#include "core/intake/stint.h"

namespace rendak {

/// What the heat across a tyre's tread says of camber and pressure, over the laps of a stint that tell. Loaded: the car
/// corners (DriverActivity) and the wheel is on the outside; straight: it does not corner. Kelvin; NaN where it is not
/// logged.
struct TreadReading {
    struct Apart {
        double inner_minus_outer = std::nan("");   ///< camber
        double middle_minus_edges = std::nan("");  ///< pressure: the middle carries more the higher it is
        double seconds = 0;
    };
    Apart loaded, straight;
};
/// In the order of wheel_ids; empty where no tread is logged, or which way the car turns is not.
[[nodiscard]] std::vector<TreadReading> tread_readings(const RunData& run, const Stint& stint);

}  // namespace rendak
