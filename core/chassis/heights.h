#pragma once

#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/job.h"
#include "core/base/result.h"
#include "core/chassis/sheet.h"
#include "core/laps/prepared_lap.h"

namespace rendak {

/// Why a car comes down to the road at a place.
enum class LowCause {
    air,      ///< both sides at speed on a straight: load from the air
    crest,    ///< both sides where the road bends upwards: into a dip, behind a crest
    corner,   ///< one side, leaning in a corner
    kerb,     ///< a wheel on a kerb
    bump,     ///< short, straight on, without much speed
    unknown,  ///< cannot be told of what is logged
};
[[nodiscard]] std::string_view low_cause_name(LowCause cause);
/// What is usually changed for it, as possible; in a sentence.
[[nodiscard]] std::string_view low_remedy(LowCause cause);

/// A place of the track where an axle is below its limit.
struct LowPlace {
    bool front = true;
    Interval range_m;        ///< where any lap was below
    double lowest_at_m = 0;  ///< middle of the laps' lowest places
    std::string title;       ///< "before Turn 6", "in Turn 3"
    std::size_t on = 0, of = 0;
    double lowest_m = 0;                     ///< mean of the laps that were below; SI
    double depth_m = 0;                      ///< below the limit, the same
    double time_s = 0;                       ///< spent below, the same
    double times = 0;                        ///< how often a lap, over all laps
    double speed_mps = 0, lateral_mps2 = 0;  ///< there; NaN when not logged
    std::optional<double> left_m, right_m;   ///< lowest of each side, where each is logged
    LowCause cause = LowCause::unknown;
    /// Speed gained from 50 m before to 50 m behind by the laps that touched, minus that of those that did not, with
    /// its 95 %; none where all laps or none did, or one lap alone.
    std::optional<double> speed_cost_mps;
    std::optional<Interval> speed_cost_likely;
};

struct Heights {
    struct Axle {
        bool front = true;
        bool from_dampers = false;  ///< from travel and the height at rest: the tyres' give is not in it
        double limit_m = 0;
        bool limit_from_sheet = false;
        std::vector<std::string> channels;
        double lowest_m = 0, lowest_at_m = 0;  ///< of all laps
        double times = 0;                      ///< below the limit, a lap
    };
    std::vector<Axle> axles;
    std::vector<LowPlace> places;  ///< in the order of the road, front first
    std::size_t laps = 0;
    std::vector<std::string> untold;  ///< what could not be looked at, in sentences
};
/// Of laps of one track, car and setup. Heights as logged, by wheel or by axle; else from damper travel, motion ratio
/// and the height at rest of the sheet. Fails where neither is known.
[[nodiscard]] Result<Heights> heights_of(std::span<const PreparedLap> laps, const ChassisSheet& sheet,
                                         const JobContext& job = {});

}  // namespace rendak
