// What Compare counts: stretches of the gap, events of a lap, two quantities against each other, shares, what lies
// between two moments; against closed forms, and on roads and drivers that nothing was tuned to.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>
#include <numeric>
#include <random>
#include <stop_token>

#include "core/analysis/gap_stretches.h"
#include "core/analysis/lap_events.h"
#include "core/analysis/pairs.h"
#include "core/laps/trace.h"
#include "core/laps/trace_table.h"
#include "tests/support/demo_world.h"

using namespace rendak;
using rendak::test::demo_world;

namespace {

GapCurve curve(const std::vector<std::pair<double, double>>& knots, double noise_s = 0, unsigned seed = 1) {
    std::mt19937 random(seed);
    std::normal_distribution<double> noise(0, noise_s > 0 ? noise_s : 1);
    GapCurve out;
    std::size_t k = 1;
    for (double s = 0; s <= knots.back().first; s += 1) {
        while (k + 1 < knots.size() && s > knots[k].first) ++k;
        const auto &a = knots[k - 1], &b = knots[k];
        out.distance_m.push_back(s);
        out.gap_s.push_back(a.second + (b.second - a.second) * (s - a.first) / (b.first - a.first) +
                            (noise_s > 0 ? noise(random) : 0));
    }
    return out;
}

double sum_of(const std::vector<GapStretch>& stretches) {
    return std::accumulate(stretches.begin(), stretches.end(), 0.0,
                           [](double sum, const GapStretch& it) { return sum + it.change_s; });
}

/// A lap over samples that are given, without a road: time is place.
PreparedLap stretch_of(std::vector<Channel> channels, double end_s) {
    auto recording = std::make_shared<Recording>();
    recording->channels = std::move(channels);
    PreparedLap lap;
    lap.recording = recording;
    lap.map.time_s = {0, end_s};
    lap.map.distance_m = {0, end_s};
    return lap;
}

Channel sampled(const char* quantity, const char* unit, double rate_hz, double end_s,
                const std::function<double(double)>& at) {
    ChannelStorage storage;
    for (double i = 0; i / rate_hz <= end_s + 1e-9; ++i) storage.floats.push_back(static_cast<float>(at(i / rate_hz)));
    return make_channel(quantity, quantity, unit, std::move(storage), 0, rate_hz);
}

}  // namespace

TEST(GapStretches, FindsTheBendsAndAddsUp) {
    const std::vector<std::pair<double, double>> knots{{0, 0},      {400, 0},     {520, 0.31},
                                                       {900, 0.31}, {1000, 0.18}, {1500, 0.18}};
    const auto found = gap_stretches(curve(knots), {0, 1500}, 0.01);
    ASSERT_EQ(found.size(), 5U);
    for (std::size_t i = 0; i < 5; ++i) {
        EXPECT_NEAR(found[i].range_m.begin, knots[i].first, 15) << i;
        EXPECT_NEAR(found[i].change_s, knots[i + 1].second - knots[i].second, 0.011) << i;
    }
    EXPECT_NEAR(found[1].per_100_m(), 0.31 / 1.2, 0.03);
    EXPECT_NEAR(sum_of(found), 0.18, 1e-12);
    // Of a part: from the part's beginning.
    const auto part = gap_stretches(curve(knots), {450, 950}, 0.01);
    EXPECT_EQ(part.front().range_m.begin, 450);
    EXPECT_EQ(part.back().range_m.end, 950);
    EXPECT_NEAR(sum_of(part), curve(knots).at(950) - curve(knots).at(450), 1e-12);
}

