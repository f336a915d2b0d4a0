// What people say about runs, events, setups and cars: kept, changed, taken back; and libraries of older versions.
#include <gtest/gtest.h>
#include <sqlite3.h>

#include <map>
#include <set>

#include "core/intake/run_recording.h"
#include "core/library/library.h"
#include "core/recording/recording_file.h"
#include "core/signal/overview.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using rendak::test::TempFolder;

namespace {

Recording ramp_recording(const std::string& name, double seed, double start_s = 0) {
    Recording out;
    out.source_name = name;
    out.start_unix_s = 1781334000;
    ChannelStorage regular, irregular;
    for (int i = 0; i < 1000; ++i) {
        regular.floats.push_back(static_cast<float>(seed + i));
        irregular.doubles.push_back(seed + i);
        irregular.times_s.push_back(start_s + i * 0.1 + (i % 3) * 0.01);
    }
    out.channels.push_back(make_channel("Speed", "speed", "m/s", std::move(regular), start_s, 10));
    out.channels.push_back(make_channel("Places", "latitude", "deg", std::move(irregular)));
    return out;
}

std::unique_ptr<Library> opened_at(const std::filesystem::path& folder) {
    auto library = Library::open(folder);
    EXPECT_TRUE(library) << (library ? "" : library.error().text());
    return std::move(*library);
}

/// Takes away what version 11 brought, what version 10 did, what version 9 did, and what version 8 did.
#define WITHOUT_VERSION_11 "DROP TABLE kept_results; "
#define WITHOUT_VERSION_10 WITHOUT_VERSION_11 "DROP TABLE work_items; "
#define WITHOUT_VERSION_9 WITHOUT_VERSION_10 "DROP TABLE picture_notes; "
#define WITHOUT_VERSION_8                                                                                      \
    WITHOUT_VERSION_9                                                                                          \
    "ALTER TABLE events DROP COLUMN zone; ALTER TABLE runs DROP COLUMN air_c; ALTER TABLE runs DROP COLUMN "   \
    "track_c; ALTER TABLE runs DROP COLUMN wind_mps; ALTER TABLE runs DROP COLUMN wind_from_deg; ALTER TABLE " \
    "runs DROP COLUMN pressure_hpa; DROP TABLE official_laps; "
/// Takes away what version 7 brought, what version 6 did, and what version 5 did.
constexpr const char* without_version_7 =
    WITHOUT_VERSION_8 "DROP TABLE lap_notes; ALTER TABLE laps DROP COLUMN doubt; ";
constexpr const char* without_version_6 = WITHOUT_VERSION_8
    "DROP TABLE lap_notes; ALTER TABLE laps DROP COLUMN doubt; DROP TABLE channel_edits; DROP TABLE "
    "channel_templates; ";
constexpr const char* without_version_5 = WITHOUT_VERSION_8
    "DROP TABLE lap_notes; ALTER TABLE laps DROP COLUMN doubt; DROP TABLE channel_edits; DROP TABLE channel_templates; "
    "ALTER TABLE tracks DROP COLUMN geojson; ALTER TABLE tracks DROP COLUMN mirrored; "
    "ALTER TABLE recordings DROP COLUMN file_digest; ALTER TABLE recordings DROP COLUMN damage; ";

/// Every table with its columns, in any order: name, type, whether it may be empty, default, place in the key.
std::map<std::string, std::set<std::string>> shape_of(const std::filesystem::path& folder) {
    sqlite3* database = nullptr;
    EXPECT_EQ(sqlite3_open((folder / "library.sqlite").c_str(), &database), SQLITE_OK);
    std::map<std::string, std::set<std::string>> out;
    const char* columns =
        "SELECT m.name, p.name || '|' || p.type || '|' || p.\"notnull\" || '|' || COALESCE(p.dflt_value, '-') || '|' "
        "|| "
        "p.pk FROM sqlite_master m JOIN pragma_table_info(m.name) p WHERE m.type = 'table'";
    const char* references =
        "SELECT m.name, 'refers to ' || f.\"table\" || '|' || f.\"from\" || '|' || f.on_delete FROM sqlite_master m "
        "JOIN pragma_foreign_key_list(m.name) f WHERE m.type = 'table'";
    for (const char* question : {columns, references}) {
        sqlite3_stmt* rows = nullptr;
        EXPECT_EQ(sqlite3_prepare_v2(database, question, -1, &rows, nullptr), SQLITE_OK) << sqlite3_errmsg(database);
        while (sqlite3_step(rows) == SQLITE_ROW)
            out[reinterpret_cast<const char*>(sqlite3_column_text(rows, 0))].insert(
                reinterpret_cast<const char*>(sqlite3_column_text(rows, 1)));
        sqlite3_finalize(rows);
    }
    sqlite3_close(database);
    return out;
}

RunFacts facts_of(const RunFacts& facts) {
    return facts;
}

}  // namespace

