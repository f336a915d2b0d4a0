#include "core/track/velocity_hints.h"
#include "core/base/missing.h"

#include <cmath>
#include <limits>
#include <numbers>

namespace rendak {
namespace {

constexpr double turn = 2 * std::numbers::pi;
constexpr double reach_s = 1.2, least_hint_mps = 5;

}  // namespace

bool VelocityHints::possible(const Recording& recording, const Fixes& fixes, const FixSurvey& about) {
    if (!SpeedSource(recording, SpeedSource::Prefer::gps).exists()) return false;
    return (recording.find("yaw_rate") != nullptr && fixes.count >= 3) || about.valid < about.behind - about.first;
}

VelocityHints::VelocityHints(const Recording& recording, const Path& first_pass, const Fixes& fixes)
    : first_pass_(first_pass),
      yaw_rate_(recording.find("yaw_rate")),
      gps_first_(recording, SpeedSource::Prefer::gps),
      wheels_first_(recording, SpeedSource::Prefer::wheels) {
    if (yaw_rate_ == nullptr) return;
    double driven = 0, measured = 0;
    for (std::size_t i = 0; i < fixes.count; i += 5) {
        const Fix fix = fixes.at(i);
        const double v = gps_first_.at(fix.time_s);
        if (!(v > least_hint_mps) || !fix.valid) continue;
        driven += length(first_pass_.velocity_at(fix.time_s));
        measured += v;
    }
    if (fixes.let_go) fixes.let_go();
    const double ratio = driven > 0 ? measured / driven : 1;
    if (std::abs(ratio - 1) > 0.01) scale_ = ratio;
}

std::vector<Point> VelocityHints::of(std::span<const Fix> fixes) const {
    std::vector<Point> hints(fixes.size(), Point{missing, missing});
    bridge_gaps(hints, fixes);
    if (yaw_rate_ != nullptr && fixes.size() >= 3) follow_sensors(hints, fixes);
    return hints;
}

/// For every missing fix: speed along a heading that is turned from the last good one to the next good one, by
/// the yaw rate where it is logged, the closing error spread evenly.
void VelocityHints::bridge_gaps(std::vector<Point>& hints, std::span<const Fix> fixes) const {
    for (std::size_t i = 1; i < fixes.size(); ++i) {
        if (fixes[i].valid || !fixes[i - 1].valid) continue;
        std::size_t next = i;
        while (next < fixes.size() && !fixes[next].valid) ++next;
        if (next == fixes.size()) break;
        const Point v0 = first_pass_.velocity_at(fixes[i - 1].time_s), v1 = first_pass_.velocity_at(fixes[next].time_s);
        const double heading0 = std::atan2(v0.y, v0.x);
        std::vector<double> turned;  // since the last good fix
        double sum = 0;
        for (std::size_t k = i; k <= next; ++k) {
            const double step = fixes[k].time_s - fixes[k - 1].time_s;
            const double rate = yaw_rate_ == nullptr ? missing : yaw_rate_->value_at(fixes[k].time_s - step / 2);
            sum += std::isfinite(rate) ? rate * step : 0;
            turned.push_back(sum);
        }
        const double closing = std::remainder(std::atan2(v1.y, v1.x) - heading0 - sum, turn);
        for (std::size_t k = i; k < next; ++k) {
            const double v = wheels_first_.at(fixes[k].time_s);
            if (!std::isfinite(v)) continue;
            const double share = static_cast<double>(k - i + 1) / static_cast<double>(turned.size());
            const double heading = heading0 + turned[k - i] + share * closing;
            hints[k] = {v * std::cos(heading), v * std::sin(heading)};
        }
    }
}

/// For every good fix: the measured speed along a heading that follows the yaw rate from moment to moment and the first
/// pass over seconds (a complementary filter: the sensor's bias and the car's slip angle change slowly).
void VelocityHints::follow_sensors(std::vector<Point>& hints, std::span<const Fix> fixes) const {
    const std::size_t n = fixes.size();
    std::vector<double> turned(n, 0), away(n, 0), weight(n, 0);
    double course = 0;
    for (std::size_t i = 0; i < n; ++i) {
        if (i > 0) {
            const double step = fixes[i].time_s - fixes[i - 1].time_s;
            const double rate = yaw_rate_->value_at(fixes[i].time_s - step / 2);
            turned[i] = turned[i - 1] + (std::isfinite(rate) ? rate * step : 0);
        }
        const Point v = first_pass_.velocity_at(fixes[i].time_s);
        course += std::remainder(std::atan2(v.y, v.x) - course, turn);
        away[i] = course - turned[i];
        weight[i] = length(v) > least_hint_mps ? dot(v, v) : 0;
    }
    std::vector<double> sum(n + 1, 0), weights(n + 1, 0);
    for (std::size_t i = 0; i < n; ++i) {
        sum[i + 1] = sum[i] + weight[i] * away[i];
        weights[i + 1] = weights[i] + weight[i];
    }
    std::size_t low = 0, high = 0;
    for (std::size_t i = 0; i < n; ++i) {
        while (fixes[low].time_s < fixes[i].time_s - reach_s) ++low;
        while (high < n && fixes[high].time_s <= fixes[i].time_s + reach_s) ++high;
        const double v = gps_first_.at(fixes[i].time_s) / scale_;
        if (!fixes[i].valid || !(v > least_hint_mps) || !(weights[high] - weights[low] > 0)) continue;
        const double heading = turned[i] + (sum[high] - sum[low]) / (weights[high] - weights[low]);
        hints[i] = {v * std::cos(heading), v * std::sin(heading)};
    }
}

}  // namespace rendak
