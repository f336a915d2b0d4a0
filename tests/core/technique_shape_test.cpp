// Shapes of pedals and steering, of laps whose channels are drawn by hand; and what is added up over the road.
#include "core/analysis/technique_shape.h"

#include <gtest/gtest.h>

#include <cmath>
#include <map>

#include "core/analysis/lap_profile.h"
#include "core/analysis/pull.h"
#include "tests/support/made_channel.h"

using namespace rendak;
using test::made_channel;

namespace {

using Of = std::function<double(double)>;

/// Straight lines between points (time, value), held beyond them.
Of lines(std::vector<std::pair<double, double>> points) {
    return [points = std::move(points)](double t) {
        if (t <= points.front().first) return points.front().second;
        for (std::size_t i = 1; i < points.size(); ++i) {
            const auto& [t0, y0] = points[i - 1];
            const auto& [t1, y1] = points[i];
            if (t <= t1) return y0 + (y1 - y0) * (t - t0) / (t1 - t0);
        }
        return points.back().second;
    };
}

/// A lap of half a minute with these channels; the road is as long as its speed makes it.
struct Drawn {
    static constexpr double time_s = 30;
    PreparedLap lap;
    explicit Drawn(const std::map<std::string, Of>& channels) {
        auto recording = std::make_shared<Recording>();
        for (const auto& [name, of] : channels) {
            const std::string unit = name == "brake_front" ? "Pa" : name == "speed" ? "m/s" : "";
            recording->channels.push_back(made_channel(name, unit, 100, 0, time_s, of));
        }
        const Of speed = channels.contains("speed") ? channels.at("speed") : Of([](double) { return 30.0; });
        double s = 0;
        for (int i = 0; i <= 3000; ++i) {
            lap.map.time_s.push_back(0.01 * i);
            lap.map.distance_m.push_back(s);
            s += 0.005 * (speed(0.01 * i) + speed(0.01 * (i + 1)));
        }
        auto road = std::make_shared<Track>();
        road->length_m = lap.map.length_m();
        for (double at = 0; at < road->length_m; at += 1) road->line.push_back({at, 0});
        lap.track = road;
        lap.recording = recording;
    }
    [[nodiscard]] double at(double t) const { return lap.map.distance_at(t); }
    [[nodiscard]] DriverActivity driver() const { return lap.activity(); }
};

/// A pedal that rests most of the time, with one stop of 40 bar from 10 s on as `press` says (in bar).
Of pressure(const std::vector<std::pair<double, double>>& press) {
    const Of bar = lines(press);
    return [bar](double t) { return 1e5 * bar(t); };
}

const std::vector<std::pair<double, double>> square{{10, 0}, {10.1, 40}, {12, 40}, {12.1, 0}};

BrakeShape brake_of(const Drawn& lap, double from_s, double to_s, std::optional<double> turn_in_s = {},
                    double slowest_s = 13) {
    return brake_shape(lap.lap, lap.driver(), {lap.at(from_s), lap.at(to_s)},
                       turn_in_s ? std::optional(lap.at(*turn_in_s)) : std::nullopt, lap.at(slowest_s));
}

}  // namespace

TEST(BrakeShapes, HoldAndReleaseAreTimes) {
    const Drawn lap({{"brake_front", pressure({{10, 0}, {10.1, 40}, {11.5, 40}, {13.5, 0}})}});
    const BrakeShape shape = brake_of(lap, 10, 13.5);
    ASSERT_TRUE(shape.hold_s && shape.release_s && shape.release_mean && shape.peak_pa);
    // 90 % is left a tenth of the two seconds later.
    EXPECT_NEAR(*shape.hold_s, 1.6, 0.08);
    EXPECT_NEAR(*shape.release_s, 1.8, 0.08);
    EXPECT_NEAR(*shape.release_mean, 0.5, 0.03) << "an even release";
    EXPECT_NEAR(*shape.peak_pa, 4e6, 2e4);
    EXPECT_EQ(shape.reversals, 0);
    EXPECT_FALSE(shape.at_turn_in) << "nobody said where the car turns in";
}

