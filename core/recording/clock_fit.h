#pragma once

#include <optional>
#include <span>

namespace rendak {

/// A regular clock that given times sit on, possibly with holes.
struct FittedClock {
    double start_s = 0;
    double rate_hz = 0;
    std::size_t size = 0;  ///< slots from the first time to the last; more than the times when there are holes
    [[nodiscard]] std::size_t slot_of(double t_s) const;
};

/// Finds the clock when every time lies within `tolerance_s` (and 45 % of a step) of a slot of its own and
/// at least half the slots are filled. `times_s` must rise strictly.
[[nodiscard]] std::optional<FittedClock> fit_regular_clock(std::span<const double> times_s, double tolerance_s);

}  // namespace rendak