TEST(LibraryFacts, EveryFieldOfARunIsKeptAndCanBeChanged) {
    const TempFolder folder;
    const auto library = opened_at(folder.path());
    FilingInfo info;
    info.event = "Test day";
    info.session = "Morning";
    info.name = "Run 1";
    info.driver = "Osei";
    info.car = "27";
    info.tyre_set = "C3";
    info.tyre_laps = 12;
    info.fuel_l = 31.5;
    info.official_time_s = 84.318;
    info.weather = "dry, 18 °C";
    info.changes = "rear bar one step softer";
    info.remarks = "traffic";
    const RunId id = *library->add_run(ramp_recording("a.csv", 0), info);
    EXPECT_EQ(facts_of(*library->run(id)), facts_of(info));
    RunFacts other = info;
    other.event = "Another day";
    other.driver = "";
    other.tyre_laps.reset();
    other.setup = *library->add_setup("27", "Base", {{"Rear bar", "3", "mm"}});
    ASSERT_TRUE(library->set_facts(id, other));
    EXPECT_EQ(facts_of(*library->run(id)), other);
    EXPECT_EQ(library->run(id)->setup_name, "Base 1");
    ASSERT_TRUE(library->set_facts(id, info));
    EXPECT_EQ(facts_of(*library->run(id)), facts_of(info));
    EXPECT_EQ(library->tyre_sets().value(), std::vector<std::string>{"C3"});
    EXPECT_EQ(library->drivers().value(), std::vector<std::string>{"Osei"});
}

TEST(LibraryFacts, EventsHavePlaceDateAndWeather) {
    const TempFolder folder;
    const auto library = opened_at(folder.path());
    ASSERT_TRUE(library->put_event({{}, "Test day", "Skerrow Point", "2026-06-13", "dry", "short runs"}));
    ASSERT_TRUE(library->put_event({{}, "Test day", "Skerrow Point", "2026-06-13", "rain from noon", "short runs"}));
    ASSERT_EQ(library->events().value().size(), 1U);
    EXPECT_EQ(library->events().value()[0].weather, "rain from noon");
    EXPECT_FALSE(library->put_event({}));
}

TEST(LibraryFacts, SetupSheetsAreVersionsThatStay) {
    const TempFolder folder;
    const auto library = opened_at(folder.path());
    const SetupId first = *library->add_setup("27", "Base", {{"Spring front", "80", "N/mm"}, {"Wing", "4", ""}});
    const SetupId second = *library->add_setup("27", "Base", {{"Spring front", "90", "N/mm"}}, "stiffer");
    const SetupId elsewhere = *library->add_setup("28", "Base", {});
    EXPECT_EQ(library->setup(first)->version, 1);
    EXPECT_EQ(library->setup(second)->version, 2);
    EXPECT_EQ(library->setup(elsewhere)->version, 1) << "numbers are counted by car";
    EXPECT_EQ(library->setup(first)->values.size(), 2U);
    EXPECT_EQ(library->setup(second)->values[0], (SheetValue{"Spring front", "90", "N/mm"}));
    EXPECT_EQ(library->setups("27").value().size(), 2U);
    EXPECT_EQ(library->setups("27").value()[0].id, second) << "newest first";
    EXPECT_FALSE(library->setup({99}));
    EXPECT_FALSE(library->add_setup("27", "", {}));
}

TEST(LibraryFacts, CarSheetsByCarAndSeason) {
    const TempFolder folder;
    const auto library = opened_at(folder.path());
    const CarSheet sheet{"27", "2026", "2026-03-01", {{"mass", "775", "kg"}, {"wheelbase", "2.55", "m"}}};
    ASSERT_TRUE(library->put_car_sheet(sheet));
    ASSERT_TRUE(library->put_car_sheet({"27", "2025", "", {{"mass", "790", "kg"}}}));
    ASSERT_EQ(library->car_sheets().value().size(), 2U);
    EXPECT_EQ(library->car_sheets().value()[1], sheet);
    ASSERT_TRUE(library->put_car_sheet({"27", "2026", "", {{"mass", "770", "kg"}}}));
    EXPECT_EQ(library->car_sheets().value()[1].values.size(), 1U);
    ASSERT_TRUE(library->remove_car_sheet("27", "2025"));
    EXPECT_EQ(library->car_sheets().value().size(), 1U);
}