TEST(GapStretches, ManyCurvesAddUpAndJoinWhateverTheirShape) {
    std::mt19937 random(7);
    std::uniform_real_distribution<double> pace(-0.002, 0.002), length(30, 400), noise(0, 0.004);
    for (unsigned trial = 0; trial < 200; ++trial) {
        std::vector<std::pair<double, double>> knots{{0, 0}};
        while (knots.back().first < 3000) {
            const double by = std::round(length(random));
            knots.emplace_back(knots.back().first + by, knots.back().second + by * pace(random));
        }
        const GapCurve gap = curve(knots, trial % 2 == 0 ? 0 : noise(random), trial);
        const Interval range{0, gap.distance_m.back()};
        const auto found = gap_stretches(gap, range, 0.015);
        ASSERT_FALSE(found.empty());
        EXPECT_EQ(found.front().range_m.begin, range.begin);
        EXPECT_EQ(found.back().range_m.end, range.end);
        for (std::size_t i = 1; i < found.size(); ++i) EXPECT_EQ(found[i].range_m.begin, found[i - 1].range_m.end);
        EXPECT_NEAR(sum_of(found), gap.gap_s.back() - gap.gap_s.front(), 1e-9);
        // Between its knots the curve is never farther off than that.
        for (const GapStretch& it : found) {
            for (double s = std::ceil(it.range_m.begin); s <= it.range_m.end; ++s) {
                const double line =
                    gap.at(it.range_m.begin) + it.change_s * (s - it.range_m.begin) / it.range_m.length();
                EXPECT_LE(std::abs(gap.at(s) - line), 0.015 + 1e-9);
            }
        }
    }
}

TEST(GapStretches, NothingIsNoStretch) {
    EXPECT_TRUE(gap_stretches({}, {0, 100}, 0.01).empty());
    EXPECT_TRUE(gap_stretches(curve({{0, 0}, {100, 1}}), {50, 50}, 0.01).empty());
    EXPECT_EQ(gap_stretches(curve({{0, 0}, {100, 0}}), {0, 100}, 0.01).size(), 1U);
}

TEST(GapStretches, TheDemoDriversHairpinIsTheLargest) {
    const auto& world = demo_world();
    const PreparedLap a = world.runs[1].lap(7, world.track);
    const Corner& hairpin = world.track->corners[4];
    for (const int number : {1, 4, 6, 7}) {
        const PreparedLap b = world.runs[2].lap(number, world.track);
        const GapCurve gap = gap_between(a.map, b.map);
        const Interval whole{0, world.track->length_m};
        const auto found = gap_stretches(gap, whole, gap_tolerance_s(a, b, gap, whole));
        const auto changes = gap_changes(found);
        EXPECT_LT(changes.size(), 40U) << "a list that is read";
        EXPECT_EQ(std::accumulate(changes.begin(), changes.end(), std::size_t{0},
                                  [](std::size_t n, const GapChange& it) { return n + it.parts.size(); }),
                  found.size());
        double sum = 0, largest = 0;
        for (const GapChange& it : changes) {
            sum += it.change_s;
            largest = std::max(largest, it.change_s);
            if (it.change_s == largest) EXPECT_EQ(it.parts.front().range_m.begin, it.range_m.begin);
        }
        EXPECT_NEAR(sum, b.time_s() - a.time_s(), 1e-9);
        EXPECT_GT(largest, 0.6) << "the hairpin as one event";
        EXPECT_NEAR(sum_of(found), b.time_s() - a.time_s(), 1e-9);
        const auto most = std::max_element(found.begin(), found.end(),
                                           [](const auto& x, const auto& y) { return x.change_s < y.change_s; });
        EXPECT_GT(most->range_m.end, hairpin.start_m - 150) << number;
        EXPECT_LT(most->range_m.begin, hairpin.end_m + 50) << number;
    }
}

