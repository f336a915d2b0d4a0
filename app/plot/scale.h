#pragma once

#include "core/base/interval.h"

namespace rendak::app {

/// Values <-> pixels, without a widget. `first` and `last` are the pixels of the interval's ends; last < first
/// for an axis that grows upwards.
struct Scale {
    Interval values{0, 1};
    double first = 0;
    double last = 1;

    [[nodiscard]] double to_pixel(double value) const {
        return first + (value - values.begin) * (last - first) / values.length();
    }
    [[nodiscard]] double to_value(double pixel) const {
        return values.begin + (pixel - first) * values.length() / (last - first);
    }
};

}  // namespace rendak::app
