#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/analysis/corner_events.h"
#include "core/analysis/lap_motion.h"
#include "core/analysis/ledger.h"

namespace rendak {

/// How much a stretch of road leans, with its standard deviation; positive: your way (the outer side is higher).
struct Lean {
    double rad = 0, sd_rad = 0;
    /// By over a degree, and by more than twice what it is in doubt by.
    [[nodiscard]] bool told() const;
};

/// What somebody should know about a corner before driving it; from one lap and the track alone.
struct GuideCorner {
    Corner corner;
    Interval range_m;  ///< from where the lap slows down for it, or its begin, to where it does for the next
    CornerEvents events;
    std::optional<double> slowest_mps, brake_mps, exit_mps;  ///< at the slowest place, on the brake, at the exit
    std::optional<int> gear, brake_gear;                     ///< at the same places
    double before_m = 0, after_m = 0;                        ///< straight road before it and behind it
    int next = 0;                                            ///< number of the corner behind; 0: none
    /// Rise from where it slows down to the slowest place, and from there to the end of the corner with 100 m of what
    /// follows; empty where the height is not known well enough to tell.
    std::optional<double> climbs_in_m, climbs_out_m;
    std::optional<Lean> lean_in, lean_middle, lean_out;  ///< of its first and second third, and its last with 10 m
    enum class Shape { even, opens, closes };
    Shape shape = Shape::even;
    bool flat = false;                        ///< the lap slows down for it neither by throttle nor by brake
    std::optional<double> crest_m;            ///< where the road takes most of the load off the car, if it is much
    double crest_share = 0;                   ///< of its weight
    std::optional<double> slowest_s, exit_s;  ///< what 1 km/h more is worth there (Worth); empty: cannot be told
    double full_m = 0;                        ///< of full throttle behind it

    /// What matters: of 1 % more speed (which takes the same share of grip anywhere) through the corner or at its exit,
    /// what is worth more; where the next corner follows at once and is worth more than both, the entry of that.
    enum class Matters { cannot_be_told, exit, speed, next };
    Matters matters = Matters::cannot_be_told;
    bool of_commitment = false;  ///< faster than 140 km/h: to be raised in small steps
};

struct TrackGuide {
    LapRef lap;
    std::vector<GuideCorner> corners;
    bool height_known = false, lean_known = false;
};
[[nodiscard]] TrackGuide track_guide(const PreparedLap& lap);

/// The units that people read speeds and lengths in.
struct GuideUnits {
    std::string speed = "km/h", length = "m";
    double per_mps = 3.6, per_m = 1;
};
/// "Tight right"
[[nodiscard]] std::string guide_kind(const GuideCorner& it);
/// "exit", "carry speed", "entry of Turn 8", "in small steps"
[[nodiscard]] std::string guide_matters(const GuideCorner& it, const Track& track);
/// "The exit matters most. 1 km/h more there is worth 0.021 s until Turn 6; in the middle 0.008 s."
[[nodiscard]] std::string guide_headline(const GuideCorner& it, const Track& track, const GuideUnits& units = {});
/// The corner in plain sentences, to be read without a picture.
[[nodiscard]] std::string guide_words(const GuideCorner& it, const Track& track, const GuideUnits& units = {});
[[nodiscard]] std::vector<std::string> guide_warnings(const GuideCorner& it, const Track& track,
                                                      const GuideUnits& units = {});
/// "560 m of full throttle, climbs"
[[nodiscard]] std::string guide_after(const GuideCorner& it, const Track& track, const GuideUnits& units = {});

}  // namespace rendak