TEST(LapEvents, AreInOrderAndTheSameOnesAreFound) {
    const auto& world = demo_world();
    const PreparedLap a = world.runs[1].lap(7, world.track), b = world.runs[2].lap(6, world.track);
    const auto of_a = lap_events(a, corner_events(a)), of_b = lap_events(b, corner_events(b));
    EXPECT_TRUE(
        std::is_sorted(of_a.begin(), of_a.end(), [](const auto& x, const auto& y) { return x.place_m < y.place_m; }));
    std::size_t shifts = 0;
    for (const LapEvent& event : of_a) shifts += event.corner == 0;
    EXPECT_GT(shifts, 10U);
    for (const LapEvent& event : of_a) {
        if (event.corner != 5) continue;
        const auto same = same_event(event, of_b);
        if (event.kind == EventKind::brake_on) {
            ASSERT_TRUE(same);
            EXPECT_NEAR(same->place_m - event.place_m, -14, 5) << "brakes 14 m earlier";
        }
        if (same) EXPECT_EQ(same->kind, event.kind);
    }
    // In a corner that is braked for the driver does it in this order.
    const auto events = corner_events(a)[4];
    ASSERT_TRUE(events.lift_m && events.brake_on_m && events.brake_off_m && events.slowest_m && events.throttle_on_m &&
                events.full_throttle_m);
    EXPECT_LE(*events.lift_m, *events.brake_on_m + 2);
    EXPECT_LT(*events.brake_on_m, *events.brake_off_m);
    EXPECT_LE(*events.slowest_m, *events.throttle_on_m);
    EXPECT_LE(*events.throttle_on_m, *events.full_throttle_m);
    EXPECT_FALSE(same_event({EventKind::shift_up, 0, 100, 4}, {{EventKind::shift_up, 0, 400, 4}})) << "too far away";
    EXPECT_FALSE(same_event({EventKind::shift_up, 0, 100, 4}, {{EventKind::shift_up, 0, 110, 5}}));
}

TEST(LapEvents, AGearThatFlickersIsNoShift) {
    const auto lap = stretch_of({sampled("gear", "", 100, 10,
                                         [](double t) {
                                             return t < 3 ? 2 : t < 3.03 ? 0 : t < 6 ? 3 : t < 6.04 ? 5 : 3;
                                         })},
                                10);
    const auto found = lap_events(lap, {});
    ASSERT_EQ(found.size(), 1U);
    EXPECT_EQ(found[0].kind, EventKind::shift_up);
    EXPECT_EQ(found[0].gear, 3);
    EXPECT_NEAR(found[0].place_m, 3.03, 0.011);
}

TEST(Between, ChangeSlopeAndAreaOfAParabola) {
    // y = t²: change b² − a², least-squares slope a + b, area (b³ − a³) / 3.
    const auto lap = stretch_of({sampled("speed", "m/s", 200, 10, [](double t) { return t * t; })}, 10);
    const BetweenFigures found = between_in_time(lap, "speed", {2, 5});
    EXPECT_NEAR(found.change, 21, 1e-4);
    EXPECT_NEAR(found.slope_per_s, 7, 1e-3);
    EXPECT_NEAR(found.area_s, 39, 1e-3);
    // Ends between samples.
    const BetweenFigures odd = between_in_time(lap, "speed", {2.0021, 5.0037});
    EXPECT_NEAR(odd.area_s, (std::pow(5.0037, 3) - std::pow(2.0021, 3)) / 3, 1e-3);
    EXPECT_TRUE(std::isnan(between_in_time(lap, "speed", {5, 5}).change));
    EXPECT_TRUE(std::isnan(between_in_time(lap, "throttle", {2, 5}).area_s));
    const auto gears = stretch_of({sampled("gear", "", 1, 10, [](double t) { return t < 5 ? 2 : 4; })}, 10);
    EXPECT_NEAR(between_in_time(gears, "gear", {0, 10}).area_s, 30, 1e-9) << "a state keeps its value";
}

