#include "core/analysis/quickest_line.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <optional>

#include "core/analysis/point_lap.h"
#include "core/track/ideal_line.h"
#include "core/units/gravity.h"

namespace rendak {
namespace {

constexpr double step_m = QuickestLine::step_m;

double or_nothing(double value) {
    return std::isfinite(value) ? value : 0;
}

/// Lines across a road, as a point with the car's limits drives them; at every few metres.
class Lines {
  public:
    Lines(const Track& track, const ObservedLimit& limit, double margin_m) : limit_(limit) {
        road_.open = track.open;
        const auto n = static_cast<std::size_t>(track.length_m / step_m);
        for (std::size_t i = 0; i < n; ++i) {
            const double s = place_m(i);
            line_.push_back(track.position_at(s));
            left_.push_back(left_of(track.tangent_at(s)));
            double low = -track.value_at(track.edges.right_m, s) + margin_m,
                   high = track.value_at(track.edges.left_m, s) - margin_m;
            // A road narrower than the car leaves its middle.
            if (!(high > low)) low = high = or_nothing(0.5 * (low + high));
            low_.push_back(low);
            high_.push_back(high);
            const double ahead = track.value_at(track.height.value, std::min(s + step_m, track.length_m)),
                         behind = track.value_at(track.height.value, std::max(0.0, s - step_m));
            road_.grade.push_back(or_nothing((ahead - behind) / (2 * step_m)));
            road_.lean_mps2.push_back(-standard_gravity_mps2 *
                                      std::sin(or_nothing(track.value_at(track.banking.value, s))));
        }
        for (std::size_t i = 0; i < n; ++i) {
            before_.push_back(place(static_cast<std::ptrdiff_t>(i) - 1).value_or(i));
            behind_.push_back(place(static_cast<std::ptrdiff_t>(i) + 1).value_or(i));
        }
        points_.resize(n);
        kinks_.resize(n);
        road_.way_m.resize(n);
        road_.curvature.resize(n);
    }
    [[nodiscard]] std::size_t size() const { return line_.size(); }
    [[nodiscard]] static double place_m(std::size_t i) { return static_cast<double>(i) * step_m; }
    [[nodiscard]] double kept(std::size_t i, double left) const { return std::clamp(left, low_[i], high_[i]); }
    /// Round on a circuit; none beyond the ends of an open road.
    [[nodiscard]] std::optional<std::size_t> place(std::ptrdiff_t i) const {
        const auto n = static_cast<std::ptrdiff_t>(size());
        if (road_.open && (i < 0 || i >= n)) return std::nullopt;
        return static_cast<std::size_t>((i % n + n) % n);
    }

    double lap_s(const std::vector<double>& left) {
        drive(left);
        return point_lap_s(road_, speed_);
    }
    std::vector<double> elapsed_s(const std::vector<double>& left) {
        drive(left);
        return point_elapsed(road_, speed_);
    }
    /// What a line is judged by: its time, and what it turns more suddenly than the car was seen to. A point can turn
    /// at once; a car cannot.
    double cost_s(const std::vector<double>& left) {
        double out = lap_s(left);
        const auto lateral = [&](std::size_t i) { return road_.curvature[i] * speed_[i] * speed_[i]; };
        for (std::size_t i = 0; i + 1 < size() && limit_.lateral_jerk_mps3 > 0; ++i) {
            const double step_s = point_step_s(road_, speed_, i);
            const double jerk_mps3 = std::abs(lateral(i + 1) - lateral(i)) / step_s;
            out += std::max(0.0, jerk_mps3 / limit_.lateral_jerk_mps3 - 1) * step_s;
        }
        return out;
    }

