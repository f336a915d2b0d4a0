// The planted habits of the second driver are found where they were planted.
#include "core/analysis/where.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>

#include "core/analysis/phases.h"
#include "core/intake/run_data.h"
#include "tests/support/demo_world.h"

using namespace rendak;
using rendak::test::demo_world;

namespace {

std::vector<ZoneDifference> compared(int lap_a, int lap_b) {
    const auto& world = demo_world();
    const PreparedLap a = world.runs[1].lap(lap_a, world.track), b = world.runs[2].lap(lap_b, world.track);
    return differences_by_zone(a, b, gap_between(a.map, b.map));
}

}  // namespace

TEST(Where, ZonesCoverTheLapAndLossesAddUp) {
    const auto& world = demo_world();
    const PreparedLap a = world.runs[1].lap(7, world.track), b = world.runs[2].lap(6, world.track);
    const auto zones = compared(7, 6);
    ASSERT_EQ(zones.size(), 14U);
    double at = 0, sum = 0;
    for (const auto& zone : zones) {
        EXPECT_DOUBLE_EQ(zone.zone.range_m.begin, at);
        at = zone.zone.range_m.end;
        sum += zone.loss_s;
    }
    EXPECT_DOUBLE_EQ(at, world.track->length_m);
    EXPECT_NEAR(sum, b.time_s() - a.time_s(), 1e-9);
}

TEST(Where, TheHairpinCostsMostBecauseOfEarlyBraking) {
    for (const int lap : {1, 4, 6, 7}) {
        const auto zones = compared(7, lap);
        const auto most = std::max_element(zones.begin(), zones.end(),
                                           [](const auto& a, const auto& b) { return a.loss_s < b.loss_s; });
        EXPECT_EQ(most->zone.corner.number, 5) << "lap " << lap;
        ASSERT_TRUE(most->brake_on_m);
        EXPECT_NEAR(*most->brake_on_m, -14, 5) << "lap " << lap;
        EXPECT_FALSE(most->inferred);
    }
}

TEST(Where, TheLiftIsSeenOnTheLapsThatHaveIt) {
    for (const int lap : {1, 2, 4, 6, 7}) {
        const auto fast_right = compared(7, lap)[5];
        EXPECT_EQ(fast_right.throttle_lift.has_value(), lap != 2) << "lap " << lap;
        if (fast_right.throttle_lift) {
            EXPECT_GT(*fast_right.throttle_lift, 0.5);
            EXPECT_GT(fast_right.loss_s, 0.2);
        }
    }
}

TEST(Where, TimeOnNeitherPedalIsSeen) {
    const auto zones = compared(7, 6);
    for (const std::size_t corner : {3U, 13U}) {
        ASSERT_TRUE(zones[corner - 1].off_pedals_s);
        EXPECT_GT(*zones[corner - 1].off_pedals_s, 0.12) << "turn " << corner;
    }
}

TEST(Phases, CoverTheLapAndTellBrakingFromFullThrottle) {
    const auto& world = demo_world();
    const PreparedLap lap = world.runs[1].lap(4, world.track);
    double at = 0;
    for (const PhaseSpan& span : phases_of(lap)) {
        EXPECT_DOUBLE_EQ(span.range_m.begin, at);
        at = span.range_m.end;
    }
    EXPECT_DOUBLE_EQ(at, world.track->length_m);
    const auto phase_at = [&](double s) {
        for (const PhaseSpan& span : phases_of(lap)) {
            if (span.range_m.contains(s)) return span.phase;
        }
        return Phase::straight;
    };
    EXPECT_EQ(phase_at(100), Phase::full_throttle);
    EXPECT_EQ(phase_at(world.track->corners[4].start_m), Phase::braking);
}

TEST(Pedals, AreInferredFromAccelerationWhenNotLogged) {
    const auto& world = demo_world();
    PreparedLap lap = world.runs[1].lap(4, world.track);
    const DriverActivity logged = lap.activity();
    Recording poor = *lap.recording;
    std::erase_if(poor.channels,
                  [](const Channel& c) { return c.quantity == "throttle" || c.quantity == "brake_front"; });
    lap.recording = std::make_shared<const Recording>(poor);
    const DriverActivity inferred = lap.activity();
    EXPECT_TRUE(inferred.inferred());
    EXPECT_FALSE(logged.inferred());
    int same = 0, all = 0;
    for (double t = lap.map.start_s(); t < lap.map.end_s(); t += 0.1) {
        ++all;
        same += logged.braking(t) == inferred.braking(t);
    }
    EXPECT_GT(same, all * 0.9);
}
