#include "core/analysis/settling.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/lap_choice.h"
#include "core/analysis/line_fit.h"

namespace rendak {
namespace {

/// y against exp(−lap / constant), from the first lap on.
LineFit curve_with(const FinitePairs& points, double constant) {
    std::vector<double> left;
    for (const double x : points.x) left.push_back(std::exp(-(x - points.x.front()) / constant));
    return fit_line(left, points.y);
}

/// The first lap at which what is left is within a twentieth of the way, or within the scatter.
double settles_at(const FinitePairs& points, double constant, double off, double scatter) {
    constexpr double part = 0.05;
    const double left = std::max(part, scatter / std::max(std::abs(off), 1e-300));
    return left >= 1 ? points.x.front() : points.x.front() - constant * std::log(left);
}

}  // namespace

std::optional<Settling> settling(const std::vector<double>& lap_numbers, const std::vector<double>& values) {
    constexpr double quickest = 0.2, grid = 1.04;
    const FinitePairs points = finite_pairs(lap_numbers, values);
    if (points.x.size() < 5) return std::nullopt;
    const double span = points.x.back() - points.x.front();
    double best = quickest;
    LineFit found;
    for (double constant = quickest; constant < 3 * span; constant *= grid) {
        const LineFit line = curve_with(points, constant);
        if (!line.known() || (found.known() && line.rest() >= found.rest())) continue;
        found = line;
        best = constant;
    }
    if (!found.known()) return std::nullopt;
    const double freedom = static_cast<double>(points.x.size()) - 3;
    Settling out;
    out.end = found.offset;
    out.off_at_first = found.slope;
    out.time_constant = best;
    out.scatter = std::sqrt(found.rest() / freedom);
    // Whoever changes along a line, or hardly at all, has no such end.
    const LineFit straight = fit_line(points.x, points.y);
    const double range = std::abs(found.slope);
    const bool still = range < 2 * out.scatter;
    if (!still && (best > span || found.rest() > 0.7 * straight.rest())) return std::nullopt;
    const double most = found.rest() * (1 + t_95(freedom) * t_95(freedom) / freedom);
    double low = best, high = best;
    for (double constant = quickest; constant < 3 * span; constant *= grid) {
        if (!(curve_with(points, constant).rest() <= most)) continue;
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
    const FinitePairs points = finite_pairs(lap_numbers, values);
    if (points.x.size() < 8) return std::nullopt;
    const LineFit straight = fit_line(points.x, points.y);
    BreakAway out;
    double best = straight.rest();
    for (std::size_t k = least - 1; k + least < points.x.size(); ++k) {
        // Two lines that meet at the lap: by elimination of the three unknowns.
        const double at = points.x[k];
        std::vector<double> bend;
        for (const double x : points.x) bend.push_back(std::max(0.0, x - at));
        // y and the bend without their lines over x; what is left of one is explained by the other.
        const LineFit of_bend = fit_line(points.x, bend);
        std::vector<double> y_left, bend_left;
        for (std::size_t i = 0; i < points.x.size(); ++i) {
            y_left.push_back(points.y[i] - straight.offset - straight.slope * points.x[i]);
            bend_left.push_back(bend[i] - of_bend.offset - of_bend.slope * points.x[i]);
        }
        const LineFit turn = fit_line(bend_left, y_left);
        if (!turn.known() || turn.rest() >= best || turn.slope <= 0) continue;
        best = turn.rest();
        const double before = straight.slope - turn.slope * of_bend.slope;
        out = {static_cast<int>(at), before, before + turn.slope};
    }
    const double f = (straight.rest() - best) / 2 / std::max(best / (static_cast<double>(points.x.size()) - 4), 1e-300);
    if (out.from_lap == 0 || f < clearly || out.after_per_lap <= 0) return std::nullopt;
    return out;
}

}  // namespace rendak
