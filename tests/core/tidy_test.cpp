// The planted troubles of the demo world are found, each cure helps, and each can be taken back.
#include "core/intake/tidy.h"

#include <gtest/gtest.h>

#include <cmath>

#include "core/analysis/channel_faults.h"
#include "core/base/time_zone.h"
#include "core/intake/run_recording.h"
#include "core/laps/cut.h"
#include "tests/support/demo_data.h"
#include "tests/support/figures_only.h"
#include "tests/support/got.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using rendak::test::TempFolder;

namespace {

class TidyTest : public testing::Test {
  protected:
    void SetUp() override {
        test::copy_library(test::saturday_library(), folder_ / "lib");
        library_ = std::move(*Library::open(folder_ / "lib"));
    }
    RunId imported(const std::string& file) {
        ImportOptions options;
        options.event = library_->runs().value()[0].event;
        const auto run = import_file(*library_, folder_ / "lib/demo-files" / file, options);
        EXPECT_TRUE(run) << run.error().text();
        return run ? run->run : RunId{};
    }
    std::optional<Finding> finding(RunId run, const std::string& id) {
        const auto all = tidy(*library_, run);
        EXPECT_TRUE(all) << all.error().text();
        for (const Finding& one : *all) {
            if (one.id == id) return one;
        }
        return std::nullopt;
    }
    std::string ids(RunId run) {
        std::string out;
        const auto all = tidy(*library_, run);
        for (const Finding& one : *all) out += one.id + " ";
        return out;
    }

    TempFolder folder_;
    std::unique_ptr<Library> library_;
};

}  // namespace

TEST_F(TidyTest, TheShakedownWithItsWrongClockPartLapsAndLine) {
    const auto date = finding({1}, "date");
    ASSERT_TRUE(date);
    EXPECT_NE(date->what.find("01 January 2004"), std::string::npos) << date->what;
    ASSERT_TRUE(date->apply(*library_));
    EXPECT_FALSE(finding({1}, "date"));
    const double start = *library_->run({1})->start_unix_s, other = *library_->run({2})->start_unix_s;
    EXPECT_EQ(std::floor(start / 86400), std::floor(other / 86400)) << "the same day";
    ASSERT_TRUE(date->undo(*library_));
    EXPECT_TRUE(finding({1}, "date"));
    EXPECT_TRUE(finding({1}, "part-laps"));
    const auto line = finding({1}, "start-line");
    ASSERT_TRUE(line);
    // Planted: 55 m; the lap counter is sampled at 20 Hz, so its step is seen up to 3 m late.
    const double behind = std::stod(line->what.substr(line->what.find("lies ") + 5));
    EXPECT_NEAR(behind, 56.5, 1.6) << line->what;
    // The line may be moved there for everybody, and back.
    const double first = library_->laps({2}).value()[1].start_s;
    ASSERT_TRUE(line->apply(*library_));
    EXPECT_FALSE(finding({1}, "start-line"));
    EXPECT_NEAR(library_->laps({2}).value()[1].start_s - first, 0.92, 0.05);
    ASSERT_TRUE(line->undo(*library_));
    EXPECT_NEAR(library_->laps({2}).value()[1].start_s, first, 1e-3);
    const auto slow = finding({1}, "slow-laps");
    ASSERT_TRUE(slow);
    ASSERT_TRUE(slow->apply(*library_));
    int included = 0;
    for (const Lap& lap : test::got(library_->laps({1}))) included += lap.included;
    EXPECT_EQ(included, 3);
    EXPECT_FALSE(finding({1}, "slow-laps"));
    ASSERT_TRUE(slow->undo(*library_));
    EXPECT_TRUE(finding({1}, "slow-laps"));
}

TEST_F(TidyTest, AWrongClockIsPutOnTheDayThatClocksThereShow) {
    EventRow event = test::got(library_->events()).front();
    ASSERT_EQ(event.name, library_->run({1})->event);
    for (const char* zone : {"UTC", "+12:00", "+05:30", "-05:00", "America/New_York"}) {
        event.zone = zone;
        ASSERT_TRUE(library_->put_event(event)) << zone;
        const auto date = finding({1}, "date");
        ASSERT_TRUE(date) << zone;
        ASSERT_TRUE(date->apply(*library_));
        const auto shown = [&](RunId run) { return local_text(*library_->run(run)->start_unix_s, zone, "%F"); };
        EXPECT_EQ(shown({1}), shown({2})) << zone;
        EXPECT_FALSE(finding({1}, "date")) << zone;
        ASSERT_TRUE(date->undo(*library_));
    }
}

