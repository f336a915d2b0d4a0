#include "core/laps/slow_error.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <numeric>

#include "core/base/median.h"
#include "core/track/learn.h"
#include "core/track/projection.h"

namespace rendak {
namespace {

using Eigen::Matrix2d;
using Eigen::Matrix3d;
using Eigen::Vector2d;
using Eigen::Vector3d;
using Eigen::VectorXd;

constexpr double node_s = 0.5;
constexpr double cell_m = 20;
constexpr double off_road_m = 12;        ///< further beside the line is another road, or the pits
constexpr double slowest_mps = 4;        ///< below, directions of travel are noise
constexpr double scatter_length_m = 80;  ///< over which a driver's line stays off his own usual one
/// Over random worlds of all kinds the figure so holds for about three laps in four (the estimate knows more than its
/// own covariance says: lines are smoother than a first-order process).
constexpr double told = 0.8;
constexpr double least_slip_m = 0.003;  ///< what the speed leaves open in one step
constexpr double least_line_sd_m = 0.25, least_scatter_m = 0.08;
/// Two days, two receivers, or a line learnt from one lap: lasting offsets that no run shows by itself.
constexpr double lasting_m = 0.35;

/// A moment of the run.
struct Node {
    double time_s = 0;
    Vector2d normal{0, 0};  ///< left of the track's line
    Vector2d travel{1, 0};  ///< direction to the next node
    double left_m = 0;      ///< beside the track's line
    double slip_m = 0;      ///< how much further the positions went than the speed, to the next node
    std::size_t cell = 0, lap = 0;
    bool on_road = false, has_slip = false;
};

struct Run {
    std::vector<Node> nodes;
    std::size_t cells = 0, laps = 0;
    double step_m = 0;  ///< usual way between two nodes
};

Vector2d vector_of(Point p) {
    return {p.x, p.y};
}

Run nodes_of(const Path& path, const Track& track, const SpeedSource& speed) {
    Run run;
    run.cells = std::max<std::size_t>(4, static_cast<std::size_t>(track.length_m / cell_m));
    Projector projector(track);
    bool lost = true;
    double before_m = 0;
    std::vector<double> steps;
    for (std::size_t i = 0; i + 1 < path.size();) {
        std::size_t next = i + 1;
        while (next + 1 < path.size() && path.time_s[next] < path.time_s[i] + node_s - 1e-6) ++next;
        Node node;
        node.time_s = path.time_s[i];
        const Point velocity = path.velocity[i];
        const bool moving = length(velocity) > slowest_mps;
        if (lost && moving) projector.restart(path.position[i], unit(velocity));
        const Projected place = projector.project(path.position[i]);
        const Point tangent = track.tangent_at(place.distance_m);
        node.normal = vector_of(left_of(tangent));
        node.left_m = place.left_m;
        lost = !moving || std::abs(place.left_m) > off_road_m || dot(unit(velocity), tangent) < 0.7;
        node.on_road = !lost && path.bridged[i] == 0;
        if (place.distance_m < before_m - track.length_m / 2) ++run.laps;
        before_m = place.distance_m;
        node.lap = run.laps;
        node.cell = std::min(run.cells - 1, static_cast<std::size_t>(place.distance_m / track.length_m *
                                                                     static_cast<double>(run.cells)));
        const Point way = path.position[next] - path.position[i];
        node.travel = vector_of(unit(way));
        // Along the direction of travel, step by step: a bend is no shortcut.
        node.has_slip = moving && path.time_s[next] - path.time_s[i] < 2 * node_s;
        for (std::size_t k = i; k < next && node.has_slip; ++k) {
            const double dt = path.time_s[k + 1] - path.time_s[k];
            const double measured = 0.5 * (speed.at(path.time_s[k]) + speed.at(path.time_s[k + 1]));
            if (!std::isfinite(measured) || path.bridged[k] != 0 || path.bridged[k + 1] != 0) node.has_slip = false;
            node.slip_m += length(path.position[k + 1] - path.position[k]) - measured * dt;
        }
        if (node.on_road) steps.push_back(length(way));
        run.nodes.push_back(node);
        i = next;
    }
    ++run.laps;
    run.step_m = steps.empty() ? 0 : median_of(std::move(steps));
    return run;
}

/// A speed that reads by a share too high or comes late is no drift of the positions: both are taken out by least
/// squares.
void take_out_scale_and_delay(Run& run, const SpeedSource& speed) {
    double aa = 1e-9, ab = 0, bb = 1e-9, ar = 0, br = 0;
    std::vector<double> at(run.nodes.size(), 0);
    for (std::size_t i = 0; i < at.size(); ++i) at[i] = speed.at(run.nodes[i].time_s);
    const auto regressors = [&](std::size_t i) {
        return std::pair(0.5 * (at[i] + at[i + 1]) * node_s, at[i + 1] - at[i]);
    };
    for (std::size_t i = 0; i + 1 < run.nodes.size(); ++i) {
        if (!run.nodes[i].has_slip || !std::isfinite(at[i]) || !std::isfinite(at[i + 1])) continue;
        const auto [a, b] = regressors(i);
        aa += a * a;
        ab += a * b;
        bb += b * b;
        ar += a * run.nodes[i].slip_m;
        br += b * run.nodes[i].slip_m;
    }
    const double determinant = aa * bb - ab * ab;
    if (!(determinant > 1e-6)) return;
    const double scale = (bb * ar - ab * br) / determinant, delay = (aa * br - ab * ar) / determinant;
    for (std::size_t i = 0; i + 1 < run.nodes.size(); ++i) {
        Node& node = run.nodes[i];
        if (!node.has_slip) continue;
        if (!std::isfinite(at[i]) || !std::isfinite(at[i + 1])) {
            node.has_slip = false;
            continue;
        }
        const auto [a, b] = regressors(i);
        node.slip_m -= scale * a + delay * b;
    }
}

/// The drift of the positions against the speed: variance of its change over so many nodes.
std::optional<double> slip_variance(const Run& run, std::size_t lag) {
    std::vector<double> changes;
    double sum = 0;
    std::size_t since = 0;
    std::vector<double> sums{0};
    for (const Node& node : run.nodes) {
        if (!node.has_slip) {
            sums.assign(1, 0);
            sum = 0;
            since = 0;
            continue;
        }
        sum += node.slip_m;
        sums.push_back(sum);
        if (++since >= lag) changes.push_back(std::abs(sum - sums[sums.size() - 1 - lag]));
    }
    if (changes.size() < 40) return std::nullopt;
    const double sd = median_of(std::move(changes)) / 0.6745;
    return sd * sd;
}

/// The line that the run has in common: the median of its laps in each cell (NaN where nobody drove).
std::vector<double> usual_line(const Run& run) {
    std::vector<std::vector<double>> values(run.cells);
    for (const Node& node : run.nodes) {
        if (node.on_road) values[node.cell].push_back(node.left_m);
    }
    std::vector<double> out(run.cells, std::nan(""));
    for (std::size_t c = 0; c < run.cells; ++c) {
        if (!values[c].empty()) out[c] = median_of(std::move(values[c]));
    }
    return out;
}

/// The shift that explains offsets best, and what it leaves (Huber 1964).
struct ShiftFit {
    Vector2d shift{0, 0};
    Matrix2d information = Matrix2d::Zero();  ///< Σ n nᵀ
    std::vector<double> rest;
};
ShiftFit fit_shift(const std::vector<std::pair<Vector2d, double>>& offsets) {
    ShiftFit out;
    double huber = 1e9;
    for (int round = 0; round < 6; ++round) {
        Matrix2d information = 1e-9 * Matrix2d::Identity();
        Vector2d right(0, 0);
        for (const auto& [normal, left] : offsets) {
            const double rest = left - normal.dot(out.shift);
            const double weight = std::abs(rest) <= huber ? 1 : huber / std::abs(rest);
            information += weight * normal * normal.transpose();
            right += weight * normal * left;
        }
        out.information = information;
        out.shift = information.ldlt().solve(right);
        std::vector<double> sizes;
        for (const auto& [normal, left] : offsets) sizes.push_back(std::abs(left - normal.dot(out.shift)));
        if (sizes.empty()) return out;
        huber = std::max(0.1, 1.5 * median_of(std::move(sizes)) / 0.6745);
    }
    for (const auto& [normal, left] : offsets) out.rest.push_back(left - normal.dot(out.shift));
    return out;
}

double robust_variance(const std::vector<double>& values) {
    std::vector<double> sizes;
    for (const double value : values) sizes.push_back(std::abs(value));
    if (sizes.empty()) return 0;
    const double sd = median_of(std::move(sizes)) / 0.6745;
    return sd * sd;
}

/// Over how many metres a pattern along the lap stays alike (to 1/e).
double length_of_likeness(const std::vector<double>& pattern, double step_m) {
    double zero = 0;
    for (const double value : pattern) zero += value * value;
    for (std::size_t lag = 1; lag < pattern.size() / 2; ++lag) {
        double sum = 0;
        for (std::size_t i = 0; i < pattern.size(); ++i) sum += pattern[i] * pattern[(i + lag) % pattern.size()];
        if (sum < zero / 2.718) return static_cast<double>(lag) * step_m;
    }
    return static_cast<double>(pattern.size()) / 2 * step_m;
}

/// Variance, about the mean of the run, of the means over laps of a Gauss–Markov process of variance 1.
double variance_of_lap_means(double correlation_s, double lap_s, std::size_t laps) {
    const double x = lap_s / correlation_s, fade = 1 - std::exp(-x);
    const double own = 2 / x * (1 - fade / x);
    const auto between = [&](double apart) { return fade * fade / (x * x) * std::exp(-(apart - 1) * x); };
    double others = 0;
    const auto n = static_cast<double>(laps);
    for (std::size_t k = 1; k < laps; ++k) others += 2 * (n - static_cast<double>(k)) * between(static_cast<double>(k));
    return own - others / (n * (n - 1));
}

struct Sizes {
    SlowError error;
    double scatter_m = 0.2;               ///< of the driver's line from lap to lap
    double slip_sd_m = 0.05;              ///< of how far the positions have gone
    double speed_noise = 0;               ///< see noise_density()
    double lasting_variance = 1;          ///< of each coordinate of an offset that lasts, before looking
    Matrix2d lasting = Matrix2d::Zero();  ///< what the line leaves open of an offset that lasts (covariance)
};

/// So many nodes in a row say the same of the driver's scatter.
double repeats_of(const Run& run) {
    return std::max(1.0, 2 * scatter_length_m / std::max(1.0, run.step_m));
}

/// Of an offset that lasts all run, the track's own included.
double lasting_variance(const SlowError& error) {
    return lasting_m * lasting_m + 0.5 * error.sd_m * error.sd_m;
}

/// The speed's own noise, as a density (m²/s): adding it up over a second leaves the root of it in metres.
double noise_density(const SpeedSource& speed, Interval span_s) {
    // Third differences at 0.05 s, which a car hardly moves: the root of 20 times the noise. A logger that repeats or
    // interpolates a slower receiver shows less noise than it has.
    constexpr double step_s = 0.05;
    std::vector<double> sizes;
    const auto steps = static_cast<std::size_t>(span_s.length() / step_s);
    const std::size_t stride = std::max<std::size_t>(1, steps / 20'000);
    for (std::size_t i = 0; i + 3 < steps; i += stride) {
        const double t = span_s.begin + static_cast<double>(i) * step_s;
        const double d = speed.at(t + 3 * step_s) - speed.at(t) - 3 * (speed.at(t + 2 * step_s) - speed.at(t + step_s));
        if (std::isfinite(d)) sizes.push_back(std::abs(d));
    }
    if (sizes.size() < 100) return 0;
    const double sd = median_of(std::move(sizes)) / 0.6745 / std::sqrt(20.0);
    return sd * sd * step_s;
}

Sizes sizes_of(const Run& run, const Track& track, double speed_noise) {
    Sizes out;
    // What the run's line does beside the track's that no shift explains is the driver's.
    const auto line = usual_line(run);
    std::vector<std::pair<Vector2d, double>> offsets;
    const double cell = track.length_m / static_cast<double>(run.cells);
    for (std::size_t c = 0; c < run.cells; ++c) {
        if (!std::isfinite(line[c])) continue;
        offsets.emplace_back(vector_of(left_of(track.tangent_at((static_cast<double>(c) + 0.5) * cell))), line[c]);
    }
    const ShiftFit whole = fit_shift(offsets);
    double squares = 0;
    for (const double rest : whole.rest) squares += rest * rest;
    const double count = static_cast<double>(std::max<std::size_t>(1, whole.rest.size()));
    out.error.line_length_m = std::clamp(length_of_likeness(whole.rest, cell), 30.0, 400.0);
    const double stretches = std::max(3.0, count * cell / (2 * out.error.line_length_m));
    out.error.line_sd_m = std::max(least_line_sd_m, std::sqrt(squares / count * stretches / (stretches - 2 * 0.9)));

    // From lap to lap: shifts are the receiver's, the rest is the driver's scatter.
    std::vector<Vector2d> shifts;
    std::vector<double> rests;
    double lap_s = 0, open_shift = 0;
    for (std::size_t lap = 0; lap < run.laps; ++lap) {
        std::vector<std::pair<Vector2d, double>> own;
        double begin = 0, end = 0;
        for (const Node& node : run.nodes) {
            if (node.lap != lap) continue;
            if (own.empty()) begin = node.time_s;
            end = node.time_s;
            if (node.on_road) own.emplace_back(node.normal, node.left_m - line[node.cell]);
        }
        if (static_cast<double>(own.size()) * run.step_m < 0.8 * track.length_m) continue;
        const ShiftFit fit = fit_shift(own);
        shifts.push_back(fit.shift);
        open_shift += 0.5 * fit.information.inverse().trace() * repeats_of(run);
        rests.insert(rests.end(), fit.rest.begin(), fit.rest.end());
        lap_s += end - begin;
    }
    double seen = 0;
    if (shifts.size() > 1) {
        const auto n = static_cast<double>(shifts.size());
        lap_s /= n;
        out.scatter_m = std::max(least_scatter_m, std::sqrt(robust_variance(rests) * n / (n - 1)));
        Vector2d mean(0, 0);
        for (const Vector2d& shift : shifts) mean += shift / n;
        for (const Vector2d& shift : shifts) seen += (shift - mean).squaredNorm() / (2 * (n - 1));
        // What a driver's scatter looks like when it is taken for a shift, and how far that itself scatters.
        const double noise = out.scatter_m * out.scatter_m * open_shift / n * (1 + 1 / std::sqrt(n - 1));
        seen = std::max(0.0, seen - noise);
    }

    // Against the speed: a random walk over seconds.
    constexpr std::size_t shorter = 4, longer = 16;
    const auto early = slip_variance(run, shorter), late = slip_variance(run, longer);
    double walk = 0;  // m²/s
    if (early && late) {
        walk = std::max(0.0, (*late - *early) / ((longer - shorter) * node_s));
        out.speed_noise = std::min(speed_noise, walk);
        walk -= out.speed_noise;
        const double noise = std::sqrt(std::max(0.0, *early - (walk + out.speed_noise) * shorter * node_s) / 2);
        out.slip_sd_m = std::max(0.01, noise);
        out.error.by_speed = true;
    }
    double best = 1e9;
    for (double correlation = 20; correlation < 3000; correlation *= 1.15) {
        const double variance = walk * correlation / 2;
        const double expected =
            shifts.size() > 1 ? variance * variance_of_lap_means(correlation, lap_s, shifts.size()) : seen;
        const double miss = std::abs(std::log((expected + 1e-5) / (seen + 1e-5)));
        if (shifts.size() > 1 && miss >= best) continue;
        if (shifts.size() <= 1 && correlation > 300) break;
        best = miss;
        out.error.correlation_s = correlation;
        out.error.sd_m = std::sqrt(variance);
    }
    if (shifts.size() > 1) {
        const double least = seen / variance_of_lap_means(out.error.correlation_s, lap_s, shifts.size());
        if (!out.error.by_speed || out.error.sd_m * out.error.sd_m < 0.5 * least) {
            // The speed says nothing of it: what the laps show, of a usual length.
            out.error.correlation_s = 300;
            out.error.sd_m = std::sqrt(seen / variance_of_lap_means(300, lap_s, shifts.size()));
        }
    }
    out.error.sd_m = std::min(out.error.sd_m, 5.0);
    const Matrix2d by_line = whole.information * stretches / count / (out.error.line_sd_m * out.error.line_sd_m);
    // An offset that no line explains is another frame of coordinates, or a receiver that is metres off: it may be
    // large.
    out.lasting_variance = lasting_variance(out.error);
    const Matrix2d expected = by_line.inverse() + out.lasting_variance * Matrix2d::Identity();
    if (whole.shift.dot(expected.inverse() * whole.shift) > 3 * 3)
        out.lasting_variance = std::max(out.lasting_variance, whole.shift.squaredNorm());
    out.lasting = (by_line + Matrix2d::Identity() / out.lasting_variance).inverse();
    return out;
}

/// The normal equations: a chain of states (the error, and how much further the positions have gone than the speed),
/// the run's line (a ring of cells), and an offset that lasts. The chain is solved exactly for any line; the line and
/// the offset by conjugate gradients on what the chain leaves (Hestenes and Stiefel 1952).
class Estimate {
  public:
    Estimate(const Run& run, const Sizes& sizes, double track_length_m) : run_(run) {
        const std::size_t n = run.nodes.size();
        diagonal_.assign(n, Matrix3d::Zero());
        across_.assign(n, Matrix3d::Zero());
        right_.assign(n, Vector3d(0, 0, 0));
        weight_.assign(n, 0);
        const double variance = std::max(1e-8, sizes.error.sd_m * sizes.error.sd_m);
        scatter_m_ = sizes.scatter_m;
        const double scatter = usual_weight_ = 1 / (sizes.scatter_m * sizes.scatter_m * repeats_of(run));
        const double seen = 1 / (sizes.slip_sd_m * sizes.slip_sd_m);
        const double walk = 2 * variance / sizes.error.correlation_s;
        diagonal_[0].diagonal() += Vector3d(1 / variance, 1 / variance, 0);
        double gone_m = 0;
        for (std::size_t i = 0; i < n; ++i) {
            const Node& node = run.nodes[i];
            diagonal_[i](2, 2) += 1e-6;
            if (node.on_road) {
                weight_[i] = scatter;
                diagonal_[i].topLeftCorner<2, 2>() += scatter * node.normal * node.normal.transpose();
            }
            if (sizes.error.by_speed) {
                diagonal_[i](2, 2) += seen;
                right_[i](2) += seen * gone_m;
            }
            if (i + 1 == n) break;
            const double dt = run.nodes[i + 1].time_s - node.time_s;
            const double keep = std::exp(-dt / sizes.error.correlation_s), renew = variance * (1 - keep * keep);
            diagonal_[i].diagonal() += Vector3d(1, 1, 0) * (keep * keep / renew);
            diagonal_[i + 1].diagonal() += Vector3d(1, 1, 0) / renew;
            across_[i].diagonal() -= Vector3d(1, 1, 0) * (keep / renew);
            if (!node.has_slip || !sizes.error.by_speed) continue;
            gone_m += node.slip_m;
            // The positions go further than the speed by what the error grows along the road.
            const double known = 1 / (least_slip_m * least_slip_m + (sizes.speed_noise + 0.05 * walk) * dt);
            const Vector3d along(-node.travel.x(), -node.travel.y(), 1);
            const Matrix3d square = known * along * along.transpose();
            diagonal_[i] += square;
            diagonal_[i + 1] += square;
            across_[i] -= square;
        }
        factor();
        // Of the line: a first-order process around the lap.
        cells_ = static_cast<Eigen::Index>(run.cells);
        const double cell = track_length_m / static_cast<double>(run.cells);
        alike_ = std::exp(-cell / sizes.error.line_length_m);
        line_precision_ = 1 / (sizes.error.line_sd_m * sizes.error.line_sd_m * (1 - alike_ * alike_));
        lasting_precision_ = 1 / sizes.lasting_variance;
    }

    /// An excursion, a drop-out or the way out of the pits is no scatter: what lies off the run's line counts less, the
    /// further the less (Cauchy weights).
    void solve() {
        constexpr int rounds = 3;
        for (int round = 0; round < rounds; ++round) {
            solve_once();
            if (round + 1 < rounds) weigh_anew();
        }
    }

    /// Error of the positions at a node, but for what lasts all run.
    [[nodiscard]] Vector2d error(std::size_t i) const { return error_[i].head<2>(); }
    [[nodiscard]] Vector2d lasting() const { return lasting_; }
    /// What is left open of it, as a covariance, the lasting offset apart.
    [[nodiscard]] Matrix2d open(std::size_t i) const {
        return (forward_[i] + backward_[i] - diagonal_[i]).inverse().topLeftCorner<2, 2>();
    }

  private:
    void weigh_anew() {
        for (std::size_t i = 0; i < weight_.size(); ++i) {
            const Node& node = run_.nodes[i];
            if (!node.on_road) continue;
            const double rest = (node.left_m - line_at(line_, i) - node.normal.dot(error(i))) / (2.5 * scatter_m_);
            const double weight = usual_weight_ / (1 + rest * rest);
            diagonal_[i].topLeftCorner<2, 2>() += (weight - weight_[i]) * node.normal * node.normal.transpose();
            weight_[i] = weight;
        }
        factor();
    }

    void solve_once() {
        // Right side of what is left for line and offset.
        const auto alone = chain(with_offsets([&](std::size_t i) { return run_.nodes[i].left_m; }));
        VectorXd b = VectorXd::Zero(cells_ + 2);
        for (std::size_t i = 0; i < run_.nodes.size(); ++i)
            gather(b, i, weight_[i] * (run_.nodes[i].left_m - run_.nodes[i].normal.dot(alone[i].head<2>())));
        VectorXd x = VectorXd::Zero(cells_ + 2), rest = b, direction = b;
        double size = rest.squaredNorm();
        const double enough = 1e-12 * std::max(1e-12, size);
        for (int k = 0; k < 200 && size > enough; ++k) {
            const VectorXd pushed = applied(direction);
            const double step = size / direction.dot(pushed);
            x += step * direction;
            rest -= step * pushed;
            const double next = rest.squaredNorm();
            direction = rest + next / size * direction;
            size = next;
        }
        error_ = chain(with_offsets([&](std::size_t i) { return run_.nodes[i].left_m - line_at(x, i); }));
        lasting_ = {x(cells_), x(cells_ + 1)};
        line_ = std::move(x);
    }

    void factor() {
        const std::size_t n = diagonal_.size();
        forward_ = diagonal_;
        forward_inverse_.resize(n);
        for (std::size_t i = 0; i < n; ++i) {
            if (i > 0) forward_[i] -= across_[i - 1].transpose() * forward_inverse_[i - 1] * across_[i - 1];
            forward_inverse_[i] = forward_[i].inverse();
        }
        backward_ = diagonal_;
        for (std::size_t i = n - 1; i-- > 0;)
            backward_[i] -= across_[i] * backward_[i + 1].inverse() * across_[i].transpose();
    }
    [[nodiscard]] std::vector<Vector3d> chain(std::vector<Vector3d> right) const {
        const std::size_t n = right.size();
        for (std::size_t i = 1; i < n; ++i)
            right[i] -= across_[i - 1].transpose() * (forward_inverse_[i - 1] * right[i - 1]);
        right[n - 1] = forward_inverse_[n - 1] * right[n - 1];
        for (std::size_t i = n - 1; i-- > 0;) right[i] = forward_inverse_[i] * (right[i] - across_[i] * right[i + 1]);
        return right;
    }
    /// The chain's right side when the error is what makes these offsets from the line.
    [[nodiscard]] std::vector<Vector3d> with_offsets(const auto& offset) const {
        auto right = right_;
        for (std::size_t i = 0; i < right.size(); ++i)
            right[i].head<2>() += weight_[i] * offset(i) * run_.nodes[i].normal;
        return right;
    }
    void gather(VectorXd& into, std::size_t i, double value) const {
        const Node& node = run_.nodes[i];
        into(static_cast<Eigen::Index>(node.cell)) += value;
        into(cells_) += value * node.normal.x();
        into(cells_ + 1) += value * node.normal.y();
    }
    [[nodiscard]] double line_at(const VectorXd& x, std::size_t i) const {
        const Node& node = run_.nodes[i];
        return x(static_cast<Eigen::Index>(node.cell)) + node.normal.x() * x(cells_) + node.normal.y() * x(cells_ + 1);
    }
    [[nodiscard]] VectorXd applied(const VectorXd& x) const {
        VectorXd out = VectorXd::Zero(x.size());
        for (Eigen::Index c = 0; c < cells_; ++c) {
            const Eigen::Index next = c + 1 == cells_ ? 0 : c + 1;
            out(c) += line_precision_ * ((alike_ * alike_ + 1) * x(c) - alike_ * x(next));
            out(next) -= line_precision_ * alike_ * x(c);
        }
        out(cells_) += lasting_precision_ * x(cells_);
        out(cells_ + 1) += lasting_precision_ * x(cells_ + 1);
        std::vector<Vector3d> right(run_.nodes.size(), Vector3d(0, 0, 0));
        for (std::size_t i = 0; i < right.size(); ++i) {
            const double there = weight_[i] * line_at(x, i);
            gather(out, i, there);
            right[i].head<2>() = there * run_.nodes[i].normal;
        }
        const auto answer = chain(std::move(right));
        for (std::size_t i = 0; i < answer.size(); ++i)
            gather(out, i, -weight_[i] * run_.nodes[i].normal.dot(answer[i].head<2>()));
        return out;
    }

    const Run& run_;
    std::vector<Matrix3d> diagonal_, across_, forward_, forward_inverse_, backward_;
    std::vector<Vector3d> right_, error_;
    std::vector<double> weight_;
    Eigen::Index cells_ = 0;
    VectorXd line_;  ///< of the cells, then the lasting offset
    double scatter_m_ = 0, usual_weight_ = 0, alike_ = 0, line_precision_ = 0, lasting_precision_ = 0;
    Vector2d lasting_{0, 0};
};

}  // namespace

namespace {

/// `with_lasting`: the offset that lasts all run is taken out, too.
SlowError corrected(Path& path, const Track& track, const SpeedSource& speed, bool with_lasting) {
    if (path.by_shape || path.size() < 10 || track.line.size() < 3) return {};
    Run run = nodes_of(path, track, speed);
    const auto on_road = std::count_if(run.nodes.begin(), run.nodes.end(), [](const Node& n) { return n.on_road; });
    if (on_road < 20) return {};
    take_out_scale_and_delay(run, speed);
    const Sizes sizes = sizes_of(run, track, noise_density(speed, {path.time_s.front(), path.time_s.back()}));
    Estimate estimate(run, sizes, track.length_m);
    estimate.solve();
    auto& positions = path.position.edit();
    auto& sd = path.sd_m.edit();
    for (std::size_t i = 0, at = 0; i < positions.size(); ++i) {
        while (at + 2 < run.nodes.size() && run.nodes[at + 1].time_s <= path.time_s[i]) ++at;
        const Node &a = run.nodes[at], &b = run.nodes[at + 1];
        const double u = std::clamp((path.time_s[i] - a.time_s) / (b.time_s - a.time_s), 0.0, 1.0);
        Vector2d off = (1 - u) * estimate.error(at) + u * estimate.error(at + 1);
        if (with_lasting) off += estimate.lasting();
        positions[i] = positions[i] - Point{off.x(), off.y()};
        const double open = a.travel.dot((estimate.open(at) + sizes.lasting) * a.travel);
        sd[i] = static_cast<float>(std::sqrt(static_cast<double>(sd[i]) * sd[i] + told * told * open));
    }
    if (with_lasting) path.lasting_error = {estimate.lasting().x(), estimate.lasting().y()};
    return sizes.error;
}

}  // namespace

SlowError take_out_slow_error(Path& path, const Track& track, const SpeedSource& speed) {
    const SlowError found = corrected(path, track, speed, true);
    path.slow_error_out = found.correlation_s > 0;
    return found;
}

Result<Track> learn_steady_track(const Path& path, const std::string& name, const StartLine& start,
                                 const SpeedSource& speed) {
    auto first = learn_track(path, name, start);
    if (!first) return first;
    Path steady = path;
    corrected(steady, *first, speed, false);
    auto again = learn_track(steady, name, start);
    return again ? std::move(again) : std::move(first);
}

}  // namespace rendak
