// Places along the track where drivers drive really different lines, on random circuits, with receivers from perfect to
// poor; lap times, the trust figure, and accelerations without an accelerometer.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "core/intake/place_run.h"
#include "core/laps/cut.h"
#include "core/laps/gap.h"
#include "core/laps/slow_error.h"
#include "core/track/accelerations.h"
#include "core/track/learn.h"
#include "tests/support/figures_only.h"
#include "tests/support/got.h"
#include "tests/support/random_world.h"

using namespace rendak;
using namespace rendak::test;

namespace {

constexpr int laps = 9;

/// A run with what core makes of it.
struct Driven {
    RandomDrive drive;
    Recording recording;
    Path path;
    std::vector<Lap> flying;

    void cut(const Track& track) {
        path = got(driven_path(recording, &track));
        flying.clear();
        for (const Lap& lap : laps_on(recording, path, track)) {
            if (lap.kind == LapKind::flying) flying.push_back(lap);
        }
    }
    /// Which lap of the drive this is, in metres from its first line.
    [[nodiscard]] double begin_m(const Lap& lap) const {
        return std::round(drive.along_at(lap.start_s) / drive.length_m) * drive.length_m;
    }
    [[nodiscard]] double lap_error_s(const Lap& lap) const {
        const double begin = begin_m(lap);
        return lap.time_s() - (drive.time_at(begin + drive.length_m) - drive.time_at(begin));
    }
};

struct World {
    RandomRoad road;
    Track track;
    Driven a, b;
};

/// Two drivers whose lines differ by smooth waves of 2.5 m to either side; the track is learnt from the first one's
/// run.
World world_of(unsigned seed, const RandomSensors& sensors, double wave_m = 2.5) {
    World world;
    world.road = random_road(seed);
    const auto driven = [&](double phase, double pace, unsigned k) {
        Driven out;
        out.drive = drive(world.road, {wave_m, 3, phase, pace, 0.2}, laps, seed * 10 + k);
        out.recording = recorded(world.road, out.drive, sensors, seed * 100 + k);
        return out;
    };
    world.a = driven(0.3 + seed, 1.0, 1);
    world.b = driven(2.2 + 1.7 * seed, 0.985, 2);
    const Path first = got(driven_path(world.a.recording, nullptr));
    const LocalPlane from(world.road.origin), to(first.origin);
    StartLine line;
    line.position = to.to_local(from.to_geo(world.road.centre[0]));
    line.direction = world.road.direction[0];
    world.track =
        got(learn_steady_track(first, "Random", line, SpeedSource(world.a.recording, SpeedSource::Prefer::gps)));
    world.a.cut(world.track);
    world.b.cut(world.track);
    return world;
}

struct Errors {
    double gap_s = 0, places_m = 0;  ///< rms over the lap
    double trust_m = 0;              ///< of both laps together
};

Errors errors_of(const World& world, const Lap& a, const Lap& b) {
    const LapMap map_a = align_lap(world.a.path, world.track, a.start_s, a.end_s),
                 map_b = align_lap(world.b.path, world.track, b.start_s, b.end_s);
    const GapCurve gap = gap_between(map_a, map_b);
    const double begin_a = world.a.begin_m(a), begin_b = world.b.begin_m(b);
    Errors out;
    double count = 0;
    for (double s = 5; s < map_a.length_m(); s += 5) {
        // Where on the road A really was: there B's true gap is looked up.
        const double place = world.a.drive.along_at(map_a.time_at(s)) - begin_a;
        const double truth = (world.b.drive.time_at(begin_b + place) - world.b.drive.time_at(begin_b)) -
                             (world.a.drive.time_at(begin_a + place) - world.a.drive.time_at(begin_a));
        const double off_s = gap.at(s) - truth;
        const double off_m = world.b.drive.along_at(map_b.time_at(s)) - begin_b - place;
        out.gap_s += off_s * off_s;
        out.places_m += off_m * off_m;
        ++count;
    }
    out.gap_s = std::sqrt(out.gap_s / count);
    out.places_m = std::sqrt(out.places_m / count);
    out.trust_m = std::hypot(a.trust_m, b.trust_m);
    return out;
}

struct Case {
    const char* name;
    RandomSensors sensors;
    double gap_ms, lap_ms;  ///< limits: rms over the worlds; the worst lap of nine, in the usual world
};

void PrintTo(const Case& one, std::ostream* out) {
    *out << one.name;
}

class PlacesOnLines : public testing::TestWithParam<Case> {};

}  // namespace

TEST_P(PlacesOnLines, GapAndLapTimesHoldWhereLinesDiffer) {
    RENDAK_FIGURES_ONLY("PlacesOnLinesOdd");
    const Case& it = GetParam();
    double squares = 0, count = 0;
    std::vector<double> worst_laps;
    for (const unsigned seed : {11U, 12U, 13U, 14U, 15U}) {
        const World world = world_of(seed, it.sensors);
        ASSERT_EQ(world.a.flying.size(), laps);
        ASSERT_EQ(world.b.flying.size(), laps);
        for (const std::size_t k : {0U, 4U, 8U}) {
            const double gap_s = errors_of(world, world.a.flying[k], world.b.flying[k]).gap_s;
            squares += gap_s * gap_s;
            ++count;
        }
        for (const Driven* run : {&world.a, &world.b}) {
            double worst = 0;
            for (const Lap& lap : run->flying) worst = std::max(worst, std::abs(run->lap_error_s(lap)));
            worst_laps.push_back(worst);
        }
    }
    const double gap_ms = 1000 * std::sqrt(squares / count);
    std::sort(worst_laps.begin(), worst_laps.end());
    const double lap_ms = 1000 * worst_laps[worst_laps.size() / 2];
    RecordProperty("gap_ms", std::to_string(gap_ms));
    RecordProperty("worst_lap_ms", std::to_string(lap_ms));
    EXPECT_LT(gap_ms, it.gap_ms);
    EXPECT_LT(lap_ms, it.lap_ms);
}