TEST_F(TidyTest, AGoodRunIsLeftInPeaceButForItsStuckDamper) {
    EXPECT_EQ(ids({2}), "stuck:Damper RR ");
    const auto stuck = finding({2}, "stuck:Damper RR");
    EXPECT_NE(stuck->what.find("for 60 s"), std::string::npos) << stuck->what;
    ASSERT_TRUE(stuck->apply(*library_));
    EXPECT_EQ(ids({2}), "");
    EXPECT_EQ(run_recording(*library_, {2})->find("damper_rr"), nullptr);
    ASSERT_TRUE(stuck->undo(*library_));
    EXPECT_EQ(ids({2}), "stuck:Damper RR ");
    ASSERT_TRUE(library_->set_accepted({2}, "stuck:Damper RR", true));
    EXPECT_TRUE(finding({2}, "stuck:Damper RR")->accepted);
}

TEST_F(TidyTest, PositionsOfAnotherFrameAreMovedOntoTheTrackAndBack) {
    // The same drive by a receiver that places everything 7 m east: its start line comes early or late by metres.
    Recording moved = **library_->open_run({2});
    for (Channel& channel : moved.channels) {
        if (channel.quantity != "longitude") continue;
        ChannelStorage storage;
        for (std::size_t i = 0; i < channel.size(); ++i) storage.doubles.push_back(channel.at(i) + 7.0 / 60290);
        channel = make_channel(channel.name, channel.quantity, channel.unit, std::move(storage), channel.clock.start_s,
                               channel.clock.rate_hz);
    }
    moved.digest.clear();
    moved.logger = "Other";
    ImportOptions options;
    options.event = "Another";
    const auto run = import_recording(*library_, {std::move(moved), {}}, options);
    ASSERT_TRUE(run) << run.error().text();
    const auto shift = finding(run->run, "position-shift");
    ASSERT_TRUE(shift) << ids(run->run);
    EXPECT_NEAR(std::stod(shift->what.substr(shift->what.find("lie ") + 4)), 7, 0.6) << shift->what;
    ASSERT_TRUE(shift->apply(*library_));
    EXPECT_FALSE(finding(run->run, "position-shift"));
    EXPECT_NEAR(library_->place_correction(run->run).value().east_m, 7, 0.6);
    EXPECT_NEAR(library_->laps(run->run).value()[3].start_s, library_->laps({2}).value()[3].start_s, 0.01);
    ASSERT_TRUE(shift->undo(*library_));
    EXPECT_TRUE(finding(run->run, "position-shift"));
    EXPECT_EQ(library_->place_correction(run->run).value(), PlaceCorrection{});
}

TEST_F(TidyTest, LatePositionsWithoutASecondSensorShowInWhereTheCarSlowsDown) {
    // Positions and one speed of unknown source, the positions 0.4 s late: nothing in the recording itself tells.
    Recording late = **library_->open_run({2});
    std::erase_if(late.channels, [](const Channel& channel) {
        return channel.quantity != "latitude" && channel.quantity != "longitude" && channel.quantity != "speed";
    });
    for (Channel& channel : late.channels) {
        if (channel.quantity != "speed")
            channel = moved_in_time(channel, 0.4);
        else
            channel.name = "Speed";
    }
    late.digest.clear();
    late.logger = "Other";
    ImportOptions options;
    options.event = "Another";
    options.car = test::got(library_->run({2})).car;
    const auto run = import_recording(*library_, {std::move(late), {}}, options);
    ASSERT_TRUE(run) << run.error().text();
    const auto along = finding(run->run, "along-offset");
    ASSERT_TRUE(along) << ids(run->run);
    EXPECT_NE(along->what.find("earlier than those of the other runs"), std::string::npos) << along->what;
    ASSERT_FALSE(along->cure.empty());
    ASSERT_TRUE(along->apply(*library_));
    EXPECT_NEAR(library_->place_correction(run->run).value().delay_s, 0.4, 0.12);
    EXPECT_FALSE(finding(run->run, "along-offset"));
    ASSERT_TRUE(along->undo(*library_));
    EXPECT_EQ(library_->place_correction(run->run).value(), PlaceCorrection{});
}

TEST_F(TidyTest, LatePositionsAreMovedInTimeAndBack) {
    Recording late = **library_->open_run({2});
    for (Channel& channel : late.channels) {
        if (channel.quantity == "latitude" || channel.quantity == "longitude") channel = moved_in_time(channel, 0.3);
    }
    late.digest.clear();
    late.logger = "Other";
    ImportOptions options;
    options.event = "Another";
    const auto run = import_recording(*library_, {std::move(late), {}}, options);
    ASSERT_TRUE(run) << run.error().text();
    const auto delay = finding(run->run, "position-delay");
    ASSERT_TRUE(delay) << ids(run->run);
    EXPECT_NE(delay->what.find(" later than the other channels"), std::string::npos) << delay->what;
    const auto before = library_->laps(run->run).value(), in_time = library_->laps({2}).value();
    double late_s = 0;
    for (std::size_t k = 1; k < 10; ++k) late_s += (before[k].start_s - in_time[k].start_s) / 9;
    EXPECT_NEAR(late_s, 0.3, 0.01);
    ASSERT_TRUE(delay->apply(*library_));
    EXPECT_FALSE(finding(run->run, "position-delay"));
    EXPECT_NEAR(library_->laps(run->run).value()[3].start_s, in_time[3].start_s, 0.05);
    // Back is where it was, to the last digit.
    ASSERT_TRUE(delay->undo(*library_));
    EXPECT_EQ(library_->laps(run->run).value(), before);
}

