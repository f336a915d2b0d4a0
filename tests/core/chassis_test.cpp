// The chassis, on cars whose springs, dampers, power and drag are known, and on circuits that nothing was tuned to.
#include <gtest/gtest.h>

#include <cmath>
#include <fstream>
#include <nlohmann/json.hpp>
#include <numbers>

#include "core/analysis/set_difference.h"
#include "core/chassis/air_load.h"
#include "core/chassis/balance.h"
#include "core/chassis/damper_speed.h"
#include "core/chassis/dampers.h"
#include "core/chassis/height_curves.h"
#include "core/chassis/heights.h"
#include "core/chassis/power.h"
#include "core/chassis/stretch_spectra.h"
#include "core/chassis/strikes.h"
#include "demo/suspension.h"
#include "tests/support/exact_laps.h"
#include "tests/support/figures_only.h"
#include "tests/support/got.h"
#include "tests/support/made_world.h"
#include "tests/support/own_build.h"

using namespace rendak;
using test::drawn_circuit;
using test::drawn_track;
using test::exact_laps;
using test::got;

namespace {

constexpr double g = 9.80665;

demo::RunPlan plan_of(int flying, std::uint64_t seed) {
    demo::RunPlan out = test::MadeWorld::plan(flying + 1, seed, 0.7);
    out.name = "Made";
    return out;
}

ChassisSheet sheet() {
    ChassisSheet out;
    out.wheelbase_m = 2.55;
    out.track_width_m = 1.5;
    out.steering_ratio = 13;
    out.height_front_m = 0.021;
    out.height_rear_m = 0.046;
    return out;
}

/// The recording of laps without some of its channels; "damper*" are all that begin so.
std::vector<PreparedLap> laps_without(std::vector<PreparedLap> laps, const std::vector<std::string>& names) {
    auto less = std::make_shared<Recording>(*laps.front().recording);
    std::erase_if(less->channels, [&](const Channel& channel) {
        return std::any_of(names.begin(), names.end(), [&](const std::string& name) {
            return name.ends_with('*') ? channel.quantity.starts_with(name.substr(0, name.size() - 1))
                                       : channel.quantity == name;
        });
    });
    for (PreparedLap& lap : laps) lap.recording = less;
    return laps;
}

/// A lap of ten seconds with one channel by a function of time, on a straight of 500 m.
template <class Of>
PreparedLap plain_lap(const std::string& quantity, double rate_hz, Of of) {
    ChannelStorage storage;
    for (int i = 0; static_cast<double>(i) <= 10 * rate_hz; ++i)
        storage.floats.push_back(static_cast<float>(of(static_cast<double>(i) / rate_hz)));
    auto recording = std::make_shared<Recording>();
    recording->channels.push_back(make_channel(quantity, quantity, "m", std::move(storage), 0, rate_hz));
    auto road = std::make_shared<Track>();
    road->length_m = 500;
    for (int i = 0; i < 500; ++i) road->line.push_back({static_cast<double>(i), 0});
    PreparedLap lap;
    lap.recording = recording;
    lap.track = road;
    lap.map.time_s = {0, 10};
    lap.map.distance_m = {0, 500};
    return lap;
}

TEST(DamperSpeeds, OfASineAreItsDerivative) {
    const double f = 2, size = 0.01, w = 2 * std::numbers::pi * f;
    const std::vector laps{plain_lap("damper_fl", 500, [&](double t) { return size * std::sin(w * t); })};
    const auto stretches = stretches_of(StretchKind::lap, laps);
    const auto wheels = got(dampers_of(laps, stretches, 0.05));
    ASSERT_EQ(wheels.size(), 1U);
    const DamperFigures& fl = wheels[0];
    EXPECT_EQ(fl.wheel, "fl");
    EXPECT_NEAR(fl.rms_mps[0], size * w / std::sqrt(2.0), 0.001);
    // A speed s is passed for arccos(s / most) / π of the time.
    const double fast = std::acos(0.05 / (size * w)) / std::numbers::pi;
    EXPECT_NEAR(fl.shares.bump_fast, fast, 0.005);
    EXPECT_NEAR(fl.shares.rebound_fast, fast, 0.005);
    EXPECT_NEAR(fl.shares.bump_fast + fl.shares.bump_slow + fl.shares.rebound_fast + fl.shares.rebound_slow, 1, 1e-12);
    EXPECT_NEAR(fl.symmetry(), 1, 0.02);
    EXPECT_NEAR(fl.fastest_bump_mps, size * w, 0.002);
    double all = 0;
    for (const double share : fl.share) all += share;
    EXPECT_NEAR(all, 1, 1e-9);
    EXPECT_EQ(fl.beyond, 0);
    EXPECT_EQ(fl.says, DamperFigures::Says::nothing) << "a sine is no body on a road";
    // The border of slow and fast is whose who looks.
    EXPECT_NEAR(got(dampers_of(laps, stretches, 0.2))[0].shares.bump_fast, 0, 1e-12);
    EXPECT_FALSE(dampers_of(laps, stretches, 0));
    EXPECT_FALSE(dampers_of(laps, {}, 0.05));
    // An axle with one wheel is that wheel's; one without has none.
    EXPECT_EQ(axle_shares(wheels, true), fl.share);
    EXPECT_FALSE(axle_shares(wheels, false));
}

TEST(DamperSpeeds, SawtoothComesOutFasterThanItGoesIn) {
    // In for 0.8 s, out within 0.2 s.
    const std::vector laps{plain_lap("damper_rr", 200, [](double t) {
        const double in = t - std::floor(t);
        return in < 0.8 ? 0.02 * in / 0.8 : 0.02 * (1 - in) / 0.2;
    })};
    const auto rr = got(dampers_of(laps, stretches_of(StretchKind::lap, laps), 0.05))[0];
    EXPECT_NEAR(rr.symmetry(), 4, 0.4) << "its corners are rounded by the 20 ms";
    EXPECT_NEAR(rr.shares.bump_slow, 0.8, 0.03);
    EXPECT_NEAR(rr.shares.rebound_fast, 0.2, 0.03);
}

TEST(DamperSpeeds, AStuckOrSlowSensorTellsNothing) {
    const auto look = [](const PreparedLap& lap) {
        const std::vector laps{lap};
        return dampers_of(laps, stretches_of(StretchKind::lap, laps), 0.05);
    };
    EXPECT_FALSE(look(plain_lap("damper_fl", 500, [](double) { return 0.012; })));
    EXPECT_FALSE(look(plain_lap("damper_fl", 20, [](double t) { return 0.01 * std::sin(t); })));
    EXPECT_FALSE(look(plain_lap("ride_height_fl", 500, [](double t) { return 0.01 * std::sin(t); })));
    // Half a lap of it is the half that counts.
    const auto half =
        look(plain_lap("damper_fl", 500, [](double t) { return t < 5 ? 0.01 * std::sin(12 * t) : 0.004; }));
    ASSERT_TRUE(half);
    EXPECT_NEAR((*half)[0].rms_mps[0], 0.12 / std::sqrt(2.0), 0.003);
}

TEST(DamperHistogram, IsWhatNumPyCounts) {
    const auto stored = nlohmann::json::parse(std::ifstream(test::tests_folder() / "fixtures/spectrum_scipy.json"));
    const auto expected = stored["histogram"].get<std::vector<double>>();
    ASSERT_EQ(expected.size(), DamperScale::bins);
    const auto speeds = stored["speeds"].get<std::vector<double>>();
    std::array<double, DamperScale::bins> counted{};
    for (const double v : speeds) {
        if (std::abs(v) < DamperScale::end_mps)
            counted[DamperScale::bin_of(v)] += 1 / static_cast<double>(speeds.size());
        EXPECT_NEAR(DamperScale::middle_mps(DamperScale::bin_of(v)), v, DamperScale::step_mps / 2 + 1e-12);
    }
    EXPECT_EQ(DamperScale::bin_of(9), DamperScale::bins - 1) << "what is beyond counts in the outermost";
    EXPECT_EQ(DamperScale::bin_of(-9), 0U);
    for (std::size_t k = 0; k < expected.size(); ++k) EXPECT_NEAR(counted[k], expected[k], 1e-9) << k;
}

TEST(StretchKinds, LieWhereTheirNamesSay) {
    const auto laps = exact_laps(drawn_circuit(), drawn_track(), plan_of(2, 5));
    ASSERT_GE(laps.size(), 2U);
    const double length = drawn_track()->length_m;
    for (const StretchKind kind :
         {StretchKind::lap, StretchKind::straights, StretchKind::corners, StretchKind::exits, StretchKind::kerbs}) {
        EXPECT_EQ(stretch_kind(stretch_kind_name(kind)), kind);
        const auto stretches = stretches_of(kind, laps);
        ASSERT_FALSE(stretches.empty()) << stretch_kind_name(kind);
        for (const Stretch& it : stretches) {
            EXPECT_GE(it.range_m.begin, 0) << it.name;
            EXPECT_LE(it.range_m.end, length + 1e-6) << it.name;
            EXPECT_GT(it.time_s, 0) << it.name;
        }
    }
    EXPECT_FALSE(stretch_kind("elsewhere"));
    // Exits begin at the slowest place and gain speed.
    for (const Stretch& exit : stretches_of(StretchKind::exits, laps)) {
        EXPECT_GT(laps[0].value_at("speed", exit.range_m.end), laps[0].value_at("speed", exit.range_m.begin) + 5);
        EXPECT_LE(exit.time_s, 4.05);
    }
    // The chicane's kerbs, and nothing else.
    for (const Stretch& kerb : stretches_of(StretchKind::kerbs, laps)) {
        const double middle = (kerb.range_m.begin + kerb.range_m.end) / 2;
        EXPECT_GT(middle, drawn_circuit().corners[6].start_m - 20) << kerb.name;
        EXPECT_LT(middle, drawn_circuit().corners[7].end_m + 20) << kerb.name;
    }
}

TEST(StretchSpectra, TellTwoDampersApartAndTwoAlikeNot) {
    auto soft = plan_of(3, 21), same = plan_of(3, 22);
    soft.state.rear_bump_clicks = 2;
    const auto a = exact_laps(drawn_circuit(), drawn_track(), soft);
    const auto b = exact_laps(drawn_circuit(), drawn_track(), plan_of(3, 23));
    const auto c = exact_laps(drawn_circuit(), drawn_track(), same);
    const auto exits = stretches_of(StretchKind::exits, b);
    SpectrumWish wish;
    wish.front = false;
    wish.wheels = WheelChoice::loaded;
    const auto of_a = got(stretch_spectra(a, exits, wish)), of_b = got(stretch_spectra(b, exits, wish)),
               of_c = got(stretch_spectra(c, exits, wish));
    ASSERT_EQ(of_a.size(), 1U);
    EXPECT_EQ(of_a[0].title, "rear, loaded");
    const auto differs = likely_difference(of_b[0].told_bands(), of_a[0].told_bands());
    ASSERT_TRUE(differs);
    EXPECT_GT(differs->begin, 0) << "soft moves more";
    const auto alike = likely_difference(of_b[0].told_bands(), of_c[0].told_bands());
    ASSERT_TRUE(alike);
    EXPECT_TRUE(alike->contains(0));
    const auto where = where_they_differ(of_b[0], of_a[0]);
    int higher = 0, apart = 0;
    for (std::size_t i = 2; i <= 4; ++i) higher += where[i] > 0 ? 1 : 0;
    for (const int it : where_they_differ(of_b[0], of_c[0])) apart += it != 0 ? 1 : 0;
    EXPECT_GE(higher, 2) << "where the body swings";
    EXPECT_LE(apart, static_cast<int>(where.size()) / 8) << "one in twenty by chance";
    // Each wheel on its own, the front, a channel by its name.
    wish.front = true;
    wish.wheels = WheelChoice::each;
    EXPECT_EQ(got(stretch_spectra(b, exits, wish)).size(), 4U);
    wish.channel = "speed";
    EXPECT_EQ(got(stretch_spectra(b, exits, wish)).at(0).title, "speed");
    // What cannot be told says why.
    wish.channel = "third_damper";
    EXPECT_NE(stretch_spectra(b, exits, wish).error().text().find("third_damper"), std::string::npos);
    wish.channel = "tyre_load";
    wish.segment_s = 30;
    EXPECT_NE(stretch_spectra(b, exits, wish).error().text().find("shorter segment"), std::string::npos);
    // A rate that does not show the band, and a sensor that is stuck on one of the laps.
    wish.segment_s = 1;
    wish.channel = "tyre_temperature_fl";
    wish.band_hz = {1, 8};
    EXPECT_NE(stretch_spectra(b, exits, wish).error().text().find("nothing above 5.0 Hz"), std::string::npos);
    wish.channel = "tyre_load";
    wish.band_hz = {1, 10};
    auto stuck = b;
    auto dead = std::make_shared<Recording>(*b[1].recording);
    for (Channel& channel : dead->channels) {
        if (channel.quantity != "tyre_load_rl") continue;
        ChannelStorage storage;
        for (std::size_t i = 0; i < channel.size(); ++i) storage.floats.push_back(2100);
        channel = make_channel("Load", "tyre_load_rl", "N", std::move(storage), 0, channel.clock.rate_hz);
    }
    stuck[1].recording = dead;
    const auto left_out = got(stretch_spectra(stuck, exits, wish));
    EXPECT_EQ(left_out[2].title, "RL");
    EXPECT_EQ(left_out[2].told_bands().size(), b.size() - 1) << "it does not count as one that moves least";
    EXPECT_EQ(left_out[3].told_bands().size(), b.size());
    // One lap has a spectrum and no interval.
    const auto one = got(stretch_spectra({b.data(), 1}, exits, wish));
    EXPECT_TRUE(one[0].low.empty());
    EXPECT_TRUE(one[0].known());
}

TEST(RideHeight, TouchesOnTheCrestAndAtTopSpeedAndPackersCureIt) {
    auto low = plan_of(4, 31);
    const auto laps = exact_laps(drawn_circuit(), drawn_track(), low);
    const Heights touched = got(heights_of(laps, sheet()));
    ASSERT_EQ(touched.axles.size(), 2U);
    EXPECT_EQ(touched.axles[1].times, 0) << "the rear stands high";
    bool crest = false, top = false;
    for (const LowPlace& place : touched.places) {
        SCOPED_TRACE(place.title + ": " + std::string(low_cause_name(place.cause)) + " at " +
                     std::to_string(place.lowest_at_m) + " m, " + std::to_string(place.left_m.value_or(-1)) + " " +
                     std::to_string(place.right_m.value_or(-1)));
        EXPECT_TRUE(place.front);
        EXPECT_LE(place.on, place.of);
        EXPECT_GT(place.depth_m, 0);
        if (place.lowest_at_m > drawn_circuit().corners[4].end_m + 150 &&
            place.lowest_at_m < drawn_circuit().corners[4].end_m + 320)
            crest = crest || place.cause == LowCause::crest;
        if (place.lowest_at_m < drawn_circuit().corners[0].start_m && place.speed_mps > 55)
            top = top || place.cause == LowCause::air;
        // A leaning car touches with the outer side.
        if (place.cause == LowCause::corner && place.left_m && place.right_m) {
            EXPECT_EQ(*place.left_m < *place.right_m, place.lateral_mps2 < 0) << place.title;
        }
    }
    EXPECT_TRUE(crest);
    EXPECT_TRUE(top);
    auto high = low;
    high.state.front_ride_height_m += 0.006;
    high.state.front_packers_m = 0.006;
    const Heights cured = got(heights_of(exact_laps(drawn_circuit(), drawn_track(), high), sheet()));
    EXPECT_LT(cured.axles[0].times, 0.2 * touched.axles[0].times);
    // A limit of the sheet is the limit.
    ChassisSheet strict = sheet();
    strict.least_front_m = 0.012;
    EXPECT_GT(got(heights_of(laps, strict)).axles[0].times, touched.axles[0].times);
}

TEST(RideHeight, FromDampersAndWithoutAnything) {
    const auto laps = exact_laps(drawn_circuit(), drawn_track(), plan_of(2, 32));
    const auto dampers = laps_without(laps, {"ride_height*"});
    ChassisSheet strict = sheet();
    strict.least_front_m = 0.008;
    const Heights told = got(heights_of(dampers, strict));
    EXPECT_TRUE(told.axles[0].from_dampers);
    EXPECT_FALSE(told.places.empty());
    const auto nothing = heights_of(dampers, ChassisSheet{});
    ASSERT_FALSE(nothing);
    EXPECT_NE(nothing.error().text().find("Ride height front"), std::string::npos) << nothing.error().text();
    // A lap without the sensors does not count as one that stays above.
    auto mixed = laps;
    mixed.back().recording = dampers.back().recording;
    const Heights some = got(heights_of(mixed, strict));
    EXPECT_EQ(some.untold.size(), 2U);
    for (const LowPlace& place : some.places) EXPECT_EQ(place.of, laps.size() - 1);
    // The front alone: the rear is said not to be known.
    ChassisSheet front;
    front.height_front_m = 0.021;
    const Heights half = got(heights_of(dampers, front));
    EXPECT_EQ(half.axles.size(), 1U);
    EXPECT_EQ(half.untold.size(), 1U);
    // Without sides and lateral acceleration nothing is said of the cause.
    for (const LowPlace& place :
         got(heights_of(laps_without(laps, {"ride_height_fl", "ride_height_fr", "lateral_acceleration"}), strict))
             .places)
        EXPECT_NE(place.cause, LowCause::corner);
}

TEST(Power, AndDragAreFoundOfCarsThatNobodyTunedItTo) {
    RENDAK_FIGURES_ONLY("Power.SaysWhenItCannotBeTold");
    for (unsigned seed = 1; seed <= 8; ++seed) {
        auto plan = plan_of(3, 300 + seed);
        plan.car.power_w = 120e3 + 11e3 * ((seed * 5) % 9);
        plan.car.drag_m2 = 0.6 + 0.07 * ((seed * 7) % 9);
        plan.car.mass_kg = 640 + 40 * ((seed * 4) % 9);
        plan.car.downforce_m2 = 0.8 + 0.2 * seed;
        PowerInput input;
        input.mass_kg = plan.car.mass_kg;
        input.air_kg_per_m3 = demo::Car::air;
        const auto fit = got(power_of(exact_laps(drawn_circuit(), drawn_track(), plan), input));
        EXPECT_NEAR(fit.power / plan.car.power_w, 1, 0.03) << seed;
        EXPECT_NEAR(fit.drag_area / plan.car.drag_m2, 1, 0.05) << seed;
    }
    // A road without straights tells nothing.
    const test::MadeWorld world(301);
    EXPECT_FALSE(power_of(world.run(test::MadeWorld::plan(3, 1, 1)).laps, PowerInput{}));
}

TEST(Power, AFloorNearTheRoadIsNoDragAndTwoRunsOfOneCarAreAlike) {
    RENDAK_FIGURES_ONLY("Power.SaysWhenItCannotBeTold");
    int held = 0, told_apart = 0;
    for (unsigned seed = 1; seed <= 4; ++seed) {
        auto plan = plan_of(5, 330 + seed);
        plan.state.floor_drag_mps2 = 0.35;
        PowerInput input;
        input.mass_kg = plan.car.mass_kg;
        input.air_kg_per_m3 = demo::Car::air;
        const auto a = got(power_of(exact_laps(drawn_circuit(), drawn_track(), plan), input));
        EXPECT_FALSE(a.near_road);
        EXPECT_TRUE(a.with_height);
        EXPECT_NEAR(a.power / plan.car.power_w, 1, 0.01) << seed;
        EXPECT_NEAR(a.drag_area / plan.car.drag_m2, 1, 0.02) << seed;
        held += a.power_likely->contains(plan.car.power_w) && a.drag_likely->contains(plan.car.drag_m2) ? 1 : 0;
        plan.seed += 1000;
        const auto same = power_change(a, got(power_of(exact_laps(drawn_circuit(), drawn_track(), plan), input)));
        EXPECT_TRUE(same.power->contains(0) && same.drag_area->contains(0)) << seed;
        plan.car.power_w *= 1.04;
        plan.car.drag_m2 *= 0.92;
        const auto other = power_change(a, got(power_of(exact_laps(drawn_circuit(), drawn_track(), plan), input)));
        told_apart += other.power->begin > 0 && other.drag_area->end < 0 ? 1 : 0;
        EXPECT_TRUE(other.power->contains(0.04 * 178e3)) << seed;
        EXPECT_TRUE(other.drag_area->contains(-0.08 * 0.86)) << seed;
    }
    EXPECT_EQ(held, 4);
    EXPECT_EQ(told_apart, 4);
    // Watts of one and watts by kilogram of the other are not held against each other.
    const auto some = exact_laps(drawn_circuit(), drawn_track(), plan_of(3, 336));
    PowerInput weighed;
    weighed.mass_kg = 775;
    EXPECT_FALSE(power_change(got(power_of(some, weighed)), got(power_of(some, PowerInput{}))).power);
    EXPECT_TRUE(power_change(got(power_of(some, weighed)), got(power_of(some, weighed))).power->contains(0));
    // So low that hardly a place is clear: the figures stand, without a promise how good they are.
    auto low = plan_of(5, 339);
    low.state.front_ride_height_m = 0.0165;
    low.state.floor_drag_mps2 = 0.2;
    const auto fit = got(power_of(exact_laps(drawn_circuit(), drawn_track(), low), PowerInput{}));
    EXPECT_TRUE(fit.near_road);
    EXPECT_FALSE(fit.power_likely || fit.drag_likely);
    EXPECT_FALSE(power_change(fit, fit).power);
    EXPECT_NE(fit.doubts[2].find("within 9 mm"), std::string::npos) << fit.doubts[2];
}

TEST(Power, WindThatWasNotedIsTakenOut) {
    double worst = 0, untold = 0;
    for (unsigned seed = 1; seed <= 4; ++seed) {
        auto plan = plan_of(3, 320 + seed);
        plan.state.wind_mps = 3 + seed;
        plan.state.wind_from_deg = 80 * seed;
        PowerInput input;
        input.mass_kg = plan.car.mass_kg;
        input.air_kg_per_m3 = demo::Car::air;
        const auto laps = exact_laps(drawn_circuit(), drawn_track(), plan);
        const auto without = got(power_of(laps, input));
        EXPECT_FALSE(without.with_wind);
        input.wind = Wind{plan.state.wind_mps, plan.state.wind_from_deg};
        const auto fit = got(power_of(laps, input));
        EXPECT_TRUE(fit.with_wind);
        EXPECT_NEAR(fit.power / plan.car.power_w, 1, 0.03) << seed;
        EXPECT_NEAR(fit.drag_area / plan.car.drag_m2, 1, 0.05) << seed;
        worst = std::max(worst, std::abs(fit.drag_area / plan.car.drag_m2 - 1));
        untold = std::max(untold, std::abs(without.drag_area / plan.car.drag_m2 - 1));
    }
    EXPECT_GT(untold, 2 * worst) << "not knowing of it costs";
}

TEST(Power, LessWingAndMorePowerShowAsPullOfTheirOwnShape) {
    auto base = plan_of(3, 41), slim = base, strong = base;
    slim.car.drag_m2 *= 0.9;
    strong.car.power_w *= 1.05;
    const auto a = exact_laps(drawn_circuit(), drawn_track(), base);
    const auto less = pull_by_speed(a, exact_laps(drawn_circuit(), drawn_track(), slim));
    const auto more = pull_by_speed(a, exact_laps(drawn_circuit(), drawn_track(), strong));
    ASSERT_GE(less.size(), 4U);
    ASSERT_GE(more.size(), 4U);
    const auto gain = [](const SpeedStep& step) { return mean_value(step.b) - mean_value(step.a); };
    // Drag goes with the square of the speed, power with one over it.
    for (std::size_t k = 0; k + 1 < less.size(); ++k) {
        const double v = less[k].from_mps + 2.5;
        if (v < 40) continue;
        EXPECT_NEAR(gain(less[k]), 0.5 * demo::Car::air * 0.086 * v * v / 775, 0.035) << v;
    }
    for (std::size_t k = 0; k + 1 < more.size(); ++k) {
        // ΔP / (m v), where power is the limit: 5 % of 178 kW on 775 kg.
        if (more[k].from_mps < 40) continue;
        EXPECT_NEAR(gain(more[k]) * (more[k].from_mps + 2.5) / (0.05 * 178e3 / 775), 1, 0.25) << more[k].from_mps;
    }
}

TEST(Power, SaysWhenItCannotBeTold) {
    const auto laps = exact_laps(drawn_circuit(), drawn_track(), plan_of(1, 42));
    const auto fit = got(power_of({laps.data(), 1}, PowerInput{}));
    EXPECT_FALSE(fit.mass_kg);
    EXPECT_FALSE(fit.power_likely) << "one lap has no scatter";
    EXPECT_NEAR(fit.power * 775 / 178e3, 1, 0.03);
    EXPECT_GE(fit.doubts.size(), 3U);
    EXPECT_FALSE(power_of({}, PowerInput{}));
    const auto blind = power_of(laps_without(laps, {"throttle"}), PowerInput{});
    ASSERT_FALSE(blind);
    EXPECT_NE(blind.error().text().find("without a throttle"), std::string::npos);
    EXPECT_TRUE(pull_by_speed(laps_without(laps, {"throttle"}), laps).empty());
    const auto none = power_of(laps_without(laps, {"speed"}), PowerInput{});
    ASSERT_FALSE(none);
    EXPECT_NE(none.error().text().find("300 m"), std::string::npos);
}

TEST(LoadFromTheAir, IsFoundFromSpringsAndTravel) {
    ChassisSheet springs = sheet();
    springs.spring_front_n_per_m = 110e3;
    springs.spring_rear_n_per_m = 120e3;
    for (const double area : {1.2, 1.75, 2.4}) {
        auto plan = plan_of(3, 71);
        plan.car.downforce_m2 = area;
        const auto laps = exact_laps(drawn_circuit(), drawn_track(), plan);
        const AirLoad air = got(air_load_of(laps, springs, demo::Car::air));
        EXPECT_NEAR(air.front_m2.mean / (area * (1 - plan.car.rear_share)), 1, 0.1) << area;
        EXPECT_NEAR(air.rear_m2.mean / (area * plan.car.rear_share), 1, 0.1) << area;
        EXPECT_NEAR(air.front_share.mean, 1 - plan.car.rear_share, 0.04) << area;
    }
    // What dampers and rubbers hold is in the intervals: two runs of one car are alike, half as much wing is not.
    auto plan = plan_of(5, 73);
    const AirLoad one = got(air_load_of(exact_laps(drawn_circuit(), drawn_track(), plan), springs, demo::Car::air));
    EXPECT_TRUE(one.front_m2.likely->contains(plan.car.downforce_m2 * (1 - plan.car.rear_share)));
    EXPECT_TRUE(one.rear_m2.likely->contains(plan.car.downforce_m2 * plan.car.rear_share));
    plan.seed += 1000;
    const AirLoad same = got(air_load_of(exact_laps(drawn_circuit(), drawn_track(), plan), springs, demo::Car::air));
    EXPECT_TRUE(air_change(one, same).front_m2->contains(0));
    EXPECT_TRUE(air_change(one, same).rear_m2->contains(0));
    EXPECT_TRUE(air_change(one, same).front_share->contains(0));
    plan.car.downforce_m2 /= 2;
    const AirLoad less = got(air_load_of(exact_laps(drawn_circuit(), drawn_track(), plan), springs, demo::Car::air));
    EXPECT_LT(air_change(one, less).front_m2->end, 0);
    EXPECT_LT(air_change(one, less).rear_m2->end, 0);
    EXPECT_FALSE(air_change(one, AirLoad{}).front_m2);
    const auto laps = exact_laps(drawn_circuit(), drawn_track(), plan_of(1, 72));
    // A motion ratio of 2 makes a quarter of the spring at the wheel, and twice the travel of the damper.
    ChassisSheet levers = springs;
    levers.motion_ratio_front = 2;
    EXPECT_NEAR(got(air_load_of(laps, levers, 1.2)).front_m2.mean / got(air_load_of(laps, springs, 1.2)).front_m2.mean,
                0.5, 1e-6);
    // One axle alone, and none.
    springs.spring_rear_n_per_m.reset();
    const AirLoad half = got(air_load_of(laps, springs, 1.2));
    EXPECT_TRUE(half.front_m2.known());
    EXPECT_FALSE(half.rear_m2.known());
    EXPECT_FALSE(half.front_share.known());
    EXPECT_EQ(half.untold.size(), 1U);
    EXPECT_FALSE(air_load_of(laps, ChassisSheet{}, 1.2));
    EXPECT_FALSE(air_load_of(laps_without(laps, {"damper*"}), springs, 1.2));
    EXPECT_FALSE(air_load_of({}, springs, 1.2));
}

TEST(HeightCurves, FallWithTheSpeedAndShowTheCrest) {
    const auto laps = exact_laps(drawn_circuit(), drawn_track(), plan_of(2, 73));
    const HeightCurve by_speed = height_by_speed(laps, "ride_height_front");
    ASSERT_GE(by_speed.at.size(), 5U);
    // Springs and tyres give way to half the axle's share of the air's load: 110 and 280 N/mm a wheel.
    const double v0 = by_speed.at.front(), v1 = by_speed.at.back();
    const double load = 0.5 * demo::Car::air * 1.75 * 0.44 / 2 * (v1 * v1 - v0 * v0);
    EXPECT_NEAR((by_speed.height_m.front() - by_speed.height_m.back()) / (load / 110e3 + load / 280e3), 1, 0.35);
    const std::vector<std::string> channels{"ride_height_fl", "ride_height_fr"};
    const HeightCurve round = lowest_round_the_lap(laps, channels);
    EXPECT_NEAR(static_cast<double>(round.at.size()), drawn_track()->length_m / 10, 1);
    double least = 1, where = 0;
    for (std::size_t k = 0; k < round.at.size(); ++k) {
        if (round.at[k] < drawn_circuit().corners[4].end_m + 100 || round.at[k] > drawn_circuit().corners[5].start_m)
            continue;
        if (round.height_m[k] < least) {
            least = round.height_m[k];
            where = round.at[k];
        }
    }
    EXPECT_LT(least, 0.001);
    EXPECT_NEAR(where, drawn_circuit().corners[4].end_m + 230, 90) << "at a foot of the crest";
    EXPECT_TRUE(height_by_speed(laps_without(laps, {"speed"}), "ride_height_front").at.empty());
    EXPECT_TRUE(lowest_round_the_lap({}, channels).at.empty());
    EXPECT_TRUE(lowest_round_the_lap(laps, {}).at.empty());
}

TEST(BalanceOfTheCar, IsTheUndersteerThatItHas) {
    for (const double planted : {-0.006, 0.01, 0.024}) {
        auto plan = plan_of(3, 51);
        plan.car.understeer_rad_per_g = planted;
        const auto laps = exact_laps(drawn_circuit(), drawn_track(), plan);
        const Balance it = got(balance_of(laps, sheet()));
        ASSERT_TRUE(it.slope.known());
        EXPECT_NEAR(it.slope.mean * g, planted, 0.0015);
        EXPECT_TRUE(it.slope.sure());
        EXPECT_EQ(it.slope.on, it.laps);
        EXPECT_NEAR(it.left.mean / it.right.mean, 1, 0.25) << "a car without sides";
        EXPECT_NEAR(it.front_roll_share.mean, demo::front_roll_share(plan.state), 0.02);
        EXPECT_GT(it.roll_per_mps2.mean, 0);
        EXPECT_GT(it.pitch_per_mps2.mean, 0);
        for (const CornerBalance& corner : it.corners) {
            // Only where it is driven near the peak for long the angle is the peak's.
            if (corner.parts[1].known()) EXPECT_NEAR(corner.parts[1].mean / (corner.lateral_mps2 / g), planted, 0.006);
        }
        EXPECT_NE(balance_words(it).find(planted > 0 ? "understeer." : "oversteer."), std::string::npos);
    }
}

TEST(BalanceOfTheCar, SaysWhatIsMissing) {
    const auto laps = exact_laps(drawn_circuit(), drawn_track(), plan_of(2, 52));
    const Balance no_sheet = got(balance_of(laps, ChassisSheet{}));
    EXPECT_FALSE(no_sheet.slope.known());
    EXPECT_TRUE(no_sheet.front_roll_share.known());
    EXPECT_NE(no_sheet.untold.front().find("steering ratio"), std::string::npos);
    EXPECT_EQ(balance_words(no_sheet), "How it is balanced cannot be told.");
    const auto bare = laps_without(laps, {"damper*", "tyre*", "steering"});
    EXPECT_FALSE(balance_of(bare, ChassisSheet{}));
    const Balance one = got(balance_of({laps.data(), 1}, sheet()));
    EXPECT_FALSE(one.slope.likely);
    // A steering that does not stand at zero is set to zero by the straights.
    auto moved = std::make_shared<Recording>(*laps.front().recording);
    for (Channel& channel : moved->channels) {
        if (channel.quantity != "steering") continue;
        ChannelStorage storage;
        for (std::size_t i = 0; i < channel.size(); ++i)
            storage.floats.push_back(static_cast<float>(channel.at(i) + 0.2));
        channel = make_channel("Steering", "steering", "rad", std::move(storage), 0, channel.clock.rate_hz);
    }
    auto off = laps;
    for (PreparedLap& lap : off) lap.recording = moved;
    EXPECT_NEAR(got(balance_of(off, sheet())).slope.mean, got(balance_of(laps, sheet())).slope.mean, 3e-5);
}

TEST(KerbsAndLockUps, AreCountedByWheelAndCorner) {
    auto plan = plan_of(3, 61);
    plan.laps[2].cues = {{demo::Cue::Kind::lock_up, 1, 0.7}};
    const auto laps = exact_laps(drawn_circuit(), drawn_track(), plan);
    const Strikes strikes = strikes_of(laps);
    EXPECT_TRUE(strikes.dampers);
    EXPECT_TRUE(strikes.wheel_speeds);
    std::size_t lock_ups = 0, kerbs = 0;
    for (const CornerStrikes& corner : strikes.corners) {
        for (std::size_t w = 0; w < 4; ++w) {
            lock_ups += corner.lock_ups[w];
            kerbs += corner.kerb_laps[w];
            if (corner.lock_ups[w] > 0) {
                EXPECT_EQ(corner.corner, 1);
                EXPECT_EQ(w, 0U) << "front left";
            }
            if (corner.kerb_laps[w] > 0) {
                EXPECT_TRUE(corner.corner == 7 || corner.corner == 8) << corner.name;
                EXPECT_EQ(w % 2 == 0, corner.corner == 7) << "the inner wheels: Turn 7 is a left one";
            }
        }
    }
    EXPECT_EQ(lock_ups, 1U);
    EXPECT_GE(kerbs, 3U);
    EXPECT_NEAR(strikes.brake_share, 0.62 / (0.62 + 0.38 * 0.92), 0.02);
    const Strikes blind = strikes_of(laps_without(laps, {"damper*", "wheel_speed*", "brake_rear"}));
    EXPECT_FALSE(blind.dampers);
    EXPECT_TRUE(blind.corners.empty());
    EXPECT_TRUE(std::isnan(blind.brake_share));
    EXPECT_TRUE(strikes_of({}).corners.empty());
}

}  // namespace