TEST(BrakeShapes, ReleaseIsEarlyOrLate) {
    const Drawn early({{"brake_front", pressure({{10, 0}, {10.1, 40}, {11.5, 40}, {11.8, 10}, {13.5, 0}})}});
    const Drawn late({{"brake_front", pressure({{10, 0}, {10.1, 40}, {11.5, 40}, {13.2, 30}, {13.5, 0}})}});
    EXPECT_LT(*brake_of(early, 10, 13.5).release_mean, 0.35);
    EXPECT_GT(*brake_of(late, 10, 13.5).release_mean, 0.65);
}

TEST(BrakeShapes, EasingItAndTakingItAgainIsCounted) {
    const auto with = [](double down) {
        const Drawn lap({{"brake_front", pressure({{10, 0},
                                                   {10.1, 40},
                                                   {10.6, 40},
                                                   {10.8, 40 - down},
                                                   {11, 40},
                                                   {11.3, 40},
                                                   {11.5, 40 - down},
                                                   {11.7, 40},
                                                   {12, 40},
                                                   {12.3, 0}})}});
        return brake_of(lap, 10, 12.3).reversals;
    };
    EXPECT_EQ(with(12), 2);
    EXPECT_EQ(with(2), 0) << "a twentieth is no reversal";
}

TEST(BrakeShapes, ACrestExcusesTheEasing) {
    // The same stop on a road that falls away where the brake is eased.
    Drawn lap(
        {{"speed", [](double) { return 40.0; }},
         {"brake_front", pressure({{10, 0}, {10.1, 40}, {10.7, 40}, {10.9, 25}, {11.1, 40}, {12, 40}, {12.3, 0}})}});
    EXPECT_EQ(brake_of(lap, 10, 12.3).reversals, 1);
    auto road = std::make_shared<Track>(*lap.lap.track);
    for (std::size_t i = 0; i < road->line.size(); ++i) {
        const double off = static_cast<double>(i) - lap.at(10.9);
        road->height.value.push_back(std::abs(off) < 60 ? -off * off / 400 : -9 - (std::abs(off) - 60) * 0.3);
    }
    lap.lap.track = road;
    EXPECT_EQ(brake_of(lap, 10, 12.3).reversals, 0);
}

TEST(BrakeShapes, ShareThatIsOnWhereTheCarTurnsIn) {
    const Drawn lap({{"brake_front", pressure({{10, 0}, {10.1, 40}, {11, 40}, {13, 0}})}});
    EXPECT_NEAR(*brake_of(lap, 10, 13, 12).at_turn_in, 0.5, 0.03);
    EXPECT_NEAR(*brake_of(lap, 10, 13, 10.5).at_turn_in, 1, 0.02);
    EXPECT_FALSE(brake_of(lap, 10, 13, 14).at_turn_in) << "it turns in when the brake is off";
}

TEST(BrakeShapes, KeptWhileTheSteeringGrows) {
    const Of turning = lines({{11, 0}, {13, 1.2}});
    const Drawn kept({{"brake_front", pressure({{10, 0}, {10.1, 40}, {12.8, 40}, {13, 0}})}, {"steering", turning}});
    const Drawn given({{"brake_front", pressure({{10, 0}, {10.1, 40}, {11, 40}, {13, 0}})}, {"steering", turning}});
    EXPECT_GT(brake_of(kept, 10, 13, 11).kept_s, 1);
    EXPECT_NEAR(brake_of(given, 10, 13, 11).kept_s, 0, 0.1);
}

TEST(BrakeShapes, RoomIsWhatWasRolled) {
    // 20 m/s² … a stop from 50 to 30 m/s in 2 s, then it rolls down to 25 m/s over two seconds more.
    const Drawn lap({{"speed", lines({{10, 50}, {12, 30}, {14, 25}})}, {"brake_front", pressure(square)}});
    const BrakeShape shape = brake_of(lap, 10, 12, {}, 14);
    ASSERT_TRUE(shape.room_left_m);
    const double rolled = lap.at(14) - lap.at(12), braked = lap.at(12) - lap.at(10);
    const double needed = braked * (30 * 30 - 25 * 25) / (50 * 50 - 30 * 30);
    EXPECT_NEAR(*shape.room_left_m, rolled - needed, 1.5);
    EXPECT_NEAR(*brake_of(lap, 10, 12, {}, 12).room_left_m, 0, 1e-9) << "slowest where it is let go";
}

TEST(BrakeShapes, WithoutPedalOrAccelerationThereIsNone) {
    const Drawn lap({{"speed", [](double) { return 30.0; }}});
    const BrakeShape shape = brake_of(lap, 10, 12);
    EXPECT_FALSE(shape.hold_s || shape.release_s || shape.peak_pa);
}

