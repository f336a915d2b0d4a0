#include "app/plot/map_paint.h"

#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"

namespace rendak::app {

PaintScale::PaintScale(const MapPaint& paint, const Trace& trace) : paint_(paint) {
    if (paint.limits) {
        limits_ = *paint.limits;
    } else {
        std::vector<float> values;
        for (const float y : trace.y) {
            if (std::isfinite(y)) values.push_back(y);
        }
        if (values.empty()) return;
        std::sort(values.begin(), values.end());
        const auto at = [&](double share) {
            return values[static_cast<std::size_t>(share * static_cast<double>(values.size() - 1))];
        };
        limits_ = {at(paint.percentile / 100), at(1 - paint.percentile / 100)};
    }
    two_sided_ = limits_.begin < 0 && limits_.end > 0 &&
                 std::min(-limits_.begin, limits_.end) > 0.1 * (limits_.end - limits_.begin);
    if (two_sided_ && !paint.limits) {
        const double most = std::max(-limits_.begin, limits_.end);
        limits_ = {-most, most};
    }
    if (!(limits_.end > limits_.begin)) limits_.end = limits_.begin + 1;
}

QColor PaintScale::colour(double value) const {
    double share = 0;
    // By hand the two sides may differ in length: zero still is the middle tone.
    if (two_sided_)
        share = value < 0 ? 0.5 - 0.5 * value / limits_.begin : 0.5 + 0.5 * value / limits_.end;
    else
        share = (value - limits_.begin) / (limits_.end - limits_.begin);
    share = std::clamp(share, 0.0, 1.0);
    if (paint_.bands) {
        const double n = std::max(2, paint_.band_count);
        share = std::min(std::floor(share * n), n - 1) / (n - 1);
    }
    return two_sided_ ? two_sided_scale(share) : one_sided_scale(share);
}

}  // namespace rendak::app
