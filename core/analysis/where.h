#pragma once

#include <optional>
#include <vector>

#include "core/laps/gap.h"
#include "core/laps/prepared_lap.h"

namespace rendak {

/// One corner with the road that leads to it and away from it: from the baseline's fastest place before it (at
/// the latest 50 m before the corner) to that before the next corner. Zones cover 0 … length, so their losses add up to
/// the lap-time difference.
struct Zone {
    Corner corner;
    Interval range_m;
};
[[nodiscard]] std::vector<Zone> corner_zones(const PreparedLap& baseline);

/// What a lap does differently in a zone. All differences are lap minus baseline; what cannot be told is empty.
struct ZoneDifference {
    Zone zone;
    double loss_s = 0;
    std::optional<double> brake_on_m;     ///< negative = brakes earlier
    bool brakes_only_here = false;        ///< the lap brakes, the baseline does not
    std::optional<double> slowest_mps;    ///< negative = slower at the slowest point
    std::optional<double> throttle_lift;  ///< share of throttle given up where the baseline stays flat
    std::optional<double> coasting_s;     ///< extra time without brake, throttle and cornering
    std::optional<double> off_pedals_s;   ///< extra time on neither pedal, cornering or not
    std::optional<double> throttle_on_m;  ///< positive = back on the throttle later
    std::optional<double> exit_mps;       ///< at the end of the zone
    double slowest_at_m = 0;              ///< where the lap is slowest
    bool inferred = false;                ///< pedals inferred from acceleration
};

/// All zones in track order.
[[nodiscard]] std::vector<ZoneDifference> differences_by_zone(const PreparedLap& baseline, const PreparedLap& lap,
                                                              const GapCurve& gap);

}  // namespace rendak
