#include "core/laps/slow_error.h"

#include <Eigen/Dense>
#include <Eigen/Sparse>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <optional>

#include "core/laps/slow_error_run.h"
#include "core/track/learn.h"

namespace rendak {
namespace {

using namespace slow;
using Eigen::Matrix4d;
using Eigen::Vector4d;
using Eigen::VectorXd;

/// Set on random worlds of all kinds: the trust figure so holds for about three pairs of laps in four.
constexpr double told = 0.8;
constexpr double least_slip_m = 0.003;  ///< what the speed leaves open in one step
/// Of an offset, beside error, line and scatter: the track's line is a curve through points, the run's one is straight
/// between places 20 m apart.
constexpr double least_rough_m = 0.15;

/// The normal equations: a chain of states (the error; how much further the positions have gone than the speed; how far
/// the lap lies off the run's line, in standard deviations), the run's line (a ring of places), and an offset that
/// lasts. The chain is solved exactly for any line; the line and the offset by conjugate gradients on what the chain
/// leaves (Hestenes and Stiefel 1952).
class Estimate {
  public:
    Estimate(const Run& run, const Sizes& sizes, double track_length_m) : run_(run) {
        const std::size_t n = run.nodes.size();
        diagonal_.assign(n, Matrix4d::Zero());
        across_.assign(n, Matrix4d::Zero());
        forward_.resize(n);
        right_.assign(n, Vector4d(0, 0, 0, 0));
        const double variance = std::max(1e-8, sizes.error.sd_m * sizes.error.sd_m);
        scatter_m_ = sizes.error.scatter_m;
        look_.assign(n, Vector4d(0, 0, 0, 0));
        const double rough_m = std::max(least_rough_m, sizes.slip_sd_m);
        precision_ = 1 / (rough_m * rough_m);
        // So many nodes in a row say the same of the driver's scatter.
        repeats_ = std::max(1.0, 2 * sizes.error.scatter_length_m / std::max(1.0, run.step_m));
        const double seen = 1 / (sizes.slip_sd_m * sizes.slip_sd_m);
        const double walk = 2 * variance / sizes.error.correlation_s;
        diagonal_[0].diagonal() += Vector4d(1 / variance, 1 / variance, 0, 1);
        double gone_m = 0;
        for (std::size_t i = 0; i < n; ++i) {
            const Node& node = run.nodes[i];
            diagonal_[i](2, 2) += 1e-6;  // known of nothing else where no speed tells
            if (node.on_road) look(i, scatter_m_);
            if (sizes.error.by_speed) {
                diagonal_[i](2, 2) += seen;
                right_[i](2) += seen * gone_m;
            }
            if (i + 1 == n) break;
            const double dt = run.nodes[i + 1].time_s - node.time_s;
            const double keep = std::exp(-dt / sizes.error.correlation_s), renew = variance * (1 - keep * keep);
            const double stay = std::exp(-node.way_m / sizes.error.scatter_length_m),
                         stray = std::max(1e-6, 1 - stay * stay);
            diagonal_[i].diagonal() += Vector4d(1, 1, 0, 0) * (keep * keep / renew);
            diagonal_[i + 1].diagonal() += Vector4d(1, 1, 0, 0) / renew;
            across_[i].diagonal() -= Vector4d(1, 1, 0, 0) * (keep / renew);
            diagonal_[i](3, 3) += stay * stay / stray;
            diagonal_[i + 1](3, 3) += 1 / stray;
            across_[i](3, 3) -= stay / stray;
            if (!node.has_slip || !sizes.error.by_speed) continue;
            gone_m += node.slip_m;
            // The positions go further than the speed by what the error grows along the road.
            const double known = 1 / (least_slip_m * least_slip_m + (sizes.speed_noise + 0.05 * walk) * dt);
            const Vector4d along(-node.travel.x(), -node.travel.y(), 1, 0);
            const Matrix4d square = known * along * along.transpose();
            diagonal_[i] += square;
            diagonal_[i + 1] += square;
            across_[i] -= square;
        }
        factor();
        // Of the line: a smooth process around the lap, for a car cannot kink (Matérn with a slope; Whittle 1954).
        cells_ = static_cast<Eigen::Index>(run.cells);
        const double cell = track_length_m / static_cast<double>(run.cells);
        // (1 + x) exp(-x) falls to 1/e at x = 2.146.
        stiff_ = std::pow(2.146 * cell / sizes.error.line_length_m, 2);
        double variance_of_unit = 0;
        for (Eigen::Index k = 0; k < cells_; ++k) {
            const double wave = 2 * std::sin(std::numbers::pi * static_cast<double>(k) / static_cast<double>(cells_));
            variance_of_unit += 1 / std::pow(stiff_ + wave * wave, 2) / static_cast<double>(cells_);
        }
        line_precision_ = variance_of_unit / (sizes.error.line_sd_m * sizes.error.line_sd_m);
        lasting_precision_ = 1 / sizes.lasting_variance;
    }

