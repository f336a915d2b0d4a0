#include "core/analysis/quickest_line.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/track/ideal_line.h"

namespace rendak {
namespace {

constexpr double g = 9.80665, step_m = QuickestLine::step_m;

/// The road and the car, at every few metres.
class PointCar {
  public:
    PointCar(const Track& track, const ObservedLimit& limit, double margin_m)
        : limit_(limit), open_(track.open), n_(static_cast<std::size_t>(track.length_m / step_m)) {
        for (std::size_t i = 0; i < n_; ++i) {
            const double s = place_m(i);
            const Point t = track.tangent_at(s);
            line_.push_back(track.position_at(s));
            left_.push_back({-t.y, t.x});
            double low = -track.value_at(track.edges.right_m, s) + margin_m,
                   high = track.value_at(track.edges.left_m, s) - margin_m;
            if (!(high > low)) low = high = std::isfinite(low + high) ? 0.5 * (low + high) : 0;
            low_.push_back(low);
            high_.push_back(high);
            const auto known = [](double value) { return std::isfinite(value) ? value : 0; };
            const double ahead = track.value_at(track.height.value, std::min(s + step_m, track.length_m)),
                         behind = track.value_at(track.height.value, std::max(0.0, s - step_m));
            grade_.push_back(known((ahead - behind) / (2 * step_m)));
            lean_.push_back(track.banking.value.empty() ? 0
                                                        : -g * std::sin(known(track.value_at(track.banking.value, s))));
        }
        speed_.resize(n_);
        across_.resize(n_);
        way_.resize(n_);
        curvature_.resize(n_);
    }
    [[nodiscard]] std::size_t size() const { return n_; }
    [[nodiscard]] double place_m(std::size_t i) const { return static_cast<double>(i) * step_m; }
    [[nodiscard]] double kept(std::size_t i, double left) const { return std::clamp(left, low_[i], high_[i]); }
    [[nodiscard]] std::size_t wrapped(std::ptrdiff_t i) const {
        const auto n = static_cast<std::ptrdiff_t>(n_);
        return static_cast<std::size_t>(open_ ? std::clamp<std::ptrdiff_t>(i, 0, n - 1) : ((i % n) + n) % n);
    }
    [[nodiscard]] bool is_open() const { return open_; }
    [[nodiscard]] const std::vector<double>& speed() const { return speed_; }
    /// What a line is judged by: its time, and what it turns more suddenly than the car was seen to.
    double cost_s(const std::vector<double>& left) {
        const double s = lap_s(left);
        return s + sudden_s_;
    }

    /// Seconds of a lap; `elapsed_s`, when given, at every place and the end.
    double lap_s(const std::vector<double>& left, std::vector<double>* elapsed_s = nullptr) {
        bend(left);
        for (std::size_t i = 0; i < n_; ++i) speed_[i] = fastest(i);
        // Once round to find the speed at the line, then the lap.
        for (int round = 0; round < (open_ ? 1 : 2); ++round) {
            if (!open_) speed_.front() = std::min(speed_.front(), speed_.back() + 2);
            for (std::size_t i = 0; i + 1 < n_; ++i) {
                const double v = speed_[i],
                             gained = std::min(limit_.driving.at(v),
                                               limit_.traction_share * limit_.lateral.at(v) * left_over(i, v)) -
                                      g * grade_[i];
                speed_[i + 1] = std::min(speed_[i + 1], std::sqrt(std::max(4.0, v * v + 2 * gained * way_[i])));
            }
            if (!open_) speed_.back() = std::min(speed_.back(), speed_.front() + 2);
            for (std::size_t i = n_ - 1; i > 0; --i) {
                const double v = speed_[i], lost = limit_.braking->at(v) * left_over(i, v) + g * grade_[i];
                speed_[i - 1] = std::min(speed_[i - 1], std::sqrt(v * v + 2 * std::max(0.3, lost) * way_[i - 1]));
            }
        }
        double sum = 0;
        sudden_s_ = 0;
        if (elapsed_s != nullptr) elapsed_s->assign(1, 0);
        for (std::size_t i = 0; i < n_; ++i) {
            const std::size_t next = i + 1 < n_ ? i + 1 : open_ ? i : 0;
            sum += 2 * way_[i] / (speed_[i] + speed_[next]);
            if (elapsed_s != nullptr) elapsed_s->push_back(sum);
            if (!(limit_.lateral_jerk_mps3 > 0)) continue;
            // A point can turn at once; a car cannot. More than was seen counts as lost time.
            const double step_s = 2 * way_[i] / (speed_[i] + speed_[next]);
            const double jerk =
                std::abs(across_[next] * speed_[next] * speed_[next] - across_[i] * speed_[i] * speed_[i]) / step_s;
            sudden_s_ += std::max(0.0, jerk / limit_.lateral_jerk_mps3 - 1) * step_s;
        }
        return sum;
    }

