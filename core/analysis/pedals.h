#pragma once

#include "core/laps/prepared_lap.h"

namespace rendak {

/// What the driver does at a moment.
enum class Phase { straight, braking, turning, full_throttle };

/// Reads pedals from whatever is logged. Without pedals, braking is longitudinal acceleration below −0.2 g and
/// throttle above +0.05 g; `inferred()` says so.
class Pedals {
  public:
    explicit Pedals(const PreparedLap& lap);
    [[nodiscard]] bool known() const { return brake_ != nullptr || throttle_ != nullptr || along_ != nullptr; }
    [[nodiscard]] bool inferred() const { return brake_ == nullptr || throttle_ == nullptr; }
    [[nodiscard]] bool braking(double t_s) const;
    [[nodiscard]] bool on_throttle(double t_s) const;
    [[nodiscard]] bool full_throttle(double t_s) const;
    /// 0 … 1, NaN when not logged.
    [[nodiscard]] double throttle(double t_s) const;

  private:
    const Channel* brake_;
    const Channel* throttle_;
    const Channel* along_;
    double brake_threshold_ = 0;
};

/// A stretch of the lap in one phase. Spans cover 0 … length.
struct PhaseSpan {
    Interval range_m;
    Phase phase;
};

/// The phases of a lap, sampled every 2 m; stretches shorter than 6 m join their neighbour. Turning = lateral
/// acceleration above 0.4 g (or the track's curvature, where that is not logged) without brake or full throttle.
[[nodiscard]] std::vector<PhaseSpan> phases_of(const PreparedLap& lap);

}  // namespace rendak
