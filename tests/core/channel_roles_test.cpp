// What channels are, told by what they hold: several speeds, wrong units, a logger mounted a quarter turn round, any
// order of columns; and what somebody says of a channel afterwards, with all that rests on it.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <fstream>
#include <random>

#include "core/intake/channel_edits.h"
#include "core/intake/channel_roles.h"
#include "core/intake/channel_sheet.h"
#include "core/intake/import.h"
#include "core/intake/run_recording.h"
#include "core/library/library.h"
#include "tests/support/got.h"
#include "tests/support/random_world.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using namespace rendak::test;

namespace {

Channel channel_of(const std::string& name, const std::string& quantity, const std::string& unit,
                   const std::vector<double>& values, double scale = 1, double offset = 0) {
    ChannelStorage storage;
    for (const double value : values) storage.floats.push_back(static_cast<float>(value * scale + offset));
    Channel out = make_channel(name, quantity, unit, std::move(storage), 0, RandomDrive::rate_hz);
    out.source_unit = unit;
    return out;
}

/// A car with a receiver's speed, one of its wheels that reads 6 % high, and accelerations.
struct Car {
    RandomRoad road;
    RandomDrive drive;
    Recording recording;
    explicit Car(unsigned seed, RandomSensors sensors = {0.3, 60, 0.1, 0.03}) : road(random_road(seed)) {
        drive = test::drive(road, {1.5, 3, 0.4, 1.0, 0.2}, 3, seed);
        recording = recorded(road, drive, sensors, seed);
        recording.channels.push_back(channel_of("Vehicle Speed", "speed", "m/s", drive.speed_mps, 1.06));
        recording.channels.push_back(channel_of("Lateral G", "lateral_acceleration", "m/s²", drive.lateral_mps2));
        recording.channels.push_back(channel_of("Long G", "longitudinal_acceleration", "m/s²", drive.along_mps2));
        recording.channels.push_back(channel_of("Lambda", "", "", drive.throttle, 0.2, 0.8));
    }
    [[nodiscard]] Recording told() const { return with_channel_edits(recording, channel_roles(recording).edits); }
};

const Channel& by_name(const Recording& recording, const std::string& name) {
    const Channel* found = recording.find_name(name);
    if (found == nullptr) throw std::runtime_error("no channel " + name);
    return *found;
}

std::string all_notes(const ChannelRoles& roles) {
    std::string out;
    for (const std::string& note : roles.notes) out += note + "\n";
    return out;
}

class ChannelRolesInALibrary : public testing::Test {
  protected:
    void SetUp() override { library_ = got(Library::open(folder_.path() / "library")); }
    ImportResult import(const Recording& recording, const std::string& car = "27") {
        ImportOptions options;
        options.car = car;
        return got(import_recording(*library_, {recording, {}}, options));
    }
    TempFolder folder_;
    std::unique_ptr<Library> library_;
};

}  // namespace

TEST(ChannelRoles, TheSpeedIsTheOneThatAgreesWithThePositionsInAnyOrder) {
    for (const unsigned seed : {51U, 52U, 53U, 54U, 55U}) {
        const Car car(seed);
        std::mt19937 random(seed);
        for (int order = 0; order < 4; ++order) {
            Recording shuffled = car.recording;
            std::shuffle(shuffled.channels.begin(), shuffled.channels.end(), random);
            const ChannelRoles roles = channel_roles(shuffled);
            const Recording told = with_channel_edits(shuffled, roles.edits);
            ASSERT_NE(told.find("speed"), nullptr);
            EXPECT_EQ(told.find("speed")->name, "GPS Speed");
            EXPECT_EQ(by_name(told, "Vehicle Speed").quantity, "wheel_speed");
            const std::string notes = all_notes(roles);
            const auto at = notes.find("\"Vehicle Speed\" reads ");
            ASSERT_NE(at, std::string::npos) << notes;
            EXPECT_NEAR(std::stod(notes.substr(at + 22)), 6.0, 0.3) << notes;
            EXPECT_TRUE(roles.questions.empty());
        }
    }
}

