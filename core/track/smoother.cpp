#include <Eigen/Dense>
#include <algorithm>
#include <array>
#include <cmath>

#include "core/base/median.h"
#include "core/track/path.h"

namespace rendak {
namespace {

using Eigen::Matrix3d;
using Eigen::Vector3d;

/// Spectral density of the jerk that drives the motion model, m²/s⁵: a car builds up 15 m/s² in about 0.3 s.
constexpr double jerk_density = 300;
constexpr double gap_hint_noise_mps = 1.0;
constexpr double gate = 5;        ///< innovations beyond this many standard deviations are outliers …
constexpr int most_in_a_row = 8;  ///< … unless they persist
constexpr double largest_step_s = 0.05;
/// Longer without a fix than this is a drop-out.
constexpr double dropout_s = 0.35;

/// Filter state after one fix: both axes share the covariance because their noise is alike.
struct Step {
    Vector3d x, y;
    Matrix3d covariance;
    Vector3d predicted_x, predicted_y;
    Matrix3d predicted_covariance;
    Matrix3d transition;
    bool updated = false;
};

/// Scatter of the fixes from their third differences.
double estimated_noise(std::span<const Fix> fixes) {
    std::vector<double> differences, steps;
    for (std::size_t i = 0; i + 3 < fixes.size(); ++i) {
        if (!fixes[i].valid || !fixes[i + 1].valid || !fixes[i + 2].valid || !fixes[i + 3].valid) continue;
        // Only while moving: a receiver at rest repeats itself.
        if (length(fixes[i + 1].position - fixes[i].position) < 1e-6) continue;
        const Point d =
            fixes[i + 3].position - fixes[i].position - (fixes[i + 2].position - fixes[i + 1].position) * 3.0;
        differences.push_back(d.x);
        differences.push_back(d.y);
        steps.push_back(fixes[i + 1].time_s - fixes[i].time_s);
    }
    if (differences.size() < 40) return 0.3;
    // At a low rate the third difference is the car's own motion.
    if (median_of(std::move(steps)) > 0.3) return 0.3;
    const double noise = noise_from_third_differences(std::move(differences));
    return std::clamp(noise, 0.01, 1.5);
}

std::pair<Matrix3d, Matrix3d> motion_model(double dt) {
    Matrix3d transition;
    transition << 1, dt, dt * dt / 2, 0, 1, dt, 0, 0, 1;
    const double d2 = dt * dt, d3 = d2 * dt, d4 = d3 * dt, d5 = d4 * dt;
    Matrix3d noise;
    noise << d5 / 20, d4 / 8, d3 / 6, d4 / 8, d3 / 3, d2 / 2, d3 / 6, d2 / 2, dt;
    return {transition, noise * jerk_density};
}

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
        const Matrix3d gain = step.covariance * after.transition.transpose() *
                              after.predicted_covariance.ldlt().solve(Matrix3d::Identity());
        step.x += gain * (after.x - after.predicted_x);
        step.y += gain * (after.y - after.predicted_y);
        step.covariance += gain * (after.covariance - after.predicted_covariance) * gain.transpose();
    }
}

/// What is kept of a smoothed step: of a day there are a million, beside the path that is made of them.
struct State {
    Point position, velocity;
    std::array<float, 2> acceleration{};
    float variance = 0;
    bool updated = false;

    [[nodiscard]] Vector3d x() const { return {position.x, velocity.x, acceleration[0]}; }
    [[nodiscard]] Vector3d y() const { return {position.y, velocity.y, acceleration[1]}; }
};

/// Filter and backward pass. A day is smoothed by parts of half an hour and more, so that its memory stays that of a
/// part: they overlap by far more than any fix reaches, and shorter runs are one.
std::vector<State> smoothed(std::span<const Fix> fixes, std::span<const Point> hints, double noise,
                            double hint_noise_mps) {
    constexpr std::size_t block = 40'000, overlap = 2000;
    std::vector<State> out;
    out.reserve(fixes.size());
    while (out.size() < fixes.size()) {
        const std::size_t from = out.size();
        const std::size_t to = fixes.size() - from < 2 * block ? fixes.size() : from + block;
        std::size_t begin = from - std::min(from, overlap);
        while (begin > 0 && !fixes[begin].valid) --begin;
        const std::size_t end = std::min(fixes.size(), to + overlap);
        auto steps = filtered(fixes.subspan(begin, end - begin),
                              hints.empty() ? hints : hints.subspan(begin, end - begin), noise, hint_noise_mps);
        smooth(steps);
        for (std::size_t i = from; i < to; ++i) {
            const Step& step = steps[i - begin];
            out.push_back({{step.x(0), step.y(0)},
                           {step.x(1), step.y(1)},
                           {static_cast<float>(step.x(2)), static_cast<float>(step.y(2))},
                           static_cast<float>(step.covariance(0, 0)),
                           step.updated});
        }
    }
    return out;
}

}  // namespace