TEST(Pairs, TheFitOfALineWithNoiseIsWhatNumPyFinds) {
    // numpy.polyfit of x = 0 … 9, y = 3 x + 2 + (−1)^i: slope 2.9393939…, offset 2.2727272…
    std::vector<float> x, y;
    for (int i = 0; i < 10; ++i) {
        x.push_back(static_cast<float>(i));
        y.push_back(static_cast<float>(3 * i + 2 + (i % 2 == 0 ? 1 : -1)));
    }
    const LineFit fit = fit_line(x, y);
    EXPECT_NEAR(fit.slope, 2.9393939393939394, 1e-6);
    EXPECT_NEAR(fit.offset, 2.2727272727272725, 1e-6);
    double left = 0, all = 0;
    for (std::size_t i = 0; i < 10; ++i) {
        left += std::pow(y[i] - fit.offset - fit.slope * x[i], 2);
        all += std::pow(y[i] - 15.5, 2);
    }
    EXPECT_NEAR(fit.sd, std::sqrt(left / 8), 1e-9);
    EXPECT_NEAR(fit.explained, 1 - left / all, 1e-9);
    EXPECT_FALSE(fit_line(std::vector<float>{1, 1, 1}, std::vector<float>{1, 2, 3}).known());
    EXPECT_FALSE(fit_line(std::vector<float>{1, 2}, std::vector<float>{1, 2}).known());
}

TEST(Pairs, ClocksAreBroughtTogetherAndSidesKeptApart) {
    const auto wave = [](double t) { return std::sin(t); };
    auto lap = stretch_of({sampled("speed", "m/s", 10, 20, [](double t) { return 20 + t; }),
                           sampled("lateral_acceleration", "m/s²", 100, 20, [&](double t) { return 9 * wave(t); }),
                           sampled("longitudinal_acceleration", "m/s²", 25, 20, [](double t) { return t; })},
                          20);
    const auto all = paired_samples(lap, "speed", "lateral_acceleration", "longitudinal_acceleration", {1, 19});
    ASSERT_GT(all.size(), 1700U) << "on the faster clock";
    for (std::size_t i = 0; i < all.size(); i += 97) {
        EXPECT_NEAR(all.x[i], 20 + all.time_s[i], 1e-3);
        EXPECT_NEAR(all.y[i], 9 * wave(all.time_s[i]), 1e-3);
        EXPECT_NEAR(all.z[i], all.time_s[i], 1e-3);
    }
    const auto left = paired_samples(lap, "speed", "lateral_acceleration", "", {1, 19}, TurnSide::left);
    const auto right = paired_samples(lap, "speed", "lateral_acceleration", "", {1, 19}, TurnSide::right);
    EXPECT_GT(left.size(), 300U);
    EXPECT_GT(right.size(), 300U);
    EXPECT_LT(left.size() + right.size(), all.size()) << "straight ahead is neither";
    for (const float value : left.y) EXPECT_GT(value, 0);
    for (const float value : right.y) EXPECT_LT(value, 0);
    EXPECT_EQ(paired_samples(lap, "speed", "throttle", "", {1, 19}).size(), 0U);
}

TEST(Pairs, TheOutlineOfADiscIsItsEdge) {
    std::mt19937 random(3);
    std::uniform_real_distribution<double> angle(-std::numbers::pi, std::numbers::pi), area(0, 1);
    std::vector<float> x, y;
    for (int i = 0; i < 40'000; ++i) {
        const double a = angle(random), r = 12 * std::sqrt(area(random));
        x.push_back(static_cast<float>(r * std::cos(a)));
        y.push_back(static_cast<float>(r * std::sin(a)));
    }
    // 95 % of a disc's points lie within √0.95 of its edge.
    for (const double reach : outline(x, y)) EXPECT_NEAR(reach, 12 * std::sqrt(0.95), 0.15);
    const auto few = outline(std::vector<float>{1, 1, 1, 1, 1}, std::vector<float>{0, 0, 0, 0, 0}, 4);
    EXPECT_NEAR(few[0], 1, 1e-6);
    EXPECT_TRUE(std::isnan(few[1])) << "nothing there";
}

