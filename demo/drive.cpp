#include "demo/drive.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>

#include "demo/noise.h"
#include "demo/racing_line.h"
#include "demo/suspension.h"

namespace rendak::demo {
namespace {

constexpr double stop_before_line_m = 120;
constexpr double pit_offset_m = -28, pit_speed_mps = 16.5, box_m = 100;

/// Smooth 0 → 1 between two places.
double ramp(double s, double from, double to) {
    const double u = std::clamp((s - from) / (to - from), 0.0, 1.0);
    return u * u * (3 - 2 * u);
}

/// The whole run on a grid of 1 m along the centreline.
struct Plan {
    double first_m = 0;
    std::vector<double> left_m, stretch, curvature;  // stretch: metres of path a metre of centreline
    std::vector<double> corner_speed, brake_speed, speed, throttle_limit;

    [[nodiscard]] std::size_t size() const { return left_m.size(); }
    [[nodiscard]] double along(std::size_t i) const { return first_m + static_cast<double>(i); }
};

class Driver {
  public:
    Driver(const Circuit& circuit, const Car& car, const RunPlan& run)
        : circuit_(circuit), car_(car), run_(run), noise_(run.seed) {}

    Drive drive() {
        lay_out();
        choose_line();
        limit_speed();
        plan_speed();
        return in_time();
    }

  private:
    [[nodiscard]] const CircuitCorner& corner(int number) const {
        return circuit_.corners[static_cast<std::size_t>(number - 1)];
    }
    /// Where a lap's stop is, if it has one.
    [[nodiscard]] double stop_m(std::size_t lap) const {
        return static_cast<double>(lap + 1) * lap_m() - stop_before_line_m;
    }
    [[nodiscard]] Car car_at(std::size_t i) const { return with_fuel(car_, run_, plan_.along(i), lap_m()); }
    [[nodiscard]] double lap_m() const { return circuit_.length_m; }
    [[nodiscard]] std::size_t cell(double along) const {
        const double i = std::clamp(along - plan_.first_m, 0.0, static_cast<double>(plan_.size() - 1));
        return static_cast<std::size_t>(i);
    }
    /// Calls work(cell, distance along) for a stretch given relative to the start of a lap.
    void over(int lap, double from, double to, const auto& work) {
        const double start = lap * lap_m();
        for (std::size_t i = cell(start + from); i <= cell(start + to); ++i) work(i, plan_.along(i) - start);
    }

    void lay_out() {
        const auto laps = static_cast<double>(run_.laps.size());
        plan_.first_m = circuit_.open ? 0 : run_.from_pits ? box_m : -380;
        const double last = circuit_.open    ? circuit_.road_m() - 20
                            : run_.from_pits ? laps * lap_m() + box_m
                                             : laps * lap_m() + 420;
        const auto n = static_cast<std::size_t>(last - plan_.first_m) + 1;
        plan_.left_m.resize(n);
        plan_.throttle_limit.assign(n, 1);
        pace_.assign(n, run_.grip_use);
        brake_.assign(n, run_.brake_use);
    }

    /// Starts and ends at rest.
    [[nodiscard]] bool from_rest() const { return run_.from_pits || circuit_.open; }
    /// Weight of being in the pit lane, 0 … 1.
    [[nodiscard]] double in_pits(double along) const {
        if (!run_.from_pits) return 0;
        const double end = static_cast<double>(run_.laps.size()) * lap_m();
        return std::max(1 - ramp(along, 190, 310), ramp(along, end - 240, end - 120));
    }

