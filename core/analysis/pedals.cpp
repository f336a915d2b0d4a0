#include "core/analysis/pedals.h"

#include <cmath>

namespace rendak {
namespace {

constexpr double g = 9.80665;
constexpr double grid_m = 2, shortest_m = 6;

}  // namespace

Pedals::Pedals(const PreparedLap& lap)
    : brake_(lap.recording->find("brake_front")),
      throttle_(lap.recording->find("throttle")),
      along_(lap.recording->find("longitudinal_acceleration")),
      brake_threshold_(3e5) {
    if (brake_ == nullptr) {
        brake_ = lap.recording->find("brake");
        brake_threshold_ = 0.05;
    }
}

bool Pedals::braking(double t_s) const {
    if (brake_ != nullptr) return brake_->value_at(t_s) > brake_threshold_;
    return along_ != nullptr && along_->value_at(t_s) < -0.2 * g;
}

bool Pedals::on_throttle(double t_s) const {
    if (throttle_ != nullptr) return throttle_->value_at(t_s) > 0.05;
    return along_ != nullptr && along_->value_at(t_s) > 0.05 * g;
}

bool Pedals::full_throttle(double t_s) const {
    if (throttle_ != nullptr) return throttle_->value_at(t_s) > 0.95;
    return along_ != nullptr && along_->value_at(t_s) > 0.1 * g;
}

double Pedals::throttle(double t_s) const {
    return throttle_ == nullptr ? std::numeric_limits<double>::quiet_NaN() : throttle_->value_at(t_s);
}

std::vector<PhaseSpan> phases_of(const PreparedLap& lap) {
    const Pedals pedals(lap);
    const Channel* lateral = lap.recording->find("lateral_acceleration");
    const auto phase_at = [&](double s) {
        const double t = lap.map.time_at(s);
        if (pedals.braking(t)) return Phase::braking;
        if (pedals.full_throttle(t)) return Phase::full_throttle;
        const double sideways = lateral != nullptr ? std::abs(lateral->value_at(t)) / (0.4 * g)
                                                   : std::abs(lap.track->curvature_at(s)) * 200;
        return sideways > 1 ? Phase::turning : Phase::straight;
    };
    std::vector<PhaseSpan> spans;
    const double end = lap.map.length_m();
    for (double s = 0; s < end; s += grid_m) {
        const Phase phase = phase_at(s + grid_m / 2);
        const double to = std::min(s + grid_m, end);
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