  private:
    void bend(const std::vector<double>& left) {
        points_.resize(n_);
        for (std::size_t i = 0; i < n_; ++i) points_[i] = line_[i] + left_[i] * left[i];
        for (std::size_t i = 0; i < n_; ++i) {
            const Point here = points_[i], next = points_[wrapped(static_cast<std::ptrdiff_t>(i) + 1)],
                        before = points_[wrapped(static_cast<std::ptrdiff_t>(i) - 1)];
            const Point a = here - before, b = next - here;
            way_[i] = std::max(0.5, length(b));
            const double mean = 0.5 * (length(a) + length(b));
            curvature_[i] = mean > 0.5 ? cross(a, b) / (mean * mean * mean) : 0;
        }
        // A car does not follow a kink of a few metres.
        across_.assign(n_, 0);
        for (std::size_t i = 0; i < n_; ++i) {
            const auto at = static_cast<std::ptrdiff_t>(i);
            across_[i] = 0.25 * curvature_[wrapped(at - 1)] + 0.5 * curvature_[i] + 0.25 * curvature_[wrapped(at + 1)];
        }
    }
    [[nodiscard]] double fastest(std::size_t i) const {
        constexpr double no_limit_mps = 120;
        const double lean = across_[i] < 0 ? -lean_[i] : lean_[i];
        const double wanted = std::abs(across_[i]) - limit_.lateral.per_v2, held = limit_.lateral.at_rest_mps2 + lean;
        return wanted <= 1e-6 ? no_limit_mps : std::min(no_limit_mps, std::sqrt(std::max(9.0, held / wanted)));
    }
    [[nodiscard]] double left_over(std::size_t i, double v) const {
        const double used = std::abs(across_[i] * v * v - lean_[i]) / limit_.lateral.at(v);
        return std::sqrt(std::max(0.002, 1 - used * used));
    }

