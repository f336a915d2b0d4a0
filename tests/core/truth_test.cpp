// What core finds in the demo world against the exact motion of the simulated car.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <set>

#include "core/laps/beacon.h"
#include "core/laps/cut.h"
#include "core/laps/gap.h"
#include "tests/support/demo_world.h"

using namespace rendak;
using rendak::test::demo_world;
using rendak::test::DemoRun;
using rendak::test::DemoWorld;

namespace {

double rms(const std::vector<double>& errors) {
    double sum = 0;
    for (const double e : errors) sum += e * e;
    return std::sqrt(sum / static_cast<double>(errors.size()));
}

std::vector<double> lap_time_errors(const DemoWorld& world) {
    std::vector<double> errors;
    for (const DemoRun& run : world.runs) {
        std::vector<Lap> flying;
        for (const Lap& lap : run.laps) {
            if (lap.kind == LapKind::flying) flying.push_back(lap);
        }
        EXPECT_EQ(flying.size() + 1, run.drive.crossings_s.size()) << run.plan.name;
        for (std::size_t k = 0; k < flying.size(); ++k) errors.push_back(flying[k].time_s() - run.true_lap_time(k));
    }
    return errors;
}

/// Distance along the true centreline (within one lap) of a place.
double true_distance(const demo::Circuit& circuit, Point place, double guess) {
    double best = 1e18, at = 0;
    for (double s = guess - 150; s < guess + 150; s += 1) {
        const double d = length(place - circuit.position(s, 0));
        if (d < best) {
            best = d;
            at = s;
        }
    }
    double step = 0.5;
    while (step > 1e-4) {
        for (const double s : {at - step, at + step}) {
            const double d = length(place - circuit.position(s, 0));
            if (d < best) {
                best = d;
                at = s;
            }
        }
        step /= 2;
    }
    return at;
}

/// Errors of the gap against the truth at every 10 m.
std::vector<double> gap_errors(const DemoWorld& world, const DemoRun& run_a, int lap_a, const DemoRun& run_b, int lap_b,
                               std::size_t true_a, std::size_t true_b) {
    const PreparedLap a = run_a.lap(lap_a, world.track), b = run_b.lap(lap_b, world.track);
    const GapCurve gap = gap_between(a.map, b.map);
    const double lap = world.circuit.length_m;
    const double base_a =
        std::round((run_a.drive.along_m[static_cast<std::size_t>(run_a.drive.crossings_s[true_a] * 100 + 1)]) / lap) *
        lap;
    const double base_b =
        std::round((run_b.drive.along_m[static_cast<std::size_t>(run_b.drive.crossings_s[true_b] * 100 + 1)]) / lap) *
        lap;
    std::vector<double> errors;
    for (double s = 10; s < world.track->length_m - 5; s += 10) {
        // The same place on the true centreline: ours is a line as driven, whose metres differ.
        const double place = true_distance(world.circuit, world.track->position_at(s), s / world.track->length_m * lap);
        const double t_a = run_a.drive.time_at(base_a + place) - run_a.drive.crossings_s[true_a];
        const double t_b = run_b.drive.time_at(base_b + place) - run_b.drive.crossings_s[true_b];
        errors.push_back(gap.at(s) - (t_b - t_a));
    }
    return errors;
}

}  // namespace

TEST(Truth, LapTimesWithGpsErrorsWithin10MillisecondsRms) {
    const auto errors = lap_time_errors(demo_world(true));
    RecordProperty("rms_ms", std::to_string(1000 * rms(errors)));
    EXPECT_GT(errors.size(), 15U);
    EXPECT_LT(rms(errors), 0.010);
    EXPECT_GT(rms(errors), 0.0002) << "simulated GPS errors must be felt, or the test says nothing";
}

TEST(Truth, LapTimesWithoutGpsErrorsWithin2MillisecondsRms) {
    const auto errors = lap_time_errors(demo_world(false));
    RecordProperty("rms_ms", std::to_string(1000 * rms(errors)));
    EXPECT_LT(rms(errors), 0.002);
}

TEST(Truth, GapWithin15MillisecondsRmsEvery10Metres) {
    const DemoWorld& world = demo_world(true);
    std::vector<double> all;
    for (const auto& [lap_a, lap_b] : {std::pair{7, 6}, {3, 2}, {5, 7}, {1, 1}}) {
        const auto errors = gap_errors(world, world.runs[1], lap_a, world.runs[2], lap_b,
                                       static_cast<std::size_t>(lap_a - 1), static_cast<std::size_t>(lap_b - 1));
        EXPECT_LT(rms(errors), 0.015) << "laps " << lap_a << " and " << lap_b;
        RecordProperty("rms_ms_" + std::to_string(lap_a) + "_" + std::to_string(lap_b),
                       std::to_string(1000 * rms(errors)));
        all.insert(all.end(), errors.begin(), errors.end());
    }
    EXPECT_LT(rms(all), 0.015);
}

