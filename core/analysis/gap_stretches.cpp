#include "core/analysis/gap_stretches.h"

#include <algorithm>
#include <cmath>

namespace rendak {
namespace {

struct Knot {
    double at_m, gap_s;
};

/// The place that lies farthest from the straight line between two knots; `from` when none lies off it.
std::size_t farthest(const std::vector<Knot>& curve, std::size_t from, std::size_t to, double& away_s) {
    std::size_t best = from;
    away_s = 0;
    const Knot &a = curve[from], &b = curve[to];
    for (std::size_t i = from + 1; i < to; ++i) {
        const double line = a.gap_s + (b.gap_s - a.gap_s) * (curve[i].at_m - a.at_m) / (b.at_m - a.at_m);
        const double away = std::abs(curve[i].gap_s - line);
        if (away > away_s) {
            away_s = away;
            best = i;
        }
    }
    return best;
}

}  // namespace

double gap_error_s(const PreparedLap& baseline, const PreparedLap& lap, double distance_m) {
    const double error_m = std::hypot(baseline.trust_m, lap.trust_m);
    const double speed = baseline.value_at("speed", distance_m);
    return error_m / std::max(5.0, std::isfinite(speed) ? speed : 30.0);
}

std::vector<GapStretch> gap_stretches(const GapCurve& gap, Interval range_m, double tolerance_s) {
    if (gap.distance_m.size() < 2) return {};
    range_m = {std::max(range_m.begin, gap.distance_m.front()), std::min(range_m.end, gap.distance_m.back())};
    if (!(range_m.length() > 0)) return {};
    std::vector<Knot> curve{{range_m.begin, gap.at(range_m.begin)}};
    for (std::size_t i = 0; i < gap.distance_m.size(); ++i) {
        const double at = gap.distance_m[i];
        if (at > range_m.begin + 1e-6 && at < range_m.end - 1e-6) curve.push_back({at, gap.gap_s[i]});
    }
    curve.push_back({range_m.end, gap.at(range_m.end)});
    std::vector<std::size_t> knots{0};
    std::vector<std::pair<std::size_t, std::size_t>> open{{0, curve.size() - 1}};
    while (!open.empty()) {
        const auto [from, to] = open.back();
        open.pop_back();
        double away = 0;
        const std::size_t at = farthest(curve, from, to, away);
        if (away > tolerance_s) {
            open.push_back({at, to});
            open.push_back({from, at});
        } else {
            knots.push_back(to);
        }
    }
    std::vector<GapStretch> out;
    for (std::size_t k = 1; k < knots.size(); ++k) {
        const Knot &a = curve[knots[k - 1]], &b = curve[knots[k]];
        out.push_back({{a.at_m, b.at_m}, b.gap_s - a.gap_s});
    }
    return out;
}

std::vector<GapChange> gap_changes(const std::vector<GapStretch>& stretches) {
    double moved = 0, way = 0;
    for (const GapStretch& it : stretches) {
        moved += std::abs(it.change_s);
        way += it.range_m.length();
    }
    const auto kind = [&](const GapStretch& it) {
        const bool steep = std::abs(it.change_s) * way >= moved * it.range_m.length() && it.change_s != 0;
        return !steep ? 0 : it.change_s > 0 ? 1 : -1;
    };
    std::vector<GapChange> out;
    for (std::size_t i = 0; i < stretches.size(); ++i) {
        const GapStretch& it = stretches[i];
        if (i == 0 || kind(it) != kind(stretches[i - 1])) out.push_back({{it.range_m.begin, it.range_m.begin}, 0, {}});
        GapChange& change = out.back();
        change.range_m.end = it.range_m.end;
        change.change_s += it.change_s;
        change.parts.push_back(it);
    }
    return out;
}

double gap_tolerance_s(const PreparedLap& baseline, const PreparedLap& lap, const GapCurve& gap, Interval range_m) {
    double moved_s = 0, error_s = 0;
    std::size_t count = 0;
    for (std::size_t i = 1; i < gap.gap_s.size(); ++i) {
        if (gap.distance_m[i] < range_m.begin || gap.distance_m[i] > range_m.end) continue;
        moved_s += std::abs(gap.gap_s[i] - gap.gap_s[i - 1]);
        if (i % 50 != 0) continue;
        error_s += gap_error_s(baseline, lap, gap.distance_m[i]);
        ++count;
    }
    const double steady = std::clamp(0.1 * moved_s, 0.005, 0.02);
    return std::max(steady, count > 0 ? error_s / static_cast<double>(count) : 0.0);
}

}  // namespace rendak
