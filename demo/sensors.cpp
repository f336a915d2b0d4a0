#include "demo/sensors.h"

#include <algorithm>
#include <cmath>
#include <functional>

#include "core/track/geometry.h"
#include "demo/noise.h"
#include "demo/suspension.h"

namespace rendak::demo {
namespace {

constexpr double g = Car::g;
constexpr double celsius = 273.15;
constexpr const char* wheels[] = {"FL", "FR", "RL", "RR"};
constexpr const char* wheel_ids[] = {"fl", "fr", "rl", "rr"};

/// Wheel 0 … 3: front?, left?
constexpr bool is_front(int wheel) {
    return wheel < 2;
}
constexpr bool is_left(int wheel) {
    return wheel % 2 == 0;
}

/// The car's state every 0.01 s, from the exact motion.
struct State {
    std::vector<double> speed, along, lateral, yaw_rate, steering, throttle, brake_front, brake_rear, gear, revs;
    std::vector<std::array<double, 4>> wheel_speed, load;
};

double at_time(const std::vector<double>& values, double t) {
    const double position = std::clamp(t / Drive::step_s, 0.0, static_cast<double>(values.size() - 1) - 1e-9);
    const auto i = static_cast<std::size_t>(position);
    const double u = position - static_cast<double>(i);
    return values[i] * (1 - u) + values[std::min(i + 1, values.size() - 1)] * u;
}

State state_of(const Circuit& circuit, const Car& half_full, const RunPlan& plan, const Drive& drive) {
    State s;
    const std::size_t n = drive.along_m.size();
    const double front_roll = front_roll_share(plan.state);
    int gear = 1;
    for (std::size_t i = 0; i < n; ++i) {
        const double t = Drive::step_s * static_cast<double>(i);
        const Car car = with_fuel(half_full, plan, drive.along_m[i], circuit.length_m);
        const double v = drive.speed_mps[i], a = drive.along_mps2[i], k = drive.curvature[i];
        const std::size_t place = circuit.index(drive.along_m[i]);
        const double bank = circuit.banking_rad[place];
        s.speed.push_back(v);
        s.along.push_back(a);
        const double lateral = v * v * k;
        // On a banked road a part of the cornering is gravity's, which the sensor does not feel; where the road falls
        // away, it feels more.
        s.lateral.push_back(lateral -
                            g * std::sin(bank) * std::copysign(1.0, k) * std::min(1.0, std::abs(lateral) / 3));
        s.yaw_rate.push_back(v * k);
        s.steering.push_back(car.steering_ratio * (car.wheelbase_m * k + car.understeer_rad_per_g * lateral / g));

        // Pedals from the force the motion needs.
        const double needed = a + (v > 0.5 ? car.drag_mps2(v) : 0) + (v > 0.5 ? g * circuit.grade[place] : 0) +
                              floor_drag_mps2(circuit, car, plan.state, drive.along_m[i], v) +
                              wind_drag_mps2(circuit, car, plan.state, drive.along_m[i], v);
        double throttle = 0, brake = 0;
        if (needed > -0.15) throttle = std::clamp((needed + 0.15) / car.push_mps2(v), 0.0, 1.0);
        if (throttle > 0.965) throttle = 1;
        if (needed < -car.engine_braking_mps2 - 0.25) brake = -needed - car.engine_braking_mps2;
        if (v < 0.1) {
            throttle = 0;
            brake = 2.5;
        }
        s.throttle.push_back(throttle);
        constexpr double pa_per_mps2 = 5.6e5;
        s.brake_front.push_back(brake * pa_per_mps2 * car.front_brake_share / 0.62);
        s.brake_rear.push_back(brake * pa_per_mps2 * (1 - car.front_brake_share) / 0.62 * 0.92);

        while (gear < 6 && v > car.gear_top_mps[static_cast<std::size_t>(gear - 1)]) ++gear;
        while (gear > 1 && v < car.gear_top_mps[static_cast<std::size_t>(gear - 2)] * 0.86) --gear;
        s.gear.push_back(gear);
        const double rpm = std::max(1500.0, car.redline_rpm * v / car.gear_top_mps[static_cast<std::size_t>(gear - 1)]);
        s.revs.push_back(rpm * 3.14159265358979 / 30);

        const double aero = car.mass_kg * car.down_mps2(v), weight = car.mass_kg * (g + v * v * circuit.crest[place]);
        const double pitch = car.mass_kg * a * car.centre_height_m / car.wheelbase_m;
        const double roll = car.mass_kg * lateral * car.centre_height_m / car.track_m;
        std::array<double, 4> load{}, speed{};
        const bool locked = std::any_of(drive.lock_ups.begin(), drive.lock_ups.end(),
                                        [t](const auto& l) { return l.time_s.contains(t); });
        for (int w = 0; w < 4; ++w) {
            const double share = is_front(w) ? 1 - car.rear_share : car.rear_share;
            load[static_cast<std::size_t>(w)] =
                std::max(50.0, share * (weight + aero) / 2 + (is_front(w) ? -pitch : pitch) / 2 +
                                   (is_left(w) ? -1 : 1) * roll * (is_front(w) ? front_roll : 1 - front_roll));
            const double side = (is_left(w) ? -1 : 1) * car.track_m / 2;
            double slip = is_front(w) ? -0.012 * brake / 10
                                      : 0.02 * throttle * std::min(1.0, 15 / std::max(v, 1.0)) - 0.01 * brake / 10;
            if (locked && w == 0) slip = -0.85;
            speed[static_cast<std::size_t>(w)] = std::max(0.0, (v + side * v * k) * (1 + slip));
        }
        s.load.push_back(load);
        s.wheel_speed.push_back(speed);
    }
    return s;
}

class Logger {
  public:
    Logger(const Circuit& circuit, const Car& car, const RunPlan& plan, const Drive& drive,
           const SensorOptions& options)
        : circuit_(circuit),
          car_(car),
          plan_(plan),
          drive_(drive),
          options_(options),
          state_(state_of(circuit, car, plan, drive)),
          noise_(plan.seed * 7919) {}

