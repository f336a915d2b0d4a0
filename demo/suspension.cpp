#include "demo/suspension.h"

#include <algorithm>
#include <cmath>

namespace rendak::demo {
namespace {

double at(const std::vector<double>& values, double cell) {
    const auto i = std::min(static_cast<std::size_t>(cell), values.size() - 1);
    const double share = cell - std::floor(cell);
    return values[i] * (1 - share) + values[std::min(i + 1, values.size() - 1)] * share;
}

/// At the best click.
constexpr double rear_bump_n_s_per_m = 4500;

/// One corner of the car: upwards from rest.
struct Corner {
    double body = 0, body_speed = 0, hub = 0, hub_speed = 0, road = 0;

    [[nodiscard]] double travel() const { return hub - body; }
};

/// Two profiles that are mixed otherwise with every step to the side: alike under one car, another one a metre away.
struct Mix {
    double one = 1, other = 0;
};

Mix mix_at(double left_m) {
    const double turn = left_m / 2;
    return {std::cos(turn), std::sin(turn)};
}

/// Height of the road under a wheel: unevenness that changes with the line that is driven, and the kerbs inside
/// corners.
double height_at(const Circuit& circuit, double along_m, double left_m, const Mix& mix) {
    const std::size_t i = circuit.index(along_m), next = circuit.index(along_m + circuit.step_m);
    const double share = along_m / circuit.step_m - std::floor(along_m / circuit.step_m);
    const auto between = [&](const std::vector<double>& values) {
        return values[i] * (1 - share) + values[next] * share;
    };
    double height = between(circuit.roughness_m) * mix.one + between(circuit.other_roughness_m) * mix.other;
    const double kerb = circuit.kerb_left_m[i];
    // A kerb rises over a hand's width.
    const double onto = kerb == 0 ? 0 : (left_m * std::copysign(1.0, kerb) - circuit.half_width_m[i] + 0.9) / 0.2;
    if (onto > 0) height += std::min(1.0, onto) * std::abs(kerb) * (1 + std::sin(along_m * 2.2)) / 2;
    return height;
}

/// Half of the car.
struct Axle {
    bool front = true;
    AxleParts parts;
    double still_n = 0, body_kg = 0;  ///< on each wheel
    std::array<Corner, 2> corners{};
};

}  // namespace

double DamperCurve::force_n(double v) const {
    const double slow = v > 0 ? bump_slow : rebound_slow, fast = v > 0 ? bump_fast : rebound_fast;
    const double size = std::abs(v);
    return std::copysign(slow * std::min(size, knee_mps) + fast * std::max(0.0, size - knee_mps), v);
}

AxleParts axle_parts(const CarState& state, bool front) {
    AxleParts out = front ? AxleParts{state.front_spring_n_per_m, state.front_bar_n_per_m, 22}
                          : AxleParts{120e3, state.rear_bar_n_per_m, 24};
    if (front) {
        out.rubber_from_m -= state.front_packers_m;
    } else {
        // Each click a third more bump damping.
        out.damper.bump_slow = rear_bump_n_s_per_m * std::pow(1.35, state.rear_bump_clicks - best_rear_bump_clicks);
        out.damper.bump_fast = out.damper.bump_slow / 2;
    }
    return out;
}

double front_roll_share(const CarState& state) {
    const AxleParts front = axle_parts(state, true), rear = axle_parts(state, false);
    const double f = front.spring_n_per_m + 2 * front.bar_n_per_m, r = rear.spring_n_per_m + 2 * rear.bar_n_per_m;
    return f / (f + r);
}

double floor_drag_mps2(const Circuit& circuit, const Car& car, const CarState& state, double along_m,
                       double speed_mps) {
    if (state.floor_drag_mps2 <= 0) return 0;
    const AxleParts front = axle_parts(state, true);
    const double crest = circuit.crest[circuit.index(along_m)] * speed_mps * speed_mps;
    const double load = (1 - car.rear_share) * car.mass_kg * (car.down_mps2(speed_mps) + crest) / 2;
    const double height = state.front_ride_height_m - load / front.spring_n_per_m - load / front.tyre_n_per_m;
    // Uneven as the road is, the floor touches ever more of the time from a centimetre down.
    return state.floor_drag_mps2 * (1 - std::clamp((height - 0.004) / 0.007, 0.0, 1.0));
}

SuspensionMotion suspension_motion(const Circuit& circuit, const Car& car, const CarState& state, const Drive& drive,
                                   const std::vector<std::array<double, 4>>& load_n) {
    constexpr int steps = 2;  // within one sample
    constexpr double step_s = 1 / SuspensionMotion::rate_hz / steps;
    const auto n = static_cast<std::size_t>(drive.duration_s() * SuspensionMotion::rate_hz) + 1;
    SuspensionMotion out;
    std::array<Axle, 2> axles;
    for (Axle& axle : axles) {
        axle.front = &axle == axles.data();
        axle.parts = axle_parts(state, axle.front);
        axle.still_n = (axle.front ? 1 - car.rear_share : car.rear_share) * car.mass_kg * Car::g / 2;
        axle.body_kg = axle.still_n / Car::g - axle.parts.unsprung_kg;
    }
    for (auto* values : {&out.travel_m, &out.load_n, &out.lowered_m}) {
        for (std::vector<float>& wheel : *values) wheel.reserve(n);
    }
    for (std::size_t i = 0; i < n; ++i) {
        const double t = static_cast<double>(i) / SuspensionMotion::rate_hz, cell = t / Drive::step_s;
        const auto before = std::min(static_cast<std::size_t>(cell), load_n.size() - 1);
        const std::size_t after = std::min(before + 1, load_n.size() - 1);
        const double share = cell - std::floor(cell);
        const double along_m = at(drive.along_m, cell), middle_left_m = at(drive.left_m, cell);
        // Where the car stands the ground is flat.
        const double moving = std::min(1.0, at(drive.speed_mps, cell) / 5);
        const double pitch = car.mass_kg * at(drive.along_mps2, cell) * car.centre_height_m / car.wheelbase_m;
        const std::array<double, 2> left_m{middle_left_m + 0.5 * car.track_m, middle_left_m + -0.5 * car.track_m};
        const std::array<Mix, 2> mix{mix_at(left_m[0]), mix_at(left_m[1])};
        for (Axle& axle : axles) {
            const bool front = axle.front;
            const AxleParts& parts = axle.parts;
            const double still = axle.still_n;
            const std::size_t first = front ? 0 : 2;
            std::array<Corner, 2>& corners = axle.corners;
            const double along = along_m - (front ? 0 : car.wheelbase_m);
            std::array<double, 2> push{}, linked{}, road{};
            for (std::size_t side = 0; side < 2; ++side) {
                push[side] = load_n[before][first + side] * (1 - share) + load_n[after][first + side] * share - still;
            }
            const double lean = (push[1] - push[0]) / 2;
            for (std::size_t side = 0; side < 2; ++side) {
                linked[side] =
                    parts.anti_dive * (front ? -pitch : pitch) / 2 + parts.roll_centre * (side == 0 ? -lean : lean);
                road[side] = moving * height_at(circuit, along, left_m[side], mix[side]);
            }
            for (int k = 0; k < steps; ++k) {
                const double bar = parts.bar_n_per_m * (corners[0].travel() - corners[1].travel());
                for (std::size_t side = 0; side < 2; ++side) {
                    Corner& it = corners[side];
                    const double last = it.road;
                    it.road += (road[side] - it.road) / (steps - k);
                    const double x = it.travel();
                    const double rubber = parts.rubber_n_per_m * std::max(0.0, x - parts.rubber_from_m);
                    const double spring = parts.spring_n_per_m * x + (side == 0 ? bar : -bar) + rubber +
                                          parts.damper.force_n(it.hub_speed - it.body_speed);
                    const double tyre =
                        std::max(-still, parts.tyre_n_per_m * (it.road - it.hub) +
                                             parts.tyre_damping * ((it.road - last) / step_s - it.hub_speed));
                    it.body_speed += step_s * (spring - push[side] + linked[side]) / axle.body_kg;
                    it.hub_speed += step_s * (tyre - spring - linked[side]) / parts.unsprung_kg;
                    it.body += step_s * it.body_speed;
                    it.hub += step_s * it.hub_speed;
                }
            }
            for (std::size_t side = 0; side < 2; ++side) {
                const Corner& it = corners[side];
                out.travel_m[first + side].push_back(static_cast<float>(it.travel()));
                out.load_n[first + side].push_back(
                    static_cast<float>(std::max(0.0, still + parts.tyre_n_per_m * (it.road - it.hub))));
                const Corner& other = corners[1 - side];
                const double own = it.road - it.body, middle = (own + other.road - other.body) / 2;
                out.lowered_m[first + side].push_back(
                    static_cast<float>(middle + (own - middle) / (car.track_m / 2) * 0.5));
            }
        }
    }
    return out;
}

}  // namespace rendak::demo