  private:
    void drive(const std::vector<double>& left) {
        for (std::size_t i = 0; i < size(); ++i) points_[i] = line_[i] + left_[i] * left[i];
        for (std::size_t i = 0; i < size(); ++i) {
            const Point a = points_[i] - points_[before_[i]], b = points_[behind_[i]] - points_[i];
            constexpr double least_m = 0.5;
            road_.way_m[i] = std::max(least_m, length(b));
            const double mean = 0.5 * (length(a) + length(b));
            kinks_[i] = mean > least_m ? cross(a, b) / (mean * mean * mean) : 0;
        }
        // A car does not follow a kink of a few metres.
        for (std::size_t i = 0; i < size(); ++i)
            road_.curvature[i] = 0.25 * kinks_[before_[i]] + 0.5 * kinks_[i] + 0.25 * kinks_[behind_[i]];
        drive_point(road_, limit_, speed_);
    }

    const ObservedLimit& limit_;
    PointRoad road_;
    std::vector<Point> line_, left_, points_;
    std::vector<std::size_t> before_, behind_;  ///< the places beside each
    std::vector<double> low_, high_, kinks_, speed_;
};

/// A smooth bump to the left about a place, the line's values before it kept.
class Bump {
  public:
    explicit Bump(double half_m) : reach_(static_cast<std::ptrdiff_t>(half_m / step_m)) {
        for (std::ptrdiff_t k = -reach_; k <= reach_; ++k)
            height_.push_back(
                0.5 + 0.5 * std::cos(std::numbers::pi * static_cast<double>(k) / static_cast<double>(reach_ + 1)));
    }
    [[nodiscard]] std::ptrdiff_t apart() const { return std::max<std::ptrdiff_t>(1, reach_ / 3); }
    void put(const Lines& lines, std::vector<double>& left, std::ptrdiff_t middle, double by_m) {
        before_.clear();
        for (std::size_t k = 0; k < height_.size(); ++k) {
            const auto at = lines.place(middle - reach_ + static_cast<std::ptrdiff_t>(k));
            if (!at) continue;
            before_.emplace_back(*at, left[*at]);
            left[*at] = lines.kept(*at, left[*at] + by_m * height_[k]);
        }
    }
    void take_back(std::vector<double>& left) const {
        for (const auto& [at, value] : before_) left[at] = value;
    }

