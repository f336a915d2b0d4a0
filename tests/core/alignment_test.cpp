// Places along the track against the exact motion: with all sensors, with GPS alone, without GPS; the trust figure; and
// what tells one run's places from another's.
#include <gtest/gtest.h>

#include <cmath>

#include "core/analysis/alignment.h"
#include "core/analysis/lap_choice.h"
#include "core/analysis/lap_doubts.h"
#include "core/intake/run_recording.h"
#include "core/laps/cut.h"
#include "core/track/by_shape.h"
#include "core/track/edit.h"
#include "demo/sensors.h"
#include "tests/support/demo_world.h"
#include "tests/support/figures_only.h"

using namespace rendak;
using rendak::test::demo_world;
using rendak::test::DemoRun;
using rendak::test::DemoWorld;

namespace {

double along_at(const DemoRun& run, double t_s) {
    const auto i = static_cast<std::size_t>(std::max(0.0, t_s * 100 + 0.5));
    return run.drive.along_m[std::min(i, run.drive.along_m.size() - 1)];
}

/// By how much two laps are not at one place where they are said to be, rms along the track. `late_s`: the second
/// recording began so much later than the drive.
double same_place_rms(const DemoRun& run_a, const LapMap& a, const DemoRun& run_b, const LapMap& b, double late_s = 0) {
    double squares = 0, count = 0;
    for (double s = 5; s < a.length_m(); s += 5) {
        const double off = std::remainder(along_at(run_a, a.time_at(s)) - along_at(run_b, b.time_at(s) + late_s),
                                          demo_world().circuit.length_m);
        squares += off * off;
        ++count;
    }
    return std::sqrt(squares / count);
}

struct Found {
    double rms_m = 0, trust_m = 0;
    int laps = 0;
};

/// All flying laps of a run held against the best lap of run 2.
Found against_baseline(const DemoRun& run, const Path& path, double late_s = 0) {
    const DemoWorld& world = demo_world();
    const LapMap baseline = world.runs[1].lap(7, world.track).map;
    Found out;
    for (const Lap& lap : cut_laps(path, *world.track)) {
        if (lap.kind != LapKind::flying) continue;
        const double rms =
            same_place_rms(world.runs[1], baseline, run, align_lap(path, *world.track, lap.start_s, lap.end_s), late_s);
        out.rms_m += rms * rms;
        out.trust_m += lap.trust_m;
        ++out.laps;
    }
    out.rms_m = std::sqrt(out.rms_m / out.laps);
    out.trust_m /= out.laps;
    return out;
}

Recording without(const Recording& recording, std::initializer_list<const char*> quantities) {
    Recording out = recording;
    std::erase_if(out.channels, [&](const Channel& channel) {
        return std::any_of(quantities.begin(), quantities.end(),
                           [&](const char* quantity) { return channel.quantity == quantity; });
    });
    return out;
}

/// The trust figure must neither hide an error nor cry wolf.
void expect_honest(const Found& found) {
    EXPECT_GT(found.trust_m, 0.5 * found.rms_m);
    EXPECT_LT(found.trust_m, 2 * found.rms_m);
}

}  // namespace

TEST(Alignment, UnderAMetreWithTheMainLogger) {
    const DemoRun& run = demo_world().runs[2];
    const Found found = against_baseline(run, *run.path);
    EXPECT_EQ(found.laps, 7);
    EXPECT_LT(found.rms_m, 1.0);
    expect_honest(found);
    RecordProperty("rms_m", std::to_string(found.rms_m));
}

TEST(Alignment, UnderTwoMetresWithGpsOnly) {
    const DemoWorld& world = demo_world();
    for (const std::size_t r : {1U, 2U}) {
        const Recording pocket = demo::pocket_logger(world.circuit, world.runs[r].plan, world.runs[r].drive);
        const auto path = path_of(pocket, world.circuit.origin);
        ASSERT_TRUE(path);
        const Found found = against_baseline(world.runs[r], *path, 3.4);
        EXPECT_LT(found.rms_m, 2.0);
        expect_honest(found);
        RecordProperty("rms_m_" + std::to_string(r + 1), std::to_string(found.rms_m));
    }
}

