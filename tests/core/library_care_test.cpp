// Backup, best laps, results of the timing system, zones and layouts.
#include <gtest/gtest.h>
#include <sqlite3.h>

#include <cmath>
#include <fstream>
#include <thread>

#include "core/base/date.h"
#include "core/base/text.h"
#include "core/intake/best_laps.h"
#include "core/intake/check_library.h"
#include "core/intake/import.h"
#include "core/intake/place_run.h"
#include "core/intake/results.h"
#include "core/library/backup.h"
#include "core/track/learn.h"
#include "tests/support/got.h"
#include "tests/support/made_channel.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using namespace rendak::test;

namespace {

std::unique_ptr<Library> opened_again(const std::filesystem::path& folder) {
    auto library = Library::open(folder);
    EXPECT_TRUE(library) << (library ? "" : library.error().text());
    return std::move(*library);
}

RunId add(Library& library, const std::string& source, const FilingInfo& info, float seed) {
    Recording recording;
    recording.source_name = source;
    recording.start_unix_s = 1781344800;
    ChannelStorage storage;
    for (int i = 0; i < 100; ++i) storage.floats.push_back(seed + static_cast<float>(i));
    recording.channels.push_back(make_channel("Speed", "speed", "m/s", std::move(storage), 0, 10));
    const auto run = library.add_run(recording, info);
    EXPECT_TRUE(run) << (run ? "" : run.error().text());
    return run ? *run : RunId{};
}

FilingInfo morning() {
    FilingInfo info;
    info.event = "Test day";
    info.session = "Morning";
    return info;
}

std::vector<Lap> laps_of(const std::vector<double>& times) {
    std::vector<Lap> out;
    double at = 10;
    int number = 1;
    for (const double time : times) {
        out.push_back({number++, LapKind::flying, at, at + time, 900, true});
        at += time;
    }
    return out;
}

std::vector<OfficialLap> official(const std::vector<double>& times) {
    std::vector<OfficialLap> out;
    for (const double time : times) out.push_back({static_cast<int>(out.size()) + 1, time});
    return out;
}

}  // namespace

TEST(Backup, IsALibraryOfItsOwnAndOnlyNewThingsAreCopiedAgain) {
    const TempFolder home;
    const auto library = opened_again(home / "here");
    FilingInfo info = morning();
    info.laps = laps_of({50, 49});
    add(*library, "a.csv", info, 1);
    const auto first = back_up(*library, home / "there");
    ASSERT_TRUE(first) << first.error().text();
    EXPECT_EQ(first->copied, 1U);
    add(*library, "b.csv", info, 2);
    const auto second = back_up(*library, home / "there");
    ASSERT_TRUE(second) << second.error().text();
    EXPECT_EQ(second->copied, 1U) << "only the new recording";
    EXPECT_EQ(second->already_there, 1U);
    const auto copy = opened_again(home / "there");
    EXPECT_EQ(got(copy->runs()).size(), 2U);
    EXPECT_EQ(got(copy->laps({2})).size(), 2U);
    const auto check = check_library(*copy);
    ASSERT_TRUE(check);
    EXPECT_TRUE(check->all_well());
    EXPECT_EQ(check->recordings, 2U);
    EXPECT_FALSE(std::filesystem::exists(home / "there" / "library.next"));
}

TEST(Backup, WhileOthersWrite) {
    const TempFolder home;
    const auto library = opened_again(home / "here");
    FilingInfo info = morning();
    for (int i = 0; i < 5; ++i) add(*library, "a.csv", info, static_cast<float>(i));
    std::jthread writer([&](const std::stop_token& stop) {
        const auto own = opened_again(home / "here");
        for (int i = 5; i < 40 && !stop.stop_requested(); ++i) add(*own, "b.csv", info, static_cast<float>(i));
    });
    for (int i = 0; i < 3; ++i) {
        const auto done = back_up(*library, home / "there");
        ASSERT_TRUE(done) << done.error().text();
        const auto copy = opened_again(home / "there");
        const auto check = check_library(*copy);
        ASSERT_TRUE(check);
        EXPECT_TRUE(check->damaged.empty()) << "the catalogue never names a file that is not there";
    }
}

