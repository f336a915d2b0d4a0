#pragma once

#include <span>
#include <string>
#include <vector>

#include "core/analysis/best_of_both.h"
#include "core/analysis/findings.h"
#include "core/analysis/road_use.h"
#include "core/analysis/section_activity.h"

namespace rendak {

/// What one side does over its laps: means of a lap.
struct SideActivity {
    SectionActivity lap;        ///< seconds and metres on the pedals; NaN where nothing tells of them
    double top_mps = 0;         ///< fastest of all its laps
    double lock_ups = 0;        ///< a lap; of wheels that lock up
    bool wheels_known = false;  ///< wheel speeds are logged
    std::optional<double> lowest_front_m, lowest_rear_m;  ///< ride height, where it is logged
    std::optional<double> touches_front, touches_rear;    ///< of the road, a lap (road_touches())
};

/// Two laps, or two sets of laps, on one page: what to see before looking closer.
struct LapOverview {
    std::vector<SideSection> sectors;  ///< one, the whole lap, without sector lines
    double corners_s = 0;              ///< lost in corners
    double straights_s = 0;            ///< behind them: carried from their exits, and pull
    SideActivity a, b;
    BestOfBoth both;
    std::vector<LineMean> line_a, line_b;
    RoadUse first_a, first_b;
    /// A sentence with the place that it is about; `corner` 0: the whole lap.
    struct Sentence {
        std::string text;
        int corner = 0;
        double at_m = 0;
    };
    std::vector<Sentence> in_words;  ///< each names the side that it is about
    std::vector<Sentence> first;     ///< what to do first, one thing at a time
};
/// `story` is of the same laps. `names` are what the sides are called.
[[nodiscard]] LapOverview overview_of(std::span<const PreparedLap> a, std::span<const PreparedLap> b,
                                      const LapStory& story, const WordUnits& names = {});

}  // namespace rendak
