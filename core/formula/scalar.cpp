#include "core/formula/scalar.h"
#include "core/base/missing.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace rendak::formula {
namespace {}  // namespace

double apply(Op op, double a, double b) {
    if (std::isnan(a) || std::isnan(b)) return missing;
    switch (op) {
        case Op::negate:
            return -a;
        case Op::logical_not:
            return a == 0 ? 1 : 0;
        case Op::add:
            return a + b;
        case Op::subtract:
            return a - b;
        case Op::multiply:
            return a * b;
        case Op::divide:
            return b == 0 ? missing : a / b;
        case Op::power:
            return std::pow(a, b);
        case Op::less:
            return a < b ? 1 : 0;
        case Op::less_equal:
            return a <= b ? 1 : 0;
        case Op::greater:
            return a > b ? 1 : 0;
        case Op::greater_equal:
            return a >= b ? 1 : 0;
        case Op::equal:
            return a == b ? 1 : 0;
        case Op::not_equal:
            return a != b ? 1 : 0;
        case Op::logical_and:
            return a != 0 && b != 0 ? 1 : 0;
        case Op::logical_or:
            return a != 0 || b != 0 ? 1 : 0;
    }
    return missing;
}

double apply(const Pointwise& function, std::span<const double> x) {
    const bool hands_on =
        !function.sees_missing && std::any_of(x.begin(), x.end(), [](double v) { return std::isnan(v); });
    return hands_on ? missing : function.value(x);
}

double table_at(double x, std::span<const double> xs, std::span<const double> ys) {
    if (std::isnan(x)) return missing;
    const auto after = std::upper_bound(xs.begin(), xs.end(), x);
    if (after == xs.begin()) return ys.front();
    if (after == xs.end()) return ys.back();
    const auto i = static_cast<std::size_t>(after - xs.begin());
    return ys[i - 1] + (x - xs[i - 1]) / (xs[i] - xs[i - 1]) * (ys[i] - ys[i - 1]);
}

std::vector<double> pchip_slopes(std::span<const double> xs, std::span<const double> ys) {
    const std::size_t n = xs.size();
    std::vector<double> slopes(n);
    const auto width = [&](std::size_t i) { return xs[i + 1] - xs[i]; };
    const auto rise = [&](std::size_t i) { return (ys[i + 1] - ys[i]) / width(i); };
    if (n == 2) return {rise(0), rise(0)};
    for (std::size_t i = 1; i + 1 < n; ++i) {
        const double before = rise(i - 1), after = rise(i);
        if (before * after <= 0) continue;
        const double w1 = 2 * width(i) + width(i - 1), w2 = width(i) + 2 * width(i - 1);
        slopes[i] = (w1 + w2) / (w1 / before + w2 / after);
    }
    const auto end = [](double h0, double h1, double d0, double d1) {
        const double slope = ((2 * h0 + h1) * d0 - h0 * d1) / (h0 + h1);
        if (slope * d0 <= 0) return 0.0;
        return d0 * d1 < 0 && std::abs(slope) > 3 * std::abs(d0) ? 3 * d0 : slope;
    };
    slopes[0] = end(width(0), width(1), rise(0), rise(1));
    slopes[n - 1] = end(width(n - 2), width(n - 3), rise(n - 2), rise(n - 3));
    return slopes;
}

double pchip_at(double x, std::span<const double> xs, std::span<const double> ys, std::span<const double> slopes) {
    if (std::isnan(x)) return missing;
    const auto after = std::upper_bound(xs.begin(), xs.end(), x);
    if (after == xs.begin()) return ys.front();
    if (after == xs.end()) return ys.back();
    const auto i = static_cast<std::size_t>(after - xs.begin()) - 1;
    const double h = xs[i + 1] - xs[i], t = (x - xs[i]) / h, s = 1 - t;
    return (1 + 2 * t) * s * s * ys[i] + t * s * s * h * slopes[i] + t * t * (3 - 2 * t) * ys[i + 1] -
           t * t * s * h * slopes[i + 1];
}

}  // namespace rendak::formula
