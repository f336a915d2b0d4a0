#include "core/track/speed_source.h"

#include <cmath>
#include <limits>

namespace rendak {

SpeedSource::SpeedSource(const Recording& recording, Prefer prefer)
    : left_(recording.find("wheel_speed_rl")),
      right_(recording.find("wheel_speed_rr")),
      speed_(recording.find("speed")),
      prefer_(prefer) {
    if (left_ == nullptr || right_ == nullptr) {
        left_ = recording.find("wheel_speed_fl");
        right_ = recording.find("wheel_speed_fr");
    }
    if (left_ == nullptr || right_ == nullptr) left_ = right_ = recording.find("wheel_speed");
}

double SpeedSource::wheels_at(double t_s) const {
    if (left_ == nullptr || right_ == nullptr) return std::numeric_limits<double>::quiet_NaN();
    return 0.5 * (left_->value_at(t_s) + right_->value_at(t_s));
}

double SpeedSource::at(double t_s) const {
    const auto channel = [&] { return speed_ == nullptr ? std::nan("") : speed_->value_at(t_s); };
    const double first = prefer_ == Prefer::gps ? channel() : wheels_at(t_s);
    if (std::isfinite(first)) return first;
    return prefer_ == Prefer::gps ? wheels_at(t_s) : channel();
}

Interval SpeedSource::span_s() const {
    const Channel* first = prefer_ == Prefer::gps && speed_ != nullptr ? speed_ : left_ != nullptr ? left_ : speed_;
    if (first == nullptr || first->size() == 0) return {};
    return {first->clock.time_at(0), first->clock.time_at(first->size() - 1)};
}

}  // namespace rendak
