#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "core/base/ids.h"
#include "core/base/interval.h"
#include "core/laps/trace.h"

namespace rendak::app {

inline constexpr int most_laps = 8;

/// What all desks look at, in core's terms. Slot 0 is A, the baseline.
struct FocusState {
    std::vector<LapRef> laps;
    int active_slot = 0;        ///< the lap that brackets step and the headline speaks of
    bool fastest_is_a = false;  ///< the fastest picked lap becomes A by itself
    Interval range_m;           ///< of track; empty = the whole lap
    double cursor_m = 0;
    Axis axis = Axis::distance;
    Interval run_range_s;              ///< on the run axis: seconds since A's line; empty = everything recorded
    double run_cursor_s = 0;           ///< on the run axis
    std::optional<double> pin_m;       ///< a second cursor that stays: what is between the two is measured
    std::optional<double> run_pin_s;   ///< on the run axis
    std::map<RunId, double> shifts_s;  ///< by which whole runs are moved to the right, to lie over A
    std::map<LapRef, double> slid_m;   ///< by which the curves of laps are slid along the road by hand
    bool operator==(const FocusState&) const = default;
};

[[nodiscard]] std::string focus_to_json(const FocusState& state);
[[nodiscard]] std::optional<FocusState> focus_from_json(const std::string& text);

}  // namespace rendak::app