TEST(Backup, RefusesOtherFoldersAndStopsWhenAsked) {
    const TempFolder home;
    const auto library = opened_again(home / "here");
    FilingInfo info = morning();
    add(*library, "a.csv", info, 1);
    EXPECT_FALSE(back_up(*library, home / "here")) << "into itself";
    EXPECT_FALSE(back_up(*library, home / "here" / "inside"));
    std::filesystem::create_directories(home / "notes");
    home.write("notes/diary.txt", "mine");
    const auto full = back_up(*library, home / "notes");
    ASSERT_FALSE(full);
    EXPECT_NE(full.error().message.find("diary.txt"), std::string::npos);
    (void)opened_again(home / "other");
    const auto other = back_up(*library, home / "other");
    ASSERT_FALSE(other);
    EXPECT_EQ(other.error().code, ErrorCode::exists) << "another library is never written over";
    std::stop_source stop;
    stop.request_stop();
    const auto stopped = back_up(*library, home / "stopped", {stop.get_token(), {}});
    ASSERT_FALSE(stopped);
    EXPECT_EQ(stopped.error().code, ErrorCode::cancelled);
    EXPECT_FALSE(std::filesystem::exists(home / "stopped" / "library.sqlite")) << "no half a library";
}

TEST(Backup, RemovingALibraryLeavesWhatIsNotOfIt) {
    const TempFolder home;
    {
        const auto library = opened_again(home / "here");
        FilingInfo info = morning();
        add(*library, "a.csv", info, 1);
    }
    home.write("here/diary.txt", "mine");
    ASSERT_TRUE(remove_library(home / "here"));
    EXPECT_TRUE(std::filesystem::exists(home / "here" / "diary.txt"));
    EXPECT_FALSE(std::filesystem::exists(home / "here" / "recordings"));
    EXPECT_FALSE(remove_library(home / "here")) << "there is none any more";
}

TEST(BestLaps, ByTrackCarAndDriver) {
    const TempFolder home;
    const auto library = opened_again(home / "library");
    const auto track = library->put_track("Oval", 900, "{}");
    ASSERT_TRUE(track);
    FilingInfo info = morning();
    info.track = *track;
    info.car = "27";
    info.driver = "Osei";
    info.laps = laps_of({50, 48.5, 47});
    info.laps[2].doubt = "an excursion?";
    add(*library, "a.csv", info, 1);
    info.driver = "Moreau";
    info.laps = laps_of({49, 48});
    info.laps[1].included = false;
    add(*library, "b.csv", info, 2);
    info.car = "8";
    info.laps = laps_of({51, 46});
    const RunId fastest = add(*library, "c.csv", info, 3);
    info.track = {};
    info.laps = laps_of({10});
    add(*library, "d.csv", info, 4);
    const auto best = best_laps(*library);
    ASSERT_TRUE(best);
    ASSERT_EQ(best->size(), 3U) << "a run without a track has none";
    EXPECT_EQ((*best)[0].lap, (LapRef{fastest, 2}));
    EXPECT_TRUE((*best)[0].best_of_track && (*best)[0].best_of_car);
    EXPECT_EQ((*best)[1].driver, "Osei");
    EXPECT_DOUBLE_EQ((*best)[1].time_s, 48.5) << "a doubtful lap is no best";
    EXPECT_TRUE((*best)[1].best_of_car && !(*best)[1].best_of_track);
    EXPECT_EQ((*best)[1].laps, 2);
    EXPECT_DOUBLE_EQ((*best)[2].time_s, 49) << "one that is left out neither";
}

TEST(Results, TablesAsTimingSystemsWriteThem) {
    const TempFolder home;
    const auto semicolon = read_results(home.write("a.csv",
                                                   "Session;Practice 2\n\nNo;Driver;Lap;Lap time;Gap\n27;A. "
                                                   "Osei;1;1:24,318;\n27;A. Osei;2;84,1;0,2\n8;B. Moreau;1;"
                                                   "1:25,000;\n8;B. Moreau;2;;\n"));
    ASSERT_TRUE(semicolon) << semicolon.error().text();
    ASSERT_EQ(semicolon->size(), 3U) << "a lap without a time is none";
    EXPECT_NEAR((*semicolon)[0].lap.time_s, 84.318, 1e-9);
    EXPECT_NEAR((*semicolon)[1].lap.time_s, 84.1, 1e-9);
    EXPECT_EQ((*semicolon)[2].car, "8");
    RunFacts facts;
    const auto open = laps_of_car(*semicolon, {}, {}, facts);
    ASSERT_FALSE(open);
    EXPECT_EQ(open.error().code, ErrorCode::needs_answer);
    facts.car = "27";
    EXPECT_EQ(got(laps_of_car(*semicolon, {}, {}, facts)).size(), 2U) << "by the run's facts";
    EXPECT_EQ(got(laps_of_car(*semicolon, "8", {}, facts)).size(), 1U) << "what is said goes first";
    EXPECT_FALSE(laps_of_car(*semicolon, "99", {}, facts));
    EXPECT_FALSE(read_results(home.write("b.csv", "a,b\n1,2\n"))) << "no column of lap times";
    const auto wrong = read_results(home.write("c.csv", "Lap,Lap time\n1,1:24.318\n2,soon\n"));
    ASSERT_FALSE(wrong);
    EXPECT_NE(wrong.error().where.find("c.csv:3"), std::string::npos);
}

