#pragma once

#include "core/recording/recording.h"
#include "demo/drive.h"

namespace rendak::demo {

struct SensorOptions {
    bool gps_errors = true;     ///< noise and slow bias; off for tests of the method itself
    double gps_noise_m = 0.15;  ///< white noise of each coordinate
    bool suspension = true;     ///< off where nobody asks for travel, loads and heights: they are half of the work
};

/// What the car's main logger records: about sixty channels at 10 to 500 Hz, SI units, ISO 8855 signs.
[[nodiscard]] Recording main_logger(const Circuit& circuit, const Car& car, const RunPlan& plan, const Drive& drive,
                                    const SensorOptions& options = {});

/// The pocket logger is switched on so long after the drive began.
inline constexpr double pocket_late_s = 3.4;
/// What a pocket GPS logger in the same car records at 20 Hz: position, speed, lateral and longitudinal
/// acceleration. Its clock starts that much later and its lateral sign is the opposite one.
[[nodiscard]] Recording pocket_logger(const Circuit& circuit, const RunPlan& plan, const Drive& drive);

}  // namespace rendak::demo
