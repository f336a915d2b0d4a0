#pragma once

#include <memory>
#include <optional>
#include <vector>

#include "core/laps/gap.h"
#include "core/laps/line_offset.h"
#include "core/laps/prepared_lap.h"

namespace rendak {

enum class Axis {
    distance,  ///< metres from the line
    time,      ///< seconds since the line
    run,       ///< seconds since the line, over the whole recording: laps before and behind, stops
};

/// A curve to draw: x rises (metres from the line, or seconds since it), y in SI units, NaN where missing.
struct Trace {
    std::vector<float> x;
    std::vector<float> y;
    bool is_state = false;  ///< steps instead of slopes
    /// Instead of x and y: all samples of a recording, which are not copied; x is their time minus `whole_start_s`.
    std::shared_ptr<const Channel> whole = {};
    double whole_start_s = 0;

    [[nodiscard]] bool empty() const { return x.empty() && whole == nullptr; }
    /// Lowest and highest y; {0, 0} when there is nothing.
    [[nodiscard]] Interval limits() const;
    /// The same of the points with x inside a range; nullopt when there are none.
    [[nodiscard]] std::optional<Interval> limits(Interval range) const;
    /// Index of the first point at or behind x; of a curve with points of its own.
    [[nodiscard]] std::size_t first_at(double at) const;
};

/// The samples of a quantity over a lap. Empty when it is not logged.
[[nodiscard]] Trace trace_of(const PreparedLap& lap, std::string_view quantity, Axis axis);

/// The samples of a quantity over the whole recording; x is seconds since the lap's start. Copies no samples: a day
/// costs what a lap does.
[[nodiscard]] Trace run_trace_of(const PreparedLap& lap, std::string_view quantity);

/// The gap as a curve; on the time axis at the lap's own elapsed time.
[[nodiscard]] Trace trace_of(const GapCurve& gap, const PreparedLap& lap, Axis axis);
/// The same of the line.
[[nodiscard]] Trace trace_of(const LineOffset& offset, const PreparedLap& lap, Axis axis);

}  // namespace rendak
