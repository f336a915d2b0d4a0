#include <gtest/gtest.h>

#include <cmath>

#include "core/laps/cut.h"
#include "core/laps/prepared_lap.h"
#include "core/laps/trace.h"
#include "tests/support/demo_world.h"

using namespace rendak;
using rendak::test::demo_world;

TEST(Cut, LapsFollowEachOtherWithoutHoles) {
    for (const auto& run : demo_world().runs) {
        for (std::size_t i = 0; i < run.laps.size(); ++i) {
            EXPECT_EQ(run.laps[i].number, static_cast<int>(i));
            EXPECT_GT(run.laps[i].time_s(), 0);
            if (i > 0) EXPECT_DOUBLE_EQ(run.laps[i].start_s, run.laps[i - 1].end_s);
        }
    }
}

TEST(Cut, ALapOfTheWrongLengthIsAPartLap) {
    const auto& world = demo_world();
    Track longer = *world.track;
    longer.length_m *= 1.05;
    for (const Lap& lap : cut_laps(*world.runs[1].path, longer)) EXPECT_NE(lap.kind, LapKind::flying);
}

TEST(Cut, StandingOnTheWayIsNoFlyingLap) {
    const auto& world = demo_world();
    // Stop the clock for 5 s in the middle of lap 3.
    Path path = *world.runs[1].path;
    const double stop_at = world.runs[1].laps[3].start_s + 30;
    const std::size_t at = path.index_before(stop_at);
    for (std::size_t i = at + 1; i < path.size(); ++i) path.time_s.edit()[i] += 5;
    for (int k = 0; k < 100; ++k) {
        const auto i = static_cast<std::ptrdiff_t>(at + 1);
        path.time_s.edit().insert(path.time_s.edit().begin() + i, stop_at + 5 - 0.05 * k - 0.02);
        path.position.edit().insert(path.position.edit().begin() + i, path.position[at]);
        path.velocity.edit().insert(path.velocity.edit().begin() + i, Point{});
        path.distance_m.edit().insert(path.distance_m.edit().begin() + i, path.distance_m[at]);
        path.bridged.edit().insert(path.bridged.edit().begin() + i, 0);
    }
    const auto laps = cut_laps(path, *world.track);
    EXPECT_EQ(laps[3].kind, LapKind::stopped);
    EXPECT_FALSE(laps[3].included);
    EXPECT_EQ(laps[4].kind, LapKind::flying);
}

TEST(Cut, BestLapIsFlyingAndIncluded) {
    std::vector<Lap> laps{{0, LapKind::part, 0, 6, 100, true, false, ""},
                          {1, LapKind::flying, 6, 100, 4000, true, false, ""},
                          {2, LapKind::flying, 100, 190, 4000, false, true, "off"},
                          {3, LapKind::stopped, 190, 200, 4000, true, false, ""}};
    EXPECT_EQ(best_lap(laps)->number, 1);
    laps[1].included = false;
    EXPECT_EQ(best_lap(laps), nullptr);
}

TEST(LapMap, RisesFromZeroToTheLength) {
    const auto& world = demo_world();
    for (const int number : {1, 3, 5}) {
        const PreparedLap lap = world.runs[2].lap(number, world.track);
        EXPECT_DOUBLE_EQ(lap.map.distance_m.front(), 0);
        EXPECT_DOUBLE_EQ(lap.map.distance_m.back(), world.track->length_m);
        for (std::size_t i = 1; i < lap.map.time_s.size(); ++i) {
            ASSERT_GT(lap.map.time_s[i], lap.map.time_s[i - 1]);
            ASSERT_GE(lap.map.distance_m[i], lap.map.distance_m[i - 1]);
        }
        for (double s = 0; s <= world.track->length_m; s += 333)
            EXPECT_NEAR(lap.map.distance_at(lap.map.time_at(s)), s, 0.01);
    }
}

TEST(LapMap, SlowGpsErrorIsTakenOut) {
    // The same lap, once as it is and once with every position moved by 2 m.
    const auto& world = demo_world();
    const auto& run = world.runs[1];
    Path moved = *run.path;
    moved.slow_error_out = false;
    for (Point& p : moved.position.edit()) p = p + Point{1.6, -1.2};
    const Lap& lap = run.laps[4];
    Path there = *run.path;
    there.slow_error_out = false;
    const LapMap a = align_lap(there, *world.track, lap.start_s, lap.end_s),
                 b = align_lap(moved, *world.track, lap.start_s, lap.end_s);
    EXPECT_NEAR(b.shift.x - a.shift.x, 1.6, 0.15);
    EXPECT_NEAR(b.shift.y - a.shift.y, -1.2, 0.15);
    double worst = 0;
    for (double s = 0; s < world.track->length_m; s += 10)
        worst = std::max(worst, std::abs(a.time_at(s) - b.time_at(s)));
    EXPECT_LT(worst, 0.012) << "seconds; 2 m at 50 m/s would be 0.04";
}

TEST(Figures, LowMeanHighWithPlaces) {
    const auto& world = demo_world();
    const PreparedLap lap = world.runs[1].lap(4, world.track);
    const RangeFigures whole = figures_in_range(lap, "speed", {0, world.track->length_m});
    EXPECT_NEAR(lap.value_at("speed", whole.low_at_m), whole.low, 0.3);
    EXPECT_NEAR(lap.value_at("speed", whole.high_at_m), whole.high, 0.3);
    EXPECT_NEAR(whole.low_at_m, world.track->corners[4].apex_m, 40) << "the hairpin is the slowest place";
    EXPECT_NEAR(whole.mean, world.track->length_m / lap.time_s(), 0.4) << "mean over time = length / lap time";
    EXPECT_TRUE(std::isnan(figures_in_range(lap, "yaw_jerk", {0, 100}).mean));
}

TEST(Trace, FollowsBothAxes) {
    const auto& world = demo_world();
    const PreparedLap lap = world.runs[1].lap(4, world.track);
    const Trace by_distance = trace_of(lap, "speed", Axis::distance), by_time = trace_of(lap, "speed", Axis::time);
    ASSERT_EQ(by_distance.x.size(), by_time.x.size());
    EXPECT_EQ(by_distance.x.front(), 0);
    EXPECT_FLOAT_EQ(by_distance.x.back(), static_cast<float>(world.track->length_m));
    EXPECT_FLOAT_EQ(by_time.x.back(), static_cast<float>(lap.time_s()));
    for (std::size_t i = 0; i < by_time.x.size(); i += 97) {
        EXPECT_NEAR(lap.map.distance_at(lap.map.start_s() + by_time.x[i]), by_distance.x[i], 0.05);
    }
    EXPECT_TRUE(trace_of(lap, "gear", Axis::time).is_state);
    EXPECT_TRUE(trace_of(lap, "nothing", Axis::time).x.empty());
}
