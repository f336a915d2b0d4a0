#include "core/analysis/point_lap.h"

#include "core/units/gravity.h"

#include <algorithm>
#include <cmath>

namespace rendak {
namespace {

double lateral_limit(const PointRoad& road, const ObservedLimit& limit, std::size_t i, double v) {
    return (road.limit_share.empty() ? 1 : road.limit_share[i]) * limit.lateral.at(v);
}

double fastest(const PointRoad& road, const ObservedLimit& limit, std::size_t i) {
    constexpr double no_limit_mps = 150, least_mps = 2;
    const double share = road.limit_share.empty() ? 1 : road.limit_share[i];
    const double lean = road.curvature[i] < 0 ? -road.lean_mps2[i] : road.lean_mps2[i];
    const double held = share * limit.lateral.at_rest_mps2 + lean,
                 wanted = std::abs(road.curvature[i]) - share * limit.lateral.per_v2;
    double out = no_limit_mps;
    if (wanted > 0) out = std::min(out, std::sqrt(std::max(least_mps * least_mps, held / wanted)));
    return road.most_mps.empty() ? out : std::min(out, road.most_mps[i]);
}

/// Share of what there is for driving or braking that the corner leaves.
double left_beside_corner(const PointRoad& road, const ObservedLimit& limit, std::size_t i, double v) {
    constexpr double most = 0.999;
    const double used = std::abs(road.curvature[i] * v * v - road.lean_mps2[i]) / lateral_limit(road, limit, i, v);
    return std::sqrt(1 - std::pow(std::min(most, used), 2));
}

}  // namespace

void drive_point(const PointRoad& road, const ObservedLimit& limit, std::vector<double>& speed) {
    const std::size_t n = road.size();
    speed.resize(n);
    for (std::size_t i = 0; i < n; ++i) speed[i] = fastest(road, limit, i);
    constexpr double least_slowing_mps2 = 0.3, crawl_mps = 0.5;
    // A circuit's end is its begin: the second time round is the one that counts.
    for (int round = 0; round < (road.open ? 1 : 2); ++round) {
        if (round == 1) speed.front() = std::min(speed.front(), speed.back());
        for (std::size_t i = 0; i + 1 < n; ++i) {
            const double v = speed[i];
            const double grip =
                limit.traction_share * lateral_limit(road, limit, i, v) * left_beside_corner(road, limit, i, v);
            const double gained = std::min(limit.driving.at(v), grip) - standard_gravity_mps2 * road.grade[i];
            const double after = std::max(crawl_mps * crawl_mps, v * v + 2 * gained * road.way_m[i]);
            speed[i + 1] = std::min(speed[i + 1], std::sqrt(after));
        }
        if (round == 1) speed.back() = std::min(speed.back(), speed.front());
        for (std::size_t i = n - 1; i > 0; --i) {
            const double v = speed[i];
            const double slowed = limit.braking->at(v) * left_beside_corner(road, limit, i, v) +
                                  standard_gravity_mps2 * road.grade[i - 1];
            const double before = v * v + 2 * std::max(least_slowing_mps2, slowed) * road.way_m[i - 1];
            speed[i - 1] = std::min(speed[i - 1], std::sqrt(before));
        }
    }
}

double point_step_s(const PointRoad& road, const std::vector<double>& speed, std::size_t i) {
    constexpr double least_mps = 0.3;
    const std::size_t next = i + 1 < road.size() ? i + 1 : road.open ? i : 0;
    return road.way_m[i] / std::max(least_mps, 0.5 * (speed[i] + speed[next]));
}

std::vector<double> point_elapsed(const PointRoad& road, const std::vector<double>& speed) {
    std::vector<double> out{0};
    for (std::size_t i = 0; i < road.size(); ++i) out.push_back(out.back() + point_step_s(road, speed, i));
    return out;
}

double point_lap_s(const PointRoad& road, const std::vector<double>& speed) {
    double out = 0;
    for (std::size_t i = 0; i < road.size(); ++i) out += point_step_s(road, speed, i);
    return out;
}

}  // namespace rendak
