#include "core/formula/scalar.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace rendak::formula {
namespace {

constexpr double missing = std::numeric_limits<double>::quiet_NaN();

/// Whole numbers that a float32 holds exactly; everything else has no bits.
bool has_bits(double x) {
    return x >= 0 && x <= 16777215 && x == std::floor(x);
}

double of_bits(double a, double b, auto operation) {
    if (!has_bits(a) || !has_bits(b)) return missing;
    return static_cast<double>(operation(static_cast<unsigned>(a), static_cast<unsigned>(b)) & 0xFFFFFFU);
}

}  // namespace

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

bool is_pointwise(Fn fn) {
    return fn <= Fn::polyval;
}

double apply(Fn fn, std::span<const double> x) {
    const double a = x[0], b = x.size() > 1 ? x[1] : 0, c = x.size() > 2 ? x[2] : 0;
    // These look at missing samples; everything else hands them on.
    if (fn == Fn::isnan) return std::isnan(a) ? 1 : 0;
    if (fn == Fn::nan_to_num) return std::isnan(a) ? b : a;
    if (fn == Fn::coalesce || fn == Fn::first_of) {
        if (fn == Fn::first_of) return a;
        const auto found = std::find_if(x.begin(), x.end(), [](double value) { return !std::isnan(value); });
        return found == x.end() ? missing : *found;
    }
    if (fn == Fn::where) return std::isnan(a) ? missing : a != 0 ? b : c;
    if (std::any_of(x.begin(), x.end(), [](double value) { return std::isnan(value); })) return missing;
    switch (fn) {
        case Fn::abs:
            return std::abs(a);
        case Fn::sqrt:
            return a < 0 ? missing : std::sqrt(a);
        case Fn::cbrt:
            return std::cbrt(a);
        case Fn::exp:
            return std::exp(a);
        case Fn::log:
            return a <= 0 ? missing : std::log(a);
        case Fn::log10:
            return a <= 0 ? missing : std::log10(a);
        case Fn::log2:
            return a <= 0 ? missing : std::log2(a);
        case Fn::sin:
            return std::sin(a);
        case Fn::cos:
            return std::cos(a);
        case Fn::tan:
            return std::tan(a);
        case Fn::arcsin:
            return std::abs(a) > 1 ? missing : std::asin(a);
        case Fn::arccos:
            return std::abs(a) > 1 ? missing : std::acos(a);
        case Fn::arctan:
            return std::atan(a);
        case Fn::arctan2:
            return std::atan2(a, b);
        case Fn::hypot:
            return std::sqrt(a * a + b * b);
        case Fn::sign:
            return a > 0 ? 1 : a < 0 ? -1 : 0;
        case Fn::floor:
            return std::floor(a);
        case Fn::ceil:
            return std::ceil(a);
        case Fn::rint:
            return std::nearbyint(a);
        case Fn::trunc:
            return std::trunc(a);
        case Fn::mod:
            return b == 0 ? missing : a - b * std::floor(a / b);
        case Fn::minimum:
            return *std::min_element(x.begin(), x.end());
        case Fn::maximum:
            return *std::max_element(x.begin(), x.end());
        case Fn::clip:
            return std::min(std::max(a, b), c);
        case Fn::number:
            return a;
        case Fn::bitwise_and:
            return of_bits(a, b, [](unsigned p, unsigned q) { return p & q; });
        case Fn::bitwise_or:
            return of_bits(a, b, [](unsigned p, unsigned q) { return p | q; });
        case Fn::bitwise_xor:
            return of_bits(a, b, [](unsigned p, unsigned q) { return p ^ q; });
        case Fn::left_shift:
            return of_bits(a, b, [](unsigned p, unsigned q) { return q > 23 ? 0U : p << q; });
        case Fn::right_shift:
            return of_bits(a, b, [](unsigned p, unsigned q) { return q > 23 ? 0U : p >> q; });
        case Fn::bit:
            return of_bits(a, b, [](unsigned p, unsigned q) { return q > 23 ? 0U : (p >> q) & 1U; });
        default:
            return missing;
    }
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
