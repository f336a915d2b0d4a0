#include "core/chassis/resonance.h"

#include <cmath>
#include <limits>
#include <vector>

namespace rendak {
namespace {

constexpr double worst_misfit = 0.5;
constexpr double least_hz = 0.8, most_hz = 8, least_damping = 0.03, most_damping = 2;

struct Points {
    std::vector<double> hz, log_psd;
};

/// Root mean square of what is left, with the size that fits best.
double misfit(const Points& points, double hz, double damping) {
    double sum = 0, squares = 0;
    for (std::size_t i = 0; i < points.hz.size(); ++i) {
        const double f = points.hz[i], a = hz * hz - f * f, b = 2 * damping * hz * f;
        const double left = points.log_psd[i] + std::log(a * a + b * b);
        sum += left;
        squares += left * left;
    }
    const auto n = static_cast<double>(points.hz.size());
    return std::sqrt(std::max(0.0, squares / n - sum * sum / (n * n)));
}

}  // namespace

std::optional<Resonance> resonance_of(const Spectrum& travel, Interval band_hz) {
    Points points;
    for (std::size_t i = 1; i < travel.psd.size(); ++i) {
        const double f = travel.frequency_hz(i);
        if (f < band_hz.begin || f > band_hz.end || !(travel.psd[i] > 0)) continue;
        points.hz.push_back(f);
        points.log_psd.push_back(std::log(travel.psd[i]));
    }
    if (points.hz.size() < 8) return std::nullopt;
    // A coarse look over all, then finer around the best: the misfit has one valley.
    Resonance best{0, 0, std::numeric_limits<double>::infinity()};
    double step = 1.12;
    for (double hz = least_hz; hz <= most_hz; hz *= step) {
        for (double damping = least_damping; damping <= most_damping; damping *= step) {
            if (const double left = misfit(points, hz, damping); left < best.misfit) best = {hz, damping, left};
        }
    }
    while (step > 1.0005) {
        const Resonance around = best;
        for (const double a : {1 / step, 1.0, step}) {
            for (const double b : {1 / step, 1.0, step}) {
                const double left = misfit(points, around.hz * a, around.damping * b);
                if (left < best.misfit) best = {around.hz * a, around.damping * b, left};
            }
        }
        if (best.misfit == around.misfit) step = std::sqrt(step);
    }
    const bool at_an_end = best.hz < least_hz * 1.15 || best.hz > most_hz / 1.15 || best.damping > most_damping / 1.15;
    if (best.misfit > worst_misfit || at_an_end) return std::nullopt;
    return best;
}

}  // namespace rendak
