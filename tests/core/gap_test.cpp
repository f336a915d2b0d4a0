#include "core/laps/gap.h"

#include <gtest/gtest.h>

#include <cmath>

#include "tests/support/demo_world.h"

using namespace rendak;
using rendak::test::demo_world;

namespace {

/// A lap at an even speed, with a stretch [from, to) at another.
LapMap lap_at(double mps, double from = 0, double to = 0, double other_mps = 1) {
    LapMap map;
    double t = 100;
    for (double s = 0; s <= 1000; s += 5) {
        map.time_s.push_back(t);
        map.distance_m.push_back(s);
        map.left_m.push_back(0);
        t += 5 / (s >= from && s < to ? other_mps : mps);
    }
    return map;
}

}  // namespace

TEST(Gap, ClosedForm) {
    const GapCurve gap = gap_between(lap_at(50), lap_at(40));
    for (const double s : {0.0, 100.0, 333.0, 1000.0}) EXPECT_NEAR(gap.at(s), s / 40 - s / 50, 1e-9);
    EXPECT_GT(gap.gap_s.back(), 0) << "positive = behind";
    const GapCurve local = gap_between(lap_at(50), lap_at(50, 400, 600, 25));
    EXPECT_NEAR(local.at(399), 0, 1e-9);
    EXPECT_NEAR(local.at(500), 2, 1e-9);
    EXPECT_NEAR(local.at(1000), 4, 1e-9);
}

TEST(Gap, EndsAtTheLapTimeDifferenceOnEveryGrid) {
    const auto& world = demo_world();
    const PreparedLap a = world.runs[1].lap(7, world.track), b = world.runs[2].lap(6, world.track);
    for (const double step : {0.5, 1.0, 7.3, 250.0, 1e6}) {
        const GapCurve gap = gap_between(a.map, b.map, step);
        EXPECT_EQ(gap.gap_s.front(), 0);
        EXPECT_NEAR(gap.gap_s.back(), b.time_s() - a.time_s(), 1e-9) << step;
        EXPECT_DOUBLE_EQ(gap.distance_m.back(), world.track->length_m);
        EXPECT_EQ(gap.distance_m.size(), gap.gap_s.size());
        for (std::size_t i = 1; i < gap.distance_m.size(); ++i) ASSERT_GT(gap.distance_m[i], gap.distance_m[i - 1]);
    }
}

TEST(Gap, OfALapToItselfIsNothingAndSwapsSign) {
    const auto& world = demo_world();
    const PreparedLap a = world.runs[1].lap(2, world.track), b = world.runs[1].lap(3, world.track);
    for (const double g : gap_between(a.map, a.map).gap_s) EXPECT_EQ(g, 0);
    const GapCurve there = gap_between(a.map, b.map), back = gap_between(b.map, a.map);
    for (std::size_t i = 0; i < there.gap_s.size(); i += 40) EXPECT_NEAR(there.gap_s[i], -back.gap_s[i], 1e-12);
}
