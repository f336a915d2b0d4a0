#pragma once

#include <functional>
#include <stop_token>
#include <string>
#include <tl/expected.hpp>
#include <vector>

#include "core/laps/lap_map.h"
#include "core/signal/channel.h"

namespace rendak::formula {

class KeptSteps;

/// A lap as formulas see it: laps follow each other in time. `map` is null for laps that are not complete.
struct LapSpan {
    int number = 0;
    double start_s = 0, end_s = 0;
    const LapMap* map = nullptr;
};

/// What a formula sees of a run.
struct RunView {
    /// Samples of a quantity, a channel by its logger's name, or another formula; else a sentence that says why not.
    std::function<tl::expected<const Channel*, std::string>(const std::string& id)> channel;
    std::vector<LapSpan> laps;
    Interval span_s;  ///< of the recording
    /// Of the track at a distance: "track_curvature", "edge_left", "edge_right" (from the line), "ideal_offset",
    /// "quickest_offset"; NaN where it is not known. Empty without it: `no_track_value` says why.
    std::function<double(std::string_view what, double distance_m)> track_value;
    std::string no_track_value;
    /// What the driver does at the samples [from, to) of a clock, by the names of the builtins driver_…: 1, 0, or NaN
    /// where it cannot be told.
    std::function<std::vector<float>(std::string_view what, const SampleClock& clock, std::size_t from, std::size_t to)>
        driver;
    SampleClock driver_clock;  ///< of the pedals or accelerations that it is told from; no size: none
    std::stop_token stop;
    KeptSteps* steps = nullptr;  ///< of the run; none: each formula computes them for itself
};

}  // namespace rendak::formula
