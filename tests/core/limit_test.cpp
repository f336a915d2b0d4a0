// What a car was seen to reach, and the lap that it has shown it can do: closed forms, the demo's road, and circuits
// and cars that nothing was tuned to.
#include <gtest/gtest.h>

#include <cmath>

#include "core/analysis/quickest_line.h"
#include "core/analysis/shown_pace.h"
#include "core/intake/car_limits.h"
#include "tests/support/demo_world.h"
#include "tests/support/figures_only.h"
#include "tests/support/got.h"
#include "tests/support/made_world.h"

using namespace rendak;
using namespace rendak::test;
using demo::Cue;

namespace {

std::vector<LapMotion> motions_of(const std::vector<PreparedLap>& laps) {
    std::vector<LapMotion> out;
    for (const PreparedLap& lap : laps) out.push_back(motion_of(lap));
    return out;
}

const PreparedLap& best_of(const std::vector<PreparedLap>& laps) {
    return *std::min_element(laps.begin(), laps.end(),
                             [](const auto& a, const auto& b) { return a.time_s() < b.time_s(); });
}

double mean_time(const std::vector<PreparedLap>& laps) {
    double sum = 0;
    for (const PreparedLap& lap : laps) sum += lap.time_s() / static_cast<double>(laps.size());
    return sum;
}

}  // namespace

TEST(LimitLine, FourInFivePointsLieBelow) {
    std::vector<LimitPoint> points;
    for (double v = 20; v <= 60; v += 5) points.push_back({v, 14 + 0.002 * v * v});
    const LimitLine exact = line_above(points, 0.8);
    EXPECT_TRUE(exact.by_speed);
    EXPECT_NEAR(exact.at_rest_mps2, 14, 1e-9);
    EXPECT_NEAR(exact.per_v2, 0.002, 1e-12);
    EXPECT_EQ(exact.seen_mps.begin, 20);
    EXPECT_EQ(exact.seen_mps.end, 60);
    // One that is far below changes nothing, nor one of nine far above.
    points[3].mps2 = 6;
    points[6].mps2 = 40;
    const LimitLine robust = line_above(points, 0.8);
    EXPECT_NEAR(robust.at(30), 14 + 0.002 * 900, 1e-9);
    // Slower when faster is no limit of a car: then it is one value.
    std::vector<LimitPoint> falling{{20, 16}, {30, 15}, {40, 14}, {50, 13}};
    EXPECT_EQ(line_above(falling, 0.8).per_v2, 0);
    // All at one speed: what grows with it cannot be told.
    std::vector<LimitPoint> alike{{30, 15}, {31, 15.2}, {30.5, 15.1}, {32, 15.3}};
    EXPECT_FALSE(line_above(alike, 0.8).by_speed);
    EXPECT_EQ(line_above(alike, 0.8).per_v2, 0);
    EXPECT_EQ(line_above({}, 0.8).support, 0U);
}

