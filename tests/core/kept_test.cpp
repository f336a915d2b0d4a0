// Nothing lost: what happens to a library whose catalogue or recordings are lost, damaged, read-only or older.
#include <fcntl.h>
#include <gtest/gtest.h>
#include <sqlite3.h>
#include <sys/mount.h>
#include <sys/stat.h>
#include <unistd.h>

#include <filesystem>
#include <fstream>
#include <thread>

#include "core/base/file_io.h"
#include "core/bundle/bundle.h"
#include "core/intake/check_library.h"
#include "core/intake/edit_track.h"
#include "core/intake/import.h"
#include "core/intake/shared_track.h"
#include "core/track/edit.h"
#include "tests/support/got.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using rendak::test::got;
using rendak::test::read_all;
using rendak::test::TempFolder;
namespace fs = std::filesystem;

namespace {

/// A library with two ovals of one track, one lap switched out by hand and a mark.
class KeptTest : public testing::Test {
  protected:
    void SetUp() override {
        first_ = folder_.write("first.csv", test::oval_table(4, 20, 41).text);
        second_ = folder_.write("second.csv", test::oval_table(5, 20, 43).text);
        open();
        import(first_);
        ASSERT_TRUE(learn_track_from_run(*library_, {1}, "Oval", {}));
        import(second_);
        ASSERT_TRUE(library_->switch_lap({{1}, 2}, false, "traffic"));
        ASSERT_TRUE(library_->add_mark({1}, "Exit", {100, 200}));
    }
    void open() {
        library_.reset();
        auto opened = Library::open(lib());
        ASSERT_TRUE(opened) << opened.error().text();
        library_ = std::move(*opened);
    }
    ImportResult import(const fs::path& file) {
        ImportOptions options;
        options.driver = "Osei";
        return got(import_file(*library_, file, options));
    }
    [[nodiscard]] fs::path lib() const { return folder_ / "lib"; }
    [[nodiscard]] fs::path recording_of(int run) const { return lib() / got(library_->run({run})).recording_file; }
    /// Everything of the library is in library.sqlite, nothing waits beside it.
    void close_whole() {
        library_.reset();
        sqlite3* database = nullptr;
        ASSERT_EQ(sqlite3_open((lib() / "library.sqlite").c_str(), &database), SQLITE_OK);
        sqlite3_exec(database, "PRAGMA wal_checkpoint(TRUNCATE)", nullptr, nullptr, nullptr);
        sqlite3_close(database);
    }
    std::size_t recordings() const {
        return static_cast<std::size_t>(
            std::distance(fs::directory_iterator(lib() / "recordings"), fs::directory_iterator()));
    }

    TempFolder folder_;
    fs::path first_, second_;
    std::unique_ptr<Library> library_;
};

void overwrite(const fs::path& file, std::streamoff at, const std::string& bytes) {
    std::fstream stream(file, std::ios::binary | std::ios::in | std::ios::out);
    stream.seekp(at);
    stream << bytes;
}

}  // namespace

TEST_F(KeptTest, RecordingsThatALostCatalogueKnewAreOfferedAndFiledAgain) {
    close_whole();
    for (const char* way : {"emptied", "missing"}) {
        if (way == std::string("emptied"))
            fs::resize_file(lib() / "library.sqlite", 0);
        else
            for (const char* name : {"library.sqlite", "library.sqlite-wal", "library.sqlite-shm"})
                fs::remove(lib() / name);
        open();
        EXPECT_EQ(recordings(), 2U) << way;
        EXPECT_EQ(got(library_->unfiled_recordings()).size(), 2U) << way;
        library_.reset();
    }
    open();
    for (const auto& file : got(library_->unfiled_recordings())) EXPECT_TRUE(file_again(*library_, file));
    EXPECT_TRUE(got(library_->unfiled_recordings()).empty());
    const auto runs = got(library_->runs());
    ASSERT_EQ(runs.size(), 2U);
    std::set<std::string> sources;
    for (const RunRow& run : runs) {
        sources.insert(run.source_name);
        EXPECT_TRUE(library_->open_run(run.id));
    }
    EXPECT_EQ(sources, (std::set<std::string>{"first.csv", "second.csv"}));
    EXPECT_TRUE(fs::exists(lib() / "tracks/oval.geojson")) << "nor is the track's file lost";
}