TEST(Alignment, UnderSixMetresWithoutGpsByYawRateOrByLateralAcceleration) {
    const DemoWorld& world = demo_world();
    for (const std::size_t r : {0U, 1U, 2U}) {
        for (const bool yaw : {true, false}) {
            const Recording blind =
                yaw ? without(*world.runs[r].recording, {"latitude", "longitude", "speed"})
                    : without(*world.runs[r].recording, {"latitude", "longitude", "speed", "yaw_rate"});
            EXPECT_FALSE(path_of(blind));
            const auto path = path_by_shape(blind, *world.track);
            ASSERT_TRUE(path) << path.error().message;
            EXPECT_TRUE(path->by_shape);
            const Found found = against_baseline(world.runs[r], *path);
            EXPECT_EQ(found.laps, r == 0 ? 4 : r == 1 ? 8 : 7) << "the in lap is no flying lap";
            EXPECT_LT(found.rms_m, 6.0);
            expect_honest(found);
            RecordProperty("rms_m_" + std::to_string(r + 1) + (yaw ? "_yaw" : "_lateral"), std::to_string(found.rms_m));
        }
    }
}

TEST(Alignment, OppositeSignIsNoticedWithoutGps) {
    const DemoWorld& world = demo_world();
    const Recording blind = with_flipped(without(*world.runs[0].recording, {"latitude", "longitude"}),
                                         {"yaw_rate", "lateral_acceleration"});
    const ShapePlacing placing = place_by_shape(*bend_profile(blind), *world.track);
    EXPECT_TRUE(placing.turned_round);
    EXPECT_GT(placing.fit, 0.9);
}

TEST(Alignment, NoiseOfTwoMetresIsBorneAndGrowsTheTrustFigure) {
    RENDAK_FIGURES_ONLY("Alignment.UnderAMetreWithTheMainLogger");
    // The curve in docs/calculations.md is printed by this test.
    const DemoWorld& world = demo_world();
    const DemoRun& run = world.runs[2];
    double last_trust = 0;
    for (const double noise_m : {0.0, 0.25, 0.5, 1.0, 1.5, 2.0}) {
        const Recording noisy = demo::main_logger(world.circuit, demo::Car{}, run.plan, run.drive, {true, noise_m});
        const auto path = path_of(noisy, world.circuit.origin);
        ASSERT_TRUE(path);
        EXPECT_NEAR(path->noise_m, noise_m, 0.1 + 0.3 * noise_m);
        const Found found = against_baseline(run, *path);
        EXPECT_EQ(found.laps, 7);
        EXPECT_LT(found.rms_m, 1.0) << noise_m;
        EXPECT_GE(found.trust_m, last_trust);
        last_trust = found.trust_m;
        expect_honest(found);
        std::printf("  noise %.2f m: same place %.2f m, trust %.2f m\n", noise_m, found.rms_m, found.trust_m);
    }
    EXPECT_GT(last_trust, 0.2);
}

TEST(Alignment, ShapeOnlyTrackHasTheFormAndClosesAndCutsTheSameLaps) {
    const DemoWorld& world = demo_world();
    const DemoRun& run = world.runs[0];
    const Recording blind = without(*run.recording, {"latitude", "longitude"});
    const auto track = learn_shape(blind, "Shape");
    ASSERT_TRUE(track) << track.error().message;
    EXPECT_TRUE(track->shape_only);
    EXPECT_NEAR(track->length_m, world.track->length_m, 0.015 * world.track->length_m);
    ASSERT_EQ(track->corners.size(), 14U);
    for (std::size_t k = 0; k < 14; ++k) EXPECT_EQ(track->corners[k].left, world.track->corners[k].left) << k;
    const double joint = length(track->line.front() - track->line.back());
    EXPECT_NEAR(joint, track->step_m(), 0.3) << "closed without a jump";
    const auto path = path_by_shape(blind, *track);
    ASSERT_TRUE(path);
    const auto laps = cut_laps(*path, *track);
    int flying = 0;
    for (const Lap& lap : laps) {
        if (lap.kind != LapKind::flying) continue;
        EXPECT_NEAR(lap.time_s(), run.true_lap_time(static_cast<std::size_t>(flying)), 0.25);
        ++flying;
    }
    EXPECT_EQ(flying, 4);
    // The line lies where the logger counts: 55 m behind the real one.
    EXPECT_NEAR(laps[1].start_s - run.drive.crossings_s[0], 0.92, 0.15);
}