    Recording record() {
        recording_.source_name = "main-logger " + plan_.name + ".MF4";
        recording_.logger = "Main logger";
        recording_.start_unix_s = plan_.start_unix_s;
        positions();
        add(
            "GPS Speed", "speed", "m/s", 20,
            [this](double t) { return std::max(0.0, of(state_.speed, t) + 0.03 * noise_.normal()); }, true);
        add("Throttle", "throttle", "", 50,
            [this](double t) { return std::clamp(of(state_.throttle, t) + 0.002 * noise_.normal(), 0.0, 1.0); });
        add("Brake Pres Front", "brake_front", "Pa", 100,
            [this](double t) { return of(state_.brake_front, t) + 1.5e4 * noise_.normal(); });
        add("Brake Pres Rear", "brake_rear", "Pa", 100, [this](double t) {
            const double pressure = of(state_.brake_rear, t) + 1.5e4 * noise_.normal();
            return failing(Failure::Kind::rear_brake_saturated, t) ? std::min(pressure, 1.2e6) : pressure;
        });
        add("Steering Angle", "steering", "rad", 100,
            [this](double t) { return of(state_.steering, t) + 0.008 * noise_.normal(); });
        add("Gear", "gear", "", 50, [this](double t) { return state_.gear[cell(t)]; });
        add("Engine Speed", "engine_speed", "rad/s", 100,
            [this](double t) { return of(state_.revs, t) + 1.5 * noise_.normal(); });
        add("Accel Lat", "lateral_acceleration", "m/s²", 100,
            [this](double t) { return of(state_.lateral, t) + 0.25 * noise_.normal(); });
        add("Accel Long", "longitudinal_acceleration", "m/s²", 100,
            [this](double t) { return of(state_.along, t) + 0.25 * noise_.normal(); });
        add("Yaw Rate", "yaw_rate", "rad/s", 100,
            [this](double t) { return of(state_.yaw_rate, t) + 0.006 * noise_.normal(); });
        for (int w = 0; w < 4; ++w) {
            add(std::string("Wheel Speed ") + wheels[w], std::string("wheel_speed_") + wheel_ids[w], "m/s", 100,
                [this, w](double t) {
                    return std::max(0.0,
                                    state_.wheel_speed[cell(t)][static_cast<std::size_t>(w)] + 0.04 * noise_.normal());
                });
        }
        if (options_.suspension) suspension();
        temperatures();
        if (!circuit_.open) laps_counted();
        return std::move(recording_);
    }

  private:
    [[nodiscard]] std::size_t cell(double t) const {
        return std::min(static_cast<std::size_t>(t / Drive::step_s + 0.5), drive_.along_m.size() - 1);
    }
    static double of(const std::vector<double>& values, double t) { return at_time(values, t); }

    /// Whether a planned failure is going on; lap and corner give its place, seconds its length.
    [[nodiscard]] bool failing(Failure::Kind kind, double t) const {
        for (const Failure& failure : plan_.failures) {
            if (failure.kind != kind) continue;
            if (failure.corner == 0) return true;  // the whole run
            const auto& corner = circuit_.corners[static_cast<std::size_t>(failure.corner - 1)];
            const double begin = drive_.time_at(failure.lap * circuit_.length_m + corner.start_m - 60);
            if (t >= begin && t < begin + failure.seconds) return true;
        }
        return false;
    }