INSTANTIATE_TEST_SUITE_P(Receivers, PlacesOnLines,
                         testing::Values(Case{"Perfect", {0, 60, 0, 0.03}, 6, 1},
                                         Case{"HalfAMetre", {0.5, 60, 0.08, 0.03}, 15, 12},
                                         Case{"AMetre", {1.0, 60, 0.08, 0.03}, 25, 25}),
                         [](const auto& one) { return std::string(one.param.name); });

TEST(PlacesTrust, HoldsForMostLapsAndIsNoEmptyPromise) {
    RENDAK_FIGURES_ONLY("PlacesOnLinesOdd");
    // Random worlds of every kind of receiver: the error of places lies within the figure for most laps, not for all.
    int inside = 0, all = 0;
    for (unsigned seed = 200; seed < 212; ++seed) {
        const double slow_m = 0.3 + 0.1 * (seed % 8), correlation_s = seed % 2 == 0 ? 60 : 400;
        const World world = world_of(seed, {slow_m, correlation_s, 0.1, 0.03}, 0.5 + seed % 3);
        for (std::size_t k = 0; k < std::min(world.a.flying.size(), world.b.flying.size()); k += 2) {
            const Errors errors = errors_of(world, world.a.flying[k], world.b.flying[k]);
            inside += errors.places_m <= errors.trust_m ? 1 : 0;
            ++all;
        }
    }
    const double share = static_cast<double>(inside) / all;
    RecordProperty("inside", std::to_string(share));
    EXPECT_GT(share, 0.55);
    EXPECT_LT(share, 0.95);
}

TEST(PlacesOnLinesOdd, SpeedThatReadsHighOrComesLateChangesNothing) {
    World world = world_of(21, {0.5, 60, 0.08, 0.03});
    const double before = errors_of(world, world.a.flying[2], world.b.flying[2]).places_m;
    for (Channel& channel : world.b.recording.channels) {
        if (channel.quantity != "speed") continue;
        ChannelStorage storage;
        for (std::size_t i = 0; i < channel.size(); ++i) storage.floats.push_back(1.06F * channel.floats()[i]);
        channel = make_channel("Vehicle Speed", "speed", "m/s", std::move(storage), 0.15, channel.clock.rate_hz);
    }
    world.b.cut(world.track);
    ASSERT_EQ(world.b.flying.size(), laps);
    EXPECT_NEAR(errors_of(world, world.a.flying[2], world.b.flying[2]).places_m, before, 0.15);
}

TEST(PlacesOnLinesOdd, OneLapAndNoSpeedAreBorne) {
    const World world = world_of(31, {0.5, 60, 0.08, 0.03});
    Recording bare = world.b.recording;
    std::erase_if(bare.channels, [](const Channel& channel) { return channel.quantity == "speed"; });
    const Path path = got(driven_path(bare, &world.track));
    int flying = 0;
    for (const Lap& lap : laps_on(bare, path, world.track)) {
        if (lap.kind != LapKind::flying) continue;
        ++flying;
        EXPECT_LT(std::abs(world.b.lap_error_s(lap)), 0.1);
        EXPECT_GT(lap.trust_m, 0.1);
    }
    EXPECT_EQ(flying, laps);
    // One lap and the way to it.
    Driven one = world.b;
    one.recording = bare;
    for (Channel& channel : one.recording.channels) {
        ChannelStorage storage;
        const auto end = static_cast<std::size_t>((world.b.flying[0].end_s + 3) * channel.clock.rate_hz);
        for (std::size_t i = 0; i < end; ++i) storage.doubles.push_back(channel.at(i));
        channel =
            make_channel(channel.name, channel.quantity, channel.unit, std::move(storage), 0, channel.clock.rate_hz);
    }
    one.cut(world.track);
    ASSERT_EQ(one.flying.size(), 1u);
    EXPECT_LT(errors_of(world, world.a.flying[0], one.flying[0]).places_m, 2.5);
}

TEST(AccelerationsWithoutSensors, ComeFromSpeedAndBendingAsGoodAsTheNoiseAllows) {
    double along = 0, lateral = 0, count = 0;
    for (const unsigned seed : {41U, 42U, 43U}) {
        const RandomRoad road = random_road(seed);
        const RandomDrive motion = drive(road, {2.5, 3, 0.3, 1.0, 0.2}, 3, seed);
        const Recording recording = recorded(road, motion, {0.5, 60, 0.08, 0.03}, seed);
        const auto derived = derived_accelerations(recording, got(driven_path(recording, nullptr)));
        ASSERT_EQ(derived.size(), 2u);
        EXPECT_NE(derived[0].channel.name.find("from speed, over 0."), std::string::npos) << derived[0].channel.name;
        EXPECT_GT(derived[1].over_s, 0.7) << "8 cm of noise want a long look";
        for (double t = 3; t < motion.end_s() - 3; t += 0.05) {
            const auto k = static_cast<std::size_t>(t * RandomDrive::rate_hz);
            const double off_along = derived[0].channel.value_at(t) - motion.along_mps2[k],
                         off_lateral = derived[1].channel.value_at(t) - motion.lateral_mps2[k];
            along += off_along * off_along;
            lateral += off_lateral * off_lateral;
            ++count;
        }
    }
    constexpr double g = 9.80665;
    EXPECT_LT(std::sqrt(along / count) / g, 0.02);
    EXPECT_LT(std::sqrt(lateral / count) / g, 0.06);
}
