#include "core/analysis/settling.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/analysis/lap_choice.h"
#include "core/analysis/set_difference.h"

namespace rendak {
namespace {

struct Points {
    std::vector<double> x, y;
    [[nodiscard]] double n() const { return static_cast<double>(x.size()); }
};

Points known(const std::vector<double>& lap_numbers, const std::vector<double>& values) {
    Points out;
    for (std::size_t i = 0; i < lap_numbers.size() && i < values.size(); ++i) {
        if (!std::isfinite(values[i])) continue;
        out.x.push_back(lap_numbers[i]);
        out.y.push_back(values[i]);
    }
    return out;
}

/// y = offset + slope · u with the least squares, and the sum of the squares that are left.
struct Line {
    double offset = 0, slope = 0, rest = std::numeric_limits<double>::infinity();
};
Line line_through(const std::vector<double>& u, const std::vector<double>& y) {
    const double mu = mean_value(u), my = mean_value(y);
    double uu = 0, uy = 0;
    for (std::size_t i = 0; i < u.size(); ++i) {
        uu += (u[i] - mu) * (u[i] - mu);
        uy += (u[i] - mu) * (y[i] - my);
    }
    Line out;
    out.slope = uu > 0 ? uy / uu : 0;
    out.offset = my - out.slope * mu;
    out.rest = 0;
    for (std::size_t i = 0; i < u.size(); ++i) {
        const double off = y[i] - out.offset - out.slope * u[i];
        out.rest += off * off;
    }
    return out;
}

Line curve_with(const Points& points, double constant) {
    std::vector<double> u;
    for (const double x : points.x) u.push_back(std::exp(-(x - points.x.front()) / constant));
    return line_through(u, points.y);
}

/// The first lap at which what is left is within a twentieth of the way, or within the scatter.
double settles_at(const Points& points, double constant, double off, double scatter) {
    constexpr double part = 0.05;
    const double left = std::max(part, scatter / std::max(std::abs(off), 1e-300));
    return left >= 1 ? points.x.front() : points.x.front() - constant * std::log(left);
}

}  // namespace

std::optional<Settling> settling(const std::vector<double>& lap_numbers, const std::vector<double>& values) {
    constexpr double quickest = 0.2, grid = 1.04;
    const Points points = known(lap_numbers, values);
    if (points.x.size() < 5) return std::nullopt;
    const double span = points.x.back() - points.x.front();
    double best = quickest;
    Line found;
    for (double constant = quickest; constant < 3 * span; constant *= grid) {
        const Line line = curve_with(points, constant);
        if (line.rest >= found.rest) continue;
        found = line;
        best = constant;
    }
    const double freedom = points.n() - 3;
    Settling out;
    out.end = found.offset;
    out.off_at_first = found.slope;
    out.time_constant = best;
    out.scatter = std::sqrt(found.rest / freedom);
    // Whoever changes along a line, or hardly at all, has no such end.
    const Line straight = line_through(points.x, points.y);
    const double range = std::abs(found.slope);
    const bool still = range < 2 * out.scatter;
    if (!still && (best > span || found.rest > 0.7 * straight.rest)) return std::nullopt;
    const double most = found.rest * (1 + t_95(freedom) * t_95(freedom) / freedom);
    double low = best, high = best;
    for (double constant = quickest; constant < 3 * span; constant *= grid) {
        if (curve_with(points, constant).rest > most) continue;
        low = std::min(low, constant);
        high = std::max(high, constant);
    }
    const double at = still ? points.x.front() : settles_at(points, best, found.slope, out.scatter);
    out.likely = still ? Interval{at, at}
                       : Interval{settles_at(points, low, found.slope, out.scatter),
                                  settles_at(points, high, found.slope, out.scatter)};
    if (std::ceil(at) <= points.x.back()) out.from_lap = static_cast<int>(std::ceil(at - 1e-9));
    return out;
}

std::optional<BreakAway> break_away(const std::vector<double>& lap_numbers, const std::vector<double>& values) {
    constexpr double clearly = 8;
    constexpr std::size_t least = 3;  // laps on either side
    const Points points = known(lap_numbers, values);
    if (points.x.size() < 8) return std::nullopt;
    const double straight = line_through(points.x, points.y).rest;
    BreakAway out;
    double best = straight;
    for (std::size_t k = least - 1; k + least < points.x.size() + 0; ++k) {
        // Two lines that meet at the lap: by elimination of the three unknowns.
        const double at = points.x[k];
        std::vector<double> bend;
        for (const double x : points.x) bend.push_back(std::max(0.0, x - at));
        // y and the bend without their lines over x; what is left of one is explained by the other.
        const Line of_y = line_through(points.x, points.y), of_bend = line_through(points.x, bend);
        std::vector<double> y_left, bend_left;
        for (std::size_t i = 0; i < points.x.size(); ++i) {
            y_left.push_back(points.y[i] - of_y.offset - of_y.slope * points.x[i]);
            bend_left.push_back(bend[i] - of_bend.offset - of_bend.slope * points.x[i]);
        }
        const Line turn = line_through(bend_left, y_left);
        if (turn.rest >= best || turn.slope <= 0) continue;
        best = turn.rest;
        const double before = of_y.slope - turn.slope * of_bend.slope;
        out = {static_cast<int>(at), before, before + turn.slope};
    }
    const double f = (straight - best) / 2 / std::max(best / (points.n() - 4), 1e-300);
    if (out.from_lap == 0 || f < clearly || out.after_per_lap <= 0) return std::nullopt;
    return out;
}

double correlation(const std::vector<double>& x, const std::vector<double>& y) {
    Points points;
    for (std::size_t i = 0; i < x.size() && i < y.size(); ++i) {
        if (!std::isfinite(x[i]) || !std::isfinite(y[i])) continue;
        points.x.push_back(x[i]);
        points.y.push_back(y[i]);
    }
    if (points.x.size() < 4) return std::numeric_limits<double>::quiet_NaN();
    const double mx = mean_value(points.x), my = mean_value(points.y);
    double xx = 0, yy = 0, xy = 0;
    for (std::size_t i = 0; i < points.x.size(); ++i) {
        xx += (points.x[i] - mx) * (points.x[i] - mx);
        yy += (points.y[i] - my) * (points.y[i] - my);
        xy += (points.x[i] - mx) * (points.y[i] - my);
    }
    return xx > 0 && yy > 0 ? xy / std::sqrt(xx * yy) : std::numeric_limits<double>::quiet_NaN();
}

}  // namespace rendak