    void choose_line() {
        const auto line = racing_line(circuit_, 1.2);
        // Slow wander of a few decimetres: sums of waves that never repeat from lap to lap.
        struct Wave {
            double length_m, phase, size_m;
        };
        std::vector<Wave> waves;
        for (int k = 0; k < 9; ++k)
            waves.push_back({130 + 90 * noise_.uniform() * k, 6.28 * noise_.uniform(), 0.11 * run_.scatter});
        for (std::size_t i = 0; i < plan_.size(); ++i) {
            const double along = plan_.along(i);
            double left = line[circuit_.index(along)];
            for (const Wave& wave : waves)
                left += wave.size_m * std::sin(2 * std::numbers::pi * along / wave.length_m + wave.phase);
            const double pits = in_pits(along);
            // Onto the edge before the lap begins, off it after the lap has ended.
            for (std::size_t lap = 0; lap < run_.laps.size(); ++lap) {
                const int side = run_.laps[lap].along_edge;
                if (side == 0) continue;
                const double start = static_cast<double>(lap) * lap_m();
                const double weight =
                    ramp(along, start - 80, start - 5) * (1 - ramp(along, start + lap_m() + 5, start + lap_m() + 80));
                left = (1 - weight) * left + weight * side * (circuit_.half_width_m[circuit_.index(along)] - 0.9);
            }
            plan_.left_m[i] = (1 - pits) * left + pits * pit_offset_m;
        }
        for (std::size_t lap = 0; lap < run_.laps.size(); ++lap) {
            for (const Cue& cue : run_.laps[lap].cues) {
                const CircuitCorner& at = corner(cue.corner);
                const double outward = at.left ? -1 : 1;
                if (cue.kind == Cue::Kind::wide) {
                    over(static_cast<int>(lap), at.start_m - 20, at.end_m + 20, [&](std::size_t i, double s) {
                        plan_.left_m[i] += outward * cue.value * ramp(s, at.start_m - 20, at.apex_m) *
                                           (1 - ramp(s, at.apex_m, at.end_m + 20));
                    });
                } else if (cue.kind == Cue::Kind::early_turn) {
                    // The same way across the road, begun and ended earlier.
                    const std::vector<double> usual = plan_.left_m;
                    over(static_cast<int>(lap), at.start_m - 80, at.end_m + 60, [&](std::size_t i, double s) {
                        const double by = cue.value * ramp(s, at.start_m - 80, at.start_m - 20) *
                                          (1 - ramp(s, at.end_m, at.end_m + 60));
                        plan_.left_m[i] = usual[cell(plan_.along(i) + by)];
                    });
                } else if (cue.kind == Cue::Kind::off) {
                    over(static_cast<int>(lap), at.start_m - 10, at.end_m + 170, [&](std::size_t i, double s) {
                        plan_.left_m[i] += outward * cue.value * ramp(s, at.start_m - 10, at.end_m) *
                                           (1 - ramp(s, at.end_m + 50, at.end_m + 160));
                    });
                }
            }
        }
        const std::size_t n = plan_.size();
        std::vector<Point> p(n);
        for (std::size_t i = 0; i < n; ++i) p[i] = circuit_.position(plan_.along(i), plan_.left_m[i]);
        plan_.stretch.assign(n, 1);
        std::vector<double> raw(n, 0);
        for (std::size_t i = 1; i + 1 < n; ++i) {
            const Point a = p[i] - p[i - 1], b = p[i + 1] - p[i];
            plan_.stretch[i] = 0.5 * (length(a) + length(b));
            raw[i] = std::atan2(cross(a, b), dot(a, b)) / plan_.stretch[i];
        }
        // The car does not follow every millimetre: curvature over about 8 m.
        plan_.curvature.assign(n, 0);
        for (std::size_t i = 0; i < n; ++i) {
            double sum = 0, weights = 0;
            for (int k = -8; k <= 8; ++k) {
                const auto j = static_cast<std::ptrdiff_t>(i) + k;
                if (j < 0 || j >= static_cast<std::ptrdiff_t>(n)) continue;
                const double weight = std::exp(-k * k / 18.0);
                sum += weight * raw[static_cast<std::size_t>(j)];
                weights += weight;
            }
            plan_.curvature[i] = sum / weights;
        }
    }

    [[nodiscard]] double lap_pace(double along) const {
        const double lap = std::floor(along / lap_m());
        const auto last = static_cast<double>(run_.laps.size() - 1);
        return run_.laps[static_cast<std::size_t>(std::clamp(lap, 0.0, last))].pace;
    }

