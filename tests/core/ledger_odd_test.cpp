// The ledger on drives whose speeds obey no car: random circuits and drivers, receivers from perfect to poor, slow
// loggers. It cannot know a cause there, but it adds up, stays finite, and claims nothing of two equal runs.
#include <gtest/gtest.h>

#include <cmath>

#include "core/analysis/findings.h"
#include "core/analysis/overview.h"
#include "core/analysis/shown_pace.h"
#include "core/analysis/technique.h"
#include "core/analysis/track_guide.h"
#include "core/intake/place_run.h"
#include "core/laps/cut.h"
#include "core/laps/slow_error.h"
#include "core/track/learn.h"
#include "tests/support/got.h"
#include "tests/support/random_world.h"

using namespace rendak;
using namespace rendak::test;

namespace {

struct OddCase {
    const char* name;
    RandomSensors sensors;
    double wave_m;  ///< how far the two lines wave
};

void PrintTo(const OddCase& one, std::ostream* out) {
    *out << one.name;
}

struct OddWorld {
    std::shared_ptr<const Track> track;
    std::vector<PreparedLap> a, b;
};

OddWorld odd_world(unsigned seed, const OddCase& it, double pace_b) {
    const RandomRoad road = random_road(seed, 2600);
    OddWorld out;
    const auto record = [&](double phase, double pace, unsigned k) {
        return recorded(road, drive(road, {it.wave_m, 3, phase, pace, 0.2}, 4, seed * 10 + k), it.sensors,
                        seed * 100 + k);
    };
    const Recording first = record(0.4, 1, 1), second = record(it.wave_m > 0 ? 2.1 : 0.4, pace_b, 2);
    const Path path = got(driven_path(first, nullptr));
    const LocalPlane from(road.origin), to(path.origin);
    StartLine line;
    line.position = to.to_local(from.to_geo(road.centre[0]));
    line.direction = road.direction[0];
    out.track = std::make_shared<const Track>(
        got(learn_steady_track(path, "Odd", line, SpeedSource(first, SpeedSource::Prefer::gps))));
    const auto laps_from = [&](const Recording& recording, std::int64_t run) {
        std::vector<PreparedLap> laps;
        const auto kept = std::make_shared<const Recording>(recording);
        const auto placed = std::make_shared<const Path>(got(driven_path(*kept, out.track.get())));
        for (const Lap& lap : laps_on(*kept, *placed, *out.track)) {
            if (lap.kind != LapKind::flying) continue;
            PreparedLap ready;
            ready.ref = {{run}, lap.number};
            ready.recording = kept;
            ready.track = out.track;
            ready.path = placed;
            ready.map = align_lap(*placed, *out.track, lap.start_s, lap.end_s);
            ready.trust_m = lap.trust_m;
            laps.push_back(std::move(ready));
        }
        return laps;
    };
    out.a = laps_from(first, 1);
    out.b = laps_from(second, 2);
    return out;
}

class LedgerOnOddDrives : public testing::TestWithParam<OddCase> {};

TEST_P(LedgerOnOddDrives, AddsUpAndStaysFinite) {
    for (const unsigned seed : {401U, 402U}) {
        const OddWorld world = odd_world(seed, GetParam(), 0.97);
        ASSERT_GE(world.a.size(), 2U);
        ASSERT_GE(world.b.size(), 2U);
        for (const bool sets : {true, false}) {
            const std::span<const PreparedLap> a(world.a.data(), sets ? world.a.size() : 1),
                b(world.b.data(), sets ? world.b.size() : 1);
            const Ledger ledger = got(ledger_of(a, b));
            double sum = 0, here = 0;
            for (const LedgerRow& row : ledger.rows) {
                sum += row.loss_s;
                here += row.here_s;
                for (const double value :
                     {row.loss_s, row.own_s, row.braking_s, row.entry_s, row.exit_s, row.straight_s,
                      row.carried_s.value_or(0), row.pull_s.value_or(0), row.begin_mps, row.end_mps}) {
                    EXPECT_TRUE(std::isfinite(value)) << row.name;
                    EXPECT_LT(std::abs(value), 20) << row.name;
                }
                EXPECT_EQ(row.likely_s.has_value(), sets);
                EXPECT_LE(row.seen_on, b.size());
            }
            EXPECT_NEAR(sum, ledger.total_s, 1e-3);
            EXPECT_NEAR(here, ledger.total_s, 1e-3);
            for (const LapFinding& it : got(findings_of(a, b))) {
                EXPECT_GT(it.loss_s, 0);
                EXPECT_FALSE(finding_words(it, *world.track).empty());
                EXPECT_TRUE(it.corner == 0 || (it.at_m >= 0 && it.at_m <= world.track->length_m)) << it.at_m;
            }
            for (const PreparedLap& lap : b) EXPECT_EQ(technique_of(lap).size(), world.track->corners.size());
        }
    }
}

TEST_P(LedgerOnOddDrives, LimitPaceLineGuideAndOverviewStayFiniteOrSayWhy) {
    for (const unsigned seed : {421U, 422U}) {
        const OddWorld world = odd_world(seed, GetParam(), 0.97);
        const std::span<const PreparedLap> a = world.a, b = world.b;
        const PreparedLap& lap = world.a.front();
        const LapMotion motion = motion_of(lap);
        for (const double v : motion.speed_mps) EXPECT_TRUE(std::isfinite(v) && v > 0);
        for (const double s : motion.step_s) EXPECT_TRUE(std::isfinite(s) && s > 0);
        if (const auto limit = observed_limit(a)) {
            EXPECT_GT(limit->lateral.at(30), 0);
            EXPECT_GE(limit->lateral.per_v2, 0);
            for (const GripUse& it : grip_use(lap, motion, *limit)) EXPECT_GE(it.peak.value_or(0), 0);
            if (const auto pace = shown_pace(lap, motion, *limit)) {
                EXPECT_TRUE(std::isfinite(pace->lap_s));
                EXPECT_GT(pace->lap_s, 0.5 * lap.time_s());
                EXPECT_LT(pace->lap_s, 2 * lap.time_s());
            } else {
                EXPECT_FALSE(pace.error().text().empty());
            }
        } else {
            EXPECT_FALSE(limit.error().text().empty());
        }
        const auto means = line_means({road_use(lap)}, {road_use(world.b.front())});
        ASSERT_EQ(means.size(), world.track->corners.size());
        for (const LineMean& it : means) {
            EXPECT_FALSE(it.told) << "nobody knows the edges";
            EXPECT_TRUE(std::isfinite(it.apex_out_m));
        }
        const TrackGuide guide = track_guide(lap);
        ASSERT_EQ(guide.corners.size(), world.track->corners.size());
        for (const GuideCorner& it : guide.corners) {
            EXPECT_TRUE(std::isfinite(it.full_m + it.after_m + it.before_m));
            EXPECT_LE(it.range_m.begin, it.range_m.end);
            EXPECT_EQ(guide_words(it, *world.track).find("nan"), std::string::npos) << guide_words(it, *world.track);
        }
        const LapOverview page = overview_of(a, b, got(story_of(a, b)));
        EXPECT_NEAR(page.corners_s + page.straights_s, got(ledger_of(a, b)).total_s, 1e-6);
        for (const auto& it : page.in_words) EXPECT_EQ(it.text.find("nan"), std::string::npos) << it.text;
    }
}

TEST_P(LedgerOnOddDrives, ClaimsLittleOfTwoEqualRuns) {
    // The same pace and line: only scatter and the receiver's errors differ.
    OddCase it = GetParam();
    it.wave_m = 0;
    int rows = 0, sure = 0;
    for (const unsigned seed : {411U, 412U, 413U}) {
        const OddWorld world = odd_world(seed, it, 1);
        for (const LedgerRow& row : got(ledger_of(world.a, world.b)).rows) {
            ++rows;
            sure += row.likely_s && !row.likely_s->contains(0) && std::abs(row.loss_s) > 0.02;
        }
    }
    EXPECT_GT(rows, 20);
    EXPECT_LE(sure, 0.12 * rows + 1) << "of " << rows;
}

INSTANTIATE_TEST_SUITE_P(Sensors, LedgerOnOddDrives,
                         testing::Values(OddCase{"Perfect", {0, 60, 0, 0.01}, 1.5},
                                         OddCase{"HalfAMetre", {0.5, 60, 0.08, 0.05}, 1.5},
                                         OddCase{"SlowLogger", {0.3, 120, 0.05, 0.05, 5}, 1}),
                         [](const auto& one) { return std::string(one.param.name); });

}  // namespace
