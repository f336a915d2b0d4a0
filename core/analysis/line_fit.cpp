#include "core/analysis/line_fit.h"

#include <algorithm>
#include <cmath>

namespace rendak {
namespace {

template <class Number>
LineFit fit(std::span<const Number> x, std::span<const Number> y) {
    LineFit out;
    out.count = std::min(x.size(), y.size());
    if (out.count < 3) return out;
    // About the means: large numbers with a small spread keep their digits.
    const auto n = static_cast<double>(out.count);
    double mean_x = 0, mean_y = 0;
    for (std::size_t i = 0; i < out.count; ++i) {
        mean_x += x[i];
        mean_y += y[i];
    }
    mean_x /= n;
    mean_y /= n;
    double xx = 0, xy = 0, yy = 0;
    for (std::size_t i = 0; i < out.count; ++i) {
        const double a = x[i] - mean_x, b = y[i] - mean_y;
        xx += a * a;
        xy += a * b;
        yy += b * b;
    }
    if (!(xx > 0)) return out;
    out.slope = xy / xx;
    out.offset = mean_y - out.slope * mean_x;
    const double left = std::max(0.0, yy - out.slope * xy);
    out.sd = std::sqrt(left / (n - 2));
    out.slope_sd = out.sd / std::sqrt(xx);
    out.explained = yy > 0 ? 1 - left / yy : 1;
    return out;
}

}  // namespace

LineFit fit_line(std::span<const float> x, std::span<const float> y) {
    return fit(x, y);
}

LineFit fit_line(std::span<const double> x, std::span<const double> y) {
    return fit(x, y);
}

FinitePairs finite_pairs(std::span<const double> x, std::span<const double> y) {
    FinitePairs out;
    for (std::size_t i = 0; i < std::min(x.size(), y.size()); ++i) {
        if (!std::isfinite(x[i]) || !std::isfinite(y[i])) continue;
        out.x.push_back(x[i]);
        out.y.push_back(y[i]);
    }
    return out;
}

double correlation(std::span<const double> x, std::span<const double> y) {
    constexpr std::size_t least = 4;
    const FinitePairs pairs = finite_pairs(x, y);
    const LineFit line = fit_line(pairs.x, pairs.y);
    const bool flat = line.slope == 0 && line.explained == 1;  // y has no spread
    if (!line.known() || line.count < least || flat) return std::numeric_limits<double>::quiet_NaN();
    return std::copysign(std::sqrt(line.explained), line.slope);
}

}  // namespace rendak