    void add(std::string name, std::string quantity, const char* unit, double rate_hz,
             const std::function<double(double)>& value, bool from_gps = false) {
        ChannelStorage storage;
        const auto n = static_cast<std::size_t>(drive_.duration_s() * rate_hz) + 1;
        storage.floats.resize(n);
        for (std::size_t i = 0; i < n; ++i) {
            const double t = static_cast<double>(i) / rate_hz;
            storage.floats[i] = static_cast<float>(value(t));
            if (from_gps && failing(Failure::Kind::gps_missing, t)) storage.floats[i] = std::nanf("");
        }
        recording_.channels.push_back(
            make_channel(std::move(name), std::move(quantity), unit, std::move(storage), 0, rate_hz));
    }

    void positions() {
        constexpr double rate_hz = 20, correlation_s = 600, bias_m = 0.35;
        const double white_m = options_.gps_noise_m;
        const LocalPlane plane(circuit_.origin);
        ChannelStorage latitude, longitude, height;
        const auto n = static_cast<std::size_t>(drive_.duration_s() * rate_hz) + 1;
        Point bias{bias_m * noise_.normal(), bias_m * noise_.normal()};
        const double keep = std::exp(-1 / rate_hz / correlation_s), renew = bias_m * std::sqrt(1 - keep * keep);
        for (std::size_t i = 0; i < n; ++i) {
            const double t = static_cast<double>(i) / rate_hz;
            const std::size_t at = cell(t);
            Point place = drive_.position[at];
            bias = bias * keep + Point{renew * noise_.normal(), renew * noise_.normal()};
            const Point white{white_m * noise_.normal(), white_m * noise_.normal()};
            if (options_.gps_errors) place = place + bias + white;
            const GeoPoint geo = plane.to_geo(place);
            const bool missing = failing(Failure::Kind::gps_missing, t);
            latitude.doubles.push_back(missing ? std::nan("") : geo.latitude_deg);
            longitude.doubles.push_back(missing ? std::nan("") : geo.longitude_deg);
            height.floats.push_back(static_cast<float>(missing ? std::nan("")
                                                               : circuit_.height_m[circuit_.index(drive_.along_m[at])] +
                                                                     0.5 * noise_.normal()));
        }
        recording_.channels.push_back(make_channel("GPS Latitude", "latitude", "deg", std::move(latitude), 0, rate_hz));
        recording_.channels.push_back(
            make_channel("GPS Longitude", "longitude", "deg", std::move(longitude), 0, rate_hz));
        recording_.channels.push_back(make_channel("GPS Altitude", "altitude", "m", std::move(height), 0, rate_hz));
    }

    void suspension() {
        constexpr double rate_hz = SuspensionMotion::rate_hz;
        const SuspensionMotion motion = suspension_motion(circuit_, car_, plan_.state, drive_, state_.load);
        const auto sample = [&](const std::array<std::vector<float>, 4>& values, std::size_t w, double t) {
            return static_cast<double>(
                values[w][std::min(static_cast<std::size_t>(t * rate_hz + 0.5), values[w].size() - 1)]);
        };
        for (std::size_t w = 0; w < 4; ++w) {
            double last = 0;
            add(std::string("Damper ") + wheels[w], std::string("damper_") + wheel_ids[w], "m", rate_hz, [&](double t) {
                if (w == 3 && failing(Failure::Kind::damper_rr_flat, t)) return last;
                return last = sample(motion.travel_m, w, t) + 4e-5 * noise_.normal();
            });
        }
        for (std::size_t w = 0; w < 4; ++w)
            add(std::string("Tyre Load ") + wheels[w], std::string("tyre_load_") + wheel_ids[w], "N", 200,
                [&](double t) { return sample(motion.load_n, w, t) + 25 * noise_.normal(); });
        // The floor cannot go below the road: it touches.
        const auto height = [&](bool front, double lowered) {
            const double still = front ? plan_.state.front_ride_height_m : plan_.state.rear_ride_height_m;
            return std::max(0.0005, still - lowered) + 1.5e-4 * noise_.normal();
        };
        for (std::size_t w = 0; w < 4; ++w)
            add(std::string("Ride Height ") + wheels[w], std::string("ride_height_") + wheel_ids[w], "m", 200,
                [&](double t) { return height(w < 2, sample(motion.lowered_m, w, t)); });
        for (const std::size_t left : {0U, 2U}) {
            const bool front = left == 0;
            add(front ? "Ride Height Front" : "Ride Height Rear", front ? "ride_height_front" : "ride_height_rear", "m",
                200, [&](double t) {
                    return height(front,
                                  0.5 * (sample(motion.lowered_m, left, t) + sample(motion.lowered_m, left + 1, t)));
                });
        }
    }

