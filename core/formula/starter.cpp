#include <stdexcept>

#include "core/formula/formula_set.h"

namespace rendak::formula {
namespace {

/// Written as people paste formulas. Values in first_of(car.…, …) can be set in the car sheet.
constexpr const char* texts[] = {
    // ---- what the car does, from GPS alone --------------------------------------------------------
    "# Along acceleration without noise\n"
    "along_smooth in g from -2 to 1 = lowpass(longitudinal_acceleration, 3 Hz)",
    "# Lateral acceleration without noise; left is positive\n"
    "lateral_smooth in g from -3 to 3 = lowpass(lateral_acceleration, 3 Hz)",
    "# Acceleration in any direction\n"
    "combined_g in g from 0 to 3 = hypot(lateral_smooth, along_smooth)",
    "# Curvature of the path driven, from speed and lateral acceleration; left is positive\n"
    "curvature_driven in 1/m from -0.1 to 0.1 with 4 decimals = lateral_smooth / maximum(speed, 5 m/s)²",
    "# Radius of the path driven; capped on straights (car.largest_radius)\n"
    "corner_radius in m from 0 to 300 with 0 decimals = minimum(1 / maximum(abs(curvature_driven), 1 / 100000 m), "
    "first_of(car.largest_radius, 1000 m))",
    "# On the brake: by its pressure or pedal (car.brake_on), else by slowing down (car.braking_from)\n"
    "braking = driver_on_brake",
    "# On the throttle: by the pedal (car.throttle_on), else by gaining speed (car.throttle_from)\n"
    "on_throttle = driver_on_throttle",
    "# At the end of the pedal's travel as this car has it (car.throttle_full)\n"
    "full_throttle = driver_full_throttle",
    "# More lateral acceleration than car.cornering_from\n"
    "cornering = driver_cornering",
    "# None of brake, throttle and cornering above 20 km/h: time given away\n"
    "coasting = driver_coasting",
    "braking_time in s from 0 to 30 = time_while(braking)",
    "braking_distance in m from 0 to 1500 with 0 decimals = distance_while(braking)",
    "braking_share in % from 0 to 100 with 1 decimals = share_while(braking)",
    "throttle_time in s from 0 to 80 = time_while(on_throttle)",
    "throttle_distance in m from 0 to 4000 with 0 decimals = distance_while(on_throttle)",
    "throttle_share in % from 0 to 100 with 1 decimals = share_while(on_throttle)",
    "cornering_time in s from 0 to 80 = time_while(cornering)",
    "cornering_distance in m from 0 to 4000 with 0 decimals = distance_while(cornering)",
    "cornering_share in % from 0 to 100 with 1 decimals = share_while(cornering)",
    "coasting_time in s from 0 to 10 = time_while(coasting)",
    "coasting_distance in m from 0 to 500 with 0 decimals = distance_while(coasting)",
    "coasting_share in % from 0 to 100 with 1 decimals = share_while(coasting)",
    "# How far left of the line of least curvature the car is, where the track's edges are known\n"
    "ideal_line_distance in m from -8 to 8 = track_offset - ideal_offset",
    "# How far left of the quickest line of a point with this run's own limits the car is; for comparison\n"
    "quickest_line_distance in m from -8 to 8 = track_offset - quickest_offset",
    // ---- pedals -----------------------------------------------------------------------------------
    "# The same as braking\n"
    "on_brakes = driver_on_brake",
    "# Braking and turning at once\n"
    "trail_braking = on_brakes and cornering",
    "# Share of the braking time so far that is trail braking\n"
    "trail_braking_overlap in % from 0 to 100 with 1 decimals = time_while(trail_braking) / "
    "maximum(time_while(on_brakes), 0.01 s)",
    "# Front share of the brake pressure, while braking\n"
    "brake_balance in % from 40 to 80 with 1 decimals = brake_front / (brake_front + brake_rear) if on_brakes else "
    "missing",
    // ---- engine -----------------------------------------------------------------------------------
    "# From revs and speed, by the top speed of each gear in the car sheet; car.lowest_gear to car.highest_gear\n"
    "gear_estimated from 0 to 7 with 0 decimals = clip(rint(interp(speed * car.top_revs / maximum(engine_speed, 100 "
    "rpm), "
    "[car.gear_1_top_speed, car.gear_2_top_speed, car.gear_3_top_speed, car.gear_4_top_speed, "
    "first_of(car.gear_5_top_speed, 1.2 * car.gear_4_top_speed), "
    "first_of(car.gear_6_top_speed, 1.2 * first_of(car.gear_5_top_speed, 1.2 * car.gear_4_top_speed))], [1, 2, 3, 4, "
    "5, 6])), "
    "first_of(car.lowest_gear, 1), first_of(car.highest_gear, 6))",
    "# Power that goes into gaining speed\n"
    "acceleration_power in kW from -500 to 300 with 0 decimals = car.mass * along_smooth * speed",
    "# Air drag from car.drag_area (cd times area) at car.air_density\n"
    "drag_force in N from 0 to 4000 with 0 decimals = 0.5 * first_of(car.air_density, 1.2 kg/m³) * car.drag_area * "
    "speed²",
    "# What slows the car while it rolls straight with neither pedal: drag as driven\n"
    "coast_down_force in N from 0 to 4000 with 0 decimals = missing if on_brakes or cornering or speed < 50 km/h or "
    "first_of(throttle > 2 %, on_throttle) else -car.mass * along_smooth",
    "# Power at the wheels: what gains speed and what the air takes; while not braking\n"
    "wheel_power in kW from 0 to 300 with 0 decimals = missing if on_brakes else acceleration_power + drag_force * "
    "speed",
    "# Used over each whole lap\n"
    "fuel_per_lap in l from 0 to 5 = first(fuel) - last(fuel)",
    "# Oil pressure where the car turns hard (car.hard_cornering)\n"
    "oil_pressure_cornering in bar from 0 to 8 = oil_pressure if abs(lateral_smooth) > first_of(car.hard_cornering, "
    "0.8 g) else missing",
    "# The lowest of it in each lap\n"
    "oil_pressure_lowest in bar from 0 to 8 = min(oil_pressure, where=abs(lateral_smooth) > "
    "first_of(car.hard_cornering, 0.8 g))",
    // ---- wheels -----------------------------------------------------------------------------------
    "# GPS speed: knows neither slip nor tyre growth; else the mean of the rear wheels\n"
    "reference_speed in km/h from 0 to 280 with 1 decimals = first_of(speed, (wheel_speed_rl + wheel_speed_rr) / 2)",
    "# The same at the left and right wheels, which drive another radius\n"
    "reference_speed_left in km/h from 0 to 280 with 1 decimals = "
    "first_of(reference_speed - yaw_rate * first_of(car.track_width, 1.5 m) / 2, reference_speed)",
    "reference_speed_right in km/h from 0 to 280 with 1 decimals = "
    "first_of(reference_speed + yaw_rate * first_of(car.track_width, 1.5 m) / 2, reference_speed)",
    "wheel_slip_fl in % from -40 to 20 with 1 decimals = wheel_speed_fl / maximum(reference_speed_left, 3 m/s) - 1",
    "wheel_slip_fr in % from -40 to 20 with 1 decimals = wheel_speed_fr / maximum(reference_speed_right, 3 m/s) - 1",
    "wheel_slip_rl in % from -40 to 20 with 1 decimals = wheel_speed_rl / maximum(reference_speed_left, 3 m/s) - 1",
    "wheel_slip_rr in % from -40 to 20 with 1 decimals = wheel_speed_rr / maximum(reference_speed_right, 3 m/s) - 1",
    "# Slip below −15 % (car.lock_up_slip) for 50 ms above 30 km/h\n"
    "lock_up_fl = lasting(wheel_slip_fl < -first_of(car.lock_up_slip, 15 %) and reference_speed > 30 km/h, 50 ms)",
    "lock_up_fr = lasting(wheel_slip_fr < -first_of(car.lock_up_slip, 15 %) and reference_speed > 30 km/h, 50 ms)",
    "lock_up_rl = lasting(wheel_slip_rl < -first_of(car.lock_up_slip, 15 %) and reference_speed > 30 km/h, 50 ms)",
    "lock_up_rr = lasting(wheel_slip_rr < -first_of(car.lock_up_slip, 15 %) and reference_speed > 30 km/h, 50 ms)",
    "# Any wheel\n"
    "lock_up = lock_up_fl or lock_up_fr or lock_up_rl or lock_up_rr",
    "# A rear wheel faster than the road by car.wheelspin_slip for 50 ms\n"
    "wheelspin = lasting(maximum(wheel_slip_rl, wheel_slip_rr) > first_of(car.wheelspin_slip, 8 %) and reference_speed "
    "> 30 km/h, 50 ms)",
    // ---- chassis ----------------------------------------------------------------------------------
    "# Bump is positive\n"
    "damper_speed_fl in mm/s from -300 to 300 with 0 decimals = savgol_filter(damper_fl, window=0.02 s, deriv=1)",
    "damper_speed_fr in mm/s from -300 to 300 with 0 decimals = savgol_filter(damper_fr, window=0.02 s, deriv=1)",
    "damper_speed_rl in mm/s from -300 to 300 with 0 decimals = savgol_filter(damper_rl, window=0.02 s, deriv=1)",
    "damper_speed_rr in mm/s from -300 to 300 with 0 decimals = savgol_filter(damper_rr, window=0.02 s, deriv=1)",
    "# Body against the wheels, from the dampers and car.motion_ratio (wheel over damper); left side up is positive\n"
    "roll in ° from -4 to 4 = arctan2(first_of(car.motion_ratio, 1) * (damper_fr + damper_rr - damper_fl - damper_rl) "
    "/ 2, car.track_width)",
    "# Nose down is positive\n"
    "pitch in ° from -3 to 3 = arctan2(first_of(car.motion_ratio, 1) * (damper_fl + damper_fr - damper_rl - damper_rr) "
    "/ 2, car.wheelbase)",
    "# Down is positive\n"
    "heave in mm from 0 to 60 with 1 decimals = first_of(car.motion_ratio, 1) * (damper_fl + damper_fr + damper_rl + "
    "damper_rr) / 4",
    "# Rear higher than front is positive\n"
    "rake in mm from -20 to 60 with 1 decimals = ride_height_rear - ride_height_front",
    "# More steering than the path needs is positive (Milliken and Milliken 1995)\n"
    "understeer_angle in ° from -2 to 4 = lowpass(steering / car.steering_ratio - car.wheelbase * yaw_rate / "
    "maximum(speed, 10 m/s), 5 Hz) "
    "* sign(lateral_smooth) if abs(lateral_smooth) > first_of(car.cornering_from, 0.3 g) else missing",
    // ---- temperatures -----------------------------------------------------------------------------
    "# Above car.tyre_window_high is positive, below car.tyre_window_low negative, inside the window 0\n"
    "tyre_window_fl in K from -40 to 40 with 1 decimals = maximum(tyre_temperature_fl - car.tyre_window_high, 0 K) + "
    "minimum(tyre_temperature_fl - car.tyre_window_low, 0 K)",
    "tyre_window_fr in K from -40 to 40 with 1 decimals = maximum(tyre_temperature_fr - car.tyre_window_high, 0 K) + "
    "minimum(tyre_temperature_fr - car.tyre_window_low, 0 K)",
    "tyre_window_rl in K from -40 to 40 with 1 decimals = maximum(tyre_temperature_rl - car.tyre_window_high, 0 K) + "
    "minimum(tyre_temperature_rl - car.tyre_window_low, 0 K)",
    "tyre_window_rr in K from -40 to 40 with 1 decimals = maximum(tyre_temperature_rr - car.tyre_window_high, 0 K) + "
    "minimum(tyre_temperature_rr - car.tyre_window_low, 0 K)",
    "# The same for the brake discs\n"
    "brake_window_front in K from -300 to 300 with 0 decimals = "
    "maximum((brake_temperature_fl + brake_temperature_fr) / 2 - car.brake_window_high, 0 K) + "
    "minimum((brake_temperature_fl + brake_temperature_fr) / 2 - car.brake_window_low, 0 K)",
    "brake_window_rear in K from -300 to 300 with 0 decimals = "
    "maximum((brake_temperature_rl + brake_temperature_rr) / 2 - car.brake_window_high, 0 K) + "
    "minimum((brake_temperature_rl + brake_temperature_rr) / 2 - car.brake_window_low, 0 K)",
    "tyre_front_minus_rear in K from -30 to 30 with 1 decimals = (tyre_temperature_fl + tyre_temperature_fr) / 2 - "
    "(tyre_temperature_rl + tyre_temperature_rr) / 2",
    "tyre_left_minus_right in K from -30 to 30 with 1 decimals = (tyre_temperature_fl + tyre_temperature_rl) / 2 - "
    "(tyre_temperature_fr + tyre_temperature_rr) / 2",
    "brake_front_minus_rear in K from -300 to 300 with 0 decimals = (brake_temperature_fl + brake_temperature_fr) / 2 "
    "- "
    "(brake_temperature_rl + brake_temperature_rr) / 2",
};

FormulaSet written_set() {
    FormulaSet set;
    set.name = std::string(starter_name);
    set.remarks = "Shipped with Rendak. Copy a formula into a set of your own to change it: yours wins.";
    for (const char* text : texts) {
        auto formula = formula_from_text(text);
        if (!formula) throw std::logic_error(formula.error().text());
        set.formulas.push_back(std::move(*formula));
    }
    return set;
}

}  // namespace

const FormulaSet& starter_set() {
    static const FormulaSet set = written_set();
    return set;
}

}  // namespace rendak::formula
