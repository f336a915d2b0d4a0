#include "core/track/ideal_line.h"

#include <Eigen/SparseCholesky>
#include <algorithm>
#include <cmath>

namespace rendak {
namespace {

using Vector = Eigen::VectorXd;
using Matrix = Eigen::SparseMatrix<double>;

/// Rows: the two coordinates of the second difference at each inner point; columns: the offsets. The second difference
/// of line + offset is `bend + rows * offset`.
struct Bending {
    Matrix rows;
    Vector bend;
};

Bending bending(const std::vector<Point>& line, const std::vector<Point>& left, bool closed) {
    const auto n = static_cast<Eigen::Index>(line.size());
    Bending out{Matrix(2 * n, n), Vector::Zero(2 * n)};
    std::vector<Eigen::Triplet<double>> entries;
    for (Eigen::Index i = 0; i < n; ++i) {
        if (!closed && (i == 0 || i + 1 == n)) continue;
        for (const auto& [step, weight] : {std::pair<Eigen::Index, double>{-1, 1}, {0, -2}, {1, 1}}) {
            const Eigen::Index k = (i + step + n) % n;
            const Point &p = line[static_cast<std::size_t>(k)], &normal = left[static_cast<std::size_t>(k)];
            out.bend[2 * i] += weight * p.x;
            out.bend[2 * i + 1] += weight * p.y;
            entries.emplace_back(2 * i, k, weight * normal.x);
            entries.emplace_back(2 * i + 1, k, weight * normal.y);
        }
    }
    out.rows.setFromTriplets(entries.begin(), entries.end());
    return out;
}

}  // namespace

std::vector<double> ideal_line(const Track& track, double margin_m) {
    if (track.edges.source == Edges::Source::none || track.edges.left_m.size() != track.line.size() ||
        track.edges.right_m.size() != track.line.size() || track.line.size() < 20)
        return {};
    // Points about 5 m apart are enough for a line that bends as gently as it can.
    const std::size_t stride = std::max<std::size_t>(1, static_cast<std::size_t>(std::round(5 / track.step_m())));
    std::vector<Point> line, left;
    std::vector<std::size_t> places;
    std::vector<double> low, high;
    for (std::size_t i = 0; i < track.line.size(); i += stride) {
        const Point t = track.tangent[i];
        places.push_back(i);
        line.push_back(track.line[i]);
        left.push_back({-t.y, t.x});
        double a = -track.edges.right_m[i] + margin_m, b = track.edges.left_m[i] - margin_m;
        if (!std::isfinite(a) || !std::isfinite(b)) a = b = 0;
        // A road narrower than the car leaves a hand's breadth.
        if (b - a < 0.2) {
            const double middle = (a + b) / 2;
            a = middle - 0.1;
            b = middle + 0.1;
        }
        low.push_back(a);
        high.push_back(b);
    }
    const auto n = static_cast<Eigen::Index>(line.size());
    const auto [rows, bend] = bending(line, left, !track.open);
    const Matrix curvature = rows.transpose() * rows;
    const Vector pull = rows.transpose() * bend;
    Vector x(n);
    for (Eigen::Index i = 0; i < n; ++i)
        x[i] = (low[static_cast<std::size_t>(i)] + high[static_cast<std::size_t>(i)]) / 2;
    const auto cost = [&, rows = std::cref(rows), bend = std::cref(bend)](const Vector& at, double barrier) {
        double sum = 0.5 * (bend.get() + rows.get() * at).squaredNorm();
        for (Eigen::Index i = 0; i < n; ++i)
            sum -= barrier * (std::log(at[i] - low[static_cast<std::size_t>(i)]) +
                              std::log(high[static_cast<std::size_t>(i)] - at[i]));
        return sum;
    };
    Eigen::SimplicialLDLT<Matrix> solver;
    for (double barrier = 0.1; barrier > 1e-7; barrier /= 4) {
        for (int step = 0; step < 12; ++step) {
            Vector slope = curvature * x + pull;
            Matrix bowl = curvature;
            for (Eigen::Index i = 0; i < n; ++i) {
                const double below = x[i] - low[static_cast<std::size_t>(i)],
                             above = high[static_cast<std::size_t>(i)] - x[i];
                slope[i] += barrier * (1 / above - 1 / below);
                bowl.coeffRef(i, i) += barrier * (1 / (above * above) + 1 / (below * below));
            }
            solver.compute(bowl);
            if (solver.info() != Eigen::Success) return {};
            const Vector move = solver.solve(-slope);
            // Stay inside the road, and go downhill.
            double length = 1;
            for (Eigen::Index i = 0; i < n; ++i) {
                const double room =
                    move[i] > 0 ? high[static_cast<std::size_t>(i)] - x[i] : low[static_cast<std::size_t>(i)] - x[i];
                if (std::abs(move[i]) > 1e-12) length = std::min(length, 0.99 * room / move[i]);
            }
            const double now = cost(x, barrier), promised = slope.dot(move);
            while (length > 1e-8 && cost(x + length * move, barrier) > now + 1e-4 * length * promised) length /= 2;
            x += length * move;
            if (-promised < 1e-9) break;
        }
    }
    // Back onto the points of the track's line.
    std::vector<double> out(track.line.size());
    for (std::size_t i = 0; i < out.size(); ++i) {
        const std::size_t k = std::min(i / stride, places.size() - 1);
        const std::size_t next = k + 1 < places.size() ? k + 1 : track.open ? k : 0;
        const double gap = next == 0   ? static_cast<double>(out.size() - places[k])
                           : next == k ? 1
                                       : static_cast<double>(stride);
        const double share = static_cast<double>(i - places[k]) / gap;
        out[i] = x[static_cast<Eigen::Index>(k)] +
                 share * (x[static_cast<Eigen::Index>(next)] - x[static_cast<Eigen::Index>(k)]);
    }
    return out;
}

}  // namespace rendak