TEST(Pairs, SharesAddUpAndStepsAreWhatWasAsked) {
    // Half the time at 10 m/s, half at 30: of the way a quarter and three quarters.
    const auto lap = stretch_of({sampled("speed", "m/s", 100, 20, [](double t) { return t < 10 ? 10 : 30; })}, 20);
    const Shares time = shares_of(lap, "speed", {0, 20}, ShareOf::time, 5);
    ASSERT_EQ(time.share.size(), 5U);
    EXPECT_EQ(time.begin, 10);
    EXPECT_NEAR(time.share.front(), 0.5, 1e-3);
    EXPECT_NEAR(time.share.back(), 0.5, 1e-3);
    EXPECT_EQ(time.share[2], 0);
    const Shares way = shares_of(lap, "speed", {0, 20}, ShareOf::distance, 5);
    EXPECT_NEAR(way.share.front(), 0.25, 1e-3);
    EXPECT_NEAR(way.share.back(), 0.75, 1e-3);
    EXPECT_TRUE(shares_of(lap, "speed", {0, 20}, ShareOf::time, 1e-6).share.empty()) << "a slip of the hand";
    EXPECT_TRUE(shares_of(lap, "gear", {0, 20}, ShareOf::time, 1).share.empty());
    for (double range = 1e-3; range < 1e6; range *= 1.7) {
        const double step = usual_step(range);
        EXPECT_LE(range / step, 30.001);
        EXPECT_GE(range / step, 11.9) << range;
    }
}

TEST(Pairs, OfHoursFewerSamplesSayTheSame) {
    const auto lap = stretch_of(
        {sampled("speed", "m/s", 100, 600, [](double t) { return 31 + 20 * std::sin(t * 0.1); }),
         sampled("engine_speed", "rad/s", 100, 600, [](double t) { return 15 * (31 + 20 * std::sin(t * 0.1)); })},
        600);
    const auto all = paired_samples(lap, "speed", "engine_speed", "", {0, 600});
    const auto few = paired_samples(lap, "speed", "engine_speed", "", {0, 600}, TurnSide::both, 5000);
    EXPECT_EQ(all.every, 1U);
    EXPECT_EQ(few.every, 12U);
    EXPECT_LE(few.size(), 5001U);
    EXPECT_NEAR(fit_line(few.x, few.y).slope, 15, 1e-3);
    const Shares whole = shares_of(lap, "speed", {0, 600}, ShareOf::time, 5),
                 part = shares_of(lap, "speed", {0, 600}, ShareOf::time, 5, TurnSide::both, 5000);
    ASSERT_EQ(whole.share.size(), part.share.size());
    for (std::size_t k = 0; k < whole.share.size(); ++k) EXPECT_NEAR(whole.share[k], part.share[k], 0.004) << k;
}

TEST(TraceLimits, OfAPartAreThoseOfTheSamplesInIt) {
    Trace trace;
    for (int i = 0; i < 100; ++i) {
        trace.x.push_back(static_cast<float>(i));
        trace.y.push_back(i == 50 ? NAN : static_cast<float>(i * i));
    }
    EXPECT_EQ(trace.limits({10, 20}), (Interval{100, 400}));
    EXPECT_EQ(trace.limits({49.5, 50.5}), std::nullopt) << "nothing there";
    trace.y[30] = 0;
    EXPECT_EQ(trace.limits({29.5, 30.5}), (Interval{0, 0})) << "nothing but zero is something";
    trace = {};
    trace.whole = std::make_shared<const Channel>(sampled("speed", "m/s", 100, 60, [](double t) { return t; }));
    trace.whole_start_s = 10;
    const auto found = trace.limits({5, 15});
    ASSERT_TRUE(found);
    EXPECT_NEAR(found->begin, 15, 0.02);
    EXPECT_NEAR(found->end, 25, 0.02);
}

