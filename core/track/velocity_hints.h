#pragma once

#include <span>
#include <vector>

#include "core/recording/recording.h"
#include "core/track/fixes.h"
#include "core/track/path.h"
#include "core/track/speed_source.h"

namespace rendak {

/// What the speed (GPS, else wheels) and the yaw rate say of the velocity at fixes, where a first pass over the
/// positions tells the heading over seconds.
class VelocityHints {
  public:
    /// False: no sensor could say anything.
    [[nodiscard]] static bool possible(const Recording& recording, const Fixes& fixes, const FixSurvey& about);
    /// `first_pass` needs times and velocities alone.
    VelocityHints(const Recording& recording, const Path& first_pass, const Fixes& fixes);
    /// One a fix of the piece, {NaN, NaN} where nothing is known. The piece begins and ends with valid fixes.
    [[nodiscard]] std::vector<Point> of(std::span<const Fix> fixes) const;

  private:
    void bridge_gaps(std::vector<Point>& hints, std::span<const Fix> fixes) const;
    void follow_sensors(std::vector<Point>& hints, std::span<const Fix> fixes) const;

    const Path& first_pass_;
    const Channel* yaw_rate_;
    SpeedSource gps_first_, wheels_first_;
    /// A speed that reads by a share too high or low (wheels that are entered too large) pulls the path by that share.
    double scale_ = 1;
};

}  // namespace rendak