TEST(Results, AgreementMissingLapsAndOffsets) {
    const std::vector<double> times{86.1, 84.318, 84.9, 84.2, 85.7};
    const auto same = hold_against(official(times), laps_of({86.102, 84.317, 84.901, 84.199, 85.701}));
    EXPECT_EQ(same.matched, 5);
    EXPECT_EQ(same.missing + same.extra, 0);
    EXPECT_LT(same.spread_s, 0.003);
    EXPECT_TRUE(same.agrees());
    const auto shifted = hold_against(official(times), laps_of({86.15, 84.368, 84.95, 84.25, 85.75}));
    EXPECT_NEAR(shifted.offset_s, 0.05, 1e-9);
    EXPECT_NE(shifted.sentences[1].find("same in all laps"), std::string::npos);
    // The recording began a lap later and missed one crossing: two laps were cut as one.
    const auto holes = hold_against(official(times), laps_of({84.318, 84.9 + 84.2, 85.7}));
    EXPECT_EQ(holes.matched, 2);
    EXPECT_EQ(holes.missing, 3);
    EXPECT_EQ(holes.extra, 1);
    EXPECT_FALSE(holes.agrees());
    bool said = false;
    for (const std::string& sentence : holes.sentences)
        said |= sentence.find("cut as one with lap") != std::string::npos;
    EXPECT_TRUE(said);
    const auto other = hold_against(official(times), laps_of({70, 71, 72}));
    EXPECT_EQ(other.matched, 0);
    EXPECT_NE(other.sentences[0].find("right car"), std::string::npos);
    EXPECT_EQ(hold_against({}, laps_of({70})).matched, 0);
    EXPECT_EQ(hold_against(official({70}), {}).missing, 1);
}

TEST(Results, OfficialLapsAreKeptWithTheRun) {
    const TempFolder home;
    const auto library = opened_again(home / "library");
    FilingInfo info = morning();
    info.air_c = 21.5;
    info.wind_from_deg = 270;
    const RunId run = add(*library, "a.csv", info, 1);
    EXPECT_EQ(got(library->run(run)).air_c, 21.5);
    EXPECT_EQ(got(library->run(run)).wind_from_deg, 270);
    EXPECT_FALSE(got(library->run(run)).track_c);
    ASSERT_TRUE(library->set_official_laps(run, official({84.3, 84.1})));
    ASSERT_TRUE(library->set_official_laps(run, official({84.3, 84.1, 85})));
    EXPECT_EQ(got(library->official_laps(run)), official({84.3, 84.1, 85}));
    EXPECT_FALSE(library->set_official_laps({99}, official({1})));
}

TEST(Zone, OfAnEventIsKept) {
    const TempFolder home;
    const auto library = opened_again(home / "library");
    FilingInfo info = morning();
    const RunId run = add(*library, "a.csv", info, 1);
    ASSERT_TRUE(library->put_event({{}, "Test day", "", "", "", "", "+09:00"}));
    EXPECT_EQ(got(library->run(run)).zone, "+09:00");
    ASSERT_TRUE(library->put_event({{}, "Test day", "", "", "", "", "Europe/Berlin"}));
    EXPECT_EQ(got(library->run(run)).zone, "Europe/Berlin");
    EXPECT_FALSE(library->put_event({{}, "Test day", "", "", "", "", "noon"}));
}

