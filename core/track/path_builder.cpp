#include "core/track/path_builder.h"

#include <algorithm>
#include <cmath>

#include "core/track/motion_model.h"

namespace rendak {
namespace {

using Eigen::Vector3d;

constexpr double largest_step_s = 0.05;
/// Points of quick receivers are left out while the next is no farther from the last than this: the cubic between
/// states that are 0.04 s apart is off by micrometres, and six hours at 100 Hz would be two million points.
constexpr double smallest_step_s = 0.04;
/// Longer without a fix than this is a drop-out.
constexpr double dropout_s = 0.35;

Vector3d x_of(const SmoothedFix& fix) {
    return {fix.position.x, fix.velocity.x, fix.acceleration[0]};
}
Vector3d y_of(const SmoothedFix& fix) {
    return {fix.position.y, fix.velocity.y, fix.acceleration[1]};
}

/// Room grows by an eighth: of a day's path the vector's own way, by half and more, would keep as much for nothing.
template <class T>
void append(Column<T>& column, const T& value) {
    std::vector<T>& values = column.edit();
    if (values.size() == values.capacity()) values.reserve(values.size() + values.size() / 8 + 4096);
    values.push_back(value);
}

}  // namespace

void PathBuilder::add(const SmoothedFix& fix) {
    if (!before_) {
        last_update_s_ = fix.time_s;
        settle(fix, 0);
        return;
    }
    waiting_.push_back(fix);
    if (!fix.updated) return;
    const bool dropout = fix.time_s - last_update_s_ > dropout_s;
    for (std::size_t k = 0; k < waiting_.size(); ++k) {
        // The fix that ends a drop-out is a good one, unless the rows themselves have the hole.
        const bool inside = k + 1 < waiting_.size() || waiting_.size() == 1;
        settle(waiting_[k], dropout && inside ? 1 : 0);
    }
    waiting_.clear();
    last_update_s_ = fix.time_s;
}

void PathBuilder::finish() {
    for (const SmoothedFix& fix : waiting_) settle(fix, 0);
    waiting_.clear();
    if (last_) write(*last_);
    last_.reset();
}

/// A fix of which it is known whether the car was without fixes there.
void PathBuilder::settle(const SmoothedFix& fix, char bridged) {
    if (before_) {
        // Slow receivers are filled in with the motion model, which is smooth in speed and acceleration.
        const double dt = fix.time_s - before_->time_s;
        const int pieces = std::min(200, static_cast<int>(std::ceil(dt / largest_step_s - 0.05)));
        for (int k = 1; k < pieces; ++k) {
            const double u = static_cast<double>(k) / pieces;
            const auto [forward, noise_f] = motion_model(u * dt);
            const auto [backward, noise_b] = motion_model(-(1 - u) * dt);
            const double w = u * u * u * (10 - 15 * u + 6 * u * u);  // from one end's motion to the other's
            const Vector3d x = (1 - w) * (forward * x_of(*before_)) + w * (backward * x_of(fix));
            const Vector3d y = (1 - w) * (forward * y_of(*before_)) + w * (backward * y_of(fix));
            const double variance = (1 - u) * before_->variance + u * fix.variance;
            push({before_->time_s + u * dt,
                  {x(0), y(0)},
                  {x(1), y(1)},
                  0,
                  variance,
                  static_cast<char>(bridged | before_bridged_)});
        }
    }
    push({fix.time_s, fix.position, fix.velocity, 0, fix.variance, bridged});
    before_ = fix;
    before_bridged_ = bridged;
}

void PathBuilder::push(Place place) {
    if (last_) {
        place.distance_m = last_->distance_m + length(place.position - last_->position);
        const bool near = written_s_ && place.time_s - *written_s_ <= smallest_step_s + 1e-9;
        const bool alike = place.bridged == last_->bridged && last_->bridged == written_bridged_;
        if (!near || !alike) write(*last_);
    }
    last_ = place;
}

void PathBuilder::write(const Place& place) {
    written_s_ = place.time_s;
    written_bridged_ = place.bridged;
    append(path_.time_s, place.time_s);
    append(path_.velocity, place.velocity);
    if (keep_ == Keep::velocities_only) return;
    append(path_.position, place.position);
    append(path_.distance_m, place.distance_m);
    append(path_.bridged, place.bridged);
    append(path_.sd_m, static_cast<float>(std::sqrt(std::max(0.0, place.variance))));
}

}  // namespace rendak
