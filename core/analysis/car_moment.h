#pragma once

#include "core/laps/prepared_lap.h"

namespace rendak {

/// What driver and car do at one moment. NaN where it is not logged.
struct CarMoment {
    double throttle = 0, brake = 0;  ///< share of the travel, 0 … 1
    double steering_rad = 0;
    double gear = 0, revs = 0, revs_share = 0;  ///< rad/s, and of the lap's highest
    double speed_mps = 0, lateral_mps2 = 0, along_mps2 = 0;
};

/// Reads moments of a lap; the lap must outlive it.
class CarMoments {
  public:
    explicit CarMoments(const PreparedLap& lap);
    [[nodiscard]] CarMoment at(double run_s) const;

  private:
    const PreparedLap& lap_;
    DriverActivity activity_;
    double most_revs_;
};

}  // namespace rendak
