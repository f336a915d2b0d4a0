#include "core/analysis/shown_pace.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/corner_events.h"

namespace rendak {
namespace {

constexpr double g = 9.80665, least_mps = 2;

/// What is left for slowing down or driving beside what the corner takes (both as shares of their limits).
double left_beside(double used) {
    return std::sqrt(std::max(0.0, 1 - used * used));
}

class Pace {
  public:
    Pace(const PreparedLap& lap, const LapMotion& motion, const ObservedLimit& limit)
        : lap_(lap), motion_(motion), limit_(limit), n_(motion.size()) {
        scale_.assign(n_, 1);
        for (const Corner& corner : lap.track->corners) {
            const CornerReach* reach = limit.reach_of(corner.number);
            if (reach == nullptr) continue;
            using Left_out = CornerReach::Left_out;
            // Which road it is decides what is reached there, above the limit or below it.
            const bool own = reach->left_out == Left_out::banked || reach->left_out == Left_out::crested;
            const double share = own ? reach->used : std::max(1.0, reach->used);
            for (std::size_t i = motion.cell(corner.start_m - 20); i <= motion.cell(corner.end_m + 20); ++i)
                scale_[i] = share;
        }
        for (std::size_t i = 0; i < n_; ++i) {
            const std::size_t next = i + 1 < n_ ? i + 1 : i;
            way_m_.push_back(0.5 * (motion.speed_mps[i] + motion.speed_mps[next]) * motion.step_s[i]);
        }
    }

    ShownPace driven() {
        for (std::size_t i = 0; i < n_; ++i) speed_.push_back(fastest(i));
        // From a standing start up to the speeds at which full throttle was seen the lap is as it was driven: nothing
        // is known of more.
        for (std::size_t i = 0; lap_.track->open && i < n_; ++i) {
            speed_[i] = std::min(speed_[i], std::max(motion_.speed_mps[i], 0.5));
            if (motion_.speed_mps[i] >= limit_.driving.speed_mps.front()) break;
        }
        // A circuit's end is its begin: the second time round is the one that counts.
        for (int round = 0; round < (lap_.track->open ? 1 : 2); ++round) {
            if (round == 1) speed_.front() = std::min(speed_.front(), speed_.back());
            for (std::size_t i = 0; i + 1 < n_; ++i) drive(i, i + 1);
            if (round == 1) speed_.back() = std::min(speed_.back(), speed_.front());
            for (std::size_t i = n_ - 1; i > 0; --i) brake(i - 1, i);
        }
        ShownPace out;
        out.speed_mps = speed_;
        elapsed_s_.push_back(0);
        for (std::size_t i = 0; i < n_; ++i) {
            const double mean = 0.5 * (speed_[i] + speed_[i + 1 < n_ ? i + 1 : i]);
            elapsed_s_.push_back(elapsed_s_.back() + way_m_[i] / std::max(0.3, mean));
        }
        out.lap_s = elapsed_s_.back();
        out.rows = rows();
        return out;
    }

  private:
    /// Into which the corner turns, of the path that was driven.
    [[nodiscard]] double bending(std::size_t i, double& lean) const {
        const double v = std::max(least_mps, motion_.speed_mps[i]);
        const double felt = std::isfinite(motion_.lateral_mps2[i]) ? motion_.lateral_mps2[i] : 0;
        const double curvature = (felt + motion_.lean_mps2[i]) / (v * v);
        lean = curvature < 0 ? -motion_.lean_mps2[i] : motion_.lean_mps2[i];
        return std::abs(curvature);
    }
    [[nodiscard]] double fastest(std::size_t i) const {
        constexpr double no_limit_mps = 150;
        double lean = 0;
        const double curvature = bending(i, lean);
        const double held = scale_[i] * limit_.lateral.at_rest_mps2 + lean,
                     wanted = curvature - scale_[i] * limit_.lateral.per_v2;
        if (wanted <= 0 || held / wanted > no_limit_mps * no_limit_mps) return no_limit_mps;
        return std::sqrt(std::max(least_mps * least_mps, held / wanted));
    }
    /// Share of the lateral limit that a speed takes.
    [[nodiscard]] double across(std::size_t i, double v) const {
        double lean = 0;
        const double curvature = bending(i, lean);
        return std::abs(curvature * v * v - lean) / (scale_[i] * limit_.lateral.at(v));
    }
    void drive(std::size_t i, std::size_t next) {
        const double v = speed_[i];
        const double grip =
            limit_.traction_share * scale_[i] * limit_.lateral.at(v) * left_beside(std::min(0.999, across(i, v)));
        const double gained = std::min(limit_.driving.at(v), grip) - g * motion_.grade[i];
        speed_[next] = std::min(speed_[next], std::sqrt(std::max(0.25, v * v + 2 * gained * way_m_[i])));
    }
    void brake(std::size_t i, std::size_t next) {
        const double v = speed_[next];
        const double slowed =
            limit_.braking->at(v) * left_beside(std::min(0.999, across(next, v))) + g * motion_.grade[i];
        speed_[i] = std::min(speed_[i], std::sqrt(v * v + 2 * std::max(0.3, slowed) * way_m_[i]));
    }

