#include "core/analysis/chance.h"

#include <cmath>
#include <limits>

#include "core/analysis/set_difference.h"

namespace rendak {
namespace {

/// Regularised incomplete beta function I_x(a, b).
double incomplete_beta(double a, double b, double x) {
    if (x <= 0) return 0;
    if (x >= 1) return 1;
    // The fraction converges quickly on this side only.
    if (x > (a + 1) / (a + b + 2)) return 1 - incomplete_beta(b, a, 1 - x);
    const double front =
        std::exp(std::lgamma(a + b) - std::lgamma(a) - std::lgamma(b) + a * std::log(x) + b * std::log(1 - x)) / a;
    constexpr double tiny = 1e-300;
    double c = 1, d = 1 / std::max(std::abs(1 - (a + b) * x / (a + 1)), tiny), value = d;
    for (int m = 1; m < 400; ++m) {
        const double even = m * (b - m) * x / ((a + 2 * m - 1) * (a + 2 * m));
        const double odd = -(a + m) * (a + b + m) * x / ((a + 2 * m) * (a + 2 * m + 1));
        for (const double term : {even, odd}) {
            d = 1 + term * d;
            d = 1 / (std::abs(d) < tiny ? tiny : d);
            c = 1 + term / c;
            if (std::abs(c) < tiny) c = tiny;
            value *= c * d;
        }
        if (std::abs(c * d - 1) < 1e-14) break;
    }
    return front * value;
}

}  // namespace

double t_beyond(double beyond, double degrees) {
    if (!(degrees > 0) || !(beyond > 0) || beyond >= 0.5) return beyond == 0.5 ? 0 : std::nan("");
    const auto chance = [&](double t) { return incomplete_beta(degrees / 2, 0.5, degrees / (degrees + t * t)) / 2; };
    double low = 0, high = 1;
    while (chance(high) > beyond && high < 1e12) high *= 2;
    for (int k = 0; k < 200 && high - low > 1e-12 * high; ++k) {
        const double middle = (low + high) / 2;
        (chance(middle) > beyond ? low : high) = middle;
    }
    return (low + high) / 2;
}

double f_chance(double f, double between, double within) {
    if (!(f > 0)) return 1;
    return incomplete_beta(within / 2, between / 2, within / (within + between * f));
}

OneWay one_way(const std::vector<std::vector<double>>& groups) {
    double count = 0, total = 0, used = 0;
    for (const auto& group : groups) {
        for (const double x : group) total += x;
        count += static_cast<double>(group.size());
        used += group.empty() ? 0 : 1;
    }
    OneWay out{1, std::nan(""), count - used};
    if (used < 2 || out.within < 1) return out;
    const double middle = total / count;
    double between = 0, rest = 0;
    for (const auto& group : groups) {
        if (group.empty()) continue;
        const double mean = mean_value(group);
        between += static_cast<double>(group.size()) * (mean - middle) * (mean - middle);
        for (const double x : group) rest += (x - mean) * (x - mean);
    }
    out.sd = std::sqrt(rest / out.within);
    if (rest > 0)
        out.chance = f_chance(between / (used - 1) / (rest / out.within), used - 1, out.within);
    else if (between > 0)
        out.chance = 0;
    return out;
}

}  // namespace rendak
