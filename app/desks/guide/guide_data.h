#pragma once

#include <QString>
#include <memory>

#include "core/analysis/quickest_line.h"
#include "core/analysis/road_use.h"
#include "core/analysis/shown_pace.h"
#include "core/analysis/track_guide.h"
#include "core/intake/car_limits.h"
#include "core/intake/run_data.h"

namespace rendak::app {

/// Everything that the guide shows of one lap; worked out once a change, on a worker. Who paints reads no channel.
struct GuideData {
    static constexpr double step_m = 2;
    RunRow run;
    std::shared_ptr<const Track> track;
    LapRef lap;
    double lap_s = 0;
    TrackGuide guide;
    std::vector<Point> line;                                         ///< as driven, at every other metre of track
    std::vector<double> speed_mps, lean_rad, lean_sd_rad, height_m;  ///< at the same places; NaN: not known
    /// What the lap leaves unused of what the laps of its run that count have shown; else why it cannot be told.
    std::vector<PaceRow> pace;
    double pace_s = 0;
    std::vector<GripUse> use;
    std::vector<GripUseOverLaps> use_over_laps;  ///< of the laps of its run that count
    QString no_pace;
    std::shared_ptr<const PreparedLap> prepared;
    std::shared_ptr<const ObservedLimit> limit;  ///< of the laps of its run that count; null: see no_pace
    std::set<int> put_back;                      ///< corners that count for it although they would be left out
    CalculatedLimit calculated_lateral, calculated_braking;  ///< of the car's sheet
    std::shared_ptr<const QuickestLine> quickest = {};       ///< comes later; null: not known, or not yet
    std::vector<LineMean> across;                            ///< of those laps
    RoadUse first_line;

    [[nodiscard]] std::size_t cell(double distance_m) const;
    [[nodiscard]] const PaceRow* pace_of(int corner) const;
};
/// Of a complete lap on a track.
[[nodiscard]] std::shared_ptr<const GuideData> guide_data(const RunData& run, const PreparedLap& lap,
                                                          const std::set<int>& put_back = {});

/// The units that the person reads in.
[[nodiscard]] GuideUnits guide_units();

}  // namespace rendak::app