    const ObservedLimit& limit_;
    bool open_;
    std::size_t n_;
    std::vector<Point> line_, left_, points_;
    std::vector<double> low_, high_, grade_, lean_;
    std::vector<double> speed_, across_, way_, curvature_;
    double sudden_s_ = 0;
};

/// Moves the line by bumps of a width, there and back along the road, by steps that halve.
Result<void> improve(PointCar& car, std::vector<double>& left, double half_m, double first_m, const JobContext& job,
                     double done, double share) {
    constexpr double least_m = 0.04, worth_s = 1e-5;
    constexpr int sweeps = 3;
    const auto reach = static_cast<std::ptrdiff_t>(half_m / step_m);
    const std::ptrdiff_t apart = std::max<std::ptrdiff_t>(1, reach / 3);
    std::vector<double> before;
    double best_s = car.cost_s(left);
    for (double by = first_m; by >= least_m; by /= 2.5) {
        for (int sweep = 0; sweep < sweeps; ++sweep) {
            const double at_first = best_s;
            for (std::ptrdiff_t middle = 0; middle < static_cast<std::ptrdiff_t>(car.size()); middle += apart) {
                if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
                for (const double sign : {1.0, -1.0}) {
                    before.clear();
                    for (std::ptrdiff_t k = -reach; k <= reach; ++k) {
                        if (car.is_open() &&
                            (middle + k < 0 || middle + k >= static_cast<std::ptrdiff_t>(car.size()))) {
                            before.push_back(0);
                            continue;
                        }
                        const std::size_t i = car.wrapped(middle + k);
                        before.push_back(left[i]);
                        const double hill = 0.5 + 0.5 * std::cos(std::numbers::pi * static_cast<double>(k) /
                                                                 static_cast<double>(reach + 1));
                        left[i] = car.kept(i, left[i] + sign * by * hill);
                    }
                    const double now_s = car.cost_s(left);
                    if (now_s < best_s - worth_s) {
                        best_s = now_s;
                        break;
                    }
                    for (std::ptrdiff_t k = -reach; k <= reach; ++k) {
                        if (car.is_open() && (middle + k < 0 || middle + k >= static_cast<std::ptrdiff_t>(car.size())))
                            continue;
                        left[car.wrapped(middle + k)] = before[static_cast<std::size_t>(k + reach)];
                    }
                }
            }
            if (at_first - best_s < 1e-3) break;
        }
        job.report(done + share * std::log(first_m / by) / std::log(first_m / least_m));
    }
    return {};
}

/// The driven offsets, as smooth as a car drives: positions have a noise.
std::vector<double> driven_offsets(const PreparedLap& lap, const PointCar& car) {
    constexpr double sigma_m = 12;
    std::vector<double> raw(car.size()), out(car.size());
    const auto& s = lap.map.distance_m;
    std::size_t at = 0;
    for (std::size_t i = 0; i < car.size(); ++i) {
        while (at + 1 < s.size() && s[at + 1] < car.place_m(i)) ++at;
        raw[i] = lap.map.left_m[at];
    }
    const auto reach = static_cast<std::ptrdiff_t>(3 * sigma_m / step_m);
    for (std::size_t i = 0; i < car.size(); ++i) {
        double sum = 0, weights = 0;
        for (std::ptrdiff_t k = -reach; k <= reach; ++k) {
            const double value = raw[car.wrapped(static_cast<std::ptrdiff_t>(i) + k)];
            const double away = static_cast<double>(k) * step_m / sigma_m, weight = std::exp(-0.5 * away * away);
            if (!std::isfinite(value)) continue;
            sum += weight * value;
            weights += weight;
        }
        out[i] = weights > 0 ? sum / weights : 0;
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
    PointCar car(track, limit, margin_m);
    if (car.size() < 20) return fail(ErrorCode::bad_input, "No quickest line: the road is too short.");
    QuickestLine out;
    std::vector<double> driven_elapsed, quickest_elapsed;
    out.driven.left_m = driven_offsets(lap, car);
    out.driven.lap_s = car.lap_s(out.driven.left_m, &driven_elapsed);
    out.driven.speed_mps = car.speed();
    for (std::size_t i = 0; i < car.size(); ++i)
        out.gentlest.left_m.push_back(car.kept(i, track.value_at(gentlest, car.place_m(i))));
    out.gentlest.lap_s = car.lap_s(out.gentlest.left_m);
    out.gentlest.speed_mps = car.speed();
    // From the better of the two.
    out.quickest = out.gentlest;
    double done = 0;
    for (const auto& [half_m, first_m] : {std::pair{120.0, 1.2}, {60.0, 0.8}}) {
        const auto better = improve(car, out.quickest.left_m, half_m, first_m, job, done, 0.5);
        if (!better) return pass_on(better.error());
        done += 0.5;
    }
    out.quickest.lap_s = car.lap_s(out.quickest.left_m, &quickest_elapsed);
    out.quickest.speed_mps = car.speed();
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
    begins.push_back(static_cast<double>(car.size()) * step_m);
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
