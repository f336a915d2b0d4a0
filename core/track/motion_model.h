#pragma once

#include <Eigen/Core>
#include <utility>

namespace rendak {

/// Spectral density of the jerk that drives the motion model, m²/s⁵: a car builds up 15 m/s² in about 0.3 s.
inline constexpr double jerk_density = 300;

/// Constant acceleration, driven by white jerk, over `dt` seconds: how a state (position, velocity, acceleration) goes
/// on, and how its covariance grows.
[[nodiscard]] inline std::pair<Eigen::Matrix3d, Eigen::Matrix3d> motion_model(double dt) {
    Eigen::Matrix3d transition;
    transition << 1, dt, dt * dt / 2, 0, 1, dt, 0, 0, 1;
    const double d2 = dt * dt, d3 = d2 * dt, d4 = d3 * dt, d5 = d4 * dt;
    Eigen::Matrix3d noise;
    noise << d5 / 20, d4 / 8, d3 / 6, d4 / 8, d3 / 3, d2 / 2, d3 / 6, d2 / 2, dt;
    return {transition, noise * jerk_density};
}

}  // namespace rendak