TEST_F(KeptTest, AnOlderCataloguePutBackCostsNothing) {
    close_whole();
    fs::copy_file(lib() / "library.sqlite", folder_ / "backup.sqlite");
    open();
    import(folder_.write("third.csv", test::oval_table(3, 20, 44).text));
    const auto track = got(read_track(*library_, {1}));
    const auto before = got(track_state(*library_, {1}));
    const auto moved = got(move_start(track, 150));
    ASSERT_TRUE(put_track_state(*library_, {1}, edited_state(before, moved, 150), true));
    const std::string newer = read_all(lib() / "tracks/oval.geojson");
    close_whole();
    fs::copy_file(folder_ / "backup.sqlite", lib() / "library.sqlite", fs::copy_options::overwrite_existing);
    open();
    EXPECT_EQ(recordings(), 3U);
    const auto unfiled = got(library_->unfiled_recordings());
    ASSERT_EQ(unfiled.size(), 1U);
    const auto again = file_again(*library_, unfiled[0]);
    ASSERT_TRUE(again) << again.error().text();
    EXPECT_EQ(got(library_->laps(again->run)).size(), got(library_->laps({1})).size() - 1);
    // The newer line is not what this catalogue knows; it is kept beside, the file follows the catalogue.
    EXPECT_EQ(read_all(lib() / "tracks/oval.geojson"), got(library_->track_geojson({1})));
    EXPECT_EQ(read_all(lib() / "tracks/oval-kept-1.geojson"), newer);
}

