// What the driver does, told from pedals as a car has them, and without any: zeros that are none, travels that end
// early, noise, a brake that drifts with its heat, and acceleration alone.
#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "core/analysis/phases.h"
#include "core/intake/import.h"
#include "core/intake/place_run.h"
#include "core/intake/tidy.h"
#include "core/laps/driver_activity.h"
#include "core/track/accelerations.h"
#include "tests/support/got.h"
#include "tests/support/random_world.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using namespace rendak::test;

namespace {

/// How somebody's pedals are built and calibrated.
struct Pedals {
    double brake_zero_pa = 0, brake_drift_pa = 0, brake_noise_pa = 0;
    double throttle_low = 0, throttle_high = 1, throttle_noise = 0;
};

struct Ride {
    RandomDrive drive;
    Recording recording;
};

/// Four laps with speed, positions, and what the accelerometer would say.
Ride ride(unsigned seed) {
    const RandomRoad road = random_road(seed);
    Ride out{test::drive(road, {1.5, 3, 0.4, 1.0, 0.2}, 4, seed), {}};
    out.recording = recorded(road, out.drive, {0, 60, 0, 0.03}, seed);
    return out;
}

void add_accelerations(Ride& it) {
    ChannelStorage along, lateral;
    for (std::size_t i = 0; i < it.drive.along_mps2.size(); ++i) {
        along.floats.push_back(static_cast<float>(it.drive.along_mps2[i]));
        lateral.floats.push_back(static_cast<float>(it.drive.lateral_mps2[i]));
    }
    it.recording.channels.push_back(
        make_channel("Acc X", "longitudinal_acceleration", "m/s²", std::move(along), 0, RandomDrive::rate_hz));
    it.recording.channels.push_back(
        make_channel("Acc Y", "lateral_acceleration", "m/s²", std::move(lateral), 0, RandomDrive::rate_hz));
}

Recording with_pedals(const Ride& it, const Pedals& pedals, unsigned seed = 1) {
    std::mt19937 random(seed);
    std::normal_distribution<double> normal;
    constexpr double hardest_pa = 80e5;
    ChannelStorage brake, throttle;
    const auto n = static_cast<double>(it.drive.brake.size());
    for (std::size_t i = 0; i < it.drive.brake.size(); ++i) {
        const double drift = pedals.brake_drift_pa * static_cast<double>(i) / n;
        brake.floats.push_back(static_cast<float>(pedals.brake_zero_pa + drift + hardest_pa * it.drive.brake[i] +
                                                  pedals.brake_noise_pa * normal(random)));
        throttle.floats.push_back(static_cast<float>(
            pedals.throttle_low + (pedals.throttle_high - pedals.throttle_low) * it.drive.throttle[i] +
            pedals.throttle_noise * normal(random)));
    }
    Recording out = it.recording;
    out.channels.push_back(make_channel("Brake", "brake_front", "Pa", std::move(brake), 0, RandomDrive::rate_hz));
    out.channels.push_back(make_channel("Throttle", "throttle", "", std::move(throttle), 0, RandomDrive::rate_hz));
    return out;
}

/// Moments at which a flag becomes true for a quarter of a second at least.
std::vector<double> begins(const RandomDrive& drive, const std::function<bool(double)>& flag) {
    std::vector<double> out;
    bool before = true;
    for (double t = 2; t < drive.end_s() - 2; t += 0.01) {
        const bool now = flag(t);
        if (now && !before && flag(t + 0.12) && flag(t + 0.25)) out.push_back(t);
        before = now;
    }
    return out;
}

/// All but one in twenty of the events lie where the clean pedals have them (noise decides where a pedal hovers).
void expect_same_places(const RandomDrive& drive, const std::vector<double>& clean, const std::vector<double>& found,
                        double within_m) {
    EXPECT_NEAR(static_cast<double>(clean.size()), static_cast<double>(found.size()), 1);
    std::size_t near = 0;
    for (const double t : clean)
        near += std::any_of(found.begin(), found.end(), [&](double other) {
            return std::abs(drive.along_at(t) - drive.along_at(other)) <= within_m;
        });
    EXPECT_GE(20 * near, 19 * clean.size()) << near << " of " << clean.size();
}

DriverActivity activity(const Recording& recording) {
    return {recording, pedal_scales(recording)};
}

/// What CTest calls the case.
void PrintTo(const Pedals& pedals, std::ostream* out) {
    *out << "brake " << pedals.brake_zero_pa << " Pa, throttle from " << pedals.throttle_low;
}

class PedalsAsTheyAre : public testing::TestWithParam<Pedals> {};

}  // namespace

