#include "core/laps/slow_error_run.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

#include "core/base/median.h"
#include "core/track/projection.h"

namespace rendak::slow {
namespace {

constexpr double node_s = 0.5;
constexpr double cell_m = 20;
constexpr double off_road_m = 12;  ///< further beside the line is another road, or the pits
constexpr double slowest_mps = 4;  ///< below, directions of travel are noise
constexpr double least_line_sd_m = 0.25, least_scatter_m = 0.08;
/// Two days, two receivers, or a line learnt from one lap: lasting offsets that no run shows by itself.
constexpr double lasting_m = 0.35;

Vector2d vector_of(Point p) {
    return {p.x, p.y};
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
        if (++since >= lag) changes.push_back(sum - sums[sums.size() - 1 - lag]);
    }
    if (changes.size() < 40) return std::nullopt;
    const double sd = robust_sd(std::move(changes));
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

/// Of that line, beside a node.
double usual_beside(const std::vector<double>& line, const Node& node) {
    const std::size_t n = line.size(), c = node.cell;
    const std::size_t next = node.in_cell < 0.5 ? (c + n - 1) % n : (c + 1) % n;
    const double u = std::abs(node.in_cell - 0.5);
    return std::isfinite(line[next]) ? line[c] + u * (line[next] - line[c]) : line[c];
}

/// How far the lines of the laps lie from the usual one, and over how many metres such a difference stays alike: from
/// how it grows with the way between two moments (a variogram, Matheron 1963), less what the receiver's error grows in
/// the same time. A first-order process is fitted, from what is usual on; the less there is to be seen of it beside the
/// error, the more stays usual. `laps` whole ones of `lap_s`.
void find_scatter(const Run& run, const std::vector<double>& line, double laps, double lap_s, Sizes& sizes) {
    constexpr double known_m2 = 0.08;  ///< how well the usual variance is known
    constexpr double repeated = 4;     ///< so often the same is said at all lags together
    struct Growth {
        double way_m = 0, variance = 0, of_error = 0, independent = 0, of_scatter = 0, weight = 0;
    };
    std::vector<Growth> growths;
    // What the laps share of the error is in the usual line, too.
    double shared = laps;
    for (double k = 1; k < laps; ++k) shared += 2 * (laps - k) * std::exp(-k * lap_s / sizes.error.correlation_s);
    shared /= laps * laps;
    const double variance = sizes.error.sd_m * sizes.error.sd_m;
    double all = 0, all_of_error = 0;
    for (const std::size_t lag : {2U, 4U, 6U, 8U, 12U, 16U, 24U}) {
        std::vector<double> differences;
        Growth growth;
        double of_error = 0;
        for (std::size_t i = 0; i + lag < run.nodes.size(); ++i) {
            const Node &a = run.nodes[i], &b = run.nodes[i + lag];
            if (!a.on_road || !b.on_road || b.time_s - a.time_s > 1.5 * static_cast<double>(lag) * node_s) continue;
            differences.push_back(b.left_m - usual_beside(line, b) - a.left_m + usual_beside(line, a));
            for (std::size_t k = i; k < i + lag; ++k) growth.way_m += run.nodes[k].way_m;
            const double alike = std::exp(-(b.time_s - a.time_s) / sizes.error.correlation_s);
            const double same_way = a.normal.dot(b.normal);
            of_error += 2 * variance * ((1 - shared) * (1 - same_way) + (1 - alike) * same_way);
        }
        if (differences.size() < 100) return;
        const auto n = static_cast<double>(differences.size());
        growth.way_m /= n;
        const double sd = robust_sd(std::move(differences));
        growth.variance = sd * sd;
        growth.of_error = of_error / n;
        growth.independent = n / (repeated * static_cast<double>(lag));  // differences overlap
        growths.push_back(growth);
        all += growth.variance;
        all_of_error += growth.of_error;
    }
    // An error that only the laps' shifts show, and that would make more than there is, is laps along the edges or
    // round others: half is its share.
    const double too_large = sizes.by_laps && all < 0.8 * all_of_error ? 0.5 * all / all_of_error : 1;
    sizes.error.sd_m *= std::sqrt(too_large);
    for (Growth& it : growths) {
        it.of_error *= too_large;
        it.of_scatter = (it.variance - it.of_error) * laps / (laps - 1);
        // The error's size is known to about a half.
        it.weight = 1 / (2 * it.variance * it.variance / it.independent + 0.25 * it.of_error * it.of_error);
    }
    const SlowError usual;
    const double usual_m2 = usual.scatter_m * usual.scatter_m;
    double best = 1e300;
    for (double length_m = 30; length_m < 320; length_m *= 1.2) {
        const auto share = [&](const Growth& it) { return 2 * (1 - std::exp(-it.way_m / length_m)); };
        double upper = usual_m2 / (known_m2 * known_m2), lower = 1 / (known_m2 * known_m2);
        for (const Growth& it : growths) {
            upper += it.weight * share(it) * it.of_scatter;
            lower += it.weight * share(it) * share(it);
        }
        const double found = std::max(least_scatter_m * least_scatter_m, upper / lower);
        const auto square = [](double x) { return x * x; };
        double miss = square((found - usual_m2) / known_m2) + square(std::log(length_m / usual.scatter_length_m) / 0.6);
        for (const Growth& it : growths) miss += it.weight * square(it.of_scatter - share(it) * found);
        if (miss >= best) continue;
        best = miss;
        sizes.error.scatter_m = std::sqrt(found);
        sizes.error.scatter_length_m = length_m;
    }
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
        out.rest.clear();
        for (const auto& [normal, left] : offsets) out.rest.push_back(left - normal.dot(out.shift));
        huber = std::max(0.1, 1.5 * robust_sd(out.rest));
    }
    return out;
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

/// Of an offset that lasts all run, the track's own included.
double lasting_variance(const SlowError& error) {
    return lasting_m * lasting_m + 0.5 * error.sd_m * error.sd_m;
}

}  // namespace

Between between_of(const Run& run, const Node& node) {
    return {node.cell, node.cell + 1 == run.cells ? 0 : node.cell + 1, node.in_cell};
}

Run nodes_of(const Path& path, const Track& track, const SpeedSource& speed, Point moved) {
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
        const Point position = path.position[i] - moved;
        if (lost && moving) projector.restart(position, unit(velocity));
        const Projected place = projector.project(position);
        const Point tangent = track.tangent_at(place.distance_m);
        node.normal = vector_of(left_of(tangent));
        node.left_m = place.left_m;
        lost = !moving || std::abs(place.left_m) > off_road_m || dot(unit(velocity), tangent) < 0.7;
        node.on_road = !lost && path.bridged[i] == 0;
        if (place.distance_m < before_m - track.length_m / 2) ++run.laps;
        before_m = place.distance_m;
        node.lap = run.laps;
        const double cells_on = place.distance_m / track.length_m * static_cast<double>(run.cells);
        node.cell = std::min(run.cells - 1, static_cast<std::size_t>(cells_on));
        node.in_cell = std::clamp(cells_on - static_cast<double>(node.cell), 0.0, 1.0);
        const Point way = path.position[next] - path.position[i];
        node.way_m = length(way);
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

double noise_density(const SpeedSource& speed, Interval span_s) {
    // A logger that repeats or interpolates a slower receiver shows less noise than it has.
    constexpr double step_s = 0.05;
    std::vector<double> differences;
    const auto steps = static_cast<std::size_t>(span_s.length() / step_s);
    const std::size_t stride = std::max<std::size_t>(1, steps / 20'000);
    for (std::size_t i = 0; i + 3 < steps; i += stride) {
        const double t = span_s.begin + static_cast<double>(i) * step_s;
        const double d = speed.at(t + 3 * step_s) - speed.at(t) - 3 * (speed.at(t + 2 * step_s) - speed.at(t + step_s));
        if (std::isfinite(d)) differences.push_back(d);
    }
    if (differences.size() < 100) return 0;
    const double sd = noise_from_third_differences(std::move(differences));
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
    // The nodes of a lap follow each other.
    for (std::size_t i = 0; i < run.nodes.size();) {
        std::vector<std::pair<Vector2d, double>> own;
        const std::size_t lap = run.nodes[i].lap;
        const double begin = run.nodes[i].time_s;
        double end = begin;
        for (; i < run.nodes.size() && run.nodes[i].lap == lap; ++i) {
            const Node& node = run.nodes[i];
            end = node.time_s;
            if (node.on_road) own.emplace_back(node.normal, node.left_m - usual_beside(line, node));
        }
        if (static_cast<double>(own.size()) * run.step_m < 0.8 * track.length_m) continue;
        const ShiftFit fit = fit_shift(own);
        shifts.push_back(fit.shift);
        // So many nodes in a row say the same of the driver's scatter.
        const double repeats = std::max(1.0, 2 * out.error.scatter_length_m / std::max(1.0, run.step_m));
        open_shift += 0.5 * fit.information.inverse().trace() * repeats;
        rests.insert(rests.end(), fit.rest.begin(), fit.rest.end());
        lap_s += end - begin;
    }
    double seen = 0;
    if (shifts.size() > 1) {
        const auto n = static_cast<double>(shifts.size());
        lap_s /= n;
        out.error.scatter_m = std::max(least_scatter_m, robust_sd(rests) * std::sqrt(n / (n - 1)));
        Vector2d mean(0, 0);
        for (const Vector2d& shift : shifts) mean += shift / n;
        for (const Vector2d& shift : shifts) seen += (shift - mean).squaredNorm() / (2 * (n - 1));
        // What a driver's scatter looks like when it is taken for a shift, and how far that itself scatters.
        const double noise = out.error.scatter_m * out.error.scatter_m * open_shift / n * (1 + 1 / std::sqrt(n - 1));
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
            out.by_laps = true;
            out.error.correlation_s = 300;
            out.error.sd_m = std::sqrt(seen / variance_of_lap_means(300, lap_s, shifts.size()));
        }
    }
    out.error.sd_m = std::min(out.error.sd_m, 5.0);
    if (shifts.size() > 1) find_scatter(run, line, static_cast<double>(shifts.size()), lap_s, out);
    const Matrix2d by_line = whole.information * stretches / count / (out.error.line_sd_m * out.error.line_sd_m);
    // An offset that no line explains is another frame of coordinates, or a receiver that is metres off: it may be
    // large.
    out.lasting_variance = lasting_variance(out.error);
    const Matrix2d expected = by_line.inverse() + out.lasting_variance * Matrix2d::Identity();
    // A road that only goes one way shows the offset across it, not along it: there it stays small.
    const Matrix2d& seen_by = whole.information;
    const bool both_ways = seen_by.determinant() > 0.02 * seen_by.trace() * seen_by.trace();
    if (both_ways && whole.shift.norm() < off_road_m && whole.shift.dot(expected.inverse() * whole.shift) > 3 * 3)
        out.lasting_variance = std::max(out.lasting_variance, whole.shift.squaredNorm());
    out.lasting = (by_line + Matrix2d::Identity() / out.lasting_variance).inverse();
    return out;
}

}  // namespace rendak::slow