TEST_F(KeptTest, DamageIsFoundSaidAndMendedByTheNextImport) {
    const auto gap_place = static_cast<std::streamoff>(fs::file_size(recording_of(1)) / 2);
    const std::vector<std::pair<const char*, std::function<void()>>> harms = {
        {"zeros", [&] { overwrite(recording_of(1), gap_place, std::string(4096, '\0')); }},
        {"one bit", [&] { overwrite(recording_of(1), gap_place, "\x01"); }},
        {"cut", [&] { fs::resize_file(recording_of(1), 20'000); }},
        {"missing", [&] { fs::remove(recording_of(1)); }}};
    const auto laps = got(library_->laps({1}));
    for (const auto& [name, harm] : harms) {
        harm();
        const auto damage = got(library_->check_recording({1}));
        EXPECT_NE(damage.find("first.csv"), std::string::npos) << name << ": says what to import again";
        EXPECT_EQ(got(library_->run({1})).damage, damage) << name;
        EXPECT_FALSE(library_->open_run({1})) << name << ": no answer from a damaged recording";
        const auto check = got(check_library(*library_));
        ASSERT_EQ(check.damaged.size(), 1U) << name;
        EXPECT_EQ(check.damaged[0].run, RunId{1});
        const auto bundle = write_bundle(*library_, {.runs = {{1}}}, folder_ / "out.zip");
        ASSERT_FALSE(bundle) << name << ": nothing damaged is passed on";
        EXPECT_FALSE(fs::exists(folder_ / "out.zip"));
        const ImportResult again = import(first_);
        EXPECT_TRUE(again.already_there && again.mended) << name;
        EXPECT_EQ(again.run, RunId{1});
        EXPECT_EQ(got(library_->check_recording({1})), "") << name;
        EXPECT_TRUE(library_->open_run({1})) << name;
        EXPECT_EQ(got(library_->laps({1})), laps) << name << ": laps and switches stay";
    }
    EXPECT_FALSE(import(first_).mended) << "whole: nothing to mend";
    EXPECT_TRUE(got(check_library(*library_)).all_well());
}

TEST_F(KeptTest, EveryDamagedRunIsFoundNotOnlyTheFirst) {
    for (int run : {1, 2}) fs::resize_file(recording_of(run), 20'000);
    EXPECT_NE(got(check_runs(*library_, {{1}, {2}})), "");
    for (int run : {1, 2}) EXPECT_FALSE(library_->open_run({run})) << run;
}

TEST_F(KeptTest, ABundleMendsToo) {
    ASSERT_TRUE(write_bundle(*library_, {.runs = {{1}, {2}}}, folder_ / "runs.zip"));
    fs::remove(recording_of(2));
    ASSERT_TRUE(take_bundle(*library_, folder_ / "runs.zip"));
    EXPECT_EQ(got(library_->check_recording({2})), "");
    EXPECT_TRUE(library_->open_run({2}));
}

TEST_F(KeptTest, NoDamagedPageOfTheCatalogueIsReadAsNothing) {
    struct Seen {
        std::vector<std::string> parts;
        bool failed = false;
    };
    const auto look = [this] {
        Seen seen;
        auto library = Library::open(lib(), Library::Open::existing);
        if (!library) {
            seen.failed = true;
            return seen;
        }
        const auto note = [&](const auto& read, const auto& text) {
            if (!read)
                seen.failed = true;
            else
                seen.parts.push_back(text(*read));
        };
        note((*library)->runs(), [](const auto& rows) {
            std::string out;
            for (const RunRow& row : rows) out += row.name + "|" + row.driver + "|" + row.recording_file + ";";
            return out;
        });
        for (int run : {1, 2})
            note((*library)->laps({run}), [](const auto& laps) {
                std::string out;
                for (const Lap& lap : laps)
                    out += std::to_string(lap.start_s) + (lap.included ? "+" : "-") + lap.reason + ";";
                return out;
            });
        note((*library)->summaries(), [](const auto& rows) {
            std::string out;
            for (const RunSummary& row : rows)
                out += std::to_string(row.flying) + "," + std::to_string(row.best_lap) + ";";
            return out;
        });
        note((*library)->tracks(), [](const auto& rows) { return std::to_string(rows.size()); });
        note((*library)->marks({1}), [](const auto& rows) { return std::to_string(rows.size()); });
        note((*library)->track_geojson({1}), [](const std::string& text) {
            return track_from_geojson(text, "") ? text : std::string("unreadable, and said");
        });
        note((*library)->find_track("Oval"), [](const auto& id) { return std::to_string(id ? id->value : 0); });
        note((*library)->drivers(), [](const auto& names) { return std::to_string(names.size()); });
        note((*library)->setting("units"), [](const auto& text) { return text; });
        return seen;
    };
    ASSERT_TRUE(library_->set_setting("units", "metric"));
    close_whole();
    const std::string whole = read_all(lib() / "library.sqlite");
    const Seen reference = look();
    ASSERT_FALSE(reference.failed);
    constexpr std::size_t page = 4096;
    ASSERT_GT(whole.size() / page, 30U);
    int failures = 0;
    for (std::size_t at = 0; at < whole.size(); at += page) {
        for (const char* name : {"library.sqlite-wal", "library.sqlite-shm"}) fs::remove(lib() / name);
        std::string damaged = whole;
        damaged.replace(at, page, std::string(page, '\0'));
        std::ofstream(lib() / "library.sqlite", std::ios::binary) << damaged;
        const Seen seen = look();
        failures += seen.failed;
        if (seen.failed) continue;
        // Not used by any of these reads, or said by whoever reads the text.
        for (std::size_t i = 0; i < seen.parts.size(); ++i)
            EXPECT_TRUE(seen.parts[i] == reference.parts[i] || seen.parts[i] == "unreadable, and said")
                << "page " << at / page << ", read " << i;
    }
    EXPECT_GT(failures, 5) << "the pages must have mattered";
    std::ofstream(lib() / "library.sqlite", std::ios::binary) << whole;
}

TEST_F(KeptTest, ARecordingThatShrinksUnderAReaderIsMissingThereAndNoDeath) {
    const auto recording = got(library_->open_run({1}));
    const Channel* speed = recording->find("latitude");
    ASSERT_NE(speed, nullptr);
    fs::resize_file(recording_of(1), 4096);
    std::size_t missing = 0;
    for (const Channel& channel : recording->channels) {
        for (std::size_t i = 0; i < channel.size(); ++i) missing += std::isnan(channel.at(i));
    }
    EXPECT_GT(missing, 1000U) << "what is gone reads as missing";
    EXPECT_NE(got(library_->check_recording({1})), "");
    const auto mapping = got(MappedFile::open(second_));
    fs::resize_file(second_, 10);
    EXPECT_FALSE(mapping->shrank());
    EXPECT_EQ(mapping->data()[mapping->size() - 1], '\xff');
    EXPECT_TRUE(mapping->shrank());
}

TEST_F(KeptTest, ALibraryThatCannotBeWrittenCanBeLookedAt) {
    library_.reset();
    const auto place = folder_ / "mounted";
    fs::create_directories(place);
    if (::mount("tmpfs", place.c_str(), "tmpfs", 0, "size=40m") != 0)
        GTEST_SKIP() << "needs root to mount a read-only file system";
    fs::copy(lib(), place / "lib", fs::copy_options::recursive);
    const auto look = [&](const char* how) {
        auto library = Library::open(place / "lib", Library::Open::existing);
        ASSERT_TRUE(library) << how << library.error().text();
        EXPECT_TRUE((*library)->is_look_only()) << how;
        EXPECT_EQ(got((*library)->runs()).size(), 2U) << how;
        EXPECT_EQ(got((*library)->laps({1})).size(), 6U) << how;
        EXPECT_TRUE(load_run(**library, {1})) << how;
        EXPECT_FALSE((*library)->look_only().empty());
        const auto edit = (*library)->switch_lap({{1}, 2}, true, "");
        ASSERT_FALSE(edit) << how << ": an edit that is not kept must not seem kept";
        EXPECT_NE(edit.error().message.find("looked at only"), std::string::npos) << edit.error().text();
        EXPECT_FALSE((*library)->put_track("New", 100, "{}"));
        EXPECT_FALSE((*library)->remove_run({1}));
        EXPECT_FALSE((*library)->set_setting("units", "imperial"));
    };
    ASSERT_EQ(::mount("tmpfs", place.c_str(), "tmpfs", MS_REMOUNT | MS_RDONLY, "size=40m"), 0);
    look("read-only: ");
    ASSERT_EQ(::mount("tmpfs", place.c_str(), "tmpfs", MS_REMOUNT, "size=40m"), 0);
    {
        // Edits that wait in the second file are seen too.
        sqlite3* writer = nullptr;
        ASSERT_EQ(sqlite3_open((place / "lib/library.sqlite").c_str(), &writer), SQLITE_OK);
        sqlite3_exec(writer, "PRAGMA wal_autocheckpoint = 0; UPDATE runs SET name = 'Renamed' WHERE id = 1", nullptr,
                     nullptr, nullptr);
        fs::copy(place / "lib/library.sqlite-wal", folder_ / "kept-wal");
        sqlite3_close(writer);
    }
    for (std::size_t left = 1U << 20; left > 0; left /= 2) {
        std::ofstream filler(place / ("filler" + std::to_string(left)), std::ios::binary);
        const auto room = fs::space(place).available;
        filler << std::string(room, 'x');
        if (room == 0) break;
    }
    auto library = Library::open(place / "lib", Library::Open::existing);
    ASSERT_TRUE(library) << "full disk: " << library.error().text();
    EXPECT_EQ(got((*library)->runs()).size(), 2U);
    EXPECT_EQ(got((*library)->run({1})).name, "Renamed");
    EXPECT_TRUE(load_run(**library, {1}));
    library->reset();
    ::umount2(place.c_str(), MNT_DETACH);
}

TEST_F(KeptTest, ANewLibraryIsForItsOwnerAlone) {
    struct stat info {};
    ASSERT_EQ(::stat(lib().c_str(), &info), 0);
    EXPECT_EQ(info.st_mode & 0777, 0700U);
}

TEST_F(KeptTest, TheCataloguesOwnWordsStayInside) {
    ASSERT_TRUE(library_->put_track("Other", 100, "{}"));
    const auto taken = library_->rename_track({2}, "Oval");
    ASSERT_FALSE(taken);
    // A name that slips through every check is still no SQL on the screen.
    sqlite3* database = nullptr;
    sqlite3_open((lib() / "library.sqlite").c_str(), &database);
    sqlite3_exec(database, "CREATE UNIQUE INDEX drivers_once ON runs (name)", nullptr, nullptr, nullptr);
    sqlite3_exec(database, "CREATE TRIGGER refuse BEFORE INSERT ON events BEGIN SELECT RAISE(ABORT, 'UNIQUE'); END",
                 nullptr, nullptr, nullptr);
    sqlite3_close(database);
    RunFacts facts = got(library_->run({1}));
    facts.name = got(library_->run({2})).name;
    for (const auto& failed : {library_->set_facts({1}, facts), library_->put_event({{}, "New", "", "", "", ""})}) {
        ASSERT_FALSE(failed);
        for (const char* word : {"UNIQUE", "constraint", "SQL", "runs.name"})
            EXPECT_EQ(failed.error().message.find(word), std::string::npos) << failed.error().message;
    }
}

TEST_F(KeptTest, TracksFollowTheCatalogueAndLeaveNothingBehind) {
    const auto text = got(library_->track_geojson({1}));
    fs::remove(lib() / "tracks/oval.geojson");
    open();
    EXPECT_EQ(read_all(lib() / "tracks/oval.geojson"), text) << "written again from the catalogue";
    ASSERT_TRUE(library_->put_track("Spare", 1256.6, text));
    ASSERT_TRUE(fs::exists(lib() / "tracks/spare.geojson"));
    ASSERT_TRUE(library_->remove_track({2}));
    EXPECT_FALSE(fs::exists(lib() / "tracks/spare.geojson"));
    folder_.write("lib/tracks/.rendak-part-0a1b2c3d-1-2-oval.geojson", "half");
    open();
    EXPECT_EQ(std::distance(fs::directory_iterator(lib() / "tracks"), fs::directory_iterator()), 1);
}

TEST_F(KeptTest, AFailedActOfSeveralEditsIsNoEditAtAll) {
    const auto before = got(library_->run({1}));
    const auto marks = got(library_->marks({1}));
    {
        Library::Act act(*library_);
        ASSERT_TRUE(act.begun());
        RunFacts facts = before;
        facts.driver = "Somebody";
        ASSERT_TRUE(library_->set_facts({1}, facts));
        {
            Library::Act inner(*library_);
            ASSERT_TRUE(inner.begun());
            ASSERT_TRUE(library_->set_mark_range(marks[0].id, {1, 2}));
            ASSERT_TRUE(inner.commit());
        }
        ASSERT_TRUE(library_->put_track("Oval", 900, "{}"));
    }
    EXPECT_EQ(got(library_->run({1})).driver, before.driver);
    EXPECT_EQ(got(library_->marks({1}))[0].range_m, marks[0].range_m);
    EXPECT_EQ(read_all(lib() / "tracks/oval.geojson"), got(library_->track_geojson({1})));
}

TEST_F(KeptTest, BundlesComeInWhileOthersOpenTheLibrary) {
    ASSERT_TRUE(write_bundle(*library_, {.runs = {{1}, {2}}}, folder_ / "runs.zip"));
    for (int i = 0; i < 8; ++i) {
        const auto lib = folder_ / ("other" + std::to_string(i));
        auto library = std::move(*Library::open(lib));
        std::atomic<bool> done{false};
        std::thread opener([&] {
            while (!done) (void)Library::open(lib);
        });
        const auto taken = take_bundle(*library, folder_ / "runs.zip");
        done = true;
        opener.join();
        ASSERT_TRUE(taken) << taken.error().text();
        EXPECT_EQ(got(library->runs()).size(), 2U);
        EXPECT_FALSE(got(library->laps({1}))[2].included) << "the switch came with its run";
    }
}

TEST_F(KeptTest, ABundleThatMeetsAFullDiskSaysWhatIsIn) {
    ASSERT_TRUE(write_bundle(*library_, {.runs = {{1}, {2}}}, folder_ / "runs.zip"));
    const auto place = folder_ / "small";
    fs::create_directories(place);
    if (::mount("tmpfs", place.c_str(), "tmpfs", 0, "size=2m") != 0) GTEST_SKIP() << "needs root to mount a tmpfs";
    int failed = 0, with_tracks = 0;
    for (const std::size_t leave : {20'000U, 60'000U, 100'000U, 140'000U, 180'000U, 220'000U, 260'000U}) {
        auto library = std::move(*Library::open(place / "lib"));
        const auto room = fs::space(place).available;
        std::ofstream(place / "filler", std::ios::binary) << std::string(room - leave, 'x');
        const auto taken = take_bundle(*library, folder_ / "runs.zip");
        fs::remove(place / "filler");
        if (!taken) {
            ++failed;
            EXPECT_NE(taken.error().message.find("disk is full"), std::string::npos) << taken.error().text();
            EXPECT_EQ(taken.error().message.find("othing was changed"), std::string::npos) << taken.error().text();
            for (const TrackRow& row : got(library->tracks())) {
                ++with_tracks;
                EXPECT_NE(taken.error().message.find(row.name), std::string::npos) << taken.error().text();
            }
            EXPECT_TRUE(take_bundle(*library, folder_ / "runs.zip")) << "with room it goes on";
        }
        EXPECT_EQ(got(library->runs()).size(), 2U);
        library.reset();
        fs::remove_all(place / "lib");
    }
    EXPECT_GT(failed, 0);
    EXPECT_GT(with_tracks, 0);
    ::umount2(place.c_str(), MNT_DETACH);
}
