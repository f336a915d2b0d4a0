#include "core/library/library.h"

#include <gtest/gtest.h>
#include <sqlite3.h>

#include <filesystem>
#include <fstream>
#include <thread>

#include "core/base/text.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using rendak::test::TempFolder;

namespace {

Recording recording(float seed, std::size_t n = 300) {
    Recording out;
    out.source_name = "run.csv";
    ChannelStorage storage;
    for (std::size_t i = 0; i < n; ++i) storage.floats.push_back(seed + static_cast<float>(i));
    out.channels.push_back(make_channel("Speed", "speed", "m/s", std::move(storage), 0, 10));
    return out;
}

std::vector<Lap> three_laps() {
    return {{0, LapKind::out, 0, 10, 400, false, false, "out of the pits"},
            {1, LapKind::flying, 10, 20, 500, true, false, ""},
            {2, LapKind::flying, 20, 29, 500, true, false, ""}};
}

std::unique_ptr<Library> opened(const std::filesystem::path& folder) {
    auto library = Library::open(folder);
    EXPECT_TRUE(library) << (library ? "" : library.error().text());
    return std::move(*library);
}

std::size_t files_in(const std::filesystem::path& folder) {
    return static_cast<std::size_t>(
        std::distance(std::filesystem::directory_iterator(folder), std::filesystem::directory_iterator()));
}

}  // namespace

TEST(Library, FilesARunAndFindsItAgain) {
    const TempFolder folder;
    FilingInfo info;
    info.event = "Test day";
    info.session = "Morning";
    info.driver = "Osei";
    info.car = "27";
    info.notes = {"first note", "second note"};
    info.laps = three_laps();
    info.flipped = {"lateral_acceleration"};
    RunId id;
    {
        auto library = opened(folder.path());
        const auto run = library->add_run(recording(1), info);
        ASSERT_TRUE(run) << run.error().text();
        id = *run;
    }
    auto library = opened(folder.path());
    const auto row = library->run(id);
    ASSERT_TRUE(row);
    EXPECT_EQ(row->event, "Test day");
    EXPECT_EQ(row->name, "Run 1") << "runs without a name are counted in their session";
    EXPECT_EQ(row->driver, "Osei");
    EXPECT_EQ(row->notes, info.notes);
    EXPECT_NEAR(row->duration_s, 29.9, 1e-9);
    EXPECT_EQ(library->laps(id).value(), three_laps());
    EXPECT_EQ(library->flipped_quantities(id).value(), info.flipped);
    const auto data = library->open_run(id);
    ASSERT_TRUE(data);
    EXPECT_EQ((*data)->find("speed")->at(5), 6);
    EXPECT_EQ(library->run({77}).error().code, ErrorCode::not_found);
}

TEST(Library, TheSameContentIsRecognisedUnderAnotherName) {
    const TempFolder folder;
    auto library = opened(folder.path());
    ASSERT_TRUE(library->add_run(recording(1), {}));
    Recording renamed = recording(1);
    renamed.source_name = "copy of run.csv";
    const auto again = library->add_run(renamed, {});
    ASSERT_FALSE(again);
    EXPECT_EQ(again.error().code, ErrorCode::exists);
    EXPECT_EQ(library->runs().value().size(), 1U);
    EXPECT_EQ(files_in(folder / "recordings"), 1U);
    EXPECT_TRUE(library->add_run(recording(2), {}));
}

TEST(Library, SwitchesOfLapsSurviveAnotherCut) {
    const TempFolder folder;
    auto library = opened(folder.path());
    FilingInfo info;
    info.laps = three_laps();
    const RunId id = *library->add_run(recording(1), info);
    ASSERT_TRUE(library->switch_lap({id, 2}, false, "traffic"));
    auto moved = three_laps();
    for (Lap& lap : moved) {
        lap.start_s += 0.8;  // the line was moved
        lap.end_s += 0.8;
    }
    ASSERT_TRUE(library->set_laps(id, moved));
    const auto laps = library->laps(id).value();
    EXPECT_FALSE(laps[2].included);
    EXPECT_EQ(laps[2].reason, "traffic");
    EXPECT_TRUE(laps[2].switched_by_hand);
    EXPECT_TRUE(laps[1].included);
    ASSERT_TRUE(library->unswitch_lap({id, 2}));
    EXPECT_TRUE(library->laps(id).value()[2].included);
    EXPECT_FALSE(library->switch_lap({id, 9}, true, ""));
}

TEST(Library, RemovingARunTakesItsFileAndLaps) {
    const TempFolder folder;
    auto library = opened(folder.path());
    FilingInfo info;
    info.laps = three_laps();
    const RunId id = *library->add_run(recording(1), info);
    ASSERT_TRUE(library->remove_run(id));
    EXPECT_TRUE(library->runs().value().empty());
    EXPECT_TRUE(library->laps(id).value().empty());
    EXPECT_EQ(files_in(folder / "recordings"), 0U);
}