TEST_P(PedalsAsTheyAre, GiveTheEventsOfCleanOnes) {
    for (const unsigned seed : {3U, 4U}) {
        const Ride it = ride(seed);
        const Recording clean = with_pedals(it, {}), real = with_pedals(it, GetParam());
        const DriverActivity a = activity(clean), b = activity(real);
        EXPECT_FALSE(b.inferred());
        const auto brakes_a = begins(it.drive, [&](double t) { return a.braking(t); });
        EXPECT_GT(brakes_a.size(), 8u);
        expect_same_places(it.drive, brakes_a, begins(it.drive, [&](double t) { return b.braking(t); }),
                           GetParam().brake_drift_pa > 0 ? 3.0 : 1.0);
        // Where the pedal hovers at the threshold, noise decides: but for seldom.
        int differ = 0, all = 0;
        for (double t = 2; t < it.drive.end_s() - 2; t += 0.05) {
            differ += a.full_throttle(t) != b.full_throttle(t) || a.on_throttle(t) != b.on_throttle(t) ? 1 : 0;
            ++all;
        }
        EXPECT_LT(differ, all / 50);
    }
}

INSTANTIATE_TEST_SUITE_P(Sensors, PedalsAsTheyAre,
                         testing::Values(Pedals{4e5, 0, 0, 0.12, 0.88, 0},           // neither zero nor end are right
                                         Pedals{4e5, 0, 0.05e5, 0.12, 0.88, 0.002},  // … with noise
                                         Pedals{-2e5, 0, 0.1e5, 0.03, 0.97, 0.003},  // below zero
                                         Pedals{0.5e5, 2e5, 0.05e5, 0, 1, 0}));      // the zero creeps up by 2 bar

TEST(PedalScales, SayWhatTheyFound) {
    const Ride it = ride(5);
    const Recording recording = with_pedals(it, {4e5, 0, 0.05e5, 0.12, 0.88, 0.002});
    const PedalScales scales = pedal_scales(recording);
    ASSERT_TRUE(scales.throttle.known && scales.brake.known);
    EXPECT_NEAR(scales.throttle.zero, 0.12, 0.01);
    EXPECT_NEAR(scales.throttle.full, 0.88, 0.01);
    EXPECT_TRUE(scales.throttle.held_at_end);
    EXPECT_NEAR(scales.brake.zero, 4e5, 0.1e5);
    EXPECT_NEAR(scales.brake.noise, 0.05e5, 0.03e5);
    EXPECT_LT(scales.brake.drift, 0.2e5);
    EXPECT_FALSE(scales.clutch.known);
    EXPECT_GT(pedal_scales(with_pedals(it, {0, 2e5, 0.05e5, 0, 1, 0})).brake.drift, 1e5);
}

TEST(PedalScales, ABrakeHeldLightlyAtTheEndMovesNoZero) {
    const Ride it = ride(5);
    Recording recording = with_pedals(it, {0, 0, 0.2e5});
    Channel& brake = *std::find_if(recording.channels.begin(), recording.channels.end(),
                                   [](const Channel& channel) { return channel.quantity == "brake_front"; });
    Channel& speed = *std::find_if(recording.channels.begin(), recording.channels.end(),
                                   [](const Channel& channel) { return channel.quantity == "speed"; });
    ASSERT_LT(pedal_scales(recording).brake.drift, 1e5);
    // The last minute: it rolls to its place, stops and stands on the brake.
    ChannelStorage held, rolled;
    for (std::size_t i = 0; i < brake.size(); ++i)
        held.floats.push_back(brake.clock.time_at(i) < recording.span_s().end - 60 ? brake.at(i) : 10e5F);
    for (std::size_t i = 0; i < speed.size(); ++i)
        rolled.floats.push_back(speed.clock.time_at(i) < recording.span_s().end - 60 ? speed.at(i) : 0.5F);
    brake = make_channel(brake.name, brake.quantity, brake.unit, std::move(held), 0, RandomDrive::rate_hz);
    const double rate_hz = 1 / (speed.clock.time_at(1) - speed.clock.time_at(0));
    speed = make_channel(speed.name, speed.quantity, speed.unit, std::move(rolled), 0, rate_hz);
    const PedalScale scale = pedal_scales(recording).brake;
    EXPECT_LT(scale.drift, 1e5);
    EXPECT_NEAR(scale.zero_at(recording.span_s().end), 0, 0.5e5);
}

TEST(PedalScales, TheCarSheetWins) {
    const Ride it = ride(6);
    const Recording recording = with_pedals(it, {});
    ActivityLimits limits;
    limits.brake_on_pa = 40e5;
    const DriverActivity usual = activity(recording), strict(recording, pedal_scales(recording, limits));
    int more = 0;
    for (double t = 2; t < it.drive.end_s() - 2; t += 0.05) {
        EXPECT_LE(strict.braking(t), usual.braking(t));
        more += usual.braking(t) && !strict.braking(t) ? 1 : 0;
    }
    EXPECT_GT(more, 5);
}