TEST(TraceTable, IsTheSamplesInTheirUnitsOnEachAxis) {
    auto lap = stretch_of({sampled("speed", "m/s", 100, 20, [](double t) { return 10 + t; })}, 20);
    lap.map.time_s = {2, 18};
    lap.map.distance_m = {0, 160};  // ten metres a second
    GapCurve gap{{0, 160}, {0, 1.6}};
    const std::vector<TracedColumn> columns{{"A Speed [km/h]", lap, "speed", {}, {}, 1 / 3.6, 0, 1},
                                            {"B Gap [s]", lap, "gap", gap, {}, 1, 0, 3},
                                            {"A Gear", lap, "gear", {}, {}, 1, 0, 0}};
    const auto by_place = trace_table(columns, Axis::distance, {50, 52}, 1000);
    ASSERT_TRUE(by_place);
    // 50 m are at 7 s of the recording: 17 m/s.
    EXPECT_EQ(*by_place,
              "Distance [m],A Speed [km/h],B Gap [s],A Gear\n50.0,61.2,0.500,\n51.0,61.6,0.510,\n52.0,61.9,0.520,\n");
    const auto by_time = trace_table(columns, Axis::time, {5, 5.01}, 1000);
    ASSERT_TRUE(by_time);
    EXPECT_EQ(*by_time, "Time [s],A Speed [km/h],B Gap [s],A Gear\n5.000,61.2,0.500,\n5.010,61.2,0.501,\n");
    const auto run = trace_table(columns, Axis::run, {-2, -1.99}, 1000);
    ASSERT_TRUE(run);
    EXPECT_EQ(run->substr(run->find('\n') + 1), "-2.000,36.0,,\n-1.990,36.0,,\n") << "no gap over the whole run";
    // Slid along the road: the values of a place stand so much further on; what lies between the laps does not.
    auto slid = columns;
    for (TracedColumn& column : slid) column.slid_m = column.quantity == "gap" ? 0 : 1;
    EXPECT_EQ(*trace_table(slid, Axis::distance, {51, 53}, 1000),
              "Distance [m],A Speed [km/h],B Gap [s],A Gear\n51.0,61.2,0.510,\n52.0,61.6,0.520,\n53.0,61.9,0.530,\n");
    EXPECT_EQ(*trace_table(slid, Axis::time, {5, 5.01}, 1000), *by_time) << "over time nothing is slid";
    // Longer steps rather than a table that nobody opens; a cancel writes nothing.
    const auto coarse = trace_table(columns, Axis::time, {0, 15}, 100);
    ASSERT_TRUE(coarse);
    EXPECT_EQ(std::count(coarse->begin(), coarse->end(), '\n'), 1 + 16);
    std::stop_source stop;
    stop.request_stop();
    EXPECT_FALSE(trace_table(columns, Axis::time, {0, 15}, 100, {stop.get_token(), {}}));
}

TEST(LapEvents, ALiftThatIsOverBeforeTheSlowestPlaceIsStillALift) {
    // One corner; the throttle is left for half a second well before the slowest place.
    Track track;
    track.open = true;
    track.length_m = 400;
    for (double s = 0; s <= 400; s += 1) track.line.push_back({s, 0});
    Corner corner;
    corner.number = 1;
    corner.start_m = 180;
    corner.apex_m = 200;
    corner.end_m = 220;
    track.corners = {corner};
    const auto driven = [&](const std::function<double(double)>& throttle) {
        auto lap = stretch_of({sampled("throttle", "", 100, 20, throttle),
                               sampled("speed", "m/s", 100, 20, [](double t) { return 20 + std::abs(t - 10) * 0.1; })},
                              20);
        lap.track = std::make_shared<const Track>(track);
        lap.map.distance_m = {0, 400};
        return corner_events(lap).front();
    };
    const auto lifted = driven([](double t) { return t > 7 && t < 7.5 ? 0.3 : 1; });
    ASSERT_TRUE(lifted.lift_m && lifted.full_throttle_m);
    EXPECT_NEAR(*lifted.lift_m, 140, 2);
    EXPECT_NEAR(*lifted.full_throttle_m, 150, 2);
    const auto flat = driven([](double) { return 1; });
    EXPECT_FALSE(flat.lift_m || flat.full_throttle_m || flat.throttle_on_m);
    const auto through = driven([](double t) { return t > 9 && t < 11 ? 0.0 : 1; });
    ASSERT_TRUE(through.lift_m && through.throttle_on_m && through.full_throttle_m);
    EXPECT_NEAR(*through.lift_m, 180, 2);
    EXPECT_NEAR(*through.throttle_on_m, 220, 2);
    EXPECT_NEAR(*through.full_throttle_m, 220, 2);
}
