#pragma once

#include <span>
#include <string>
#include <vector>

#include "core/base/job.h"
#include "core/base/result.h"
#include "core/chassis/sheet.h"
#include "core/laps/prepared_lap.h"

namespace rendak {

/// Something that could be tried on the car, only from what was measured.
struct SetupHint {
    std::string evidence;      ///< what was seen, with its figures
    std::string driver_first;  ///< what has to be ruled out in the driving
    std::string possible;      ///< what is usually changed for it
    double sure = 0;           ///< how often: share of the laps that show it
};
struct SetupHints {
    std::vector<SetupHint> hints;
    std::string none;  ///< why there is none; empty when there are
};
/// Of laps of one driver, car and setup. None while the laps scatter more than an effect of a setup: at least three
/// laps that lie within 1 % of each other (standard deviation over mean).
[[nodiscard]] Result<SetupHints> setup_hints(std::span<const PreparedLap> laps, const ChassisSheet& sheet,
                                             const JobContext& job = {});

}  // namespace rendak