TEST(ActivityWithoutPedals, BrakePointsComeWithinFiveMetres) {
    // Positions and speed of a pocket receiver: nothing else. The truth by the same meaning: slowing down harder than
    // the threshold.
    std::size_t all = 0, near = 0, too_many = 0;
    double squares[2] = {}, samples = 0;
    for (unsigned seed = 7; seed < 17; ++seed) {
        const RandomRoad road = random_road(seed);
        const RandomDrive drive = test::drive(road, {1.5, 3, 0.4, 1.0, 0.2}, 3, seed);
        Recording gps = recorded(road, drive, {0.5, 60, 0.08, 0.03}, seed);
        for (DerivedAcceleration& it : derived_accelerations(gps, got(driven_path(gps, nullptr)))) {
            const bool lateral = it.channel.quantity == "lateral_acceleration";
            const auto& truth = lateral ? drive.lateral_mps2 : drive.along_mps2;
            for (double t = 3; t < drive.end_s() - 3; t += 0.05) {
                const double off =
                    it.channel.value_at(t) - truth[static_cast<std::size_t>(std::lround(t * RandomDrive::rate_hz))];
                squares[lateral ? 1 : 0] += off * off;
                samples += lateral ? 1 : 0;
            }
            gps.channels.push_back(std::move(it.channel));
        }
        const DriverActivity told = activity(gps);
        EXPECT_TRUE(told.known() && told.inferred());
        EXPECT_TRUE(std::isnan(told.throttle(10)));
        const auto truly = [&](double t) {
            const auto k = std::min(static_cast<std::size_t>(t * RandomDrive::rate_hz), drive.along_mps2.size() - 1);
            const double drag = 0.0005 * drive.speed_mps[k] * drive.speed_mps[k];
            return drive.along_mps2[k] < -0.2 * 9.80665 - drag;
        };
        const auto truth = begins(drive, truly);
        const auto found = begins(drive, [&](double t) { return told.braking(t); });
        all += truth.size();
        too_many += found.size() - std::min(found.size(), truth.size());
        for (const double t : truth) {
            near += std::any_of(found.begin(), found.end(),
                                [&](double f) { return std::abs(drive.along_at(f) - drive.along_at(t)) < 5; });
        }
    }
    const double along_g = std::sqrt(squares[0] / samples) / 9.80665,
                 lateral_g = std::sqrt(squares[1] / samples) / 9.80665;
    std::printf("  %zu of %zu brake points within 5 m, %zu too many; off by %.3f g along, %.3f g lateral\n", near, all,
                too_many, along_g, lateral_g);
    EXPECT_GT(all, 50U);
    EXPECT_GE(50 * near, 49 * all);
    EXPECT_LE(100 * too_many, all);
    EXPECT_LT(along_g, 0.018);
    EXPECT_LT(lateral_g, 0.056);
}

TEST(ActivityWithoutPedals, DragABrushAndHardBrakingAreToldApart) {
    Ride it = ride(10);
    add_accelerations(it);
    const DriverActivity told = activity(it.recording);
    int drag = 0, hard = 0, brush = 0;
    for (double t = 2; t < it.drive.end_s() - 2; t += 0.05) {
        const double a = it.drive.along_mps2[static_cast<std::size_t>(t * RandomDrive::rate_hz)];
        switch (told.slowing(t)) {
            case DriverActivity::Slowing::hard:
                ++hard;
                EXPECT_LT(a, -3);
                break;
            case DriverActivity::Slowing::brush:
                ++brush;
                break;
            case DriverActivity::Slowing::drag:
                ++drag;
                EXPECT_GT(a, -5);
                break;
            case DriverActivity::Slowing::none:
                EXPECT_GT(a, -2);
        }
    }
    EXPECT_GT(hard, 20);
    EXPECT_GT(drag + brush, 5);
}

TEST(ActivityWithoutPedals, NothingIsKnownOfNothing) {
    Recording empty;
    const DriverActivity told = activity(empty);
    EXPECT_FALSE(told.known());
    EXPECT_TRUE(std::isnan(told.flag("driver_on_brake", 1)));
    EXPECT_TRUE(std::isnan(told.flag("driver_cornering", 1)));
    EXPECT_TRUE(std::isnan(told.flag("driver_coasting", 1)));
}