TEST(LibraryFacts, TheBinKeepsRunsUntilItIsEmptied) {
    const TempFolder folder;
    const auto library = opened_at(folder.path());
    const Recording recording = ramp_recording("a.csv", 0);
    const RunId id = *library->add_run(recording, {});
    ASSERT_TRUE(library->set_binned(id, true));
    EXPECT_TRUE(library->runs().value().empty());
    ASSERT_EQ(library->binned().value().size(), 1U);
    EXPECT_EQ(library->find_digest(library->binned().value()[0].digest).value(), id) << "its content is still known";
    ASSERT_TRUE(library->set_binned(id, false));
    EXPECT_EQ(library->runs().value().size(), 1U);
    const auto file = folder.path() / library->run(id)->recording_file;
    EXPECT_TRUE(std::filesystem::exists(file));
    ASSERT_TRUE(library->remove_run(id));
    EXPECT_FALSE(std::filesystem::exists(file));
    EXPECT_FALSE(library->find_digest(content_digest(recording)).value());
}

TEST(LibraryFacts, TwoRunsOfOneRecordingAreWindowsOfIt) {
    const TempFolder folder;
    const auto library = opened_at(folder.path());
    const RunId first = *library->add_run(ramp_recording("a.csv", 0), {});
    ASSERT_TRUE(library->set_window(first, Interval{0, 40}));
    const RunId second = *library->add_window(first, {60, 101}, "Run 2");
    EXPECT_EQ(library->runs().value().size(), 2U);
    EXPECT_DOUBLE_EQ(library->run(first)->duration_s, 40);
    EXPECT_DOUBLE_EQ(*library->run(second)->start_unix_s, 1781334060);
    const auto a = run_recording(*library, first), b = run_recording(*library, second);
    ASSERT_TRUE(a && b);
    const Channel* speed = b->find("speed");
    ASSERT_EQ(speed->size(), 400U);
    EXPECT_DOUBLE_EQ(speed->clock.time_at(0), 60);
    EXPECT_FLOAT_EQ(speed->floats()[0], 600);
    EXPECT_EQ(min_max(*speed, 0, 64), (MinMax{600, 663}));
    EXPECT_EQ(a->find("speed")->size(), 400U);
    EXPECT_EQ(a->find("latitude")->size() + b->find("latitude")->size(), 800U);
    // The file goes with the last run that uses it.
    const auto file = folder.path() / library->run(first)->recording_file;
    ASSERT_TRUE(library->remove_run(first));
    EXPECT_TRUE(std::filesystem::exists(file));
    ASSERT_TRUE(library->remove_run(second));
    EXPECT_FALSE(std::filesystem::exists(file));
}

TEST(LibraryFacts, AJoinedRunIsAPartOfTheOtherOnItsClock) {
    const TempFolder folder;
    const auto library = opened_at(folder.path());
    const RunId main = *library->add_run(ramp_recording("main.csv", 0), {});
    const RunId pocket = *library->add_run(ramp_recording("pocket.csv", 5000), {});
    EXPECT_FALSE(library->set_join(main, main, 0));
    ASSERT_TRUE(library->set_join(pocket, main, 3.4));
    EXPECT_EQ(library->runs().value().size(), 1U);
    EXPECT_FALSE(library->set_join(main, pocket, 0)) << "no chains";
    const auto both = run_recording(*library, main);
    ASSERT_TRUE(both);
    ASSERT_EQ(both->channels.size(), 4U);
    const Channel* speed = both->find_name("Speed (pocket.csv)");
    ASSERT_NE(speed, nullptr);
    EXPECT_DOUBLE_EQ(speed->clock.time_at(0), 3.4);
    EXPECT_FLOAT_EQ(speed->floats()[0], 5000);
    EXPECT_DOUBLE_EQ(both->find_name("Places (pocket.csv)")->clock.times_s[1], 0.11 + 3.4);
    EXPECT_FLOAT_EQ(both->find("speed")->floats()[0], 0) << "the main one wins";
    ASSERT_TRUE(library->set_join(pocket, {}, 0));
    EXPECT_EQ(library->runs().value().size(), 2U);
    EXPECT_EQ(run_recording(*library, main)->channels.size(), 2U);
}