    /// An excursion, a drop-out or the way out of the pits is no scatter: where a lap lies far off the run's line its
    /// scatter is larger, the further the more (Cauchy weights).
    void solve() {
        constexpr int rounds = 3;
        for (int round = 0; round < rounds; ++round) {
            solve_once();
            if (round + 1 < rounds) weigh_anew();
        }
        find_open();
    }

    /// Error of the positions at a node, but for what lasts all run.
    [[nodiscard]] Vector2d error(std::size_t i) const { return error_[i].head<2>(); }
    [[nodiscard]] Vector2d lasting() const { return lasting_; }
    /// What is left open of it, as a covariance, the lasting offset apart.
    [[nodiscard]] const Matrix2d& open(std::size_t i) const { return open_[i]; }

  private:
    /// What a node's offset is made of, beside the line.
    void look(std::size_t i, double scatter_m) {
        diagonal_[i] -= precision_ * look_[i] * look_[i].transpose();
        look_[i] << run_.nodes[i].normal, 0, scatter_m;
        diagonal_[i] += precision_ * look_[i] * look_[i].transpose();
    }
    void weigh_anew() {
        for (std::size_t i = 0; i < look_.size(); ++i) {
            const Node& node = run_.nodes[i];
            if (!node.on_road) continue;
            constexpr double far = 4;  ///< scatters
            const double rest = (node.left_m - line_at(line_, i) - node.normal.dot(error(i))) / (far * scatter_m_);
            look(i, scatter_m_ * std::sqrt(1 + rest * rest));
        }
        factor();
    }

    void solve_once() {
        // Right side of what is left for line and offset.
        const auto alone = chain(with_offsets([&](std::size_t i) { return run_.nodes[i].left_m; }));
        VectorXd b = VectorXd::Zero(cells_ + 2);
        for (std::size_t i = 0; i < run_.nodes.size(); ++i) gather(b, i, run_.nodes[i].left_m - look_[i].dot(alone[i]));
        const Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>> near(nearly());
        if (line_.size() == 0) line_ = VectorXd::Zero(cells_ + 2);
        VectorXd x = line_, rest = b - applied(x), close = near.solve(rest), direction = close;
        double size = rest.dot(close);
        const double enough = 1e-10 * std::max(1e-12, b.dot(near.solve(b)));
        for (int k = 0; k < 200 && size > enough; ++k) {
            const VectorXd pushed = applied(direction);
            const double step = size / direction.dot(pushed);
            x += step * direction;
            rest -= step * pushed;
            close = near.solve(rest);
            const double next = rest.dot(close);
            direction = close + next / size * direction;
            size = next;
        }
        error_ = chain(with_offsets([&](std::size_t i) { return run_.nodes[i].left_m - line_at(x, i); }));
        lasting_ = {x(cells_), x(cells_ + 1)};
        line_ = std::move(x);
    }