TEST(ActivityFlags, AlongAClockAreThoseOfItsMoments) {
    Ride it = ride(17);
    add_accelerations(it);
    const Recording recording = with_pedals(it, {});
    const DriverActivity told = activity(recording);
    SampleClock coarse;
    coarse.start_s = 1.003;
    coarse.rate_hz = 7;
    coarse.size = 200;
    for (const SampleClock& clock : {told.clock(), coarse}) {
        ASSERT_GT(clock.size, 150U);
        for (const char* name :
             {"driver_on_brake", "driver_on_throttle", "driver_full_throttle", "driver_cornering", "driver_coasting"}) {
            const std::vector<float> all = told.flags(name, clock, 0, clock.size),
                                     some = told.flags(name, clock, 40, 110);
            ASSERT_EQ(all.size(), clock.size);
            ASSERT_EQ(some.size(), 70U);
            int on = 0;
            for (std::size_t i = 0; i < clock.size; ++i) {
                EXPECT_EQ(static_cast<double>(all[i]), told.flag(name, clock.time_at(i))) << name << i;
                if (i >= 40 && i < 110) EXPECT_EQ(some[i - 40], all[i]);
                on += all[i] == 1 ? 1 : 0;
            }
            if (std::string_view(name) != "driver_coasting") EXPECT_GT(on, 0) << name;
        }
    }
    const SampleClock own = told.clock();
    const auto all = [&](const char* name) { return told.flags(name, own, 0, own.size); };
    EXPECT_EQ(told.coasting_flags(own, all("driver_on_brake"), all("driver_on_throttle"), all("driver_cornering")),
              all("driver_coasting"));
    const Recording nothing;
    for (const float flag : activity(nothing).flags("driver_on_brake", coarse, 0, 5)) EXPECT_TRUE(std::isnan(flag));
}

TEST(ActivityFlags, OfASensorWithHolesAreThoseOfItsMoments) {
    // 100 Hz: the readings of the mean are samples. 30 Hz: they lie between. Holes and both ends are in it.
    for (const double rate_hz : {100.0, 30.0}) {
        Recording recording;
        ChannelStorage lateral;
        for (std::size_t i = 0; i < 400; ++i)
            lateral.floats.push_back(i % 23 < 3 ? std::nanf("")
                                                : static_cast<float>(5 * std::sin(0.05 * static_cast<double>(i))));
        recording.channels.push_back(
            make_channel("Acc Y", "lateral_acceleration", "m/s²", std::move(lateral), 0.2, rate_hz));
        const DriverActivity told = activity(recording);
        const SampleClock clock = recording.channels.front().clock;
        const auto flags = told.flags("driver_cornering", clock, 0, clock.size);
        int on = 0;
        for (std::size_t i = 0; i < clock.size; ++i) {
            EXPECT_EQ(static_cast<double>(flags[i]), told.flag("driver_cornering", clock.time_at(i))) << rate_hz << i;
            on += flags[i] == 1 ? 1 : 0;
        }
        EXPECT_GT(on, 50);
        EXPECT_LT(on, 350);
    }
}

TEST(Coasting, IsNeitherPedalNorCornering) {
    Ride it = ride(11);
    add_accelerations(it);
    const Recording recording = with_pedals(it, {});
    const DriverActivity told = activity(recording);
    for (double t = 2; t < it.drive.end_s() - 2; t += 0.05) {
        if (!told.coasting(t)) continue;
        EXPECT_FALSE(told.braking(t) || told.on_throttle(t) || told.cornering(t)) << t;
        EXPECT_EQ(told.flag("driver_coasting", t), 1);
    }
}

TEST(Tidy, SaysWhichPedalsCannotBeAsTheyRead) {
    const TempFolder folder;
    auto library = got(Library::open(folder.path()));
    const auto findings = [&](const Recording& recording) {
        const auto run = got(import_recording(*library, {recording, {}}, {})).run;
        std::string out;
        for (const Finding& finding : got(tidy(*library, run))) out += finding.id + ": " + finding.what + "\n";
        return out;
    };
    const Ride it = ride(12);
    const std::string wrong = findings(with_pedals(it, {4e5, 2e5, 0.02e5, 0.12, 0.88, 0}));
    EXPECT_NE(wrong.find("pedal-end:throttle: The throttle never reaches its end: it is held at 88 %"),
              std::string::npos)
        << wrong;
    EXPECT_NE(wrong.find("never falls below 12 %"), std::string::npos) << wrong;
    EXPECT_NE(wrong.find("pedal-zero:brake"), std::string::npos) << wrong;
    EXPECT_NE(wrong.find("pedal-drift:brake"), std::string::npos) << wrong;
    EXPECT_EQ(findings(with_pedals(it, {})).find("pedal-"), std::string::npos) << "good pedals are left in peace";
}