TEST(LibraryFacts, ClockShiftsFlipsAndUnusedChannels) {
    const TempFolder folder;
    const auto library = opened_at(folder.path());
    const RunId id = *library->add_run(ramp_recording("a.csv", 1), {});
    ASSERT_TRUE(library->set_clock_shift(id, 86400));
    EXPECT_DOUBLE_EQ(*library->run(id)->start_unix_s, 1781334000 + 86400.0);
    ASSERT_TRUE(library->set_clock_shift(id, 0));
    EXPECT_DOUBLE_EQ(*library->run(id)->start_unix_s, 1781334000);
    ASSERT_TRUE(library->set_unused(id, "Places", true));
    EXPECT_EQ(run_recording(*library, id)->channels.size(), 1U);
    ASSERT_TRUE(library->set_unused(id, "Places", false));
    EXPECT_EQ(run_recording(*library, id)->channels.size(), 2U);
    ASSERT_TRUE(library->set_accepted(id, "date", true));
    EXPECT_EQ(library->accepted_findings(id).value(), std::vector<std::string>{"date"});
}

TEST(LibraryFacts, AliasesAndMappingsAreRemembered) {
    const TempFolder folder;
    const auto library = opened_at(folder.path());
    ASSERT_TRUE(library->set_alias("P_Brk VA", "brake_front"));
    EXPECT_EQ(library->aliases().value(), (Aliases{{"pbrkva", "brake_front"}}));
    EXPECT_FALSE(library->set_alias(" - ", "brake_front"));
    ASSERT_TRUE(library->set_alias("pbrkva", ""));
    EXPECT_TRUE(library->aliases().value().empty());
    ASSERT_TRUE(library->set_table_mapping("a|b", "{}"));
    EXPECT_EQ(library->table_mapping("a|b").value(), "{}");
    EXPECT_EQ(library->table_mapping("c").value(), "");
}

TEST(LibraryFacts, RawFilesAreFoundByTheirDigest) {
    const TempFolder folder;
    const auto library = opened_at(folder.path());
    FilingInfo info;
    info.raw = RawFile{"abc", "REC0001.MF4", 1234, "originals/2026-06-13/REC0001.MF4"};
    const RunId id = *library->add_run(ramp_recording("a.csv", 1), info);
    EXPECT_EQ(library->find_raw("abc").value(), id);
    EXPECT_FALSE(library->find_raw("abd").value());
    ASSERT_TRUE(library->add_raw(id, {"abd", "copy.MF4", 1234, ""}));
    ASSERT_EQ(library->raw_files(id).value().size(), 2U);
    EXPECT_EQ(library->raw_files(id).value()[0].name, "REC0001.MF4");
    ASSERT_TRUE(library->remove_run(id));
    EXPECT_FALSE(library->find_raw("abc").value());
}

TEST(LibraryFacts, SummariesFollowLapSwitches) {
    const TempFolder folder;
    const auto library = opened_at(folder.path());
    FilingInfo info;
    info.laps = {{0, LapKind::out, 0, 10, 400, false, false, ""},
                 {1, LapKind::flying, 10, 20, 500, true, false, ""},
                 {2, LapKind::flying, 20, 29, 500, true, false, ""},
                 {3, LapKind::flying, 29, 41, 500, false, false, "slow"}};
    const RunId id = *library->add_run(ramp_recording("a.csv", 1), info);
    EXPECT_EQ(library->summaries().value()[0].best_lap, 2);
    EXPECT_DOUBLE_EQ(*library->summaries().value()[0].best_s, 9);
    EXPECT_EQ(library->summaries().value()[0].flying, 2);
    EXPECT_EQ(library->summaries().value()[0].laps, 4);
    ASSERT_TRUE(library->switch_lap({id, 2}, false, ""));
    ASSERT_TRUE(library->switch_lap({id, 3}, true, ""));
    EXPECT_EQ(library->summaries().value()[0].best_lap, 1);
    EXPECT_EQ(library->summaries().value()[0].flying, 2);
}

