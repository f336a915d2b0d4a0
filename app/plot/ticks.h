#pragma once

#include <vector>

#include "core/base/interval.h"

namespace rendak::app {

/// Round values (1, 2 or 5 times a power of ten apart) inside an interval, at most `most` of them.
struct Ticks {
    double step = 1;
    int decimals = 0;
    std::vector<double> values;
};
[[nodiscard]] Ticks ticks_for(Interval interval, int most);

/// The interval widened a little, so that a trace never touches the edge of its lane; never empty.
[[nodiscard]] Interval with_margin(Interval interval);

}  // namespace rendak::app
