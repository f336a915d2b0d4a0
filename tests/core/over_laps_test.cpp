// What happens over many laps, and how fast a point gets round: closed forms, with scatter of known size.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>

#include "core/analysis/fuel_effect.h"
#include "core/analysis/point_lap.h"
#include "core/analysis/settling.h"

using namespace rendak;

namespace {

std::vector<double> laps_to(int last) {
    std::vector<double> out;
    for (int lap = 1; lap <= last; ++lap) out.push_back(lap);
    return out;
}

/// A figure over laps, with scatter.
std::vector<double> figures(const std::vector<double>& laps, double scatter, unsigned seed, const auto& value) {
    std::mt19937 random(seed);
    std::normal_distribution<double> normal(0, 1);
    std::vector<double> out;
    for (const double lap : laps) out.push_back(value(lap) + scatter * normal(random));
    return out;
}

}  // namespace

TEST(SettlingCurve, IsFoundExactlyWhereThereIsNoScatter) {
    for (const double constant : {1.0, 2.0, 4.0}) {
        for (const double off : {-12.0, 30.0}) {
            const auto laps = laps_to(20);
            const auto values =
                figures(laps, 0, 1, [&](double lap) { return 90 + off * std::exp(-(lap - 1) / constant); });
            const auto found = settling(laps, values);
            ASSERT_TRUE(found) << constant << " laps, " << off;
            EXPECT_NEAR(found->end, 90, 0.02 * std::abs(off));
            EXPECT_NEAR(found->off_at_first, off, 0.05 * std::abs(off));
            EXPECT_NEAR(found->time_constant, constant, 0.05 * constant);
            // A twentieth is left after three time constants.
            ASSERT_TRUE(found->from_lap);
            EXPECT_NEAR(*found->from_lap, 1 + 3 * constant, 1.1);
        }
    }
}

TEST(SettlingCurve, WithScatterTheLapLiesInsideWhatIsLikely) {
    int inside = 0, told = 0, near = 0;
    for (unsigned seed = 0; seed < 60; ++seed) {
        const auto laps = laps_to(18);
        const auto values = figures(laps, 1.0, seed, [](double lap) { return 85 - 20 * std::exp(-(lap - 1) / 2.5); });
        const auto found = settling(laps, values);
        if (!found || !found->from_lap) continue;
        ++told;
        // Within a twentieth, which is also the scatter: after 2.5 · ln 20 laps.
        const double truth = 1 + 2.5 * std::log(20.0);
        inside += found->likely.begin <= truth && truth <= found->likely.end;
        near += std::abs(found->end - 85) < 1;
        EXPECT_NEAR(found->scatter, 1.0, 0.6) << seed;
    }
    EXPECT_GE(told, 55);
    EXPECT_GE(inside, 0.8 * told);
    EXPECT_GE(near, 0.9 * told);
}

TEST(SettlingCurve, ALineHasNoEndAndFewLapsTellNothing) {
    const auto laps = laps_to(16);
    EXPECT_FALSE(settling(laps, figures(laps, 0.1, 3, [](double lap) { return 70 + 1.5 * lap; })));
    EXPECT_FALSE(settling(laps_to(4), {80, 85, 87, 88}));
    EXPECT_FALSE(settling({}, {}));
    const std::vector<double> gone(16, std::nan(""));
    EXPECT_FALSE(settling(laps, gone));
    // What hardly changes is there from the beginning.
    const auto still = settling(laps, figures(laps, 0.5, 4, [](double) { return 88.0; }));
    if (still) EXPECT_EQ(still->from_lap, 1);
}

TEST(BreakAwayLap, IsFoundWhereTwoLinesMeet) {
    int right = 0, all = 0;
    for (unsigned seed = 0; seed < 40; ++seed) {
        const double bend = 8 + seed % 9;
        const auto laps = laps_to(24);
        const auto values =
            figures(laps, 0.06, seed, [&](double lap) { return 96 + 0.02 * lap + 0.25 * std::max(0.0, lap - bend); });
        const auto found = break_away(laps, values);
        ++all;
        if (!found) continue;
        right += std::abs(found->from_lap - bend) <= 1;
        EXPECT_NEAR(found->before_per_lap, 0.02, 0.05) << seed;
        EXPECT_NEAR(found->after_per_lap, 0.27, 0.06) << seed;
    }
    EXPECT_GE(right, all - 2);
}