    void limit_speed() {
        const std::size_t n = plan_.size();
        for (std::size_t i = 0; i < n; ++i) {
            // A driver who slows down does so behind the line, and one who starts a fast lap is fast before it.
            pace_[i] *= std::max(lap_pace(plan_.along(i) - 200), lap_pace(plan_.along(i) + 400));
        }
        for (std::size_t lap = 0; lap < run_.laps.size(); ++lap) {
            for (const CircuitCorner& at : circuit_.corners) {
                const double grip = 1 + 0.007 * run_.scatter * noise_.normal();
                const double brake = 1 - std::abs(0.018 * run_.scatter * noise_.normal());
                over(static_cast<int>(lap), at.start_m - 30, at.end_m + 30,
                     [&](std::size_t i, double) { pace_[i] *= grip; });
                over(static_cast<int>(lap), at.start_m - 180, at.start_m - 31,
                     [&](std::size_t i, double) { brake_[i] *= brake; });
            }
        }
        plan_.corner_speed.resize(n);
        for (std::size_t i = 0; i < n; ++i) plan_.corner_speed[i] = corner_limit(i);
        for (std::size_t lap = 0; lap < run_.laps.size(); ++lap) {
            for (const Cue& cue : run_.laps[lap].cues) apply(static_cast<int>(lap), cue);
        }
        for (std::size_t i = 0; i < n; ++i) {
            const double pits = in_pits(plan_.along(i));
            if (pits > 0.2) plan_.corner_speed[i] = std::min(plan_.corner_speed[i], pit_speed_mps);
        }
        for (std::size_t lap = 0; lap < run_.laps.size(); ++lap) {
            if (run_.laps[lap].stands_s > 0) plan_.corner_speed[cell(stop_m(lap))] = 0.5;
        }
        if (from_rest()) plan_.corner_speed.back() = 0;
        if (!circuit_.open) return;
        // Behind the finish the car slows down on the road that is left.
        for (std::size_t i = cell(lap_m() + 160); i < n; ++i)
            plan_.corner_speed[i] =
                std::min(plan_.corner_speed[i], 0.35 * std::sqrt(2 * 9.81 * static_cast<double>(n - i)));
    }

    [[nodiscard]] double corner_limit(std::size_t i) const {
        const std::size_t at = circuit_.index(plan_.along(i));
        const double grip = car_.grip * pace_[i];
        const double per_v2 = 0.5 * Car::air * car_.downforce_m2 / car_at(i).mass_kg + circuit_.crest[at];
        const double wanted = std::abs(plan_.curvature[i]) - grip * per_v2;
        const double held = grip * Car::g + Car::g * std::sin(circuit_.banking_rad[at]);
        // A lap at part pace is slower on the straights, too.
        const double top = pace_[i] < 0.9 ? 62 * pace_[i] : 90;
        return wanted <= 1e-5 ? top : std::min(top, std::sqrt(held / wanted));
    }

    void apply(int lap, const Cue& cue) {
        const CircuitCorner& at = corner(cue.corner);
        switch (cue.kind) {
            case Cue::Kind::slower:
                over(lap, at.start_m - 5, at.end_m + 5,
                     [&](std::size_t i, double) { plan_.corner_speed[i] *= 1 - cue.value; });
                break;
            case Cue::Kind::traffic:
                over(lap, at.start_m - 60, at.end_m + 60,
                     [&](std::size_t i, double) { plan_.corner_speed[i] *= 1 - cue.value; });
                break;
            case Cue::Kind::lift:
                over(lap, at.start_m - 40, at.apex_m - 10,
                     [&](std::size_t i, double) { plan_.throttle_limit[i] = cue.value; });
                break;
            case Cue::Kind::soft_brake:
                over(lap, at.start_m - 260, at.apex_m, [&](std::size_t i, double) { brake_[i] *= cue.value; });
                break;
            case Cue::Kind::hesitate:
                over(lap, at.apex_m + 15, at.apex_m + 50,
                     [&](std::size_t i, double) { plan_.throttle_limit[i] = cue.value; });
                break;
            case Cue::Kind::off:
                over(lap, at.apex_m, at.end_m + 110,
                     [&](std::size_t i, double) { plan_.corner_speed[i] = std::min(plan_.corner_speed[i], 15.0); });
                break;
            default:
                break;  // the others are about braking: plan_speed() does them
        }
    }

    [[nodiscard]] double cornering_left(std::size_t i, double v) const {
        const double used = v * v * std::abs(plan_.curvature[i]);
        const double most = car_.grip * pace_[i] * (Car::g + car_at(i).down_mps2(v)) + 0.5;
        const double share = std::min(1.0, used / most);
        return std::sqrt(std::max(0.0, 1 - share * share));
    }