// ---- steering ----------------------------------------------------------------------------------------

TEST(SteeringShapes, MostAngleAndCorrections) {
    for (const bool left : {true, false}) {
        const double sign = left ? 1 : -1;
        const Drawn lap(
            {{"steering", [&](double t) {
                  return sign *
                         lines({{10, 0}, {11, 1}, {11.4, 0.6}, {11.8, 1.1}, {12.2, 1.05}, {12.5, 1.1}, {14, 0}})(t);
              }}});
        const SteeringShape shape = steering_shape(lap.lap, lap.driver(), left, {lap.at(10), lap.at(14)});
        ASSERT_TRUE(shape.most_rad && shape.corrections);
        EXPECT_NEAR(*shape.most_rad, 1.1, 0.03);
        EXPECT_EQ(*shape.corrections, 1) << "a twentieth is none";
    }
}

TEST(SteeringShapes, WithoutASensorThereIsNone) {
    const Drawn lap({{"speed", [](double) { return 30.0; }}});
    EXPECT_FALSE(steering_shape(lap.lap, lap.driver(), true, {300, 400}).most_rad);
    const Drawn steered({{"steering", [](double t) { return std::sin(t); }}});
    EXPECT_FALSE(steering_shape(steered.lap, steered.driver(), true, {300, 300}).most_rad) << "no road at all";
}

// ---- throttle ----------------------------------------------------------------------------------------

namespace {

/// Full most of the lap, off at 10 s, and back as `way` says; with a brake that was used.
Drawn throttle_lap(const std::vector<std::pair<double, double>>& way, bool gears = false, double shift_s = 99) {
    std::map<std::string, Of> channels{{"throttle", lines(way)}, {"brake_front", pressure(square)}};
    if (gears) channels["gear"] = [shift_s](double t) { return t < shift_s ? 3.0 : 4.0; };
    return Drawn(channels);
}

const std::vector<std::pair<double, double>> plain_way{{9.8, 1}, {10, 0}, {13, 0}, {15, 1}};

}  // namespace

TEST(ThrottleShapes, AnEvenWayHasNothing) {
    const Drawn lap = throttle_lap(plain_way);
    const ThrottleShape shape = throttle_shape(lap.lap, lap.driver(), {lap.at(13), lap.at(15)});
    EXPECT_EQ(shape.reversals, 0);
    EXPECT_NEAR(shape.back.value(), 0, 1e-9);
    EXPECT_LT(shape.held_s, 0.2);
}

TEST(ThrottleShapes, FallsAreReversalsWithTheirPlace) {
    const Drawn lap =
        throttle_lap({{9.8, 1}, {10, 0}, {13, 0}, {13.8, 0.6}, {14.1, 0.3}, {14.6, 0.3}, {15.2, 1}}, true);
    const ThrottleShape shape = throttle_shape(lap.lap, lap.driver(), {lap.at(13), lap.at(15.2)});
    EXPECT_EQ(shape.reversals, 1);
    EXPECT_NEAR(*shape.back, 0.3, 0.03);
    EXPECT_NEAR(*shape.back_m, lap.at(13.9), 4);
}

TEST(ThrottleShapes, AShiftIsNone) {
    const std::vector<std::pair<double, double>> way{{9.8, 1},    {10, 0},     {13, 0},     {13.8, 0.6},
                                                     {13.9, 0.1}, {14.1, 0.1}, {14.2, 0.6}, {15.2, 1}};
    const Drawn shifted = throttle_lap(way, true, 14);
    EXPECT_EQ(throttle_shape(shifted.lap, shifted.driver(), {shifted.at(13), shifted.at(15.2)}).reversals, 0);
    const Drawn not_shifted = throttle_lap(way, true);
    EXPECT_EQ(
        throttle_shape(not_shifted.lap, not_shifted.driver(), {not_shifted.at(13), not_shifted.at(15.2)}).reversals, 1);
}