    /// First-order models: heat in from work at the contact patch or the disc, out to the air.
    void temperatures() {
        constexpr double rate_hz = 10, step = 1 / rate_hz;
        const auto n = static_cast<std::size_t>(drive_.duration_s() * rate_hz) + 1;
        std::array<std::vector<double>, 4> carcass, inner, middle, outer, pressure, disc;
        for (std::size_t w = 0; w < 4; ++w) {
            double tread = 48, body = 45, brake = 90;
            const double set_bar = is_front(static_cast<int>(w)) ? 1.52 : 1.48;
            for (std::size_t i = 0; i < n; ++i) {
                const std::size_t at = cell(static_cast<double>(i) * step);
                const double v = state_.speed[at], load = state_.load[at][w];
                const double heat =
                    (is_front(static_cast<int>(w)) ? plan_.state.front_tyre_heat : plan_.state.rear_tyre_heat) *
                    (is_left(static_cast<int>(w)) ? plan_.state.left_tyre_heat : 1);
                const double work =
                    heat * load * v * (std::abs(state_.lateral[at]) * 0.06 + std::abs(state_.along[at]) * 0.025);
                tread += step * (work * 1.15e-4 - (tread - 22) * (0.02 + 0.0012 * v) - (tread - body) * 0.05);
                body += step * ((tread - body) * 0.012 - (body - 22) * 0.0015);
                const double stopping =
                    (is_front(static_cast<int>(w)) ? state_.brake_front[at] : state_.brake_rear[at]) * v;
                brake += step * (stopping * 9.5e-7 - (brake - 25) * (0.01 + 0.0016 * v) * plan_.state.brake_cooling);
                const double leaning =
                    std::clamp(state_.lateral[at] / g * (is_left(static_cast<int>(w)) ? -1 : 1), -1.5, 1.5);
                carcass[w].push_back(body);
                inner[w].push_back(tread + 6 - 3 * leaning);
                middle[w].push_back(tread + 1);
                outer[w].push_back(tread - 4 + 4 * leaning);
                pressure[w].push_back((set_bar + 1.013) * (body + celsius) / (22 + celsius) - 1.013);
                disc[w].push_back(brake);
            }
        }
        double oil = 78, water = 74;
        std::vector<double> oil_temperature, water_temperature, fuel;
        double litres = plan_.state.fuel_l;
        for (std::size_t i = 0; i < n; ++i) {
            const std::size_t at = cell(static_cast<double>(i) * step);
            const double power = state_.throttle[at] * std::min(1.0, state_.revs[at] / 700);
            oil += step * (power * 0.55 - (oil - 25) * 0.0036);
            water += step * (power * 0.6 - (water - 25) * 0.0046);
            litres -= step * (0.0004 + power * 0.0135);
            oil_temperature.push_back(oil);
            water_temperature.push_back(water);
            fuel.push_back(litres);
        }
        const auto slow = [&](const std::string& name, const std::string& quantity, const char* unit,
                              const std::vector<double>& values, double factor, double offset, double scatter) {
            add(name, quantity, unit, rate_hz, [&, factor, offset, scatter](double t) {
                if (quantity == "tyre_pressure_rl" && failing(Failure::Kind::tyre_pressure_rl_dead, t)) return 0.0;
                if (quantity == "oil_temperature" && failing(Failure::Kind::oil_temperature_spikes, t) &&
                    noise_.uniform() < 0.004)
                    return 420.0 + 60 * noise_.uniform();
                const auto i = std::min(static_cast<std::size_t>(t * rate_hz + 0.5), values.size() - 1);
                return (values[i] + scatter * noise_.normal()) * factor + offset;
            });
        };
        for (std::size_t w = 0; w < 4; ++w) {
            const std::string wheel = wheels[w], id = wheel_ids[w];
            slow("Tyre Carcass " + wheel, "tyre_temperature_" + id, "K", carcass[w], 1, celsius, 0.1);
            slow("Tyre Inner " + wheel, "tyre_inner_" + id, "K", inner[w], 1, celsius, 0.3);
            slow("Tyre Middle " + wheel, "tyre_middle_" + id, "K", middle[w], 1, celsius, 0.3);
            slow("Tyre Outer " + wheel, "tyre_outer_" + id, "K", outer[w], 1, celsius, 0.3);
            slow("Tyre Pressure " + wheel, "tyre_pressure_" + id, "Pa", pressure[w], 1e5, 0, 0.003);
            slow("Brake Disc " + wheel, "brake_temperature_" + id, "K", disc[w], 1, celsius, 1.5);
        }
        if (plan_.state.worn_per_lap[0] > 0) {
            for (std::size_t w = 0; w < 4; ++w)
                add("Tyre Worn " + std::string(wheels[w]), std::string("tyre_worn_") + wheel_ids[w], "", 1,
                    [&, w](double t) {
                        const double laps = std::max(0.0, at_time(drive_.along_m, t) / circuit_.length_m);
                        return plan_.state.worn_per_lap[w] * (plan_.tyre_laps + laps) + 0.001 * noise_.normal();
                    });
        }
        slow("Oil Temp", "oil_temperature", "K", oil_temperature, 1, celsius, 0.1);
        slow("Water Temp", "water_temperature", "K", water_temperature, 1, celsius, 0.1);
        slow("Fuel", "fuel", "m³", fuel, 1e-3, 0, 0.05);
        add("Oil Pressure", "oil_pressure", "Pa", rate_hz, [&](double t) {
            double oil_pressure = 1.6e5 + 520 * of(state_.revs, t);
            const double left = of(state_.lateral, t);
            const auto i = std::min(static_cast<std::size_t>(t * rate_hz + 0.5), fuel.size() - 1);
            // The pump draws air when the oil is thrown to the right for long and the tank no longer holds it there.
            if (plan_.state.oil_surges && left > 9 && fuel[i] < plan_.state.fuel_l / 2)
                oil_pressure = std::max(0.4e5, oil_pressure - 6e4 * (left - 9));
            return oil_pressure + 3e3 * noise_.normal();
        });
    }