    void plan_speed() {
        const std::size_t n = plan_.size();
        plan_.brake_speed = plan_.corner_speed;
        for (std::size_t i = n - 1; i-- > 0;) {
            const double v = plan_.brake_speed[i + 1];
            const Car car = car_at(i);
            const double grip =
                brake_[i] * car.grip * std::min(1.0, pace_[i] / run_.grip_use) * (Car::g + car.down_mps2(v));
            const double slope = Car::g * circuit_.grade[circuit_.index(plan_.along(i))];
            const double drag = car.drag_mps2(v) + wind_drag_mps2(circuit_, car, run_.state, plan_.along(i), v);
            const double stopping = grip * cornering_left(i, v) + drag + slope;
            const double before = std::sqrt(v * v + 2 * std::max(stopping, 0.5) * plan_.stretch[i]);
            plan_.brake_speed[i] = std::min(plan_.brake_speed[i], before);
        }
        for (std::size_t lap = 0; lap < run_.laps.size(); ++lap) {
            for (const Cue& cue : run_.laps[lap].cues) {
                if (cue.kind != Cue::Kind::brake_early) continue;
                const CircuitCorner& at = corner(cue.corner);
                const auto shift = static_cast<std::size_t>(cue.value);
                // Front to back, so that every cell reads the unshifted speed ahead of it.
                over(static_cast<int>(lap), at.start_m - 260, at.apex_m - cue.value, [&](std::size_t i, double) {
                    plan_.brake_speed[i] = std::min(plan_.brake_speed[i], plan_.brake_speed[i + shift]);
                });
            }
        }
        plan_.speed = plan_.brake_speed;
        if (from_rest()) plan_.speed[0] = 0;
        accelerate();
        // Coasting begins some metres before the place where the brake would be taken.
        for (std::size_t lap = 0; lap < run_.laps.size(); ++lap) {
            for (const Cue& cue : run_.laps[lap].cues) {
                if (cue.kind != Cue::Kind::coast) continue;
                const CircuitCorner& at = corner(cue.corner);
                std::size_t brake_at = cell(static_cast<double>(lap) * lap_m() + at.apex_m);
                const auto on_the_brake = [&](std::size_t i) {
                    return plan_.speed[i] >= plan_.brake_speed[i] - 1e-6 &&
                           plan_.brake_speed[i] < plan_.corner_speed[i] - 0.5;
                };
                const std::size_t far = 250;
                const std::size_t earliest = brake_at > far ? brake_at - far : 1;
                while (brake_at > earliest && !on_the_brake(brake_at)) --brake_at;
                if (brake_at == earliest) continue;
                while (brake_at > 1 && on_the_brake(brake_at - 1)) --brake_at;
                const auto metres = static_cast<std::size_t>(cue.value);
                for (std::size_t i = brake_at - std::min(brake_at, metres); i < brake_at + 40 && i < n; ++i)
                    plan_.throttle_limit[i] = 0;
            }
        }
        plan_.speed = plan_.brake_speed;
        if (from_rest()) plan_.speed[0] = 0;
        accelerate();
    }

    void accelerate() {
        for (std::size_t i = 0; i + 1 < plan_.size(); ++i) {
            const double v = plan_.speed[i];
            const Car car = car_at(i);
            const double slope = Car::g * circuit_.grade[circuit_.index(plan_.along(i))];
            double push = car.push_mps2(v) * plan_.throttle_limit[i];
            if (plan_.throttle_limit[i] <= 0) push = -car.engine_braking_mps2;
            push = std::min(push, 0.8 * car.grip * (Car::g + car.down_mps2(v)) * (0.25 + 0.75 * cornering_left(i, v)));
            const double drag = car.drag_mps2(v) + floor_drag_mps2(circuit_, car, run_.state, plan_.along(i), v) +
                                wind_drag_mps2(circuit_, car, run_.state, plan_.along(i), v);
            const double after = v * v + 2 * (push - drag - slope) * plan_.stretch[i];
            plan_.speed[i + 1] = std::min(plan_.speed[i + 1], std::sqrt(std::max(after, 1.0)));
        }
    }

    [[nodiscard]] double read(const std::vector<double>& values, double along) const {
        const double position = std::clamp(along - plan_.first_m, 0.0, static_cast<double>(plan_.size() - 1) - 1e-9);
        const auto i = static_cast<std::size_t>(position);
        const double u = position - static_cast<double>(i);
        return values[i] * (1 - u) + values[std::min(i + 1, values.size() - 1)] * u;
    }