TEST(ChannelRoles, OneSpeedThatReadsHighIsUsedAndTold) {
    Car car(61);
    std::erase_if(car.recording.channels, [](const Channel& channel) { return channel.name == "GPS Speed"; });
    const ChannelRoles roles = channel_roles(car.recording);
    EXPECT_EQ(car.told().find("speed")->name, "Vehicle Speed");
    EXPECT_NE(all_notes(roles).find("\"Vehicle Speed\" reads 6."), std::string::npos) << all_notes(roles);
}

TEST(ChannelRoles, WithoutPositionsItIsAskedUnlessANameSaysIt) {
    Car car(62);
    std::erase_if(car.recording.channels, [](const Channel& channel) {
        return channel.quantity == "latitude" || channel.quantity == "longitude";
    });
    const ChannelRoles named = channel_roles(car.recording);
    EXPECT_TRUE(named.questions.empty());
    EXPECT_EQ(car.told().find("speed")->name, "GPS Speed");
    for (Channel& channel : car.recording.channels) {
        if (channel.name == "GPS Speed") channel.name = "Speed 2";
    }
    const ChannelRoles asked = channel_roles(car.recording);
    ASSERT_EQ(asked.questions.size(), 1u);
    EXPECT_EQ(asked.questions[0].quantity, "speed");
    EXPECT_EQ(asked.questions[0].channels.size(), 2u);
    EXPECT_NE(all_notes(asked).find("cannot be told"), std::string::npos);
}

TEST(ChannelRoles, UnitsThatTheValuesContradictArePutRight) {
    const Car car(63);
    struct Wrong {
        const char *name, *said, *true_unit;
        double read_factor;  ///< what reading by the wrong unit made of the true value
    };
    // Values in m/s whose head says km/h; values in g that were taken as m/s².
    Recording wrong = car.recording;
    std::erase_if(wrong.channels, [](const Channel& channel) { return channel.name == "Vehicle Speed"; });
    for (Channel& channel : wrong.channels) {
        const bool speed = channel.name == "GPS Speed";
        if (!speed && channel.name != "Lateral G") continue;
        channel = rescaled(channel, speed ? 1 / 3.6 : 1 / 9.80665, 0);
        channel.source_unit = speed ? "km/h" : "m/s²";
    }
    const ChannelRoles roles = channel_roles(wrong);
    const Recording told = with_channel_edits(wrong, roles.edits);
    for (double t = 5; t < 60; t += 5) {
        EXPECT_NEAR(told.find("speed")->value_at(t), car.recording.find_name("GPS Speed")->value_at(t), 0.01);
        EXPECT_NEAR(told.find("lateral_acceleration")->value_at(t),
                    car.recording.find("lateral_acceleration")->value_at(t), 0.02);
    }
    EXPECT_NE(all_notes(roles).find("says km/h, but its values are in m/s"), std::string::npos) << all_notes(roles);
}

TEST(ChannelRoles, ALoggerMountedAQuarterTurnRoundIsNoticed) {
    for (const unsigned seed : {64U, 65U, 66U}) {
        Car car(seed);
        for (Channel& channel : car.recording.channels) {
            if (channel.name == "Lateral G") channel.quantity = "longitudinal_acceleration";
            if (channel.name == "Long G") channel.quantity = "lateral_acceleration";
        }
        const Recording told = car.told();
        EXPECT_EQ(told.find("lateral_acceleration")->name, "Lateral G");
        EXPECT_EQ(told.find("longitudinal_acceleration")->name, "Long G");
    }
}

