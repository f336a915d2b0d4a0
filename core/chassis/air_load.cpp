#include "core/chassis/air_load.h"

#include <Eigen/QR>
#include <algorithm>
#include <cmath>

#include "core/analysis/lap_motion.h"
#include "core/analysis/set_difference.h"
#include "core/chassis/damper_speed.h"

namespace rendak {
namespace {

constexpr double load_straight_mps2 = 1, least_load_mps = 20, load_span_mps = 15;
constexpr std::size_t least_places = 300;
constexpr double area_at_best = 0.1, share_at_best = 0.04, load_change_at_best = 0.5;

/// cl · A of one axle on one lap; NaN where it cannot be told.
double area_of(const PreparedLap& lap, const LapMotion& motion, bool front, double wheel_rate, double motion_ratio,
               double air_kg_per_m3) {
    const std::size_t left = front ? 0 : 2;
    const Channel* travel_left = lap.recording->find(std::string("damper_") + wheel_corners[left]);
    const Channel* travel_right = lap.recording->find(std::string("damper_") + wheel_corners[left + 1]);
    if (travel_left == nullptr || travel_right == nullptr) return std::nan("");
    const bool bends = std::any_of(motion.crest.begin(), motion.crest.end(), [](double x) { return x != 0; });
    const Eigen::Index columns = bends ? 4 : 3;
    std::vector<Eigen::Vector4d> beside;  // 1, v², a, what the road's bending adds
    std::vector<double> force;
    double slowest = std::numeric_limits<double>::infinity(), fastest = 0;
    for (std::size_t i = 0; i < motion.size(); ++i) {
        const double v = motion.speed_mps[i], a = motion.along_mps2[i];
        if (!(std::abs(motion.lateral_mps2[i]) < load_straight_mps2) || !(v > least_load_mps)) continue;
        const double t = lap.map.time_at(motion.place_m(i));
        const double carried = wheel_rate * motion_ratio * (travel_left->value_at(t) + travel_right->value_at(t));
        if (!std::isfinite(a + carried)) continue;
        beside.emplace_back(1, v * v, a, motion.crest[i] * v * v);
        force.push_back(carried);
        slowest = std::min(slowest, v);
        fastest = std::max(fastest, v);
    }
    if (force.size() < least_places || fastest - slowest < load_span_mps) return std::nan("");
    const auto count = static_cast<Eigen::Index>(force.size());
    Eigen::MatrixXd known(count, columns);
    Eigen::VectorXd carried(count);
    for (Eigen::Index i = 0; i < count; ++i) {
        known.row(i) = beside[static_cast<std::size_t>(i)].head(columns).transpose();
        carried(i) = force[static_cast<std::size_t>(i)];
    }
    const Eigen::VectorXd found = known.colPivHouseholderQr().solve(carried);
    return 2 * found(1) / air_kg_per_m3;
}

}  // namespace

Result<AirLoad> air_load_of(std::span<const PreparedLap> laps, const ChassisSheet& sheet, double air_kg_per_m3) {
    if (laps.empty()) return fail(ErrorCode::not_found, "There is no lap to look at.");
    AirLoad out;
    std::vector<LapMotion> motions;
    for (const PreparedLap& lap : laps) motions.push_back(motion_of(lap));
    std::vector<double> front, rear, share;
    for (const bool is_front : {true, false}) {
        const auto rate = sheet.wheel_rate(is_front);
        const std::string axle = is_front ? "front" : "rear";
        std::vector<double>& areas = is_front ? front : rear;
        for (std::size_t k = 0; k < laps.size(); ++k)
            areas.push_back(
                rate ? area_of(laps[k], motions[k], is_front, *rate, sheet.motion_ratio(is_front), air_kg_per_m3)
                     : std::nan(""));
        SetFigure& figure = is_front ? out.front_m2 : out.rear_m2;
        figure = set_figure(areas);
        figure.likely = widened(figure.likely, {area_at_best * figure.mean});
        if (figure.known()) continue;
        out.untold.push_back("Load from the air on the " + axle +
                             " cannot be told: it takes the spring of the sheet (Spring " + axle +
                             "), damper travel of both wheels, accelerations, and straights at different speeds.");
    }
    for (std::size_t k = 0; k < laps.size(); ++k) share.push_back(front[k] / (front[k] + rear[k]));
    out.front_share = set_figure(share);
    out.front_share.likely = widened(out.front_share.likely, {share_at_best});
    if (!out.front_m2.known() && !out.rear_m2.known()) return fail(ErrorCode::not_found, out.untold.front());
    return out;
}

AirChange air_change(const AirLoad& a, const AirLoad& b) {
    const auto change = [](const SetFigure& of_a, const SetFigure& of_b, double at_best) {
        if (!of_a.known() || !of_b.known()) return std::optional<Interval>();
        return widened(likely_difference(of_a.laps, of_b.laps), {load_change_at_best * at_best});
    };
    return {change(a.front_m2, b.front_m2, area_at_best * a.front_m2.mean),
            change(a.rear_m2, b.rear_m2, area_at_best * a.rear_m2.mean),
            change(a.front_share, b.front_share, share_at_best)};
}

}  // namespace rendak