    Drive in_time() {
        Drive out;
        out.first_m = plan_.first_m;
        std::vector<double> speed;
        if (from_rest()) speed.assign(static_cast<std::size_t>(run_.stands_s / Drive::step_s), 0);
        const double last = plan_.along(plan_.size() - 1);
        double along = plan_.first_m;
        std::size_t next_stop = 0;
        while (along < last - 0.05) {
            const double v = std::max(read(plan_.speed, along), 0.4);
            speed.push_back(v);
            along += v * Drive::step_s / read(plan_.stretch, along);
            for (; next_stop < run_.laps.size() && along > stop_m(next_stop); ++next_stop)
                speed.insert(speed.end(), static_cast<std::size_t>(run_.laps[next_stop].stands_s / Drive::step_s), 0);
        }
        if (from_rest()) speed.insert(speed.end(), static_cast<std::size_t>(4 / Drive::step_s), 0);
        // Feet take time: pedals build up over about 0.2 s.
        const int reach = 30;
        std::vector<double> smooth(speed.size());
        for (std::size_t i = 0; i < speed.size(); ++i) {
            double sum = 0, weights = 0;
            for (int k = -reach; k <= reach; ++k) {
                const auto j = std::clamp<std::ptrdiff_t>(static_cast<std::ptrdiff_t>(i) + k, 0,
                                                          static_cast<std::ptrdiff_t>(speed.size()) - 1);
                const double weight = std::exp(-0.5 * k * k / (9.0 * 9.0));
                sum += weight * speed[static_cast<std::size_t>(j)];
                weights += weight;
            }
            smooth[i] = sum / weights;
        }
        along = plan_.first_m;
        for (std::size_t i = 0; i < smooth.size(); ++i) {
            const double left = read(plan_.left_m, along);
            out.along_m.push_back(along);
            out.left_m.push_back(left);
            out.position.push_back(circuit_.position(along, left));
            out.speed_mps.push_back(smooth[i]);
            out.curvature.push_back(read(plan_.curvature, along));
            const double after = smooth[std::min(i + 1, smooth.size() - 1)], before = smooth[i == 0 ? 0 : i - 1];
            out.along_mps2.push_back((after - before) / (2 * Drive::step_s));
            // Heun's step: the stretch is taken in the middle.
            const double step = 0.5 * (smooth[i] + after) * Drive::step_s;
            along += step / read(plan_.stretch, along + step / 2);
        }
        const double laps = static_cast<double>(run_.laps.size());
        if (circuit_.open) {
            while (out.speed_mps[static_cast<std::size_t>(out.launch_s / Drive::step_s)] < 0.05)
                out.launch_s += Drive::step_s;
            out.crossings_s = {out.time_at(lap_m())};
        }
        for (double k = run_.from_pits ? 1 : 0; !circuit_.open && k <= (run_.from_pits ? laps - 1 : laps); ++k)
            out.crossings_s.push_back(out.time_at(k * lap_m()));
        for (std::size_t lap = 0; lap < run_.laps.size(); ++lap) {
            for (const Cue& cue : run_.laps[lap].cues) {
                if (cue.kind != Cue::Kind::lock_up) continue;
                const double t = out.time_at(static_cast<double>(lap) * lap_m() + corner(cue.corner).start_m - 35);
                out.lock_ups.push_back({{t, t + cue.value}});
            }
        }
        return out;
    }

    const Circuit& circuit_;
    const Car& car_;
    const RunPlan& run_;
    Noise noise_;
    Plan plan_;
    std::vector<double> pace_, brake_;
};

}  // namespace

double wind_drag_mps2(const Circuit& circuit, const Car& car, const CarState& state, double along_m, double speed_mps) {
    if (state.wind_mps <= 0) return 0;
    const double from = state.wind_from_deg * std::numbers::pi / 180;
    const Point along = circuit.direction[circuit.index(along_m)];
    const Point wind{-state.wind_mps * std::sin(from), -state.wind_mps * std::cos(from)};  // where it blows to
    const Point past{speed_mps * along.x - wind.x, speed_mps * along.y - wind.y};
    const double v_along = past.x * along.x + past.y * along.y;
    return 0.5 * Car::air * car.drag_m2 / car.mass_kg * (std::hypot(past.x, past.y) * v_along - speed_mps * speed_mps);
}

double Drive::time_at(double along) const {
    const auto after = std::lower_bound(along_m.begin(), along_m.end(), along);
    if (after == along_m.begin()) return 0;
    if (after == along_m.end()) return duration_s();
    const auto i = static_cast<std::size_t>(after - along_m.begin());
    const double share = (along - along_m[i - 1]) / (along_m[i] - along_m[i - 1]);
    return (static_cast<double>(i - 1) + share) * step_s;
}

Car with_fuel(const Car& car, const RunPlan& plan, double along_m, double lap_m) {
    Car out = car;
    // From half the fuel, at which the car was weighed.
    if (plan.state.burns_l_per_lap > 0)
        out.mass_kg += car.fuel_kg_per_l * (plan.state.fuel_l / 2 - plan.state.burns_l_per_lap * along_m / lap_m);
    return out;
}

Drive drive_run(const Circuit& circuit, const Car& car, const RunPlan& plan) {
    return Driver(circuit, car, plan).drive();
}

}  // namespace rendak::demo