TEST(ObservedLimit, IsTheGripOfCarsThatNobodyTunedItTo) {
    RENDAK_FIGURES_ONLY("ObservedLimit.OfTheDemo");
    double worst_pace = 0, sum = 0, count = 0;
    int without_pace = 0;
    for (const bool pocket : {false, true}) {
        for (const double wing : {1.0, 1.8}) {
            for (unsigned seed = 40001; seed < 40005; ++seed) {
                const MadeWorld world(seed);
                auto plan = MadeWorld::plan(6, seed, 1);
                plan.car.downforce_m2 *= wing;
                plan.car.drag_m2 *= wing > 1 ? 1.2 : 1;
                const auto laps = world.run(plan, pocket).laps;
                const ObservedLimit limit = got(observed_limit(laps));
                const auto& line = limit.lateral;
                for (const double share : {0.0, 0.5, 1.0}) {
                    const double v = line.seen_mps.begin + share * line.seen_mps.length();
                    const double grip = plan.grip_use * plan.car.grip * (9.80665 + plan.car.down_mps2(v));
                    const double off = std::abs(line.at(v) / grip - 1);
                    EXPECT_LT(off, 0.08) << seed << " at " << v << " m/s";
                    sum += off;
                    ++count;
                }
                // Both hands of a car that is alike on both sides.
                if (limit.left_share && limit.right_share)
                    EXPECT_NEAR(*limit.left_share, *limit.right_share, 0.05) << seed;
                const PreparedLap& best = best_of(laps);
                const auto pace = shown_pace(best, motion_of(best), limit);
                if (!pace) {
                    ++without_pace;
                    continue;
                }
                double lap_s = 0, pace_s = 0;
                for (const PaceRow& row : pace->rows) {
                    lap_s += row.lap_s;
                    pace_s += row.pace_s;
                }
                EXPECT_NEAR(lap_s, best.time_s(), 1e-6) << "the rows are the lap";
                EXPECT_NEAR(pace_s, pace->lap_s, 1e-6);
                worst_pace = std::max(worst_pace, std::abs(pace->lap_s / best.time_s() - 1));
                EXPECT_NEAR(pace->lap_s / best.time_s(), 1, 0.015) << seed << " who is always at the limit is as fast";
            }
        }
    }
    std::printf(
        "    limit: %.1f %% off in the mean of %.0f places; shown pace at most %.2f %% off, not told %d of 16\n",
        100 * sum / count, count, 100 * worst_pace, without_pace);
    EXPECT_LT(sum / count, 0.03);
    EXPECT_LE(without_pace, 2);
}

TEST(ObservedLimit, WhatADriverLeavesUnusedIsFoundAndRanked) {
    RENDAK_FIGURES_ONLY("ObservedLimit.OfTheDemo");
    int told = 0, of = 0, in_order = 0, pairs = 0;
    for (unsigned seed = 41001; seed < 41009; ++seed) {
        const MadeWorld world(seed, 5000);
        const auto quick = world.run(MadeWorld::plan(5, seed, 0.6)).laps;
        // Two corners are driven slower, one by much more, none next to the other.
        const auto& corners = world.circuit().corners;
        std::vector<std::pair<int, double>> planted;
        auto plan = MadeWorld::plan(5, seed + 100, 0.6);
        const auto own = observed_limit(quick);
        if (!own) continue;  // nearly all of it is taken flat
        for (const CornerReach& it : own->corners) {
            if (it.left_out != CornerReach::Left_out::no) continue;
            if (!planted.empty() && it.corner < planted.back().first + 3) continue;
            planted.emplace_back(it.corner, planted.empty() ? 0.04 : 0.1);
            if (planted.size() == 2) break;
        }
        if (planted.size() < 2) continue;
        for (auto& lap : plan.laps) {
            for (const auto& [corner, share] : planted) lap.cues.push_back({Cue::Kind::slower, corner, share});
        }
        const auto slow = world.run(plan).laps;
        std::vector<PreparedLap> all = quick;
        all.insert(all.end(), slow.begin(), slow.end());
        const ObservedLimit limit = got(observed_limit(all));
        const PreparedLap& lap = best_of(slow);
        const auto pace = shown_pace(lap, motion_of(lap), limit);
        if (!pace) continue;
        EXPECT_NEAR(pace->lap_s / mean_time(quick), 1, 0.006) << seed << ": the lap of who uses it";
        double unused[2] = {0, 0};
        for (const PaceRow& row : pace->rows) {
            for (std::size_t k = 0; k < 2; ++k) unused[k] += row.corner == planted[k].first ? row.unused_s() : 0;
        }
        ++of;
        told += unused[1] > 0.1;
        ++pairs;
        in_order += unused[1] > unused[0];
        EXPECT_GE(corners.size(), 2U);
    }
    std::printf("    a corner driven 10 %% slower is told %d of %d times, before one of 4 %% %d of %d\n", told, of,
                in_order, pairs);
    EXPECT_GE(of, 5);
    EXPECT_GE(told, of - 1);
    EXPECT_GE(in_order, pairs - 1);
}

