#include "core/analysis/set_difference.h"

#include <cmath>
#include <numeric>

#include "core/analysis/lap_choice.h"

namespace rendak {
namespace {

double variance(const std::vector<double>& values) {
    const double middle = mean_value(values);
    double sum = 0;
    for (const double value : values) sum += (value - middle) * (value - middle);
    return sum / static_cast<double>(values.size() - 1);
}

}  // namespace

double mean_value(const std::vector<double>& values) {
    return std::accumulate(values.begin(), values.end(), 0.0) / static_cast<double>(values.size());
}

std::vector<double> finite_values(std::vector<double> values) {
    std::erase_if(values, [](double x) { return !std::isfinite(x); });
    return values;
}

std::optional<Interval> likely_mean(const std::vector<double>& values) {
    if (values.size() < 2) return std::nullopt;
    const auto n = static_cast<double>(values.size());
    const double mean = mean_value(values), half = t_95(n - 1) * std::sqrt(variance(values) / n);
    return Interval{mean - half, mean + half};
}

std::optional<Interval> likely_difference(const std::vector<double>& a, const std::vector<double>& b) {
    if (a.size() < 2 && b.size() < 2) return std::nullopt;
    const auto na = static_cast<double>(a.size()), nb = static_cast<double>(b.size());
    const double va = a.size() > 1 ? variance(a) : variance(b), vb = b.size() > 1 ? variance(b) : variance(a);
    const double ea = va / na, eb = vb / nb;
    double freedom = a.size() < 2 ? nb - 1 : b.size() < 2 ? na - 1 : 1;
    if (a.size() > 1 && b.size() > 1) {
        const double below = ea * ea / (na - 1) + eb * eb / (nb - 1);
        freedom = below > 0 ? (ea + eb) * (ea + eb) / below : na + nb - 2;
    }
    const double half = t_95(freedom) * std::sqrt(ea + eb), middle = mean_value(b) - mean_value(a);
    return Interval{middle - half, middle + half};
}

std::optional<Interval> widened(const std::optional<Interval>& likely, std::initializer_list<double> halves) {
    if (!likely) return likely;
    const double middle = likely->begin + likely->length() / 2;
    double squares = likely->length() * likely->length() / 4;
    for (const double half : halves) squares += half * half;
    return Interval{middle - std::sqrt(squares), middle + std::sqrt(squares)};
}

std::size_t laps_needed(const std::vector<double>& a, const std::vector<double>& b) {
    const double va = a.size() > 1 ? variance(a) : variance(b), vb = b.size() > 1 ? variance(b) : variance(a);
    const double difference = std::abs(mean_value(b) - mean_value(a));
    for (std::size_t n = 2; n < 100; ++n) {
        const auto laps = static_cast<double>(n);
        if (t_95(2 * laps - 2) * std::sqrt((va + vb) / laps) < difference) return n;
    }
    return 0;
}

}  // namespace rendak
