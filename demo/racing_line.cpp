#include "demo/racing_line.h"

#include <Eigen/Sparse>
#include <algorithm>
#include <cmath>

namespace rendak::demo {

std::vector<double> racing_line(const Circuit& circuit, double margin_m) {
    // Coarse grid: minimise Σ |p(i−1) − 2 p(i) + p(i+1)|² over the offsets n, p = c + n · normal; points that leave
    // the track are held on its edge (active set).
    const auto count = static_cast<int>(circuit.road_m() / 6);
    const double step = circuit.road_m() / count;
    const auto wrap = [count](int i) { return (i % count + count) % count; };
    std::vector<Point> centre, normal;
    std::vector<double> limit;
    for (int i = 0; i < count; ++i) {
        const double s = i * step;
        centre.push_back(circuit.position(s, 0));
        normal.push_back(circuit.position(s, 1) - circuit.position(s, 0));
        limit.push_back(circuit.half_width_m[circuit.index(s)] - margin_m);
    }
    std::vector<Eigen::Triplet<double>> entries;
    Eigen::VectorXd wanted(2 * count);
    for (int i = 0; i < count; ++i) {
        const int b = wrap(i - 1), a = wrap(i + 1);
        const auto k = [](int j) { return static_cast<std::size_t>(j); };
        // An open road does not bend from its end back to its start.
        if (circuit.open && (i == 0 || i + 1 == count)) {
            wanted(2 * i) = wanted(2 * i + 1) = 0;
            continue;
        }
        const Point bend = centre[k(b)] - centre[k(i)] * 2 + centre[k(a)];
        wanted(2 * i) = -bend.x;
        wanted(2 * i + 1) = -bend.y;
        for (const auto& [j, weight] : {std::pair{b, 1.0}, std::pair{i, -2.0}, std::pair{a, 1.0}}) {
            entries.emplace_back(2 * i, j, weight * normal[k(j)].x);
            entries.emplace_back(2 * i + 1, j, weight * normal[k(j)].y);
        }
    }
    Eigen::SparseMatrix<double> bending(2 * count, count);
    bending.setFromTriplets(entries.begin(), entries.end());
    const Eigen::SparseMatrix<double> base = bending.transpose() * bending;
    const Eigen::VectorXd right = bending.transpose() * wanted;
    std::vector<double> held(static_cast<std::size_t>(count), 0);
    Eigen::VectorXd offsets = Eigen::VectorXd::Zero(count);
    for (int round = 0; round < 60; ++round) {
        Eigen::SparseMatrix<double> matrix = base;
        Eigen::VectorXd side = right;
        for (int i = 0; i < count; ++i) {
            const double weight = held[static_cast<std::size_t>(i)] != 0 ? 1e3 : 1e-4;
            matrix.coeffRef(i, i) += weight;
            side(i) += weight * held[static_cast<std::size_t>(i)];
        }
        offsets = Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>>(matrix).solve(side);
        bool changed = false;
        for (int i = 0; i < count; ++i) {
            double& hold = held[static_cast<std::size_t>(i)];
            const double edge = limit[static_cast<std::size_t>(i)];
            if (hold == 0 && std::abs(offsets(i)) > edge + 0.01) {
                hold = std::copysign(edge, offsets(i));
                changed = true;
            } else if (hold != 0 && offsets(i) * hold < edge * edge - 1e-7) {
                hold = 0;  // it would rather come back: the edge holds it no longer
                changed = true;
            }
        }
        if (!changed) break;
    }
    std::vector<double> line;
    for (std::size_t i = 0; i < circuit.centre.size(); ++i) {
        const double position = static_cast<double>(i) * circuit.step_m / step;
        const int before = static_cast<int>(position);
        const double u = position - before;
        // Cubic between the coarse points: the driven curvature must be smooth.
        const double p0 = offsets(wrap(before - 1)), p1 = offsets(wrap(before)), p2 = offsets(wrap(before + 1)),
                     p3 = offsets(wrap(before + 2));
        line.push_back(p1 + 0.5 * u * (p2 - p0 + u * (2 * p0 - 5 * p1 + 4 * p2 - p3 + u * (3 * (p1 - p2) + p3 - p0))));
    }
    return line;
}

}  // namespace rendak::demo