    /// The logger counts laps at its own line, which may be misplaced.
    void laps_counted() {
        add("Lap Count", "lap_count", "", 20, [this](double t) {
            return std::max(0.0, std::floor((at_time(drive_.along_m, t) - plan_.beacon_offset_m) / circuit_.length_m) +
                                     (plan_.from_pits ? 0 : 1));
        });
    }

    const Circuit& circuit_;
    const Car& car_;
    const RunPlan& plan_;
    const Drive& drive_;
    SensorOptions options_;
    State state_;
    Noise noise_;
    Recording recording_;
};

}  // namespace

Recording main_logger(const Circuit& circuit, const Car& car, const RunPlan& plan, const Drive& drive,
                      const SensorOptions& options) {
    return Logger(circuit, car, plan, drive, options).record();
}

Recording pocket_logger(const Circuit& circuit, const RunPlan& plan, const Drive& drive) {
    constexpr double rate_hz = 20;
    Recording recording;
    recording.source_name = "pocket-logger " + plan.name + ".csv";
    recording.logger = "Pocket logger";
    Noise noise(plan.seed * 104729);
    const LocalPlane plane(circuit.origin);
    ChannelStorage latitude, longitude, speed, lateral, along;
    const Point bias{0.5 * noise.normal(), 0.5 * noise.normal()};
    for (double t = pocket_late_s; t < drive.duration_s(); t += 1 / rate_hz) {
        const auto at = static_cast<std::size_t>(t / Drive::step_s + 0.5);
        const GeoPoint place =
            plane.to_geo(drive.position[at] + bias + Point{0.2 * noise.normal(), 0.2 * noise.normal()});
        const double v = drive.speed_mps[at];
        // As written by the device: millionths of a degree are too coarse, so it writes seven decimals.
        latitude.doubles.push_back(std::round(place.latitude_deg * 1e7) / 1e7);
        longitude.doubles.push_back(std::round(place.longitude_deg * 1e7) / 1e7);
        speed.floats.push_back(static_cast<float>(std::max(0.0, v + 0.05 * noise.normal())));
        lateral.floats.push_back(static_cast<float>(-v * v * drive.curvature[at] + 0.4 * noise.normal()));
        along.floats.push_back(static_cast<float>(drive.along_mps2[at] + 0.4 * noise.normal()));
    }
    const auto add = [&](const char* name, const char* quantity, const char* unit, ChannelStorage storage) {
        recording.channels.push_back(make_channel(name, quantity, unit, std::move(storage), 0, rate_hz));
    };
    add("Latitude", "latitude", "deg", std::move(latitude));
    add("Longitude", "longitude", "deg", std::move(longitude));
    add("Speed", "speed", "m/s", std::move(speed));
    add("Lat g", "lateral_acceleration", "m/s²", std::move(lateral));
    add("Long g", "longitudinal_acceleration", "m/s²", std::move(along));
    return recording;
}

}  // namespace rendak::demo