TEST(Alignment, WrongRoadIsRefusedWithoutGps) {
    const DemoWorld& world = demo_world();
    Track other = reversed(*world.track);
    other.name = "Elsewhere";
    const auto path = path_by_shape(without(*world.runs[0].recording, {"latitude", "longitude"}), other);
    ASSERT_FALSE(path);
    EXPECT_NE(path.error().message.find("Elsewhere"), std::string::npos);
}

TEST(Alignment, DisplacedRunIsMeasuredInMetres) {
    const DemoWorld& world = demo_world();
    Path moved = *world.runs[2].path;
    moved.slow_error_out = false;
    for (Point& place : moved.position.edit()) place = place + Point{5, -3};
    const auto laps = cut_laps(moved, *world.track);
    const auto shift = position_shift(moved, *world.track, laps);
    ASSERT_TRUE(shift);
    EXPECT_TRUE(shift->stands_out());
    const auto own = position_shift(*world.runs[2].path, *world.track, world.runs[2].laps);
    ASSERT_TRUE(own);
    EXPECT_FALSE(own->stands_out());
    EXPECT_NEAR(shift->shift.x - own->shift.x, 5, 0.3);
    EXPECT_NEAR(shift->shift.y - own->shift.y, -3, 0.3);
}

TEST(Alignment, LatePositionsAreMeasuredInSeconds) {
    const DemoWorld& world = demo_world();
    const DemoRun& run = world.runs[1];
    const auto right = position_delay(*run.recording);
    ASSERT_TRUE(right);
    EXPECT_FALSE(right->stands_out()) << right->delay_s;
    Recording late = *run.recording;
    for (Channel& channel : late.channels) {
        if (channel.quantity == "latitude" || channel.quantity == "longitude") channel = moved_in_time(channel, 0.21);
    }
    const auto found = position_delay(late);
    ASSERT_TRUE(found);
    EXPECT_TRUE(found->stands_out());
    EXPECT_NEAR(found->delay_s, 0.21, 0.03);
}

TEST(Alignment, CrookedBeaconShowsInTheShapeOfTheLaps) {
    // The same laps cut 40 m further on: a lap that begins elsewhere looks late at every corner.
    const DemoWorld& world = demo_world();
    const PreparedLap a = world.runs[1].lap(3, world.track);
    PreparedLap b = world.runs[1].lap(5, world.track);
    const auto right = along_offset(a, b);
    ASSERT_TRUE(right);
    EXPECT_FALSE(right->stands_out()) << right->behind_m;
    for (double& s : b.map.distance_m) s = std::min(s + 40 * std::min(1.0, s / 200), world.track->length_m);
    const auto found = along_offset(a, b);
    ASSERT_TRUE(found);
    EXPECT_TRUE(found->stands_out());
    EXPECT_NEAR(found->behind_m, 40, 4);
}

TEST(Alignment, DoubtsOfRun3AreTheOnesThatWerePlanted) {
    const DemoWorld& world = demo_world();
    auto laps = world.runs[2].laps;
    note_doubts(laps, *world.runs[2].path, *world.track);
    EXPECT_NE(laps[3].doubt.find("slower than usual in Turn 11 to Turn 13: traffic?"), std::string::npos)
        << laps[3].doubt;
    EXPECT_NE(laps[5].doubt.find("behind Turn 1: an excursion?"), std::string::npos) << laps[5].doubt;
    EXPECT_FALSE(laps[3].counts() || laps[5].counts());
    for (const std::size_t clean : {1U, 2U, 4U, 6U, 7U}) EXPECT_TRUE(laps[clean].doubt.empty()) << laps[clean].doubt;
    auto baseline = world.runs[1].laps;
    note_doubts(baseline, *world.runs[1].path, *world.track);
    for (const Lap& lap : baseline) EXPECT_FALSE(lap.doubtful()) << lap.doubt;
}