TEST(Truth, GapWithinOneRunAndOverTheSlowLap) {
    const DemoWorld& world = demo_world(true);
    EXPECT_LT(rms(gap_errors(world, world.runs[1], 7, world.runs[1], 2, 6, 1)), 0.015);
    EXPECT_LT(rms(gap_errors(world, world.runs[1], 7, world.runs[0], 3, 6, 2)), 0.025) << "a lap 20 s slower";
}

TEST(Truth, SamePlaceAlongTheTrack) {
    // Where two laps are said to be at one place they are at one place: within a metre rms.
    const DemoWorld& world = demo_world(true);
    const PreparedLap a = world.runs[1].lap(7, world.track), b = world.runs[2].lap(6, world.track);
    std::vector<double> errors;
    for (double s = 5; s < world.track->length_m; s += 5) {
        const auto place = [&](const DemoRun& run, const PreparedLap& lap) {
            const double along = run.drive.along_m[static_cast<std::size_t>(lap.map.time_at(s) * 100 + 0.5)];
            return std::fmod(along, world.circuit.length_m);
        };
        errors.push_back(std::remainder(place(world.runs[1], a) - place(world.runs[2], b), world.circuit.length_m));
    }
    EXPECT_LT(rms(errors), 1.0);
    RecordProperty("rms_m", std::to_string(rms(errors)));
}

TEST(Truth, Run1PartLapsNeverCount) {
    const DemoRun& run = demo_world().runs[0];
    ASSERT_EQ(run.laps.size(), 6U);
    for (const std::size_t end : {std::size_t{0}, run.laps.size() - 1}) {
        EXPECT_EQ(run.laps[end].kind, LapKind::part);
        EXPECT_LT(run.laps[end].time_s(), 10);
        EXPECT_FALSE(run.laps[end].included);
        EXPECT_FALSE(run.laps[end].reason.empty());
    }
    const Lap* best = best_lap(run.laps);
    ASSERT_NE(best, nullptr);
    EXPECT_GT(best->time_s(), 95);
}

TEST(Truth, OutAndInLapsAreRecognised) {
    for (const std::size_t r : {1U, 2U}) {
        const auto& laps = demo_world().runs[r].laps;
        EXPECT_EQ(laps.front().kind, LapKind::out);
        EXPECT_EQ(laps.back().kind, LapKind::in);
        EXPECT_FALSE(laps.front().included || laps.back().included);
    }
}

TEST(Truth, DropOutIsBridgedAndFlagged) {
    const DemoWorld& world = demo_world(true);
    const DemoRun& run = world.runs[2];
    double worst = 0;
    std::size_t bridged = 0;
    for (std::size_t i = 0; i < run.path->size(); ++i) {
        if (!run.path->bridged[i]) continue;
        ++bridged;
        worst = std::max(worst, length(run.path->position[i] -
                                       run.drive.position[static_cast<std::size_t>(run.path->time_s[i] * 100 + 0.5)]));
    }
    EXPECT_NEAR(static_cast<double>(bridged) / 20, 4.0, 0.3);
    EXPECT_LT(worst, 4.0);
    RecordProperty("worst_m", std::to_string(worst));
    EXPECT_NE(run.laps[3].reason.find("GPS missing"), std::string::npos);
}

TEST(Truth, AllFourteenCornersAreFoundWhereTheyAre) {
    const DemoWorld& world = demo_world();
    ASSERT_EQ(world.track->corners.size(), 14U);
    for (std::size_t k = 0; k < 14; ++k) {
        const Corner& found = world.track->corners[k];
        const auto& drawn = world.circuit.corners[k];
        EXPECT_EQ(found.number, drawn.number);
        EXPECT_EQ(found.left, drawn.left) << "turn " << drawn.number;
        const double middle =
            true_distance(world.circuit, world.track->position_at(0.5 * (found.start_m + found.end_m)), drawn.apex_m);
        EXPECT_GT(middle, drawn.start_m - 30) << "turn " << drawn.number;
        EXPECT_LT(middle, drawn.end_m + 30) << "turn " << drawn.number;
    }
}

// ---- planted facts that later work builds on must be in the data ----------------------------------------------

TEST(Planted, CarStandsSixSecondsBeforeARun) {
    for (const std::size_t r : {1U, 2U}) {
        const Recording& recording = *demo_world().runs[r].recording;
        for (double t = 0.5; t < 5.5; t += 0.5) EXPECT_LT(recording.find("speed")->value_at(t), 0.3);
        EXPECT_GT(recording.find("speed")->value_at(12), 5);
    }
}

