#include "core/track/smoother.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

#include "core/track/motion_model.h"
#include "core/track/path_builder.h"

namespace rendak {
namespace {

using Eigen::Matrix3d;
using Eigen::Vector3d;

constexpr double gap_hint_noise_mps = 1.0;
constexpr double gate = 5;        ///< innovations beyond this many standard deviations are outliers …
constexpr int most_in_a_row = 8;  ///< … unless they persist

/// Filter state after one fix: both axes share the covariance because their noise is alike.
struct Step {
    Vector3d x, y;
    Matrix3d covariance;
    Vector3d predicted_x, predicted_y;
    Matrix3d predicted_covariance;
    Matrix3d transition;
    bool updated = false;
};

/// Takes in a measured state component (0: position, 1: velocity) of both axes.
void update(Step& step, int component, Point measured, double variance) {
    const Vector3d gain = step.covariance.col(component) / (step.covariance(component, component) + variance);
    step.x += gain * (measured.x - step.x(component));
    step.y += gain * (measured.y - step.y(component));
    step.covariance -= gain * step.covariance.row(component).eval();
    step.covariance = 0.5 * (step.covariance + step.covariance.transpose()).eval();
}

std::vector<Step> filtered(std::span<const Fix> fixes, std::span<const Point> hints, double noise,
                           double hint_noise_mps) {
    std::vector<Step> steps(fixes.size());
    int rejected = 0;
    for (std::size_t i = 0; i < fixes.size(); ++i) {
        Step& step = steps[i];
        if (i == 0) {
            step.predicted_x = Vector3d(fixes[0].position.x, 0, 0);
            step.predicted_y = Vector3d(fixes[0].position.y, 0, 0);
            step.predicted_covariance = Vector3d(100 * 100, 60 * 60, 20 * 20).asDiagonal();
            step.transition = Matrix3d::Identity();
        } else {
            const Step& before = steps[i - 1];
            const auto [transition, process_noise] = motion_model(fixes[i].time_s - fixes[i - 1].time_s);
            step.transition = transition;
            step.predicted_x = transition * before.x;
            step.predicted_y = transition * before.y;
            step.predicted_covariance = transition * before.covariance * transition.transpose() + process_noise;
        }
        step.x = step.predicted_x;
        step.y = step.predicted_y;
        step.covariance = step.predicted_covariance;
        if (fixes[i].valid) {
            const double variance = noise * noise;
            const double expected = step.covariance(0, 0) + variance;
            const Point innovation{fixes[i].position.x - step.x(0), fixes[i].position.y - step.y(0)};
            const bool outlier = dot(innovation, innovation) > 2 * gate * gate * expected;
            rejected = outlier ? rejected + 1 : 0;
            if (!outlier || rejected > most_in_a_row) {
                update(step, 0, fixes[i].position, variance);
                step.updated = true;
                rejected = 0;
            }
        }
        if (!hints.empty() && std::isfinite(hints[i].x)) {
            const double sd = fixes[i].valid ? hint_noise_mps : gap_hint_noise_mps;
            update(step, 1, hints[i], sd * sd);
        }
    }
    return steps;
}

/// Backward pass (Rauch, Tung & Striebel 1965).
void smooth(std::vector<Step>& steps) {
    for (std::size_t i = steps.size() - 1; i-- > 0;) {
        const Step& after = steps[i + 1];
        Step& step = steps[i];
        const Matrix3d gain = step.covariance * after.transition.transpose() * after.predicted_covariance.inverse();
        step.x += gain * (after.x - after.predicted_x);
        step.y += gain * (after.y - after.predicted_y);
        step.covariance += gain * (after.covariance - after.predicted_covariance) * gain.transpose();
    }
}

constexpr std::size_t block = 40'000, overlap = 2000;

/// The fixes about `from` to `to` whose first and last one are valid: a drop-out is not cut, nor what bridges it.
std::vector<Fix> piece_about(const Fixes& fixes, const FixSurvey& about, std::size_t& begin, std::size_t end) {
    while (begin > about.first && !fixes.at(begin).valid) --begin;
    while (end < about.behind && !fixes.at(end - 1).valid) ++end;
    return fixes.piece(begin, end);
}

}  // namespace

void smooth_fixes(const Fixes& fixes, const FixSurvey& about, const HintsOf& hints, double hint_noise_mps,
                  const std::function<void(const SmoothedFix&)>& take) {
    for (std::size_t from = about.first; from < about.behind;) {
        const std::size_t to = about.behind - from < 2 * block ? about.behind : from + block;
        std::size_t begin = from - std::min(from - about.first, overlap);
        const auto piece = piece_about(fixes, about, begin, std::min(about.behind, to + overlap));
        auto steps = filtered(piece, hints ? hints(piece) : std::vector<Point>(), about.noise_m, hint_noise_mps);
        smooth(steps);
        for (std::size_t i = from - begin; i < to - begin; ++i) {
            const Step& step = steps[i];
            take({piece[i].time_s,
                  {step.x(0), step.y(0)},
                  {step.x(1), step.y(1)},
                  {static_cast<float>(step.x(2)), static_cast<float>(step.y(2))},
                  static_cast<float>(step.covariance(0, 0)),
                  step.updated});
        }
        from = to;
    }
}

Path smooth_path(GeoPoint origin, const Fixes& fixes, const FixSurvey& about, const HintsOf& hints,
                 double hint_noise_mps, Keep keep) {
    Path path;
    path.origin = origin;
    if (about.behind < about.first + 2) return path;
    path.noise_m = about.noise_m;
    PathBuilder builder(path, keep);
    smooth_fixes(fixes, about, hints, hint_noise_mps, [&](const SmoothedFix& fix) { builder.add(fix); });
    builder.finish();
    return path;
}

Path smooth_path(GeoPoint origin, std::span<const Fix> all, std::span<const Point> all_hints, double hint_noise_mps) {
    const Fixes fixes(all);
    HintsOf hints;
    if (!all_hints.empty())
        hints = [&](std::span<const Fix> piece) {
            const auto at = std::lower_bound(all.begin(), all.end(), piece.front().time_s,
                                             [](const Fix& fix, double t) { return fix.time_s < t; });
            const auto some = all_hints.subspan(static_cast<std::size_t>(at - all.begin()), piece.size());
            return std::vector<Point>(some.begin(), some.end());
        };
    return smooth_path(origin, fixes, survey(fixes), hints, hint_noise_mps);
}

}  // namespace rendak