TEST(ObservedLimit, OfTheDemo) {
    const DemoWorld& world = demo_world();
    std::vector<PreparedLap> laps;
    for (int lap = 1; lap <= 6; ++lap) laps.push_back(world.runs[1].lap(lap, world.track));
    const ObservedLimit limit = got(observed_limit(laps));
    const demo::Car car;
    for (const double v : {20.0, 30.0, 40.0})
        EXPECT_NEAR(limit.lateral.at(v) / (0.975 * car.grip * (9.80665 + car.down_mps2(v))), 1, 0.06) << v;
    // Turn 6 is taken flat: it shows what the engine can do, not the tyres.
    ASSERT_NE(limit.reach_of(6), nullptr);
    EXPECT_EQ(limit.reach_of(6)->left_out, CornerReach::Left_out::flat);
    EXPECT_LT(limit.reach_of(6)->used, 0.8);
    const ObservedLimit put_back = got(observed_limit(laps, {6}));
    EXPECT_EQ(put_back.reach_of(6)->left_out, CornerReach::Left_out::no);
    // A slower lap that reached more somewhere shows what is possible there.
    const PreparedLap& quickest = best_of(laps);
    for (const CornerReach& it : limit.corners) {
        if (!it.higher_lap) continue;
        EXPECT_NE(*it.higher_lap, quickest.ref);
        EXPECT_GE(it.higher_mps2, 1.03 * it.quickest_lap_mps2);
    }
    const PreparedLap& best = best_of(laps);
    const auto motions = motions_of(laps);
    const ShownPace pace = got(shown_pace(best, motion_of(best), limit));
    EXPECT_NEAR(pace.lap_s / best.time_s(), 1, 0.01);
    EXPECT_EQ(pace.rows.size(), world.track->corners.size() + 1);
    for (const GripUse& it : grip_use(best, motion_of(best), limit)) {
        ASSERT_TRUE(it.mean && it.peak) << it.corner;
        EXPECT_GT(*it.peak, *it.mean);
        EXPECT_LT(*it.peak, 1.15) << it.corner;
        if (it.corner == 5) EXPECT_GT(*it.entry, 0.85) << "on the brake into the corner";
    }
    std::vector<std::vector<GripUse>> uses;
    for (std::size_t k = 0; k < laps.size(); ++k) uses.push_back(grip_use(laps[k], motions[k], limit));
    const auto over_laps = grip_over_laps(uses);
    ASSERT_EQ(over_laps.size(), world.track->corners.size());
    for (std::size_t row = 0; row < over_laps.size(); ++row) {
        ASSERT_TRUE(over_laps[row].whole);
        double sum = 0;
        std::size_t little = 0;
        for (const auto& lap : uses) {
            sum += *lap[row].mean;
            little += *lap[row].mean < 0.8 ? 1 : 0;
        }
        EXPECT_EQ(over_laps[row].corner, uses.front()[row].corner);
        EXPECT_NEAR(over_laps[row].whole->mean, sum / static_cast<double>(laps.size()), 1e-12);
        EXPECT_EQ(over_laps[row].whole->laps, laps.size());
        EXPECT_EQ(over_laps[row].whole->little_laps, little);
    }
    EXPECT_TRUE(grip_over_laps({}).empty());
    // One lap is enough for a limit, none is not.
    EXPECT_TRUE(observed_limit(std::span(&best, 1)).has_value());
    PreparedLap left_out = best;
    left_out.counts = false;
    EXPECT_FALSE(observed_limit(std::span(&left_out, 1)).has_value());
    EXPECT_FALSE(observed_limit({}).has_value());
    // Without a lateral acceleration it is said what is missing.
    PreparedLap blind = best;
    auto recording = std::make_shared<Recording>(*best.recording);
    std::erase_if(recording->channels, [](const Channel& it) { return it.quantity == "lateral_acceleration"; });
    blind.recording = recording;
    const auto none = observed_limit(std::span(&blind, 1));
    ASSERT_FALSE(none.has_value());
    EXPECT_NE(none.error().text().find("lateral acceleration"), std::string::npos) << none.error().text();
}

