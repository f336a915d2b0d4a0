#include "core/laps/standstill.h"

#include <algorithm>
#include <cmath>
#include <optional>

#include "core/signal/overview.h"
#include "core/track/speed_source.h"

namespace rendak {
namespace {

/// Tells from the overview of all that says how fast the car is that it never stands in a while: hours of driving are
/// not read sample by sample.
class NeverStands {
  public:
    explicit NeverStands(const Recording& recording) {
        for (const char* quantity :
             {"speed", "wheel_speed", "wheel_speed_rl", "wheel_speed_rr", "wheel_speed_fl", "wheel_speed_fr"}) {
            if (const Channel* channel = recording.find_logged(quantity)) channels_.push_back(channel);
        }
    }
    [[nodiscard]] bool in(double begin_s, double end_s) const {
        bool any = false;
        for (const Channel* channel : channels_) {
            const MinMax all =
                min_max(*channel, channel->clock.first_at_or_after(begin_s), channel->clock.first_at_or_after(end_s));
            if (!all.empty() && all.low < standing_mps) return false;
            any = any || !all.empty();
        }
        return any;
    }

  private:
    std::vector<const Channel*> channels_;
};

}  // namespace

std::vector<Interval> standstills(const Recording& recording, double least_s) {
    constexpr double step_s = 0.05, while_s = 20;
    std::vector<Interval> out;
    const SpeedSource speed(recording, SpeedSource::Prefer::gps);
    if (!speed.exists()) return out;
    const NeverStands never_stands(recording);
    const Interval all = speed.span_s();
    std::optional<double> since;
    double last = all.begin, looked = all.begin;
    const auto close = [&] {
        if (since && last - *since >= least_s) out.push_back({*since, last});
        since.reset();
    };
    for (double t = all.begin; t <= all.end; t += step_s) {
        if (!since && t >= looked) {
            looked = t + while_s;
            if (never_stands.in(t, looked)) {
                t = looked - step_s;
                continue;
            }
        }
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