  private:
    std::ptrdiff_t reach_;
    std::vector<double> height_;
    std::vector<std::pair<std::size_t, double>> before_;
};

/// Moves the line by bumps of a width, to either side, place by place, by steps that shrink.
Result<void> improve(Lines& lines, std::vector<double>& left, double half_m, double first_m, const JobContext& job) {
    constexpr double least_m = 0.04, shrink = 2.5, worth_s = 1e-5, sweep_worth_s = 1e-3;
    constexpr int sweeps = 3;
    Bump bump(half_m);
    double best_s = lines.cost_s(left);
    const auto is_better_with = [&](std::ptrdiff_t middle, double by_m) {
        bump.put(lines, left, middle, by_m);
        const double now_s = lines.cost_s(left);
        if (now_s < best_s - worth_s) {
            best_s = now_s;
            return true;
        }
        bump.take_back(left);
        return false;
    };
    for (double by_m = first_m; by_m >= least_m; by_m /= shrink) {
        for (int sweep = 0; sweep < sweeps; ++sweep) {
            const double at_first = best_s;
            for (std::ptrdiff_t at = 0; at < static_cast<std::ptrdiff_t>(lines.size()); at += bump.apart()) {
                if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
                if (!is_better_with(at, by_m)) is_better_with(at, -by_m);
            }
            if (at_first - best_s < sweep_worth_s) break;
        }
        job.report(std::min(1.0, std::log(shrink * first_m / by_m) / std::log(first_m / least_m)));
    }
    return {};
}

/// The driven offsets, as smooth as a car drives: positions have a noise.
std::vector<double> smooth_offsets(const PreparedLap& lap, const Lines& lines) {
    constexpr double sigma_m = 12;
    constexpr auto reach = static_cast<std::ptrdiff_t>(3 * sigma_m / step_m);
    std::vector<double> out;
    for (std::size_t i = 0; i < lines.size(); ++i) {
        double sum = 0, weights = 0;
        for (std::ptrdiff_t k = -reach; k <= reach; ++k) {
            const auto at = lines.place(static_cast<std::ptrdiff_t>(i) + k);
            const double value = at ? lap.map.left_at(Lines::place_m(*at)) : std::nan("");
            const double away = static_cast<double>(k) * step_m / sigma_m, weight = std::exp(-0.5 * away * away);
            if (!std::isfinite(value)) continue;
            sum += weight * value;
            weights += weight;
        }
        out.push_back(weights > 0 ? sum / weights : 0);
    }
    return out;
}

}  // namespace

double QuickestLine::left_at(double distance_m) const {
    const auto& left = quickest.left_m;
    const auto i = std::min(static_cast<std::size_t>(std::max(0.0, distance_m) / step_m), left.size() - 1);
    const std::size_t next = i + 1 < left.size() ? i + 1 : i;
    const double share = std::clamp(distance_m / step_m - static_cast<double>(i), 0.0, 1.0);
    return left[i] + share * (left[next] - left[i]);
}

Result<QuickestLine> quickest_line(const PreparedLap& lap, const ObservedLimit& limit, const JobContext& job,
                                   double margin_m) {
    const Track& track = *lap.track;
    if (!limit.braking || !limit.driving.known())
        return fail(ErrorCode::bad_input,
                    "No quickest line: the laps do not tell how the car gains speed, or how hard it brakes.");
    const auto gentlest = ideal_line(track, margin_m);
    if (gentlest.empty())
        return fail(ErrorCode::bad_input, "No quickest line: the edges of " + track.name + " are not known.");
    Lines lines(track, limit, margin_m);
    if (lines.size() < 20) return fail(ErrorCode::bad_input, "No quickest line: the road is too short.");
    QuickestLine out;
    out.driven.left_m = smooth_offsets(lap, lines);
    const auto driven_elapsed = lines.elapsed_s(out.driven.left_m);
    out.driven.lap_s = driven_elapsed.back();
    for (std::size_t i = 0; i < lines.size(); ++i)
        out.gentlest.left_m.push_back(lines.kept(i, track.value_at(gentlest, Lines::place_m(i))));
    out.gentlest.lap_s = lines.lap_s(out.gentlest.left_m);
    out.quickest = out.gentlest;
    if (auto done = improve(lines, out.quickest.left_m, 120, 1.2, job.part(0, 0.5)); !done)
        return pass_on(done.error());
    if (auto done = improve(lines, out.quickest.left_m, 60, 0.8, job.part(0.5, 1)); !done) return pass_on(done.error());
    const auto quickest_elapsed = lines.elapsed_s(out.quickest.left_m);
    out.quickest.lap_s = quickest_elapsed.back();
    // From the middle of one straight to that of the next; the places are the same on both lines.
    const auto elapsed = [&](const std::vector<double>& values, double place_m) {
        const auto i = std::min(static_cast<std::size_t>(place_m / step_m), values.size() - 2);
        const double share = std::clamp(place_m / step_m - static_cast<double>(i), 0.0, 1.0);
        return values[i] + share * (values[i + 1] - values[i]);
    };
    std::vector<double> begins{0};
    for (std::size_t k = 0; k < track.corners.size(); ++k)
        begins.push_back(k == 0 ? std::max(0.0, track.corners[0].start_m - 60)
                                : 0.5 * (track.corners[k - 1].end_m + track.corners[k].start_m));
    begins.push_back(Lines::place_m(lines.size()));
    for (std::size_t k = 0; k + 1 < begins.size(); ++k) {
        QuickestLine::Row row;
        row.corner = k == 0 ? 0 : track.corners[k - 1].number;
        row.name = k == 0 ? "From the line" : track.corners[k - 1].title();
        row.range_m = {begins[k], begins[k + 1]};
        row.driven_s = elapsed(driven_elapsed, begins[k + 1]) - elapsed(driven_elapsed, begins[k]);
        row.quickest_s = elapsed(quickest_elapsed, begins[k + 1]) - elapsed(quickest_elapsed, begins[k]);
        out.rows.push_back(std::move(row));
    }
    return out;
}

}  // namespace rendak