TEST(LibraryFacts, ALibraryOfVersion1IsTakenOver) {
    const TempFolder folder;
    std::filesystem::create_directories(folder / "recordings");
    std::filesystem::create_directories(folder / "tracks");
    Recording recording = ramp_recording("old.csv", 3);
    recording.digest = content_digest(recording);
    ASSERT_TRUE(write_recording(recording, folder / "recordings" / (recording.digest + ".rdk.h5")));
    const std::string script =
        R"sql(
CREATE TABLE events   (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE);
CREATE TABLE sessions (id INTEGER PRIMARY KEY, event_id INTEGER NOT NULL REFERENCES events(id), name TEXT NOT NULL,
                       UNIQUE (event_id, name));
CREATE TABLE drivers  (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE);
CREATE TABLE cars     (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE);
CREATE TABLE tracks   (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE, file TEXT NOT NULL, length_m REAL NOT NULL);
CREATE TABLE runs     (id INTEGER PRIMARY KEY, session_id INTEGER REFERENCES sessions(id), name TEXT NOT NULL,
                       driver_id INTEGER REFERENCES drivers(id), car_id INTEGER REFERENCES cars(id),
                       track_id INTEGER REFERENCES tracks(id), recording_file TEXT NOT NULL,
                       digest TEXT NOT NULL UNIQUE, source_name TEXT NOT NULL, start_unix_s REAL,
                       duration_s REAL NOT NULL, notes TEXT NOT NULL);
CREATE TABLE laps     (run_id INTEGER NOT NULL REFERENCES runs(id) ON DELETE CASCADE, number INTEGER NOT NULL,
                       kind TEXT NOT NULL, start_s REAL NOT NULL, end_s REAL NOT NULL, length_m REAL NOT NULL,
                       included INTEGER NOT NULL, reason TEXT NOT NULL, PRIMARY KEY (run_id, number));
CREATE TABLE lap_switches (run_id INTEGER NOT NULL REFERENCES runs(id) ON DELETE CASCADE, at_s REAL NOT NULL,
                       included INTEGER NOT NULL, reason TEXT NOT NULL, PRIMARY KEY (run_id, at_s));
CREATE TABLE flipped_quantities (run_id INTEGER NOT NULL REFERENCES runs(id) ON DELETE CASCADE, quantity TEXT NOT NULL,
                       PRIMARY KEY (run_id, quantity));
CREATE TABLE marks    (id INTEGER PRIMARY KEY, track_id INTEGER NOT NULL REFERENCES tracks(id), name TEXT NOT NULL,
                       begin_m REAL NOT NULL, end_m REAL NOT NULL);
CREATE TABLE settings (key TEXT PRIMARY KEY, value TEXT NOT NULL);
)sql" +
        std::string(
            "INSERT INTO events VALUES (4, 'Day'); INSERT INTO sessions VALUES (7, 4, 'Morning');"
            "INSERT INTO drivers VALUES (2, 'Osei'); INSERT INTO tracks VALUES (3, 'Oval', 'tracks/oval.geojson', 900);"
            "INSERT INTO marks VALUES (1, 3, 'Exit', 10, 20); INSERT INTO settings VALUES ('units', 'metric');"
            "INSERT INTO runs VALUES (5, 7, 'Run 5', 2, NULL, 3, 'recordings/") +
        recording.digest + ".rdk.h5', '" + recording.digest +
        "', 'old.csv', 1781334000.0, 100.0, 'a note');"
        "INSERT INTO laps VALUES (5, 1, 'flying', 10, 20, 900, 1, '');"
        "INSERT INTO lap_switches VALUES (5, 15, 0, 'by hand');"
        "INSERT INTO flipped_quantities VALUES (5, 'speed'); PRAGMA user_version = 1;";
    sqlite3* database = nullptr;
    ASSERT_EQ(sqlite3_open((folder / "library.sqlite").c_str(), &database), SQLITE_OK);
    ASSERT_EQ(sqlite3_exec(database, script.c_str(), nullptr, nullptr, nullptr), SQLITE_OK) << sqlite3_errmsg(database);
    sqlite3_close(database);
    {
        const TempFolder fresh;
        (void)opened_at(fresh.path());
        (void)opened_at(folder.path());
        EXPECT_EQ(shape_of(folder.path()), shape_of(fresh.path())) << "from version 1";
    }
    for (int round = 0; round < 2; ++round) {
        const auto library = opened_at(folder.path());
        ASSERT_EQ(library->runs().value().size(), 1U);
        const RunRow row = *library->run({5});
        EXPECT_EQ(row.event, "Day");
        EXPECT_EQ(row.session, "Morning");
        EXPECT_EQ(row.driver, "Osei");
        EXPECT_EQ(row.track_name, "Oval");
        EXPECT_EQ(row.duration_s, 100);
        EXPECT_EQ(row.notes, std::vector<std::string>{"a note"});
        ASSERT_EQ(library->laps({5}).value().size(), 1U);
        EXPECT_TRUE(library->laps({5}).value()[0].switched_by_hand);
        EXPECT_EQ(library->marks({3}).value().size(), 1U);
        EXPECT_EQ(library->setting("units").value(), "metric");
        EXPECT_FLOAT_EQ(run_recording(*library, {5})->find("speed")->floats()[1], -4);
        EXPECT_EQ(library->find_digest(recording.digest).value(), (RunId{5}));
        ASSERT_TRUE(library->switch_lap({{5}, 1}, true, "")) << "references point at the new tables";
        if (round == 1) EXPECT_TRUE(library->remove_run({5}));
    }
    EXPECT_TRUE(opened_at(folder.path())->runs().value().empty());
}