TEST(ThrottleShapes, StandingStillOnTheWay) {
    const Drawn lap = throttle_lap({{9.8, 1}, {10, 0}, {13, 0}, {13.5, 0.5}, {14.5, 0.5}, {15, 1}});
    const ThrottleShape shape = throttle_shape(lap.lap, lap.driver(), {lap.at(13), lap.at(15)});
    EXPECT_NEAR(shape.held_s, 1.05, 0.12);
    EXPECT_NEAR(shape.held_at, 0.5, 0.03);
    EXPECT_NEAR(shape.held_m, lap.at(13.5), 4);
}

TEST(ThrottleShapes, WithoutAPedalThereIsNone) {
    const Drawn lap({{"speed", [](double) { return 30.0; }}});
    const ThrottleShape shape = throttle_shape(lap.lap, lap.driver(), {300, 400});
    EXPECT_FALSE(shape.back);
    EXPECT_EQ(shape.held_s, 0);
}

// ---- arcs and gears ----------------------------------------------------------------------------------

TEST(ArcShapes, TightestPlaceAndRadius) {
    // At 30 m/s: curvature grows to 1/60 at 12 s, a third of the way, and falls until 16 s.
    for (const bool left : {true, false}) {
        const Drawn lap({{"speed", [](double) { return 30.0; }},
                         {"lateral_acceleration", [&](double t) {
                              return (left ? 1 : -1) * 900.0 * lines({{10, 0}, {12, 1 / 60.0}, {16, 0}})(t);
                          }}});
        const ArcShape shape = arc_shape(lap.lap, left, {lap.at(9), lap.at(17)});
        ASSERT_TRUE(shape.tightest_m && shape.least_radius_m && shape.share && shape.begin_m && shape.tightness);
        EXPECT_NEAR(*shape.tightest_m, lap.at(12), 6);
        EXPECT_NEAR(*shape.least_radius_m, 60, 4) << "the mean of 0.4 s is a little wider";
        EXPECT_NEAR(*shape.share, 1.0 / 3, 0.06);
        EXPECT_NEAR(*shape.begin_m, lap.at(11), 5);
        // From a third to the top and back the mean is two thirds of it.
        EXPECT_NEAR(*shape.tightness, 1.5, 0.08);
        EXPECT_FALSE(arc_shape(lap.lap, !left, {lap.at(9), lap.at(17)}).tightest_m) << "it turns the other way";
    }
}

TEST(ArcShapes, AStraightIsNone) {
    const Drawn lap(
        {{"speed", [](double) { return 50.0; }}, {"lateral_acceleration", [](double t) { return 0.4 * std::sin(t); }}});
    EXPECT_FALSE(arc_shape(lap.lap, true, {300, 600}).tightest_m);
    const Drawn blind({{"speed", [](double) { return 50.0; }}});
    EXPECT_FALSE(arc_shape(blind.lap, true, {300, 600}).tightest_m);
}

TEST(GearUses, AtTheSlowestPlaceAndTheFirstShiftUp) {
    const Drawn lap({{"gear", [](double t) { return t < 11 ? 2.0 : t < 14 ? (t < 11.1 ? 0.0 : 3.0) : 4.0; }}});
    const GearUse use = gear_use(lap.lap, lap.at(12), lap.at(20));
    EXPECT_EQ(use.at_slowest, 3);
    EXPECT_NEAR(*use.shift_up_m, lap.at(14), 4);
    EXPECT_FALSE(gear_use(lap.lap, lap.at(15), lap.at(20)).shift_up_m) << "no more shifts";
    EXPECT_FALSE(gear_use(Drawn({}).lap, 100, 200).at_slowest);
}

// ---- over the road -----------------------------------------------------------------------------------

TEST(Profiles, AddUpToTheLapAndKnowItsSpeed) {
    const Of speed = lines({{0, 20}, {15, 50}, {30, 20}});
    const Drawn lap({{"speed", speed}});
    const LapProfile profile = profile_of(lap.lap);
    EXPECT_NEAR(profile.lap_s(), 30, 1e-9);
    EXPECT_EQ(profile.elapsed_at(0), 0);
    for (const double t : {3.0, 11.0, 22.5}) {
        EXPECT_NEAR(profile.elapsed_at(lap.at(t)), t, 0.01);
        EXPECT_NEAR(profile.speed_at(lap.at(t)), speed(t), 0.1);
    }
    EXPECT_EQ(profile.elapsed_at(1e9), profile.lap_s()) << "held beyond its ends";
    // Without a speed it is that of the places.
    Drawn blind({{"speed", speed}});
    blind.lap.recording = std::make_shared<Recording>();
    EXPECT_NEAR(profile_of(blind.lap).speed_at(blind.at(11)), speed(11), 0.2);
}