TEST(ChannelRoles, GoodRecordingsAreLeftAlone) {
    for (const unsigned seed : {67U, 68U, 69U, 70U}) {
        Car car(seed);
        std::erase_if(car.recording.channels, [](const Channel& channel) { return channel.name == "Vehicle Speed"; });
        const ChannelRoles roles = channel_roles(car.recording);
        EXPECT_TRUE(roles.edits.empty()) << roles.edits.front().channel;
        EXPECT_TRUE(roles.notes.empty()) << all_notes(roles);
    }
    EXPECT_TRUE(channel_roles(Recording{}).edits.empty());
}

TEST(ChannelEdits, SayUnitScaleZeroAndMeaning) {
    const Car car(71);
    const Recording& logged = car.recording;
    // Logged as if in m/s, but it was km/h all the time; then 2 % are taken off and a zero is set.
    const ChannelEdit edit{"Vehicle Speed", "speed", "km/h", 0.98, 1.0, ""};
    ASSERT_TRUE(check_channel_edit(logged, edit));
    const Recording used = with_channel_edits(logged, {edit});
    EXPECT_EQ(used.find("speed")->name, "Vehicle Speed");
    EXPECT_EQ(by_name(used, "GPS Speed").quantity, "") << "a quantity is one channel's";
    for (double t = 1; t < 50; t += 7)
        EXPECT_NEAR(by_name(used, "Vehicle Speed").value_at(t),
                    by_name(logged, "Vehicle Speed").value_at(t) / 3.6 * 0.98 + 1.0, 1e-3);
    EXPECT_FALSE(check_channel_edit(logged, {"Nothing", "speed"}));
    EXPECT_FALSE(check_channel_edit(logged, {"Lambda", "speed"})) << "a plain number is no speed";
    EXPECT_TRUE(check_channel_edit(logged, {"Lambda", "speed", "km/h"})) << "unless its unit is said, too";
    EXPECT_FALSE(check_channel_edit(logged, {"Lambda", "no such thing"}));
    EXPECT_FALSE(check_channel_edit(logged, {"Lambda", std::nullopt, "furlongs per fortnight"}));
    EXPECT_FALSE(check_channel_edit(logged, {"Lambda", std::nullopt, "", 0}));
    EXPECT_EQ(channel_edit_from_json("Lambda", to_json(edit)).scale, 0.98);
    EXPECT_TRUE(channel_edit_from_json("x", "no json").changes_nothing());
}

TEST_F(ChannelRolesInALibrary, TheChannelSheetSaysWhatAndWhy) {
    const Car car(72);
    const auto imported = import(car.recording);
    EXPECT_NE(std::find_if(imported.notes.begin(), imported.notes.end(),
                           [](const auto& note) { return note.find("reads 6.") != std::string::npos; }),
              imported.notes.end());
    const auto sheet = got(channel_sheet(*library_, imported.run));
    ASSERT_EQ(sheet.size(), car.recording.channels.size());
    const auto line = [&](const std::string& name) {
        return *std::find_if(sheet.begin(), sheet.end(), [&](const auto& it) { return it.name == name; });
    };
    EXPECT_EQ(line("GPS Speed").quantity, "speed");
    EXPECT_EQ(line("GPS Speed").why, "by its name");
    EXPECT_EQ(line("Vehicle Speed").quantity, "wheel_speed");
    EXPECT_NE(line("Vehicle Speed").why.find("is the reference"), std::string::npos);
    EXPECT_EQ(line("Lambda").quantity, "");
    EXPECT_EQ(line("Lambda").sureness, "unknown");
    EXPECT_GT(line("GPS Speed").high, line("GPS Speed").mean);
    EXPECT_EQ(line("GPS Speed").missing_share, 0);
    EXPECT_NEAR(line("GPS Speed").rate_hz, 20, 0.01);
}