TEST_F(TidyTest, MissingPositionsAreSaid) {
    const auto gap = finding({3}, "gps-gaps");
    ASSERT_TRUE(gap);
    EXPECT_NE(gap->what.find("missing for 4."), std::string::npos) << gap->what;
    EXPECT_TRUE(gap->cure.empty());
}

TEST_F(TidyTest, ThePocketLoggerIsJoinedWithItsOffset) {
    const RunId pocket = imported("saturday-run-2-pocket.csv");
    const auto join = finding(pocket, "join:2");
    ASSERT_TRUE(join) << ids(pocket);
    EXPECT_EQ(join->cure, "Join this one to Run 2") << "the richer recording keeps its clock";
    ASSERT_TRUE(join->apply(*library_));
    EXPECT_EQ(library_->runs().value().size(), 3U);
    ASSERT_EQ(library_->joined_runs({2}).value().size(), 1U);
    EXPECT_NEAR(library_->joined_runs({2}).value()[0].join_offset_s, 3.4, 0.03);
    EXPECT_EQ(run_recording(*library_, {2})->channels.size(), library_->open_run({2}).value()->channels.size() + 5);
    ASSERT_TRUE(join->undo(*library_));
    EXPECT_EQ(library_->runs().value().size(), 4U);
    const auto from_main = finding({2}, "join:" + std::to_string(pocket.value));
    ASSERT_TRUE(from_main);
    EXPECT_EQ(from_main->cure, "Join it to this run");
    ASSERT_TRUE(from_main->apply(*library_));
    EXPECT_NEAR(library_->joined_runs({2}).value()[0].join_offset_s, 3.4, 0.03);
}

TEST_F(TidyTest, APhoneTrackWithoutADateOfItsOwnIsJoinedToo) {
    const RunId phone = imported("saturday-run-3-phone.gpx");
    EXPECT_TRUE(finding(phone, "join:3")) << ids(phone);
    EXPECT_FALSE(finding(phone, "join:2")) << "another run of the same track is not the same run";
}

TEST(TidyAll, OnlyThePlantedTroublesAreFoundOnTheWholeWeekend) {
    RENDAK_FIGURES_ONLY("TidyTest");
    const TempFolder folder;
    test::copy_library(test::weekend_library(), folder.path());
    const auto library = std::move(*Library::open(folder.path()));
    for (const RunRow& run : test::got(library->runs())) {
        if (run.session != "Sunday" || run.name == "Road edges") continue;  // slow laps on purpose are rightly found
        // Six short runs of one driver in one car are as alike as runs can be; still nothing to join.
        const auto findings = tidy(*library, run.id);
        ASSERT_TRUE(findings);
        EXPECT_TRUE(findings->empty()) << run.name << ": " << findings->front().what;
    }
}

TEST_F(TidyTest, TwoStintsInOneFileAreSplitAndPutTogetherAgain) {
    const RunId run = imported("card/REC0006.MF4");
    const auto before = library_->laps(run).value();
    const auto split = finding(run, "split");
    ASSERT_TRUE(split) << ids(run);
    ASSERT_TRUE(split->apply(*library_));
    ASSERT_EQ(library_->runs().value().size(), 5U);
    const RunId second = library_->runs().value().back().id;
    for (const RunId part : {run, second}) {
        int flying = 0;
        for (const Lap& lap : test::got(library_->laps(part))) flying += lap.kind == LapKind::flying;
        EXPECT_EQ(flying, 2);
        EXPECT_FALSE(finding(part, "split"));
    }
    EXPECT_GT(*library_->run(second)->start_unix_s, *library_->run(run)->start_unix_s + 600);
    ASSERT_TRUE(split->undo(*library_));
    EXPECT_EQ(library_->runs().value().size(), 4U);
    EXPECT_EQ(library_->laps(run).value(), before);
}