TEST(BreakAwayLap, IsNotInventedFromScatterOrALine) {
    int wrong = 0;
    for (unsigned seed = 0; seed < 200; ++seed) {
        const auto laps = laps_to(20);
        wrong += break_away(laps, figures(laps, 0.15, seed, [](double lap) { return 96 + 0.05 * lap; })).has_value();
    }
    EXPECT_LE(wrong, 10) << "of 200 stints that only wear";
    EXPECT_FALSE(break_away(laps_to(7), {1, 1, 1, 1, 2, 3, 4}));
    // Getting quicker more and more is no breaking away.
    const auto laps = laps_to(16);
    EXPECT_FALSE(break_away(laps, figures(laps, 0, 1, [](double lap) { return 96 - 0.2 * std::max(0.0, lap - 8); })));
}

TEST(FuelEffectOfTimes, IsToldByARefuellingOnTheSameTyres) {
    int inside = 0, told = 0;
    for (unsigned seed = 0; seed < 50; ++seed) {
        const auto laps = laps_to(20);
        std::vector<double> fuel;
        // Two litres a lap; after lap 10 the tank is filled again.
        for (const double lap : laps) fuel.push_back(lap <= 10 ? 40 - 2 * lap : 60 - 2 * (lap - 10));
        std::size_t k = 0;
        const auto times = figures(laps, 0.15, seed, [&](double lap) { return 95 + 0.04 * lap + 0.03 * fuel[k++]; });
        const auto found = fitted_fuel_effect(laps, times, fuel);
        if (!found) continue;
        ++told;
        EXPECT_EQ(found->laps, 20U);
        inside += found->likely.begin <= 0.03 && 0.03 <= found->likely.end;
        EXPECT_GT(found->likely.begin, 0) << "never one that may be nothing";
    }
    EXPECT_GE(told, 40);
    EXPECT_GE(inside, 0.85 * told);
}

TEST(FuelEffectOfTimes, CannotBeToldApartFromTheTyresWhileFuelOnlyFalls) {
    const auto laps = laps_to(20);
    std::vector<double> fuel, times;
    for (const double lap : laps) {
        fuel.push_back(50 - 2 * lap);
        times.push_back(95 + 0.05 * lap + 0.03 * fuel.back());
    }
    EXPECT_FALSE(fitted_fuel_effect(laps, times, fuel));
    EXPECT_FALSE(fitted_fuel_effect(laps_to(7), std::vector<double>(7, 95.0), {40, 20, 40, 20, 40, 20, 40}));
    // Without any effect nothing is said of one.
    for (std::size_t i = 0; i < fuel.size(); ++i) fuel[i] = i % 2 == 0 ? 40 : 20;
    EXPECT_FALSE(fitted_fuel_effect(laps, figures(laps, 0.1, 5, [](double) { return 95.0; }), fuel));
}

namespace {

/// A level road of bends of even radius.
PointRoad road_of(const std::vector<std::pair<double, double>>& metres_and_curvature, bool open) {
    PointRoad road;
    road.open = open;
    for (const auto& [metres, curvature] : metres_and_curvature) {
        for (double s = 0; s < metres; s += 1) {
            road.way_m.push_back(1);
            road.curvature.push_back(curvature);
            road.lean_mps2.push_back(0);
            road.grade.push_back(0);
        }
    }
    return road;
}

ObservedLimit limit_of(double lateral, double braking, double driving) {
    ObservedLimit limit;
    limit.lateral = {lateral, 0, false, {0, 80}, 5};
    limit.braking = LimitLine{braking, 0, false, {0, 80}, 5};
    limit.driving.speed_mps = {0, 100};
    limit.driving.along_mps2 = {driving, driving};
    return limit;
}

}  // namespace

TEST(PointLap, ACircleIsDrivenAtTheLimitAllTheWay) {
    for (const double radius_m : {20.0, 60.0, 150.0}) {
        for (const double sign : {-1.0, 1.0}) {
            const double round_m = std::round(2 * std::numbers::pi * radius_m);
            const PointRoad road = road_of({{round_m, sign / radius_m}}, false);
            std::vector<double> speed;
            drive_point(road, limit_of(14, 12, 5), speed);
            const double v = std::sqrt(14 * radius_m);
            for (const double at : speed) EXPECT_NEAR(at, v, 0.01 * v);
            EXPECT_NEAR(point_lap_s(road, speed), round_m / v, 0.01 * round_m / v);
        }
    }
}

