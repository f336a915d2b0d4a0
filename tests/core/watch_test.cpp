// Watch rules: closed forms of the times that they speak of, files of rules, and the demo's planted oil surge.
#include "core/analysis/watch.h"

#include <gtest/gtest.h>

#include <cmath>
#include <limits>

#include "core/intake/watch_run.h"
#include "tests/support/weekend_test.h"

using namespace rendak;
using test::got;

namespace {

constexpr double no_value = std::numeric_limits<double>::quiet_NaN();

Channel at_ten_hertz(const std::vector<float>& values) {
    ChannelStorage storage;
    for (const float value : values) storage.floats.push_back(value);
    return make_channel("c", "", "", std::move(storage), 5, 10);
}

TEST(Watch, TimesBeginAndEndWithTheConditionAndJoinWhereTheyAreClose) {
    const Channel condition = at_ten_hertz({0, 1, 1, 0, 1, 0, 0, 0, 0, 0, 1});
    const Channel value = at_ten_hertz({9, 8, 7, 6, 2, 6, 1, 6, 6, 6, 5});
    WatchRule rule{.name = "x", .condition = "x", .worst_is_low = true, .apart_s = 0};
    Watched apart = watched(condition, &value, rule);
    ASSERT_EQ(apart.times.size(), 3U);
    EXPECT_NEAR(apart.known_s, 1.1, 1e-9);
    EXPECT_NEAR(apart.times[0].time_s.begin, 5.1, 1e-9);
    EXPECT_NEAR(apart.times[0].time_s.end, 5.3, 1e-9);
    EXPECT_EQ(apart.times[0].worst, 7);
    EXPECT_NEAR(apart.times[0].worst_at_s, 5.2, 1e-9);
    EXPECT_EQ(apart.times[2].worst, 5) << "up to the recording's very end";
    rule.apart_s = 0.1;
    const Watched joined = watched(condition, &value, rule);
    ASSERT_EQ(joined.times.size(), 2U);
    EXPECT_EQ(joined.times[0].worst, 2) << "what lies outside of it is none of it";
    EXPECT_NEAR(joined.times[0].time_s.end, 5.5, 1e-9);
    rule.worst_is_low = false;
    EXPECT_EQ(watched(condition, &value, rule).times[0].worst, 8);
    // How long, and how often.
    rule.for_s = 0.3;
    EXPECT_EQ(watched(condition, &value, rule).times.size(), 1U);
    rule.times = 2;
    EXPECT_TRUE(watched(condition, &value, rule).times.empty());
    rule.for_s = 0;
    EXPECT_EQ(watched(condition, &value, rule).times.size(), 2U);
    // What cannot be told is no time, and is not known.
    const auto n = static_cast<float>(no_value);
    const Watched holes = watched(at_ten_hertz({n, 1, n, n, 0, n}), nullptr, rule = {.name = "x", .condition = "x"});
    ASSERT_EQ(holes.times.size(), 1U);
    EXPECT_NEAR(holes.known_s, 0.2, 1e-9);
    EXPECT_TRUE(std::isnan(holes.times[0].worst));
    EXPECT_TRUE(watched(at_ten_hertz({}), nullptr, rule).times.empty());
    EXPECT_EQ(watched(at_ten_hertz({1}), &value, rule).times.size(), 1U) << "one sample has no length and is told";
}

TEST(Watch, ABlockAfterAnotherSaysWhatTheWholeSays) {
    // Long stretches of nothing, holes, and times that hold over the seams.
    std::vector<float> values(200, 0);
    for (std::size_t i = 0; i < values.size(); ++i) {
        if (i % 67 > 60) values[i] = 1;
        if (i % 41 == 5) values[i] = static_cast<float>(no_value);
        if (i == 150) values[i] = -0.0F;
    }
    const Channel condition = at_ten_hertz(values);
    const WatchRule rule{.name = "x", .condition = "x", .apart_s = 0.15};
    const Watched whole = watched(condition, &condition, rule);
    ASSERT_EQ(whole.times.size(), 3U);
    EXPECT_NEAR(whole.known_s, 19.5, 1e-9) << "five holes of a tenth";
    for (const std::size_t block : {1U, 7U, 16U, 63U, 199U}) {
        HeldTimes held(rule.apart_s);
        for (std::size_t from = 0; from < values.size(); from += block) {
            const auto part = std::span<const float>(values).subspan(from, std::min(block, values.size() - from));
            SampleClock clock = condition.clock;
            clock.start_s = clock.time_at(from);
            clock.size = part.size();
            held.take(part, clock);
        }
        held.take({}, {});
        held.finish();
        const Watched got = watched(held, &condition, rule);
        EXPECT_NEAR(got.known_s, whole.known_s, 1e-9) << block;
        ASSERT_EQ(got.times.size(), whole.times.size()) << block;
        for (std::size_t k = 0; k < got.times.size(); ++k) {
            EXPECT_NEAR(got.times[k].time_s.begin, whole.times[k].time_s.begin, 1e-9) << block;
            EXPECT_NEAR(got.times[k].time_s.end, whole.times[k].time_s.end, 1e-9) << block;
        }
    }
}

TEST(Watch, TouchesOfTheRoadAreCountedWithinTheirTime) {
    std::vector<float> heights(100, 0.02F);
    for (const std::size_t i : {10U, 11U, 30U, 33U, 60U}) heights[i] = 0.0005F;
    heights[32] = static_cast<float>(no_value);
    const Channel height = at_ten_hertz(heights);  // from 5 s on
    EXPECT_EQ(road_touches(height, {5, 15}), 3U) << "three tenths apart is one touch";
    EXPECT_EQ(road_touches(height, {6.05, 9}), 2U) << "the second sample of the first one lies in it";
    EXPECT_EQ(road_touches(height, {12, 15}), 0U);
    EXPECT_EQ(road_touches(height, {20, 30}), 0U) << "behind the end";
    EXPECT_EQ(road_touches(height, {5, 15}, 0.0001), 0U);
}

TEST(Watch, RulesAreWrittenAndReadAndHostileFilesRefused) {
    const auto& shipped = shipped_watch_rules();
    EXPECT_GE(shipped.size(), 10U);
    EXPECT_EQ(got(watch_rules_from_json(watch_rules_to_json(shipped), "a file")), shipped);
    const auto least = got(watch_rules_from_json(R"([{"name": "a", "condition": "speed > 3 m/s"}])", "x"));
    ASSERT_EQ(least.size(), 1U);
    EXPECT_EQ(least[0].times, 1U);
    EXPECT_FALSE(least[0].worst_is_low);
    const std::string begin = R"([{"name": "a", "condition": "b", )";
    for (const std::string& wrong :
         {std::string(), std::string("{}"), std::string("[1]"), std::string("[{}]"), std::string(R"([{"name": "a"}])"),
          std::string(R"([{"name": "", "condition": "b"}])"), std::string(R"([{"name": 3, "condition": "b"}])"),
          begin + R"("for_s": -1}])", begin + R"("for_s": "long"}])", begin + R"("for_s": 1e300}])",
          begin + R"("times": 0}])", begin + R"("times": 1.5}])", begin + R"("worst": "bad"}])",
          begin + R"("beside": "x"}])", begin + R"("beside": [1]}])", begin + R"("value": [] }])",
          std::string(R"([{"name": "a", "condition": "b"}, {"name": "a", "condition": "c"}])"), begin,
          std::string(2000, '[')}) {
        const auto read = watch_rules_from_json(wrong, "rules.json");
        ASSERT_FALSE(read) << wrong;
        EXPECT_EQ(read.error().where, "rules.json");
    }
}

class WatchDemo : public test::WeekendTest {
  protected:
    static const WatchRule& rule(const std::string& name) {
        for (const WatchRule& it : shipped_watch_rules())
            if (it.name == name) return it;
        ADD_FAILURE() << name;
        return shipped_watch_rules().front();
    }
    static WatchTold told(std::int64_t id, const std::string& name) { return watch_run(*run(id), rule(name)); }
};

TEST_F(WatchDemo, TheOilSurgesFromHalfFuelOnAndOnTheSlowDownLap) {
    const WatchTold long_run = told(4, "Oil pressure low for the revs");
    ASSERT_EQ(long_run.why_not, "");
    EXPECT_GT(long_run.events.size(), 15U);
    bool in_lap = false;
    for (const WatchEvent& it : long_run.events) {
        ASSERT_EQ(it.beside.size(), 3U);
        EXPECT_GT(it.beside[0], 9) << "long lefts";
        EXPECT_LT(it.beside[2], 0.0142) << "half of 28 l, as the sender reads";
        ASSERT_TRUE(it.place_m && it.lap);
        EXPECT_GE(*it.lap, 12);
        EXPECT_LT(it.when.worst, 3.1e5);
        in_lap = in_lap || it.kind == LapKind::in;
    }
    EXPECT_TRUE(in_lap);
    // Setup Y, a shorter run, and one that only touches the road.
    for (const std::int64_t id : {5, 2, 12})
        EXPECT_TRUE(told(id, "Oil pressure low for the revs").events.empty()) << id;
    for (const char* quiet : {"Oil hot", "Water hot", "Over-revs", "Rear touches the road", "Tyre FL loses pressure"})
        for (const std::int64_t id : {2, 4, 17}) EXPECT_TRUE(told(id, quiet).events.empty()) << quiet << " in " << id;
}

TEST_F(WatchDemo, TheFrontTouchesTheRoadAtTopSpeedAndOnTheCrest) {
    const WatchTold touches = told(2, "Front touches the road");
    ASSERT_FALSE(touches.events.empty());
    for (const WatchEvent& it : touches.events) {
        EXPECT_LT(it.when.worst, 1e-3);
        EXPECT_GT(it.beside[0], 45);
    }
    // Counted lap by lap the same way, and the packers of a later run cure it.
    const auto data = run(2);
    const Channel* height = data->recording->find("ride_height_front");
    std::size_t in_laps = 0, by_lap = 0;
    for (const Lap& lap : data->laps) {
        if (!lap.complete()) continue;
        by_lap += road_touches(*height, {lap.start_s, lap.end_s});
        in_laps += static_cast<std::size_t>(std::count_if(touches.events.begin(), touches.events.end(),
                                                          [&](const WatchEvent& it) { return it.lap == lap.number; }));
    }
    EXPECT_EQ(by_lap, in_laps);
    EXPECT_GT(by_lap, 8U);
    EXPECT_EQ(road_touches(*height, {-20, -10}), 0U);
    // What this run does not have is said, and nothing is claimed.
    const WatchTold battery = told(2, "Battery low while the engine runs");
    EXPECT_TRUE(battery.events.empty());
    EXPECT_NE(battery.why_not.find("no battery_voltage"), std::string::npos);
    EXPECT_FALSE(told(2, "Gearbox hot").why_not.empty());
    const WatchTold wrong = watch_run(*run(2), {.name = "x", .condition = "speed + oil_pressure"});
    EXPECT_FALSE(wrong.why_not.empty());
}

TEST_F(WatchDemo, AHillHasNoLapsYetTimesAndPlaces) {
    const auto hill = run(14);
    const WatchTold fast = watch_run(*hill, {.name = "fast", .condition = "speed > 30 m/s", .value = "speed"});
    ASSERT_FALSE(fast.events.empty());
    EXPECT_GT(fast.events[0].when.worst, 30);
    EXPECT_TRUE(fast.events[0].place_m);
}

}  // namespace