TEST_F(TidyTest, FailedSensorsAreNamed) {
    const RunId run = imported("card/REC0006.MF4");
    const auto dead = finding(run, "dead:Tyre Pressure RL");
    ASSERT_TRUE(dead) << ids(run);
    EXPECT_NE(dead->what.find("0.00 bar"), std::string::npos) << dead->what;
    const auto cut = finding(run, "saturated:Brake Pres Rear");
    ASSERT_TRUE(cut);
    EXPECT_NE(cut->what.find("12.0 bar"), std::string::npos) << cut->what;
    EXPECT_TRUE(finding(run, "spiking:Oil Temp"));
    int others = 0;
    const auto all = tidy(*library_, run);
    for (const Finding& one : *all) {
        const bool sensor = one.id.find(':') != std::string::npos && one.id.rfind("join", 0) != 0;
        others += sensor && one.id.find("Tyre Pressure RL") == std::string::npos &&
                  one.id.find("Brake Pres Rear") == std::string::npos && one.id.find("Oil Temp") == std::string::npos;
    }
    EXPECT_EQ(others, 0) << ids(run);
}

TEST_F(TidyTest, ARecordingThatEndsInTheMiddle) {
    const RunId run = imported("card/REC0005.MF4");
    EXPECT_TRUE(finding(run, "cut-off")) << ids(run);
    EXPECT_GT(library_->run(run)->duration_s, 100);
}

TEST(ChannelFaults, HealthyShapesAreNotBlamed) {
    Recording recording;
    const auto add = [&](const char* name, const char* quantity, const char* unit,
                         const std::function<double(double)>& value) {
        ChannelStorage storage;
        for (int i = 0; i < 4000; ++i) storage.floats.push_back(static_cast<float>(value(0.05 * i)));
        recording.channels.push_back(make_channel(name, quantity, unit, std::move(storage), 0, 20));
    };
    add("Speed", "speed", "m/s", [](double t) { return 40 + 10 * std::sin(t); });
    add("Throttle", "throttle", "", [](double t) { return std::clamp(2 * std::sin(t), 0.0, 1.0); });
    add("Gear", "gear", "", [](double t) { return t > 30 ? 3.0 : 2.0; });
    add("Brake", "brake_front", "Pa", [](double t) { return std::max(0.0, 1e6 * std::sin(t) - 5e5); });
    add("Oil", "oil_temperature", "K", [](double t) { return 350 + 0.02 * t; });
    add("Lateral", "lateral_acceleration", "m/s²", [](double t) { return 9 * std::sin(3 * t) + std::sin(50 * t); });
    EXPECT_TRUE(channel_faults(recording).empty());
    add("Bad", "fuel", "m³", [](double t) { return std::fmod(t, 20) < 0.04 ? 9.0 : 0.02 + 1e-5 * std::sin(t); });
    const auto faults = channel_faults(recording);
    ASSERT_EQ(faults.size(), 1U);
    EXPECT_EQ(faults[0].kind, ChannelFault::Kind::spiking);
    EXPECT_EQ(faults[0].count, 9U) << "the first sample has none before it";
}

TEST(Stints, AreCutInTheMiddleOfLongStops) {
    SpeedTrace speed;
    const auto append = [&](double seconds, float mps) {
        speed.mps.insert(speed.mps.end(), static_cast<std::size_t>(seconds * 10), mps);
    };
    append(100, 30);
    append(60, 0);  // a short stop
    append(100, 30);
    append(200, 0);
    append(90, 30);
    append(300, 0);
    append(20, 5);  // rolled into the box: no stint of its own
    const auto parts = stints(speed);
    ASSERT_EQ(parts.size(), 2U);
    EXPECT_NEAR(parts[0].end, 360, 0.2);
    EXPECT_NEAR(parts[1].end, 870, 0.2);
    EXPECT_EQ(stints(SpeedTrace{}).size(), 1U);
}

TEST(SpeedMatch, FindsTheOffsetAndTellsTheSameRunFromASimilarOne) {
    SpeedTrace main, other, similar;
    const auto speed = [](double t) {
        return static_cast<float>(40 + 15 * std::sin(t / 7) + 8 * std::sin(t / 3.1) + 0.01 * t);
    };
    for (int i = 0; i < 6000; ++i) main.mps.push_back(speed(0.1 * i));
    for (int i = 0; i < 5000; ++i) {
        other.mps.push_back(speed(0.1 * i + 42.37));
        similar.mps.push_back(speed(0.1003 * i + 42.37) + 0.5F);
    }
    other.start_s = 5;
    const auto match = match_speeds(main, other);
    ASSERT_TRUE(match);
    EXPECT_NEAR(match->offset_s, 37.37, 0.011);
    EXPECT_TRUE(match->same_run());
    const auto not_the_same = match_speeds(main, similar);
    EXPECT_TRUE(!not_the_same || !not_the_same->same_run());
    EXPECT_FALSE(match_speeds(main, SpeedTrace{}));
}