TEST(CalculatedLimit, IsReadFromTheCarSheet) {
    CarSheet sheet;
    sheet.car = "27";
    sheet.values = {{"Lateral limit at 100 km/h", "1.6", "g"}, {"Lateral limit at 200 km/h", "2.2", "g"},
                    {"Braking limit", "17", "m/s²"},           {"Driving limit", "high", "g"},
                    {"Lateral limit at noon", "1", "g"},       {"Lateral limit at 60 km/h", "3", "bar"}};
    const auto constants = formula::constants_for({sheet}, "27", "");
    const CalculatedLimit lateral = calculated_limit(constants, "lateral");
    ASSERT_EQ(lateral.points.size(), 2U);
    EXPECT_NEAR(lateral.at(150 / 3.6), 1.9 * 9.80665, 1e-6);
    EXPECT_NEAR(lateral.at(300 / 3.6), 2.2 * 9.80665, 1e-6);
    EXPECT_NEAR(lateral.at(10), 1.6 * 9.80665, 1e-6);
    EXPECT_NEAR(calculated_limit(constants, "braking").at(50), 17, 1e-9);
    EXPECT_FALSE(calculated_limit(constants, "driving").known());
}

TEST(QuickestLine, IsInsideTheRoadAndQuickerForThePointThatDrivesIt) {
    RENDAK_FIGURES_ONLY("the command line");
    const DemoWorld& world = demo_world(false);
    auto track = std::make_shared<Track>(*world.track);
    // A road of eleven metres about the line that was driven in run 2: narrower than the real one.
    track->edges.source = Edges::Source::driven;
    track->edges.left_m.assign(track->line.size(), 5.5);
    track->edges.right_m.assign(track->line.size(), 5.5);
    std::vector<PreparedLap> laps;
    for (int lap = 1; lap <= 3; ++lap) {
        laps.push_back(world.runs[1].lap(lap, world.track));
        laps.back().track = track;
    }
    const ObservedLimit limit = got(observed_limit(laps));
    EXPECT_GT(limit.lateral_jerk_mps3, 5);
    double told = 0;
    JobContext job;
    job.progress = [&](double share) {
        EXPECT_GE(share, told - 1e-9);
        told = share;
    };
    const QuickestLine line = got(quickest_line(laps[0], limit, job));
    EXPECT_NEAR(told, 1, 0.1);
    // The point on the line as driven takes what the car took.
    EXPECT_NEAR(line.driven.lap_s / laps[0].time_s(), 1, 0.01);
    EXPECT_LT(line.quickest.lap_s, line.gentlest.lap_s);
    EXPECT_LT(line.quickest.lap_s, line.driven.lap_s);
    EXPECT_GT(line.quickest.lap_s, 0.9 * line.driven.lap_s) << "no point flies";
    for (const double left : line.quickest.left_m) EXPECT_LE(std::abs(left), 4.5 + 1e-6);
    double driven = 0, quickest = 0;
    for (const QuickestLine::Row& row : line.rows) {
        driven += row.driven_s;
        quickest += row.quickest_s;
    }
    EXPECT_NEAR(driven, line.driven.lap_s, 1e-6);
    EXPECT_NEAR(quickest, line.quickest.lap_s, 1e-6);
    EXPECT_NEAR(line.left_at(QuickestLine::step_m), line.quickest.left_m[1], 1e-9);
    // Stopped, it is over at once; without edges there is none, and it says so.
    std::stop_source stop;
    stop.request_stop();
    const auto stopped = quickest_line(laps[0], limit, {stop.get_token(), {}});
    ASSERT_FALSE(stopped.has_value());
    EXPECT_EQ(stopped.error().code, ErrorCode::cancelled);
    laps[0].track = world.track;
    const auto none = quickest_line(laps[0], limit);
    ASSERT_FALSE(none.has_value());
    EXPECT_NE(none.error().text().find("edges"), std::string::npos);
}