TEST_F(ChannelRolesInALibrary, WhatIsSaidIsFollowedAndTakenBack) {
    const Car car(73);
    const auto run = import(car.recording).run;
    ASSERT_TRUE(learn_track_from_run(*library_, run, "Random", {}));
    const auto speed_at = [&](double t) {
        return got(load_run(*library_, run))->recording->find("speed")->value_at(t);
    };
    const double before = speed_at(30);
    const auto laps_before = got(library_->laps(run));
    // The sign of the turning channels is turned in the logger.
    auto edited = got(edit_channels(*library_, run, {{"Lateral G", std::nullopt, "", -1, 0}}));
    EXPECT_EQ(got(library_->flipped_quantities(run)), std::vector<std::string>{"lateral_acceleration"})
        << "signs are told from the path again";
    ASSERT_TRUE(take_back(*library_, run, edited));
    EXPECT_TRUE(got(library_->flipped_quantities(run)).empty());
    edited = got(edit_channels(*library_, run, {{"Vehicle Speed", "speed"}, {"GPS Speed", ""}}));
    EXPECT_NEAR(speed_at(30), 1.06 * before, 0.3);
    EXPECT_FALSE(edited.notes.empty());
    ASSERT_TRUE(take_back(*library_, run, edited));
    EXPECT_NEAR(speed_at(30), before, 1e-6);
    const auto laps_after = got(library_->laps(run));
    ASSERT_EQ(laps_after.size(), laps_before.size());
    for (std::size_t i = 0; i < laps_after.size(); ++i) EXPECT_NEAR(laps_after[i].end_s, laps_before[i].end_s, 1e-6);
    EXPECT_FALSE(edit_channels(*library_, run, {{"Nothing", "speed"}})) << "and nothing is changed";
    EXPECT_NEAR(speed_at(30), before, 1e-6);
}

TEST_F(ChannelRolesInALibrary, ATemplateHoldsForRunsOfThatCarAndForImportsToCome) {
    const Car first(74), second(75), third(76);
    const auto a = import(first.recording).run, b = import(second.recording).run,
               other = import(third.recording, "99").run;
    const ChannelEdit half{"Lambda", std::nullopt, "", 0.5, 0};
    const auto edited = got(edit_channels_from_now_on(*library_, a, {half}));
    EXPECT_EQ(edited.runs.size(), 2u) << "not the other car's";
    const auto lambda = [&](RunId run) { return by_name(got(run_recording(*library_, run)), "Lambda").at(100); };
    EXPECT_NEAR(lambda(b), 0.5 * by_name(second.recording, "Lambda").at(100), 1e-6);
    EXPECT_NEAR(lambda(other), by_name(third.recording, "Lambda").at(100), 1e-6);
    const Car later(77);
    const auto c = import(later.recording);
    EXPECT_NEAR(lambda(c.run), 0.5 * by_name(later.recording, "Lambda").at(100), 1e-6);
    EXPECT_EQ(got(library_->channel_edits(c.run)).size(), 2u) << "the template's, and what the content says";
    ASSERT_TRUE(take_back(*library_, edited));
    EXPECT_NEAR(lambda(b), by_name(second.recording, "Lambda").at(100), 1e-6);
    EXPECT_TRUE(got(library_->channel_templates()).empty());
}

