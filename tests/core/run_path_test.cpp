// The path of a run, kept beside its recording: the same numbers, found again, made anew when it is damaged or stale.
#include "core/intake/run_path.h"

#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>

#include "core/intake/edit_track.h"
#include "core/intake/import.h"
#include "core/intake/place_run.h"
#include "core/intake/run_data.h"
#include "core/intake/run_recording.h"
#include "core/intake/shared_track.h"
#include "core/library/whole_files.h"
#include "core/track/edit.h"
#include "tests/support/demo_data.h"
#include "tests/support/got.h"
#include "tests/support/temp_folder.h"

namespace rendak {
namespace {

namespace fs = std::filesystem;
using test::got;

class RunPathTest : public testing::Test {
  protected:
    void SetUp() override {
        test::copy_library(test::saturday_library(), folder_.path());
        fs::remove_all(folder_.path() / "derived");
        library_ = got(Library::open(folder_.path()));
    }
    std::shared_ptr<const RunData> opened(std::int64_t run = 2) { return got(load_run(*library_, {run})); }
    std::vector<fs::path> kept() {
        std::vector<fs::path> out;
        std::error_code none;
        for (const auto& entry : fs::directory_iterator(folder_.path() / "derived", none)) {
            if (entry.path().extension() == ".path") out.push_back(entry.path());
        }
        return out;
    }
    static void expect_same(const Path& a, const Path& b) {
        ASSERT_EQ(a.size(), b.size());
        EXPECT_EQ(a.noise_m, b.noise_m);
        EXPECT_EQ(a.by_shape, b.by_shape);
        EXPECT_EQ(a.origin.latitude_deg, b.origin.latitude_deg);
        for (std::size_t i = 0; i < a.size(); ++i) {
            ASSERT_EQ(a.time_s[i], b.time_s[i]) << i;
            ASSERT_EQ(a.position[i].x, b.position[i].x) << i;
            ASSERT_EQ(a.velocity[i].y, b.velocity[i].y) << i;
            ASSERT_EQ(a.distance_m[i], b.distance_m[i]) << i;
            ASSERT_EQ(a.bridged[i], b.bridged[i]) << i;
            ASSERT_EQ(a.sd_m[i], b.sd_m[i]) << i;
        }
    }
    void damage(const fs::path& file, std::streamoff at) {
        std::fstream stream(file, std::ios::in | std::ios::out | std::ios::binary);
        stream.seekg(at);
        const char before = static_cast<char>(stream.get());
        stream.seekp(at);
        stream.put(static_cast<char>(before ^ 0x40));
    }