    [[nodiscard]] std::vector<PaceRow> rows() const {
        const auto events = corner_events(lap_);
        std::vector<double> begins{0};
        for (std::size_t k = 0; k < events.size(); ++k) {
            double place = lap_.track->corners[k].start_m;
            for (const auto& slows : {events[k].lift_m, events[k].brake_on_m}) {
                if (slows) place = std::min(place, *slows);
            }
            begins.push_back(std::clamp(place, begins.back(), motion_.length_m));
        }
        begins.push_back(motion_.length_m);
        std::vector<PaceRow> out;
        for (std::size_t k = 0; k + 1 < begins.size(); ++k) {
            PaceRow row;
            row.corner = k == 0 ? 0 : events[k - 1].corner;
            row.name = k == 0 ? "From the line" : lap_.track->corners[k - 1].title();
            row.range_m = {begins[k], begins[k + 1]};
            row.lap_s = lap_.map.time_at(row.range_m.end) - lap_.map.time_at(row.range_m.begin);
            row.pace_s = elapsed_at(row.range_m.end) - elapsed_at(row.range_m.begin);
            out.push_back(std::move(row));
        }
        return out;
    }
    [[nodiscard]] double elapsed_at(double place_m) const {
        const auto i = std::min(static_cast<std::size_t>(place_m / LapMotion::step_m), n_ - 1);
        const double width =
            i + 1 < n_ ? LapMotion::step_m : motion_.length_m - static_cast<double>(n_ - 1) * LapMotion::step_m;
        const double share =
            width > 0 ? std::clamp((place_m - static_cast<double>(i) * LapMotion::step_m) / width, 0.0, 1.0) : 0;
        return elapsed_s_[i] + share * (elapsed_s_[i + 1] - elapsed_s_[i]);
    }

    const PreparedLap& lap_;
    const LapMotion& motion_;
    const ObservedLimit& limit_;
    std::size_t n_;
    std::vector<double> scale_;  ///< of the limit, place by place
    std::vector<double> way_m_;  ///< of the driven path, to the next place
    std::vector<double> speed_, elapsed_s_;
};

/// On the ellipse of what was seen of each direction.
double use_at(const LapMotion& motion, const ObservedLimit& limit, std::size_t i) {
    const double v = motion.speed_mps[i], lateral = limit.lateral.at(v);
    const double across = motion.lateral_mps2[i] / lateral, along = motion.along_mps2[i];
    double used = 0;
    if (along < 0)
        used = limit.braking ? -along / limit.braking->at(v) : 0;
    else
        used = along / (limit.traction_share * lateral);
    return std::hypot(across, used);
}

std::optional<double> mean_use(const std::vector<double>& use, const LapMotion& motion, double from_m, double to_m) {
    double sum = 0, time = 0;
    for (std::size_t i = motion.cell(from_m); i <= motion.cell(to_m) && from_m < to_m; ++i) {
        if (!std::isfinite(use[i])) continue;
        sum += use[i] * motion.step_s[i];
        time += motion.step_s[i];
    }
    return time > 0 ? std::optional(sum / time) : std::nullopt;
}

}  // namespace

std::vector<GripUse> grip_use(const PreparedLap& lap, const LapMotion& motion, const ObservedLimit& limit) {
    constexpr double window_s = 0.4;
    std::vector<double> use(motion.size());
    for (std::size_t i = 0; i < motion.size(); ++i) use[i] = use_at(motion, limit, i);
    const auto events = corner_events(lap);
    std::vector<GripUse> out;
    for (std::size_t k = 0; k < events.size(); ++k) {
        const CornerEvents& it = events[k];
        const Corner& corner = lap.track->corners[k];
        GripUse here;
        here.corner = it.corner;
        const double turn_in = it.turn_in_m.value_or(corner.start_m);
        if (it.brake_on_m && limit.braking) here.braking = mean_use(use, motion, *it.brake_on_m, turn_in);
        if (it.slowest_m) {
            here.entry = mean_use(use, motion, turn_in, *it.slowest_m);
            here.exit =
                mean_use(use, motion, *it.slowest_m, std::min(corner.end_m, it.full_throttle_m.value_or(corner.end_m)));
        }
        here.mean = mean_use(use, motion, corner.start_m, corner.end_m);
        for (std::size_t i = motion.cell(corner.start_m); i <= motion.cell(corner.end_m); ++i) {
            double sum = 0, time = 0;
            for (std::size_t j = i; j < motion.size() && time < window_s; ++j) {
                sum += use[j] * motion.step_s[j];
                time += motion.step_s[j];
            }
            if (time > 0 && std::isfinite(sum) && !(sum / time <= here.peak.value_or(0))) here.peak = sum / time;
        }
        out.push_back(here);
    }
    return out;
}

Result<ShownPace> shown_pace(const PreparedLap& lap, const LapMotion& motion, const ObservedLimit& limit) {
    if (!limit.driving.known())
        return fail(ErrorCode::bad_input,
                    "No shown pace: the laps do not tell how the car gains speed on full throttle.");
    if (!limit.braking)
        return fail(ErrorCode::bad_input,
                    "No shown pace: the laps do not tell how hard the car brakes in a straight line.");
    if (motion.size() < 2) return fail(ErrorCode::bad_input, "No shown pace: the lap is too short.");
    return Pace(lap, motion, limit).driven();
}

}  // namespace rendak