TEST(Planted, FrontFloorTouchesOnTheCrestAndAtTopSpeed) {
    const DemoWorld& world = demo_world();
    const PreparedLap lap = world.runs[1].lap(4, world.track);
    const Channel* height = lap.recording->find("ride_height_front");
    double touching = 0, fastest_touch = 0, slowest_touch = 1e9;
    for (double t = lap.map.start_s(); t < lap.map.end_s(); t += 0.01) {
        if (height->value_at(t) > 0.0012) continue;
        touching += 0.01;
        const double v = lap.recording->find("speed")->value_at(t);
        fastest_touch = std::max(fastest_touch, v);
        slowest_touch = std::min(slowest_touch, v);
    }
    EXPECT_GT(touching, 0.1);
    EXPECT_LT(touching, 15) << "touches in places, does not drag";
    EXPECT_GT(fastest_touch, 60);
}

TEST(Planted, OneDamperIsFlatForAMinute) {
    const DemoRun& run = demo_world().runs[1];
    const Channel* damper = run.recording->find("damper_rr");
    std::size_t longest = 0, now = 0;
    for (std::size_t i = 1; i < damper->size(); ++i) {
        now = damper->at(i) == damper->at(i - 1) ? now + 1 : 0;
        longest = std::max(longest, now);
    }
    EXPECT_NEAR(static_cast<double>(longest) / damper->clock.rate_hz, 60, 0.5);
}

TEST(Planted, FrontLeftLocksOnOneLapAndTheCarRunsOff) {
    const DemoWorld& world = demo_world();
    const DemoRun& run = world.runs[2];
    std::set<int> locked_laps;
    const Channel* wheel = run.recording->find("wheel_speed_fl");
    for (const Lap& lap : run.laps) {
        if (lap.kind != LapKind::flying) continue;
        for (double t = lap.start_s; t < lap.end_s; t += 0.05) {
            const double v = run.recording->find("speed")->value_at(t);
            if (v > 8.4 && wheel->value_at(t) < 0.85 * v) locked_laps.insert(lap.number);
        }
    }
    EXPECT_EQ(locked_laps, (std::set<int>{5}));
    double widest = 0;
    for (const double left : run.lap(5, world.track).map.left_m) widest = std::max(widest, std::abs(left));
    EXPECT_GT(widest, 7) << "metres beside the usual line";
}

TEST(Planted, LoggersOwnLineIsMisplacedInRun1AndSaid) {
    const DemoRun& run = demo_world().runs[0];
    const auto offset = beacon_offset(*run.recording, *run.path, run.laps);
    ASSERT_TRUE(offset);
    EXPECT_NEAR(offset->behind_m, 55, 4);
    EXPECT_GT(offset->late_s, 0.5);
    auto laps = run.laps;
    note_beacon(laps, *run.recording, *run.path);
    EXPECT_NE(laps[2].reason.find("m behind the track's"), std::string::npos) << laps[2].reason;
    EXPECT_EQ(laps.front().reason, run.laps.front().reason) << "part laps have no lap time to doubt";
    for (const std::size_t r : {1U, 2U}) {
        const DemoRun& other = demo_world().runs[r];
        EXPECT_FALSE(beacon_offset(*other.recording, *other.path, other.laps)) << "agrees within a sample";
    }
}

TEST(Planted, ShakedownHasOneSlowLapAndAWrongClock) {
    const DemoRun& run = demo_world().runs[0];
    int slow = 0;
    for (const Lap& lap : run.laps)
        slow += lap.kind == LapKind::flying && lap.time_s() > 1.1 * best_lap(run.laps)->time_s();
    EXPECT_EQ(slow, 1);
    EXPECT_LT(*run.recording->start_unix_s, *demo_world().runs[1].recording->start_unix_s - 10 * 365 * 86400.0);
}

TEST(Circuit, AnIndexGoesRoundAsARemainderDoes) {
    const demo::Circuit& circuit = demo_world().circuit;
    const auto n = static_cast<double>(circuit.centre.size());
    ASSERT_FALSE(circuit.open);
    for (int i = -40'000; i < 400'000; ++i) {
        const int whole_laps = i / 3000;
        // Just before, on and just after whole laps, and everywhere between; far enough that the remainder is asked.
        const double s = i % 3 == 0 ? std::nextafter(whole_laps * n * circuit.step_m, i % 2 == 0 ? 1e9 : -1e9)
                                    : i * 1.7 * circuit.step_m;
        double cell = std::fmod(s / circuit.step_m, n);
        if (cell < 0) cell += n;
        ASSERT_EQ(circuit.index(s), std::min(static_cast<std::size_t>(cell), circuit.centre.size() - 1)) << s;
    }
}
