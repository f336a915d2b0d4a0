#pragma once

#include <limits>
#include <memory>

#include "core/laps/driver_activity.h"
#include "core/laps/gap.h"
#include "core/laps/lap_map.h"
#include "core/recording/recording.h"

namespace rendak {

/// A channel of a lap over the track, looked up once: for loops along the road.
class AlongLap {
  public:
    AlongLap(const Channel* channel, const LapMap& map) : channel_(channel), map_(&map) {}
    /// NaN where it is not logged.
    [[nodiscard]] double operator()(double distance_m) const {
        return channel_ == nullptr ? std::numeric_limits<double>::quiet_NaN()
                                   : channel_->value_at(map_->time_at(distance_m));
    }

  private:
    const Channel* channel_;
    const LapMap* map_;
};

/// A complete lap ready to be compared: its channels and where on the track each moment was.
struct PreparedLap {
    LapRef ref;
    std::shared_ptr<const Recording> recording;
    std::shared_ptr<const Track> track;
    std::shared_ptr<const Path> path;
    LapMap map;
    double trust_m = 0;                              ///< expected error of places along the track; 0: not known
    bool counts = true;                              ///< sets bests, limits and means
    std::shared_ptr<const PedalScales> scales = {};  ///< of the run; null: found anew when they are asked for

    [[nodiscard]] DriverActivity activity() const;

    [[nodiscard]] double time_s() const { return map.end_s() - map.start_s(); }
    /// Value of a quantity at a track distance; NaN where it is not logged.
    [[nodiscard]] double value_at(std::string_view quantity, double distance_m) const;
    [[nodiscard]] AlongLap along(std::string_view quantity) const { return {recording->find(quantity), map}; }
    /// Position (slow error taken out) at a track distance, in the track's plane.
    [[nodiscard]] Point position_at(double distance_m) const;
};

/// Low, mean and high of a quantity over a stretch of the track, with the places of the extremes. The mean is
/// over time.
struct RangeFigures {
    double low = std::numeric_limits<double>::quiet_NaN();
    double mean = std::numeric_limits<double>::quiet_NaN();
    double high = std::numeric_limits<double>::quiet_NaN();
    double low_at_m = 0;
    double high_at_m = 0;
};
[[nodiscard]] RangeFigures figures_in_range(const PreparedLap& lap, std::string_view quantity, Interval range_m);
/// The same over a stretch of recording time; the places of the extremes are seconds since the lap's start.
[[nodiscard]] RangeFigures figures_in_time(const PreparedLap& lap, std::string_view quantity, Interval time_s);
/// What a quantity does between two moments.
struct BetweenFigures {
    double change = std::numeric_limits<double>::quiet_NaN();       ///< at the end minus at the begin
    double slope_per_s = std::numeric_limits<double>::quiet_NaN();  ///< of the line with the least squares over time
    double area_s = std::numeric_limits<double>::quiet_NaN();       ///< value times time; missing samples are left out
};
[[nodiscard]] BetweenFigures between_in_time(const PreparedLap& lap, std::string_view quantity, Interval time_s);

/// The same of a gap; here the mean is over distance.
[[nodiscard]] RangeFigures figures_in_range(const GapCurve& gap, Interval range_m);

}  // namespace rendak