TEST(PointLap, AStandingStartAndAStopAreUniformAcceleration) {
    PointRoad road = road_of({{800, 0}}, true);
    road.most_mps.assign(road.size(), 200);
    road.most_mps.front() = 1;
    road.most_mps.back() = 1;
    std::vector<double> speed;
    drive_point(road, limit_of(14, 10, 5), speed);
    // Gains with 5 and slows with 10: the two meet two thirds of the way.
    const auto fastest = std::max_element(speed.begin(), speed.end()) - speed.begin();
    EXPECT_NEAR(static_cast<double>(fastest), 800.0 * 2 / 3, 3);
    for (const std::size_t at : {50U, 200U, 400U}) EXPECT_NEAR(speed[at], std::sqrt(1 + 2.0 * 5 * at), 0.3);
    for (const std::size_t left : {50U, 100U, 200U})
        EXPECT_NEAR(speed[799 - left], std::sqrt(1 + 2.0 * 10 * left), 0.5);
    const auto elapsed = point_elapsed(road, speed);
    ASSERT_EQ(elapsed.size(), road.size() + 1);
    EXPECT_EQ(elapsed.front(), 0);
    for (std::size_t i = 1; i < elapsed.size(); ++i) {
        ASSERT_GT(elapsed[i], elapsed[i - 1]);
        EXPECT_NEAR(elapsed[i] - elapsed[i - 1], point_step_s(road, speed, i - 1), 1e-9);
    }
    EXPECT_NEAR(elapsed.back(), point_lap_s(road, speed), 1e-9);
}

TEST(PointLap, MoreOfAnythingIsNeverSlower) {
    const PointRoad road = road_of({{400, 0}, {60, 0.02}, {150, 0}, {90, -0.012}, {500, 0}, {40, 0.035}}, false);
    const auto lap_s = [&](double lateral, double braking, double driving) {
        std::vector<double> speed;
        drive_point(road, limit_of(lateral, braking, driving), speed);
        return point_lap_s(road, speed);
    };
    const double usual = lap_s(13, 11, 5);
    EXPECT_LT(lap_s(14, 11, 5), usual);
    EXPECT_LT(lap_s(13, 12, 5), usual);
    EXPECT_LT(lap_s(13, 11, 5.5), usual);
    EXPECT_GT(lap_s(12, 11, 5), usual);
    // A road of which only a part can be used; a slope up all the way; a lean that carries.
    std::vector<double> speed;
    PointRoad other = road;
    other.limit_share.assign(road.size(), 0.9);
    drive_point(other, limit_of(13, 11, 5), speed);
    EXPECT_GT(point_lap_s(other, speed), usual);
    other = road;
    other.grade.assign(road.size(), 0.05);
    drive_point(other, limit_of(13, 11, 5), speed);
    EXPECT_GT(point_lap_s(other, speed), usual);
    other = road;
    for (std::size_t i = 0; i < road.size(); ++i) other.lean_mps2[i] = road.curvature[i] > 0 ? 1.0 : 0.0;
    drive_point(other, limit_of(13, 11, 5), speed);
    EXPECT_LT(point_lap_s(other, speed), usual);
}

TEST(PointLap, ARoundRoadEndsAsItBegins) {
    // The line in the middle of a straight: nobody starts there, so wherever the line is, the lap takes as long.
    const std::vector<std::pair<double, double>> parts{{300, 0}, {60, 0.02}, {250, 0}, {80, 0.015}};
    const std::vector<std::pair<double, double>> later{{150, 0}, {60, 0.02}, {250, 0}, {80, 0.015}, {150, 0}};
    std::vector<double> one, two;
    const PointRoad first = road_of(parts, false), second = road_of(later, false);
    drive_point(first, limit_of(13, 11, 5), one);
    drive_point(second, limit_of(13, 11, 5), two);
    EXPECT_NEAR(point_lap_s(first, one), point_lap_s(second, two), 0.02);
    EXPECT_NEAR(one.front(), one.back(), 0.5);
}