TEST(LibraryVersions, EveryOldCatalogueBecomesWhatANewOneIs) {
    const TempFolder fresh;
    (void)opened_at(fresh.path());
    const auto wanted = shape_of(fresh.path());
    EXPECT_GT(wanted.size(), 15u);
    const std::string from_5 = without_version_5, from_4 = from_5 + "DROP TABLE formula_versions; ",
                      from_3 = from_4 + "ALTER TABLE laps DROP COLUMN trust_m; DROP TABLE place_corrections; ";
    for (const auto& [version, undo] : {std::pair{10, std::string(WITHOUT_VERSION_11)},
                                        {9, std::string(WITHOUT_VERSION_10)},
                                        {8, std::string(WITHOUT_VERSION_9)},
                                        {7, std::string(WITHOUT_VERSION_8)},
                                        {6, without_version_7},
                                        {5, without_version_6},
                                        {4, from_5},
                                        {3, from_4},
                                        {2, from_3}}) {
        const TempFolder folder;
        (void)opened_at(folder.path());
        sqlite3* database = nullptr;
        ASSERT_EQ(sqlite3_open((folder / "library.sqlite").c_str(), &database), SQLITE_OK);
        ASSERT_EQ(sqlite3_exec(database, (undo + "PRAGMA user_version = " + std::to_string(version)).c_str(), nullptr,
                               nullptr, nullptr),
                  SQLITE_OK)
            << sqlite3_errmsg(database);
        sqlite3_close(database);
        EXPECT_NE(shape_of(folder.path()), wanted) << version;
        (void)opened_at(folder.path());
        EXPECT_EQ(shape_of(folder.path()), wanted) << version;
    }
}

TEST(LibraryVersions, Version6sQuestionsBecomeDoubtsAndItsReasonsNotes) {
    const TempFolder folder;
    RunId run;
    {
        const auto library = opened_at(folder.path());
        FilingInfo info;
        info.name = "Run";
        info.event = "Day";
        info.session = "Morning";
        for (int k = 1; k <= 3; ++k) info.laps.push_back({k, LapKind::flying, 10.0 * k, 10.0 * k + 10, 500, true});
        info.laps[0].reason = "0.8 s slower than usual in Turn 3: traffic?";
        info.laps[1].reason = "places are good to 3.1 m only";
        run = *library->add_run(ramp_recording("a.csv", 1), info);
        ASSERT_TRUE(library->switch_lap({run, 2}, true, "tried the other gear"));
        ASSERT_TRUE(library->switch_lap({run, 3}, false, "switched out by hand"));
    }
    sqlite3* database = nullptr;
    ASSERT_EQ(sqlite3_open((folder / "library.sqlite").c_str(), &database), SQLITE_OK);
    ASSERT_EQ(sqlite3_exec(database, (std::string(without_version_7) + "PRAGMA user_version = 6;").c_str(), nullptr,
                           nullptr, nullptr),
              SQLITE_OK);
    sqlite3_close(database);
    const auto laps = opened_at(folder.path())->laps(run).value();
    EXPECT_TRUE(laps[0].doubtful());
    EXPECT_FALSE(laps[0].counts());
    EXPECT_EQ(laps[0].reason, "");
    EXPECT_EQ(laps[1].note, "tried the other gear");
    EXPECT_TRUE(laps[1].counts());
    EXPECT_EQ(laps[2].note, "") << "no more than that it was switched";
    EXPECT_FALSE(laps[2].included);
}