TEST_F(ChannelRolesInALibrary, AnyOrderOfColumnsGivesTheSameRun) {
    const Car car(78);
    const auto file = [&](const std::vector<std::size_t>& order) {
        const auto path = folder_.path() / ("order" + std::to_string(order[1]) + std::to_string(order[2]) + ".csv");
        std::ofstream out(path);
        const char* heads[] = {"Time (s)",           "Vehicle Speed (km/h)", "GPS Speed (km/h)",
                               "GPS Latitude (deg)", "GPS Longitude (deg)",  "Lateral Acc (g)"};
        for (std::size_t k = 0; k < order.size(); ++k) out << (k > 0 ? "," : "") << heads[order[k]];
        out << '\n';
        out.precision(10);
        const Channel &latitude = by_name(car.recording, "Latitude"), &longitude = by_name(car.recording, "Longitude");
        for (std::size_t i = 0; i < latitude.size(); ++i) {
            const double t = latitude.clock.time_at(i);
            const double values[] = {t,
                                     3.6 * by_name(car.recording, "Vehicle Speed").value_at(t),
                                     3.6 * by_name(car.recording, "GPS Speed").value_at(t),
                                     latitude.at(i),
                                     longitude.at(i),
                                     by_name(car.recording, "Lateral G").value_at(t) / 9.80665};
            for (std::size_t k = 0; k < order.size(); ++k) out << (k > 0 ? "," : "") << values[order[k]];
            out << '\n';
        }
        return path;
    };
    const auto first = got(import_file(*library_, file({0, 1, 2, 3, 4, 5}), {}));
    const Recording one = got(run_recording(*library_, first.run));
    EXPECT_EQ(one.find("speed")->name, "GPS Speed");
    const auto again = got(import_file(*library_, file({0, 5, 2, 4, 1, 3}), {}));
    EXPECT_TRUE(again.already_there) << "the same content, whatever its order";
    EXPECT_EQ(again.run, first.run);
}

TEST_F(ChannelRolesInALibrary, TwoChannelsOfOneNameAreToldApart) {
    Car car(79);
    for (Channel& channel : car.recording.channels) {
        if (channel.name == "GPS Speed" || channel.name == "Vehicle Speed") channel.name = "Speed";
    }
    const auto run = import(car.recording).run;
    const Recording used = got(run_recording(*library_, run));
    ASSERT_NE(used.find("speed"), nullptr) << "one of them is the speed";
    EXPECT_NEAR(used.find("speed")->value_at(30), car.drive.speed_mps[3000], 0.5) << "the one that agrees";
    ASSERT_NE(used.find_name("Speed (2)"), nullptr);
    EXPECT_NE(used.find("wheel_speed"), nullptr);
    EXPECT_TRUE(import(car.recording).already_there);
}

TEST_F(ChannelRolesInALibrary, ZeroAtRestHoldsWhereTheSignIsTurnedRound) {
    Car car(80);
    // Ten seconds at rest before the drive, and an accelerometer that is mounted backwards and reads 0.5 m/s² at rest.
    constexpr double rest_s = 10;
    Recording late = car.recording;
    for (Channel& channel : late.channels) {
        ChannelStorage storage;
        const double rate = channel.clock.rate_hz;
        const bool turned = channel.name == "Lateral G";
        for (std::size_t i = 0; i < static_cast<std::size_t>(rest_s * rate) + channel.size(); ++i) {
            const auto k = static_cast<std::ptrdiff_t>(i) - static_cast<std::ptrdiff_t>(rest_s * rate);
            const bool moves = k >= 0;
            const bool place = channel.quantity == "latitude" || channel.quantity == "longitude";
            double value = moves ? channel.at(static_cast<std::size_t>(k)) : place ? channel.at(0) : 0;
            if (turned) value = 0.5 - value;
            channel.is_double() ? storage.doubles.push_back(value)
                                : storage.floats.push_back(static_cast<float>(value));
        }
        channel = make_channel(channel.name, channel.quantity, channel.unit, std::move(storage), 0, rate);
    }
    const auto run = import(late).run;
    ASSERT_EQ(got(library_->flipped_quantities(run)), std::vector<std::string>{"lateral_acceleration"});
    const double offset = got(zero_at_rest(*library_, run, "Lateral G"));
    EXPECT_NEAR(offset, -0.5, 1e-3);
    ASSERT_TRUE(edit_channels(*library_, run, {{"Lateral G", std::nullopt, "", 1, offset}}));
    EXPECT_NEAR(by_name(got(run_recording(*library_, run)), "Lateral G").value_at(5), 0, 1e-3);
    EXPECT_FALSE(zero_at_rest(*library_, run, "Nothing"));
}