TEST(Profiles, OfSeveralLapsAreTheirMean) {
    LapProfile a, b;
    a.length_m = b.length_m = 2;
    a.elapsed_s = {0, 1, 2};
    b.elapsed_s = {0, 2, 4};
    a.speed_mps = {1, 1, 1};
    b.speed_mps = {3, 2, 1};
    const LapProfile mean = mean_of(std::vector{a, b});
    EXPECT_EQ(mean.elapsed_s, (std::vector<double>{0, 1.5, 3}));
    EXPECT_EQ(mean.speed_mps, (std::vector<double>{2, 1.5, 1}));
}

namespace {

/// A road of 1 km driven at one speed.
LapProfile steady(double speed) {
    LapProfile out;
    out.length_m = 1000;
    for (int i = 0; i <= 1000; ++i) {
        out.elapsed_s.push_back(i / speed);
        out.speed_mps.push_back(speed);
    }
    return out;
}

/// A car that gains the same at any speed, or less the faster it is.
PullCurve pull_of(double at_20, double at_60) {
    PullCurve out;
    out.speed_mps = {20, 60};
    out.along_mps2 = {at_20, at_60};
    return out;
}

}  // namespace

TEST(PullCurves, GoOnAsInTheirLastPiece) {
    const PullCurve pull = pull_of(4, 2);
    EXPECT_TRUE(pull.known());
    EXPECT_DOUBLE_EQ(pull.at(40), 3);
    EXPECT_DOUBLE_EQ(pull.at(80), 1);
    EXPECT_DOUBLE_EQ(pull.at(0), 5);
    EXPECT_FALSE(PullCurve{}.known());
}

TEST(CarriedSpeed, OfACarThatGainsTheSameIsKept) {
    // Nothing makes up for it: v² differs by the same all the way.
    const Carried carried(steady(40), pull_of(3, 3), 100, -2, 900);
    EXPECT_NEAR(carried.faster_at(100), -2, 1e-9);
    EXPECT_NEAR(carried.faster_at(900), -2, 1e-6);
    EXPECT_NEAR(carried.lost_s(), 800 / 38.0 - 800 / 40.0, 1e-6);
    EXPECT_NEAR(carried.lost_s(200, 300), 100 / 38.0 - 100 / 40.0, 1e-6);
    EXPECT_EQ(carried.lost_s(950, 990), 0) << "outside the stretch";
}

TEST(CarriedSpeed, OfACarWhosePullFallsIsMadeUpFor) {
    // dv/ds = (pull(v) − pull(v0)) / v: what is left of a small difference falls with exp(−k s / v0).
    const double k = 0.05, v0 = 40;
    const Carried carried(steady(v0), pull_of(3, 1), 0, -0.5, 1000);
    for (const double s : {200.0, 500.0, 900.0})
        EXPECT_NEAR(carried.faster_at(s), -0.5 * std::exp(-k * s / v0), 0.01) << s;
    EXPECT_GT(carried.lost_s(), 0);
    const Carried faster(steady(v0), pull_of(3, 1), 0, 0.5, 1000);
    EXPECT_LT(faster.lost_s(), 0);
    EXPECT_NEAR(faster.lost_s(), -carried.lost_s(), 0.01);
}

TEST(Meetings, OfASlowerCarAreWhereTheOtherSlowsDownToIt) {
    // The baseline falls from 50 to 30 m/s; a car at 40 holds its speed until it is met.
    LapProfile falling = steady(50);
    for (int i = 0; i <= 1000; ++i) {
        falling.speed_mps[static_cast<std::size_t>(i)] = 50 - 0.02 * i;
        falling.elapsed_s[static_cast<std::size_t>(i)] = 50 * std::log(50 / (50 - 0.02 * i));
    }
    const Meeting met = meeting_of(falling, pull_of(0, 0), 0, -10);
    EXPECT_NEAR(met.at_m, 500, 2);
    EXPECT_NEAR(met.lost_s, 500 / 40.0 - falling.elapsed_at(500), 0.01);
    const Meeting none = meeting_of(falling, pull_of(0, 0), 0, 3);
    EXPECT_EQ(none.lost_s, 0);
    EXPECT_EQ(none.at_m, 0);
}
