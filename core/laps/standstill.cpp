#include "core/laps/standstill.h"

#include <cmath>
#include <optional>

#include "core/track/speed_source.h"

namespace rendak {

std::vector<Interval> standstills(const Recording& recording, double least_s) {
    constexpr double standing_mps = 1.5, step_s = 0.05;
    std::vector<Interval> out;
    const SpeedSource speed(recording, SpeedSource::Prefer::gps);
    if (!speed.exists()) return out;
    const Interval all = speed.span_s();
    std::optional<double> since;
    double last = all.begin;
    const auto close = [&] {
        if (since && last - *since >= least_s) out.push_back({*since, last});
        since.reset();
    };
    for (double t = all.begin; t <= all.end; t += step_s) {
        const double v = speed.at(t);
        if (!std::isfinite(v)) continue;
        if (std::abs(v) < standing_mps) {
            if (!since) since = t;
            last = t;
        } else {
            close();
        }
    }
    close();
    return out;
}

}  // namespace rendak