namespace {

/// A drive around a shape at 30 m/s, 5 Hz: two straights of 600 m and two half circles, with or without a loop of 400 m
/// in between.
Recording around(bool with_loop, int laps, double offset_m = 0) {
    std::vector<std::pair<double, double>> road;
    const auto line = [&](double x0, double y0, double x1, double y1) {
        const double length = std::hypot(x1 - x0, y1 - y0);
        for (double s = 0; s < length; s += 6)
            road.emplace_back(x0 + (x1 - x0) * s / length, y0 + (y1 - y0) * s / length);
    };
    const auto arc = [&](double x, double y, double radius, double from, double to) {
        const int steps = static_cast<int>(std::abs(to - from) * radius / 6);
        for (int i = 0; i < steps; ++i) {
            const double a = from + (to - from) * i / steps;
            road.emplace_back(x + radius * std::cos(a), y + radius * std::sin(a));
        }
    };
    constexpr double pi = 3.14159265358979;
    line(0, 0, 300, 0);
    if (with_loop) {
        line(300, 0, 300, -150);
        arc(360, -150, 60, pi, 2 * pi);
        line(420, -150, 420, 0);
        line(420, 0, 600, 0);
    } else {
        line(300, 0, 600, 0);
    }
    arc(600, 100, 100, -pi / 2, pi / 2);
    line(600, 200, 0, 200);
    arc(0, 100, 100, pi / 2, 3 * pi / 2);
    Recording out;
    ChannelStorage latitude, longitude;
    for (int lap = 0; lap < laps; ++lap) {
        for (const auto& [x, y] : road) {
            latitude.doubles.push_back(50 + (y + offset_m) / 111194.93);
            longitude.doubles.push_back(8 + x / (111194.93 * std::cos(50 * pi / 180)));
        }
    }
    out.channels.push_back(make_channel("Latitude", "latitude", "deg", std::move(latitude), 0, 5));
    out.channels.push_back(make_channel("Longitude", "longitude", "deg", std::move(longitude), 0, 5));
    out.source_name = with_loop ? "long" : "short";
    return out;
}

}  // namespace

TEST(Layouts, OfOneVenueAreToldApart) {
    const TempFolder home;
    const auto library = opened_again(home / "library");
    const auto first = import_recording(*library, {around(false, 4), {}}, {});
    ASSERT_TRUE(first) << first.error().text();
    ASSERT_TRUE(learn_track_from_run(*library, first->run, "Short", std::nullopt));
    const auto longer = import_recording(*library, {around(true, 4), {}}, {});
    ASSERT_TRUE(longer);
    EXPECT_FALSE(got(library->run(longer->run)).track) << "most of the road is the same, but it is another track";
    bool said = false;
    for (const std::string& note : longer->notes) said |= note.find("not on that layout") != std::string::npos;
    EXPECT_TRUE(said);
    ASSERT_TRUE(learn_track_from_run(*library, longer->run, "Long", std::nullopt));
    EXPECT_EQ(got(library->run(first->run)).track_name, "Short") << "learning the other one takes nothing away";
    for (const bool with_loop : {false, true}) {
        const auto next = import_recording(*library, {around(with_loop, 3, 1.5), {}}, {});
        ASSERT_TRUE(next);
        EXPECT_EQ(got(library->run(next->run)).track_name, with_loop ? "Long" : "Short");
    }
}

TEST(Layouts, AShorterOneThanTheKnownIsNotTakenForIt) {
    const TempFolder home;
    const auto library = opened_again(home / "library");
    const auto longer = import_recording(*library, {around(true, 4), {}}, {});
    ASSERT_TRUE(longer);
    ASSERT_TRUE(learn_track_from_run(*library, longer->run, "Long", std::nullopt));
    const auto shorter = import_recording(*library, {around(false, 4), {}}, {});
    ASSERT_TRUE(shorter);
    EXPECT_FALSE(got(library->run(shorter->run)).track);
    const auto one_lap = import_recording(*library, {around(true, 1, 1), {}}, {});
    ASSERT_TRUE(one_lap);
    EXPECT_EQ(got(library->run(one_lap->run)).track_name, "Long") << "an out lap is enough to know it";
}

TEST(Layouts, ARunOfTheSameDayAndTrackGoesToTheEventThatIsThere) {
    const TempFolder home;
    const auto library = opened_again(home / "library");
    auto recording = around(false, 4);
    recording.start_unix_s = 1781344800;
    ImportOptions options;
    options.event = "Club weekend";
    const auto first = import_recording(*library, {recording, {}}, options);
    ASSERT_TRUE(first);
    ASSERT_TRUE(learn_track_from_run(*library, first->run, "Short", std::nullopt));
    auto later = around(false, 3, 1);
    later.start_unix_s = 1781344800 + 3600;
    EXPECT_EQ(got(library->run(got(import_recording(*library, {later, {}}, {})).run)).event, "Club weekend");
    auto next_week = around(false, 3, 2);
    next_week.start_unix_s = 1781344800 + 7 * 86400;
    EXPECT_EQ(got(library->run(got(import_recording(*library, {next_week, {}}, {})).run)).event.find("Club"),
              std::string::npos)
        << "never a stale one";
}
