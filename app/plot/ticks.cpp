#include "app/plot/ticks.h"

#include <cmath>

namespace rendak::app {

Ticks ticks_for(Interval interval, int most) {
    Ticks ticks;
    if (interval.empty() || most < 1 || !std::isfinite(interval.length())) return ticks;
    const double rough = interval.length() / most;
    double power = std::pow(10.0, std::floor(std::log10(rough)));
    ticks.step = 10 * power;
    for (const double factor : {1.0, 2.0, 5.0}) {
        if (factor * power >= rough * (1 - 1e-9)) {
            ticks.step = factor * power;
            break;
        }
    }
    ticks.decimals = std::max(0, static_cast<int>(std::ceil(-std::log10(ticks.step) - 1e-9)));
    const double first = std::ceil(interval.begin / ticks.step - 1e-9);
    for (double k = first; k * ticks.step <= interval.end + 1e-9 * ticks.step; ++k) {
        const double value = k * ticks.step;
        ticks.values.push_back(std::abs(value) < 1e-9 * ticks.step ? 0 : value);
    }
    return ticks;
}

Interval with_margin(Interval interval) {
    double margin = 0.06 * interval.length();
    if (!(margin > 0)) margin = interval.begin == 0 ? 1 : 0.1 * std::abs(interval.begin);
    return {interval.begin - margin, interval.end + margin};
}

}  // namespace rendak::app