    /// Of the chain, from its beginning on: the covariance of each state by all before it.
    void factor() {
        for (std::size_t i = 0; i < diagonal_.size(); ++i) {
            Matrix4d own = diagonal_[i];
            if (i > 0) own -= across_[i - 1].transpose() * forward_[i - 1] * across_[i - 1];
            forward_[i] = own.inverse();
        }
    }
    /// … and by all behind it (Rauch, Tung and Striebel 1965).
    void find_open() {
        open_.resize(forward_.size());
        Matrix4d known = forward_.back();
        open_.back() = known.topLeftCorner<2, 2>();
        for (std::size_t i = forward_.size() - 1; i-- > 0;) {
            const Matrix4d back = forward_[i] * across_[i];
            known = forward_[i] + back * known * back.transpose();
            open_[i] = known.topLeftCorner<2, 2>();
        }
    }
    [[nodiscard]] std::vector<Vector4d> chain(std::vector<Vector4d> right) const {
        const std::size_t n = right.size();
        for (std::size_t i = 1; i < n; ++i) right[i] -= across_[i - 1].transpose() * (forward_[i - 1] * right[i - 1]);
        right[n - 1] = forward_[n - 1] * right[n - 1];
        for (std::size_t i = n - 1; i-- > 0;) right[i] = forward_[i] * (right[i] - across_[i] * right[i + 1]);
        return right;
    }
    /// The chain's right side when the error is what makes these offsets from the line.
    [[nodiscard]] std::vector<Vector4d> with_offsets(const auto& offset) const {
        auto right = right_;
        for (std::size_t i = 0; i < right.size(); ++i) right[i] += precision_ * offset(i) * look_[i];
        return right;
    }
    void gather(VectorXd& into, std::size_t i, double value) const {
        const Node& node = run_.nodes[i];
        if (!node.on_road) return;
        value *= precision_;
        const Between at = between_of(run_, node);
        into(static_cast<Eigen::Index>(at.a)) += value * (1 - at.share_b);
        into(static_cast<Eigen::Index>(at.b)) += value * at.share_b;
        into(cells_) += value * node.normal.x();
        into(cells_ + 1) += value * node.normal.y();
    }
    [[nodiscard]] double line_at(const VectorXd& x, std::size_t i) const {
        const Node& node = run_.nodes[i];
        const Between at = between_of(run_, node);
        return x(static_cast<Eigen::Index>(at.a)) * (1 - at.share_b) + x(static_cast<Eigen::Index>(at.b)) * at.share_b +
               node.normal.x() * x(cells_) + node.normal.y() * x(cells_ + 1);
    }
    /// The equations of line and offset as they would be if the error were known: what the conjugate gradients begin
    /// from (a preconditioner).
    [[nodiscard]] Eigen::SparseMatrix<double> nearly() const {
        std::vector<Eigen::Triplet<double>> entries;
        const auto around = [&](Eigen::Index c) { return (c + cells_) % cells_; };
        const double bend = stiff_ + 2;
        for (Eigen::Index c = 0; c < cells_; ++c) {
            for (const auto& [away, value] : {std::pair(0, bend * bend + 2), {1, -2 * bend}, {2, 1.0}}) {
                entries.emplace_back(c, around(c + away), line_precision_ * value);
                if (away != 0) entries.emplace_back(c, around(c - away), line_precision_ * value);
            }
        }
        for (std::size_t i = 0; i < look_.size(); ++i) {
            const double seen = run_.nodes[i].on_road ? 1 / (1 / precision_ + repeats_ * look_[i](3) * look_[i](3)) : 0;
            const Between at = between_of(run_, run_.nodes[i]);
            entries.emplace_back(at.a, at.a, seen * (1 - at.share_b));
            entries.emplace_back(at.b, at.b, seen * at.share_b);
        }
        for (const Eigen::Index k : {cells_, cells_ + 1}) entries.emplace_back(k, k, lasting_precision_);
        Eigen::SparseMatrix<double> out(cells_ + 2, cells_ + 2);
        out.setFromTriplets(entries.begin(), entries.end());
        return out;
    }
    [[nodiscard]] VectorXd applied(const VectorXd& x) const {
        VectorXd out = VectorXd::Zero(x.size());
        const auto bent = [&](const VectorXd& of, Eigen::Index c) {
            return (stiff_ + 2) * of(c) - of(c == 0 ? cells_ - 1 : c - 1) - of(c + 1 == cells_ ? 0 : c + 1);
        };
        VectorXd bends(cells_);
        for (Eigen::Index c = 0; c < cells_; ++c) bends(c) = bent(x, c);
        for (Eigen::Index c = 0; c < cells_; ++c) out(c) = line_precision_ * bent(bends, c);
        out(cells_) += lasting_precision_ * x(cells_);
        out(cells_ + 1) += lasting_precision_ * x(cells_ + 1);
        std::vector<Vector4d> right(run_.nodes.size(), Vector4d(0, 0, 0, 0));
        for (std::size_t i = 0; i < right.size(); ++i) {
            const double there = line_at(x, i);
            gather(out, i, there);
            right[i] = precision_ * there * look_[i];
        }
        const auto answer = chain(std::move(right));
        for (std::size_t i = 0; i < answer.size(); ++i) gather(out, i, -look_[i].dot(answer[i]));
        return out;
    }

