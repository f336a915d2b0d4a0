#include "core/track/launch.h"

#include <algorithm>
#include <cmath>

#include "core/track/speed_source.h"

namespace rendak {
namespace {

constexpr double step_s = 0.01;

/// Back from where the car surely moves to where its speed last lay in the noise of standing still.
double first_movement(const SpeedSource& speed, double rest_begin_s, double moving_s) {
    double sum = 0, squares = 0, count = 0;
    for (double t = rest_begin_s; t < std::max(rest_begin_s + 0.2, moving_s - 1); t += step_s) {
        const double v = speed.at(t);
        if (!std::isfinite(v)) continue;
        sum += v;
        squares += v * v;
        ++count;
    }
    const double level = count > 0 ? sum / count : 0;
    const double scatter = count > 0 ? std::sqrt(std::max(0.0, squares / count - level * level)) : 0;
    const double moves = level + std::max(0.08, 3 * scatter);
    double first = moving_s;
    while (first > rest_begin_s && speed.at(first) > moves) first -= step_s;
    return first;
}

}  // namespace

std::optional<double> find_launch(const Recording& recording) {
    constexpr double driving_mps = 15, creeping_mps = 0.8, least_rest_s = 0.5;
    const SpeedSource speed(recording, SpeedSource::Prefer::wheels);
    if (!speed.exists()) return std::nullopt;
    const Interval span = speed.span_s();
    std::optional<double> launch;
    std::optional<double> rest_begin;
    for (double t = span.begin; t <= span.end; t += step_s) {
        const double v = speed.at(t);
        if (!std::isfinite(v)) continue;
        if (v < creeping_mps) {
            if (!rest_begin) rest_begin = t;
            continue;
        }
        if (rest_begin && t - *rest_begin >= least_rest_s) launch = first_movement(speed, *rest_begin, t);
        rest_begin.reset();
        if (v > driving_mps) break;
    }
    return launch;
}

}  // namespace rendak