TEST(Library, AFailureInTheMiddleOfFilingLeavesNothing) {
    // The catalogue refuses laps after the run's row and the recording file were written.
    const TempFolder folder;
    auto library = opened(folder.path());
    const auto in_catalogue = [&](const char* text) {
        sqlite3* database = nullptr;
        sqlite3_open((folder / "library.sqlite").c_str(), &database);
        EXPECT_EQ(sqlite3_exec(database, text, nullptr, nullptr, nullptr), SQLITE_OK);
        sqlite3_close(database);
    };
    in_catalogue("CREATE TRIGGER refuse BEFORE INSERT ON laps BEGIN SELECT RAISE(ABORT, 'no'); END");
    FilingInfo info;
    info.driver = "Osei";
    info.laps = three_laps();
    ASSERT_FALSE(library->add_run(recording(1), info));
    EXPECT_TRUE(library->runs().value().empty());
    EXPECT_EQ(files_in(folder / "recordings"), 0U) << "not left to be swept at the next start";
    in_catalogue("DROP TRIGGER refuse");
    EXPECT_TRUE(library->add_run(recording(1), info));
    EXPECT_EQ(library->runs().value().size(), 1U);
}

TEST(Library, LeftOversOfAKilledImportAreSwept) {
    const TempFolder folder;
    (void)opened(folder.path())->add_run(recording(1), {});
    folder.write("recordings/.rdk-part-1-0-x.rdk.h5", "half a file of somebody else");
    folder.write("recordings/.rendak-part-0a1b2c3d-1-0-0123456789abcdef0123456789abcdef.rdk.h5", "half a file");
    const auto library = opened(folder.path());
    EXPECT_EQ(files_in(folder / "recordings"), 2U) << "only what has a name of ours goes";
    EXPECT_TRUE(library->open_run(library->runs().value().front().id));
}

TEST(Library, NewerAndDamagedCataloguesAreRefusedUntouched) {
    const TempFolder folder;
    (void)opened(folder.path());
    sqlite3* database = nullptr;
    sqlite3_open((folder / "library.sqlite").c_str(), &database);
    sqlite3_exec(database, "PRAGMA user_version = 99", nullptr, nullptr, nullptr);
    sqlite3_close(database);
    const auto newer = Library::open(folder.path());
    ASSERT_FALSE(newer);
    EXPECT_EQ(newer.error().code, ErrorCode::too_new);
    EXPECT_NE(newer.error().message.find("Update Rendak"), std::string::npos);

    const TempFolder other;
    other.write("library.sqlite", std::string(4096, 'x'));
    const auto damaged = Library::open(other.path());
    ASSERT_FALSE(damaged);
    EXPECT_NE(damaged.error().message.find("damaged"), std::string::npos) << damaged.error().text();
    EXPECT_EQ(test::read_all(other / "library.sqlite"), std::string(4096, 'x'));
}

TEST(Library, MissingLibraryIsSaid) {
    const TempFolder folder;
    const auto library = Library::open(folder / "none", Library::Open::existing);
    ASSERT_FALSE(library);
    EXPECT_EQ(library.error().code, ErrorCode::not_found);
    EXPECT_FALSE(std::filesystem::exists(folder / "none"));
}

TEST(Library, TwoConnectionsImportAtOnce) {
    const TempFolder folder;
    (void)opened(folder.path());
    const auto import_many = [&](float seed) {
        auto library = opened(folder.path());
        for (int i = 0; i < 10; ++i) EXPECT_TRUE(library->add_run(recording(seed + static_cast<float>(i)), {}));
    };
    { std::jthread a(import_many, 0.0F), b(import_many, 1000.0F); }
    EXPECT_EQ(opened(folder.path())->runs().value().size(), 20U);
    EXPECT_EQ(files_in(folder / "recordings"), 20U);
}

TEST(Library, TracksMarksAndSettings) {
    const TempFolder folder;
    auto library = opened(folder.path());
    const auto track = library->put_track("Ärla / Ring", 3210, "{\"a\":1}");
    ASSERT_TRUE(track);
    EXPECT_EQ(*library->track_geojson(*track), "{\"a\":1}");
    ASSERT_TRUE(library->put_track("Ärla / Ring", 3300, "{}"));
    EXPECT_EQ(library->tracks().value().size(), 1U) << "the same name is the same track";
    EXPECT_EQ(library->tracks().value()[0].length_m, 3300);
    const auto mark = library->add_mark(*track, "Hairpin", {100, 300});
    ASSERT_TRUE(mark);
    ASSERT_EQ(library->marks(*track).value().size(), 1U);
    EXPECT_EQ(library->marks(*track).value()[0].range_m, (Interval{100, 300}));
    ASSERT_TRUE(library->remove_mark(*mark));
    EXPECT_TRUE(library->marks(*track).value().empty());
    EXPECT_EQ(library->setting("units").value(), "");
    ASSERT_TRUE(library->set_setting("units", "imperial"));
    ASSERT_TRUE(library->set_setting("units", "metric"));
    EXPECT_EQ(library->setting("units").value(), "metric");
}

TEST(Library, KindNamesReadBack) {
    for (const auto kind : {LapKind::out, LapKind::flying, LapKind::in, LapKind::part, LapKind::stopped}) {
        EXPECT_EQ(lap_kind_from_name(lap_kind_name(kind)), kind);
    }
}
