#include "core/analysis/phases.h"

#include <cmath>

namespace rendak {
namespace {

constexpr double phase_grid_m = 2, shortest_m = 6;

}  // namespace

std::vector<PhaseSpan> phases_of(const PreparedLap& lap) {
    const DriverActivity driver = lap.activity();
    const bool lateral = lap.recording->find("lateral_acceleration") != nullptr;
    const auto phase_at = [&](double s) {
        const double t = lap.map.time_at(s);
        if (driver.braking(t)) return Phase::braking;
        if (driver.full_throttle(t)) return Phase::full_throttle;
        const bool turning = lateral ? driver.cornering(t) : std::abs(lap.track->curvature_at(s)) > 1 / 200.0;
        return turning ? Phase::turning : Phase::straight;
    };
    std::vector<PhaseSpan> spans;
    const double end = lap.map.length_m();
    for (double s = 0; s < end; s += phase_grid_m) {
        const Phase phase = phase_at(s + phase_grid_m / 2);
        const double to = std::min(s + phase_grid_m, end);
        if (!spans.empty() && spans.back().phase == phase)
            spans.back().range_m.end = to;
        else
            spans.push_back({{s, to}, phase});
    }
    std::vector<PhaseSpan> merged;
    for (const PhaseSpan& span : spans) {
        const bool joins = !merged.empty() && (span.range_m.length() < shortest_m || merged.back().phase == span.phase);
        if (joins)
            merged.back().range_m.end = span.range_m.end;
        else
            merged.push_back(span);
    }
    return merged;
}

}  // namespace rendak