TEST(LibraryLaps, ANoteSwitchesNothingAndClearsNoDoubt) {
    const TempFolder folder;
    const auto library = opened_at(folder.path());
    FilingInfo info;
    info.name = "Run";
    info.event = "Day";
    info.session = "Morning";
    info.laps.push_back({1, LapKind::flying, 10, 20, 500, true});
    info.laps[0].doubt = "an excursion?";
    const RunId run = *library->add_run(ramp_recording("a.csv", 1), info);
    ASSERT_TRUE(library->set_lap_note({run, 1}, "locked a wheel"));
    auto lap = library->laps(run).value()[0];
    EXPECT_EQ(lap.note, "locked a wheel");
    EXPECT_TRUE(lap.doubtful() && lap.included && !lap.switched_by_hand && !lap.counts());
    ASSERT_TRUE(library->switch_lap({run, 1}, true, "by hand"));
    lap = library->laps(run).value()[0];
    EXPECT_TRUE(lap.counts()) << "settled by hand";
    EXPECT_EQ(lap.doubt, "an excursion?") << "and still known";
    EXPECT_EQ(lap.note, "locked a wheel");
    ASSERT_TRUE(library->set_lap_note({run, 1}, ""));
    EXPECT_EQ(library->laps(run).value()[0].note, "");
    EXPECT_FALSE(library->set_lap_note({run, 9}, "x"));
}

TEST(LibraryVersions, Version3GetsRoomForFormulas) {
    const TempFolder folder;
    {
        const auto library = opened_at(folder.path());
        ASSERT_TRUE(library->set_setting("desk", "compare"));
    }
    sqlite3* database = nullptr;
    ASSERT_EQ(sqlite3_open((folder / "library.sqlite").c_str(), &database), SQLITE_OK);
    ASSERT_EQ(
        sqlite3_exec(database,
                     (std::string(without_version_5) + "DROP TABLE formula_versions; PRAGMA user_version = 3;").c_str(),
                     nullptr, nullptr, nullptr),
        SQLITE_OK);
    sqlite3_close(database);
    const auto library = opened_at(folder.path());
    EXPECT_EQ(library->setting("desk").value(), "compare");
    EXPECT_TRUE(library->formula_sets().value().empty());
    EXPECT_EQ(*library->add_formula_version("Mine", "{}", "first"), 1);
}

TEST(LibraryVersions, Version2IsTakenOverWithItsLaps) {
    const TempFolder folder;
    const Recording recording = ramp_recording("a.csv", 1);
    RunId run;
    {
        const auto library = opened_at(folder.path());
        FilingInfo info;
        info.name = "Run";
        info.event = "Day";
        info.session = "Morning";
        info.laps = {{1, LapKind::flying, 10, 20, 500, true, false, "", {}, {}, 0.4}};
        run = *library->add_run(recording, info);
    }
    sqlite3* database = nullptr;
    ASSERT_EQ(sqlite3_open((folder / "library.sqlite").c_str(), &database), SQLITE_OK);
    ASSERT_EQ(sqlite3_exec(database,
                           (std::string(without_version_5) +
                            "ALTER TABLE laps DROP COLUMN trust_m; DROP TABLE place_corrections; DROP TABLE "
                            "formula_versions; PRAGMA user_version = 2;")
                               .c_str(),
                           nullptr, nullptr, nullptr),
              SQLITE_OK);
    sqlite3_close(database);
    const auto library = opened_at(folder.path());
    ASSERT_EQ(library->laps(run).value().size(), 1U);
    EXPECT_EQ(library->laps(run).value()[0].end_s, 20);
    EXPECT_EQ(library->laps(run).value()[0].trust_m, 0) << "not known before";
    const PlaceCorrection correction{1, -2, 0.1, 3.5};
    ASSERT_TRUE(library->set_place_correction(run, correction));
    EXPECT_EQ(library->place_correction(run).value(), correction);
    ASSERT_TRUE(library->set_place_correction(run, {}));
    EXPECT_EQ(library->place_correction(run).value(), PlaceCorrection{});
    ASSERT_TRUE(library->set_place_correction(run, correction));
    ASSERT_TRUE(library->remove_run(run));
    EXPECT_EQ(library->place_correction(run).value(), PlaceCorrection{}) << "goes with its run";
}
