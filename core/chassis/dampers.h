#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/base/job.h"
#include "core/base/result.h"
#include "core/chassis/stretches.h"

namespace rendak {

/// Scale of all histograms of damper speed, the same for every run: shares of time in steps of 10 mm/s.
struct DamperScale {
    static constexpr double step_mps = 0.01, end_mps = 0.3;
    static constexpr std::size_t bins = 60;  ///< from −end to +end; what is beyond counts in the outermost
    [[nodiscard]] static std::size_t bin_of(double speed_mps) {
        const double bin = std::floor((speed_mps + end_mps) / step_mps);
        return static_cast<std::size_t>(std::clamp(bin, 0.0, static_cast<double>(bins - 1)));
    }
    [[nodiscard]] static double middle_mps(std::size_t bin) {
        return -end_mps + (static_cast<double>(bin) + 0.5) * step_mps;
    }
};

/// Between slow and fast unless somebody draws the line elsewhere.
inline constexpr double usual_fast_mps = 0.05;

/// How the time is shared by a damper; the four add up to 1.
struct DamperShares {
    double rebound_fast = 0, rebound_slow = 0, bump_slow = 0, bump_fast = 0;
};

/// One damper over laps.
struct DamperFigures {
    std::string wheel;                                     ///< "fl"
    std::array<double, DamperScale::bins> share{};         ///< of time
    double beyond = 0;                                     ///< share outside the scale
    DamperShares shares;                                   ///< means of the laps
    std::vector<DamperShares> laps;                        ///< of each lap that has the channel
    std::vector<double> rms_mps;                           ///< of each of them
    double bump_mps = 0, rebound_mps = 0;                  ///< mean speed in each direction, positive
    double fastest_bump_mps = 0, fastest_rebound_mps = 0;  ///< passed for 1 % of the time
    /// Mean speed in rebound over that in bump: 1 is alike; above, it comes out faster than it goes in.
    [[nodiscard]] double symmetry() const { return bump_mps > 0 ? rebound_mps / bump_mps : 0; }

    /// Of the body on this corner, told from the shape of the travel's spectrum over the whole laps; none where it has
    /// no such shape.
    std::optional<double> ride_hz, damping;
    std::optional<Interval> damping_likely;
    enum class Says { nothing, lively, dead, fine } says = Says::nothing;
};
/// Below this damping a body goes on swinging behind a bump (too lively); above that one the wheel cannot follow the
/// road (too dead).
inline constexpr double lively_below = 0.2, dead_above = 0.9;
[[nodiscard]] const char* says_name(DamperFigures::Says says);
/// The same in a sentence.
[[nodiscard]] std::string damper_words(const DamperFigures& wheel);

/// Shares of time on the scale, the wheels of an axle together; none where it has none.
[[nodiscard]] std::optional<std::array<double, DamperScale::bins>> axle_shares(std::span<const DamperFigures> wheels,
                                                                               bool front);

/// Of the wheels that are logged, on the stretches. Fails where none is.
[[nodiscard]] Result<std::vector<DamperFigures>> dampers_of(std::span<const PreparedLap> laps,
                                                            std::span<const Stretch> stretches,
                                                            double fast_mps = usual_fast_mps,
                                                            const JobContext& job = {});

}  // namespace rendak