Path smooth_path(GeoPoint origin, std::span<const Fix> all_fixes, std::span<const Point> all_hints,
                 double hint_noise_mps) {
    // Begin and end with a real fix.
    std::size_t first = 0, last = all_fixes.size();
    while (first < last && !all_fixes[first].valid) ++first;
    while (last > first && !all_fixes[last - 1].valid) --last;
    const auto fixes = all_fixes.subspan(first, last - first);
    const auto hints = all_hints.empty() ? all_hints : all_hints.subspan(first, last - first);
    Path path;
    path.origin = origin;
    if (fixes.size() < 2) return path;
    path.noise_m = estimated_noise(fixes);
    const auto steps = smoothed(fixes, hints, path.noise_m, hint_noise_mps);

    double last_update_s = fixes[0].time_s;
    std::vector<char> in_dropout(fixes.size(), 0);
    for (std::size_t i = 0, since = 0; i < fixes.size(); ++i) {
        if (!steps[i].updated) continue;
        if (fixes[i].time_s - last_update_s > dropout_s) {
            for (std::size_t k = since + 1; k < i; ++k) in_dropout[k] = 1;
            if (since + 1 == i) in_dropout[i] = 1;  // a hole in the rows themselves
        }
        last_update_s = fixes[i].time_s;
        since = i;
    }
    // Slow receivers are filled in: in so many pieces between two fixes.
    const auto pieces_before = [&](std::size_t i) {
        const double dt = fixes[i].time_s - fixes[i - 1].time_s;
        return std::min(200, static_cast<int>(std::ceil(dt / largest_step_s - 0.05)));
    };
    std::size_t count = 1;
    for (std::size_t i = 1; i < fixes.size(); ++i) count += static_cast<std::size_t>(std::max(1, pieces_before(i)));
    path.time_s.reserve(count);
    path.position.reserve(count);
    path.velocity.reserve(count);
    path.distance_m.reserve(count);
    path.bridged.reserve(count);
    path.sd_m.reserve(count);
    const auto push = [&](double t, Point p, Point v, char bridged, double variance) {
        path.distance_m.push_back(path.size() == 0 ? 0 : path.distance_m.back() + length(p - path.position.back()));
        path.time_s.push_back(t);
        path.position.push_back(p);
        path.velocity.push_back(v);
        path.bridged.push_back(bridged);
        path.sd_m.push_back(static_cast<float>(std::sqrt(std::max(0.0, variance))));
    };
    for (std::size_t i = 0; i < fixes.size(); ++i) {
        const State& step = steps[i];
        if (i > 0) {
            // With the motion model, which is smooth in speed and acceleration.
            const double dt = fixes[i].time_s - fixes[i - 1].time_s;
            const int pieces = pieces_before(i);
            const State& before = steps[i - 1];
            for (int k = 1; k < pieces; ++k) {
                const double u = static_cast<double>(k) / pieces;
                const auto [forward, noise_f] = motion_model(u * dt);
                const auto [backward, noise_b] = motion_model(-(1 - u) * dt);
                const double w = u * u * u * (10 - 15 * u + 6 * u * u);  // from one end's motion to the other's
                const Vector3d x = (1 - w) * (forward * before.x()) + w * (backward * step.x());
                const Vector3d y = (1 - w) * (forward * before.y()) + w * (backward * step.y());
                push(fixes[i - 1].time_s + u * dt, {x(0), y(0)}, {x(1), y(1)}, in_dropout[i] | in_dropout[i - 1],
                     (1 - u) * before.variance + u * step.variance);
            }
        }
        push(fixes[i].time_s, step.position, step.velocity, in_dropout[i], step.variance);
    }
    return path;
}

}  // namespace rendak
