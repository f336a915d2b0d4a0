#include "core/recording/clock_fit.h"

#include <algorithm>
#include <cmath>
#include <vector>

namespace rendak {

std::size_t FittedClock::slot_of(double t_s) const {
    return static_cast<std::size_t>(std::llround(std::max(0.0, (t_s - start_s) * rate_hz)));
}

std::optional<FittedClock> fit_regular_clock(std::span<const double> times_s, double tolerance_s) {
    if (times_s.size() < 2) return std::nullopt;
    // The usual step from a sample of steps, then sharpened over the whole length.
    std::vector<double> steps;
    const std::size_t stride = std::max<std::size_t>(1, times_s.size() / 2000);
    for (std::size_t i = 0; i + 1 < times_s.size(); i += stride) steps.push_back(times_s[i + 1] - times_s[i]);
    const auto middle = steps.begin() + static_cast<std::ptrdiff_t>(steps.size() / 2);
    std::nth_element(steps.begin(), middle, steps.end());
    double step = *middle;
    if (!(step > 0)) return std::nullopt;
    // Whole rates (20, 50, 100 Hz …) and whole steps are what loggers use: prefer them where they fit.
    const auto fits = [&](double candidate, double within_s) -> std::optional<FittedClock> {
        const FittedClock clock{times_s.front(), 1 / candidate, 0};
        const double tolerance = std::min(std::max(within_s, 0.002 * candidate), 0.45 * candidate);
        // Doubles hold whole numbers, and are rounded many times quicker.
        double previous = -1;
        for (const double t : times_s) {
            const double position = (t - clock.start_s) / candidate;
            const double slot = std::nearbyint(position);
            if (!(slot > previous) || std::abs(position - slot) * candidate > tolerance) return std::nullopt;
            previous = slot;
        }
        if (previous + 1 > 2 * static_cast<double>(times_s.size()) + 1) return std::nullopt;
        return FittedClock{clock.start_s, clock.rate_hz, static_cast<std::size_t>(previous) + 1};
    };
    // Times that sit on the usual step, with holes or without, sit on it whatever their mean is.
    const double usual_rate = std::round(1 / step);
    const bool is_whole = usual_rate >= 1 && std::abs(usual_rate * step - 1) < 0.005;
    const double usual = is_whole ? 1 / usual_rate : step;
    if (const auto clock = fits(usual, 0))
        return FittedClock{clock->start_s, is_whole ? usual_rate : clock->rate_hz, clock->size};
    // Coarse time text alternates between two steps; their mean is nearer the truth than either.
    const double mean = (times_s.back() - times_s.front()) / static_cast<double>(times_s.size() - 1);
    if (std::abs(mean - step) < std::max(tolerance_s, 1e-9)) step = mean;
    const double whole_rate = std::round(1 / step);
    if (whole_rate >= 1 && std::abs(whole_rate * step - 1) < 0.02) {
        if (const auto clock = fits(1 / whole_rate, tolerance_s))
            return FittedClock{clock->start_s, whole_rate, clock->size};
    }
    const auto slots = std::llround((times_s.back() - times_s.front()) / step);
    if (slots < 1) return std::nullopt;
    return fits((times_s.back() - times_s.front()) / static_cast<double>(slots), tolerance_s);
}

}  // namespace rendak