    test::TempFolder folder_;
    std::unique_ptr<Library> library_;
};

TEST_F(RunPathTest, IsComputedOnceAndFoundAgain) {
    const auto recording = got(run_recording(*library_, {2}));
    const Track track = got(read_track(*library_, {1}));
    const Path computed = got(driven_path(recording, &track));
    const auto first = opened(), second = opened();
    ASSERT_EQ(kept().size(), 1u);
    expect_same(*first->path, computed);
    expect_same(*second->path, computed);
    // Not in memory: both are views of one file.
    const auto written = fs::last_write_time(kept().front());
    (void)opened();
    EXPECT_EQ(fs::last_write_time(kept().front()), written);
}

TEST_F(RunPathTest, AnImportLeavesItBehindForWhoOpensTheRun) {
    const Recording before = *got(library_->open_run({2}));
    const auto expected = opened();
    for (const bool known : {true, false}) {
        const test::TempFolder other;
        const auto fresh = got(Library::open(other.path()));
        if (known) {
            const Track track = got(read_track(*library_, {1}));
            ASSERT_TRUE(fresh->put_track(track.name, track.length_m, got(library_->track_geojson({1}))));
        }
        Recording recording = before;
        recording.digest.clear();
        const auto imported = got(import_recording(*fresh, {recording, {}}, {}));
        std::vector<fs::path> files;
        for (const auto& entry : fs::directory_iterator(other.path() / "derived"))
            if (entry.path().extension() == ".path") files.push_back(entry.path());
        ASSERT_EQ(files.size(), 1u) << known;
        const auto written = fs::last_write_time(files.front());
        const auto run = got(load_run(*fresh, imported.run));
        EXPECT_TRUE(fs::exists(files.front())) << "the same key: nothing was computed again";
        EXPECT_EQ(fs::last_write_time(files.front()), written);
        if (known) expect_same(*run->path, *expected->path);
    }
}

TEST_F(RunPathTest, AccelerationsComeFromItWhereNoneAreLogged) {
    const auto logged = got(library_->open_run({2}));
    for (const Channel& it : logged->channels) {
        if (it.quantity == "lateral_acceleration" || it.quantity == "longitudinal_acceleration")
            ASSERT_TRUE(library_->set_unused({2}, it.name, true)) << it.name;
    }
    const auto first = opened(), again = opened();
    const Channel *a = first->recording->find_logged("lateral_acceleration"),
                  *b = again->recording->find_logged("lateral_acceleration");
    ASSERT_NE(a, nullptr);
    ASSERT_NE(b, nullptr);
    ASSERT_EQ(a->size(), b->size());
    for (std::size_t i = 0; i < a->size(); i += 7) ASSERT_EQ(a->at(i), b->at(i)) << i;
    EXPECT_FALSE(b->overview.empty()) << "hours are drawn from their overview";
    EXPECT_EQ(b->unit, "m/s²");
}

TEST_F(RunPathTest, WhatItDependsOnMakesItAnew) {
    const auto before = opened();
    ASSERT_EQ(kept().size(), 1u);
    const auto file = kept().front();
    PlaceCorrection off;
    off.east_m = 4;
    ASSERT_TRUE(library_->set_place_correction({2}, off));
    const auto moved = opened();
    EXPECT_NEAR(moved->path->lasting_error.x, before->path->lasting_error.x - 4, 0.5);
    ASSERT_EQ(kept().size(), 1u) << "the old one goes";
    EXPECT_NE(kept().front(), file);
    ASSERT_TRUE(library_->set_flipped({2}, "yaw_rate", true));
    (void)opened();
    EXPECT_NE(kept().front(), file);
}

TEST_F(RunPathTest, DamageIsNoticedAndMended) {
    const auto good = opened();
    const Path copy = *good->path;
    std::vector<double> places;
    for (std::size_t i = 0; i < copy.size(); i += 100) places.push_back(copy.position[i].x);
    WholeFiles::forget();
    damage(kept().front(), 200'000);
    const auto again = opened();
    for (std::size_t i = 0, k = 0; i < again->path->size(); i += 100, ++k)
        ASSERT_EQ(again->path->position[i].x, places[k]);
    // Cut short, emptied, replaced by something else, without its digest: computed again each time.
    for (const std::uintmax_t size : {std::uintmax_t{1000}, std::uintmax_t{0}}) {
        fs::resize_file(kept().front(), size);
        EXPECT_EQ(opened()->path->size(), copy.size());
    }
    fs::path digest = kept().front();
    digest += ".digest";
    fs::remove(digest);
    EXPECT_EQ(opened()->path->size(), copy.size());
    std::ofstream(kept().front()) << "not a path";
    EXPECT_EQ(opened()->path->size(), copy.size());
}

TEST_F(RunPathTest, GoesWithItsRecording) {
    (void)opened(2);
    (void)opened(3);
    ASSERT_EQ(kept().size(), 2u);
    ASSERT_TRUE(library_->remove_run({2}));
    library_.reset();
    library_ = got(Library::open(folder_.path()));
    ASSERT_EQ(kept().size(), 1u) << "swept at the next start";
    EXPECT_TRUE(opened(3)->path != nullptr);
}

TEST_F(RunPathTest, AFolderThatCannotHoldItOnlyCostsTime) {
    fs::remove_all(folder_.path() / "derived");
    std::ofstream(folder_.path() / "derived") << "a file where the folder should be";
    const auto run = opened();
    ASSERT_NE(run->path, nullptr);
    EXPECT_GT(run->path->size(), 10'000u);
}

TEST_F(RunPathTest, AFileThatWasWholeIsNotReadAgainForADayUnlessItIsTouched) {
    const WholeFiles whole(folder_.path());
    const auto file = folder_.write("some.bin", "content");
    EXPECT_FALSE(whole.holds(file, "d1"));
    whole.add(file, "d1", true);
    EXPECT_TRUE(whole.holds(file, "d1"));
    WholeFiles::forget();  // as another process
    EXPECT_TRUE(whole.holds(file, "d1"));
    EXPECT_FALSE(whole.holds(file, "d2"));
    WholeFiles::forget();
    folder_.write("some.bin", "contemt");
    EXPECT_FALSE(whole.holds(file, "d1")) << "written to";
    // A note of the day before yesterday, and one of the future, say nothing.
    whole.add(file, "d1", true);
    const auto note = folder_.path() / "derived/some.bin.whole";
    std::ifstream stream(note);
    std::string text((std::istreambuf_iterator<char>(stream)), {});
    for (const double by : {-2.0 * 86400, 2.0 * 86400}) {
        const auto space = text.find(' ');
        std::ofstream(note) << std::fixed << std::strtod(text.c_str(), nullptr) + by << text.substr(space);
        WholeFiles::forget();
        EXPECT_FALSE(whole.holds(file, "d1")) << by;
    }
}

}  // namespace
}  // namespace rendak