    const Run& run_;
    std::vector<Matrix4d> diagonal_, across_, forward_;
    std::vector<Matrix2d> open_;
    std::vector<Vector4d> right_, error_;
    std::vector<Vector4d> look_;  ///< zero where there is no road
    Eigen::Index cells_ = 0;
    VectorXd line_;  ///< of the cells, then the lasting offset
    double scatter_m_ = 0, precision_ = 0, repeats_ = 1, stiff_ = 0, line_precision_ = 0, lasting_precision_ = 0;
    Vector2d lasting_{0, 0};
};

/// `with_lasting`: the offset that lasts all run is taken out, too.
SlowError corrected(Path& path, const Track& track, const SpeedSource& speed, bool with_lasting) {
    if (path.by_shape || path.size() < 10 || track.line.size() < 3) return {};
    const double noise = noise_density(speed, {path.time_s.front(), path.time_s.back()});
    Run run;
    Sizes sizes;
    std::optional<Estimate> estimate;
    // In a bend a shift of metres changes the place beside which the car is seen, and so the offset: what lasts is
    // taken off and looked at again until it is small.
    constexpr double small_m = 1;
    constexpr int looks = 4;
    Point moved;
    for (int look = 0; look < looks; ++look) {
        run = nodes_of(path, track, speed, moved);
        const auto on_road = std::count_if(run.nodes.begin(), run.nodes.end(), [](const Node& n) { return n.on_road; });
        if (on_road < 20) return {};
        take_out_scale_and_delay(run, speed);
        sizes = sizes_of(run, track, noise);
        estimate.emplace(run, sizes, track.length_m);
        estimate->solve();
        if (!with_lasting || estimate->lasting().norm() < small_m || look + 1 == looks) break;
        moved = moved + Point{estimate->lasting().x(), estimate->lasting().y()};
    }
    const Vector2d lasting = estimate->lasting() + Vector2d(moved.x, moved.y);
    auto& positions = path.position.edit();
    auto& sd = path.sd_m.edit();
    for (std::size_t i = 0, at = 0; i < positions.size(); ++i) {
        while (at + 2 < run.nodes.size() && run.nodes[at + 1].time_s <= path.time_s[i]) ++at;
        const Node &a = run.nodes[at], &b = run.nodes[at + 1];
        const double u = std::clamp((path.time_s[i] - a.time_s) / (b.time_s - a.time_s), 0.0, 1.0);
        Vector2d off = (1 - u) * estimate->error(at) + u * estimate->error(at + 1);
        if (with_lasting) off += lasting;
        positions[i] = positions[i] - Point{off.x(), off.y()};
        const double open = a.travel.dot((estimate->open(at) + sizes.lasting) * a.travel);
        sd[i] = static_cast<float>(std::sqrt(static_cast<double>(sd[i]) * sd[i] + told * told * open));
    }
    if (with_lasting) path.lasting_error = {lasting.x(), lasting.y()};
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
