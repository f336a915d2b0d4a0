// Films that a library knows: linked or kept, found again, on which runs they lie.
#include <gtest/gtest.h>

#include <algorithm>
#include <filesystem>

#include "core/bundle/bundle.h"
#include "core/video/film_book.h"
#include "tests/support/demo_data.h"
#include "tests/support/got.h"
#include "tests/support/made_film.h"
#include "tests/support/temp_folder.h"

namespace rendak {
namespace {

namespace fs = std::filesystem;
using test::got;

class FilmBook : public testing::Test {
  protected:
    void SetUp() override {
        test::copy_library(test::saturday_library(), folder_ / "lib");
        library_ = got(Library::open(folder_ / "lib"));
        fs::create_directories(folder_ / "card");
    }
    fs::path film(const std::string& name, int frames = 50, int first = 0, const std::string& start = {}) {
        test::MadeFilm made;
        made.frames = frames;
        made.first_number = first;
        made.wish.file = (folder_ / ("card/" + name)).string();
        made.wish.start = start;
        test::write_film(made);
        return made.wish.file;
    }
    test::TempFolder folder_;
    std::unique_ptr<Library> library_;
};

TEST_F(FilmBook, LinksOrKeeps) {
    const fs::path linked = film("a.mp4"), kept = film("b.mp4", 60, 500);
    const KeptFilm a = got(add_film(*library_, {{linked}, "forward", "27", false}));
    const KeptFilm b = got(add_film(*library_, {{kept}, "driver", "27", true}));
    EXPECT_EQ(a.files[0].file, linked.string());
    EXPECT_EQ(b.files[0].file, "b.mp4");
    EXPECT_TRUE(fs::exists(library_->folder() / "videos/b.mp4"));
    EXPECT_EQ(a.frames, 50U);
    EXPECT_EQ(a.width, 320);
    const auto films = got(kept_films(*library_));
    ASSERT_EQ(films.size(), 2U);
    EXPECT_EQ(films[0], a);
    EXPECT_EQ(films[1], b);
    // The same again is told from its content, whatever it is called.
    fs::copy_file(linked, folder_ / "card/copy.mp4");
    const auto again = add_film(*library_, {{folder_ / "card/copy.mp4"}, "forward", "27", true});
    ASSERT_FALSE(again);
    EXPECT_EQ(again.error().code, ErrorCode::exists);
    EXPECT_FALSE(fs::exists(library_->folder() / "videos/copy.mp4"));
    // What is no film leaves nothing, and neither does a cancel.
    EXPECT_FALSE(add_film(*library_, {{folder_.write("no.mp4", "nothing")}, "forward", "", true}));
    std::stop_source stop;
    stop.request_stop();
    EXPECT_FALSE(add_film(*library_, {{film("c.mp4", 50, 900)}, "forward", "", true}, {stop.get_token(), {}}));
    EXPECT_EQ(got(kept_films(*library_)).size(), 2U);
    // Taken out: a copy goes, a file that was linked to stays.
    ASSERT_TRUE(drop_film(*library_, a.id));
    ASSERT_TRUE(drop_film(*library_, b.id));
    EXPECT_TRUE(fs::exists(linked));
    EXPECT_FALSE(fs::exists(library_->folder() / "videos/b.mp4"));
    EXPECT_FALSE(drop_film(*library_, b.id));
}

TEST_F(FilmBook, WhatHasMovedIsFoundByItsContent) {
    const fs::path file = film("a.mp4");
    const KeptFilm a = got(add_film(*library_, {{file}, "forward", "", false}));
    EXPECT_TRUE(film_paths(*library_, a));
    fs::create_directories(folder_ / "disk/deep");
    fs::rename(file, folder_ / "disk/deep/renamed.mp4");
    film("a.mp4", 50, 77);  // another one of the same name is not it
    fs::rename(folder_ / "card/a.mp4", folder_ / "disk/other.mp4");
    const auto gone = film_paths(*library_, a);
    ASSERT_FALSE(gone);
    EXPECT_NE(gone.error().message.find("no longer where it was"), std::string::npos);
    EXPECT_EQ(got(find_films_again(*library_, folder_ / "card")), 0U);
    EXPECT_EQ(got(find_films_again(*library_, folder_ / "disk")), 1U);
    const KeptFilm now = got(kept_film(*library_, a.id));
    EXPECT_EQ(got(film_paths(*library_, now))[0], (folder_ / "disk/deep/renamed.mp4").string());
}

TEST_F(FilmBook, FilesThatFollowEachOtherAreOne) {
    film("GX01.mp4", 250, 0, "2026-04-18T09:00:00Z");
    film("GX02.mp4", 250, 250, "2026-04-18T09:00:10Z");
    film("GX03.mp4", 100, 500, "2026-04-18T09:00:20Z");
    film("HX01.mp4", 100, 600, "2026-04-18T11:30:00Z");
    folder_.write("card/notes.txt", "no film");
    folder_.write("card/broken.mp4", "no film either");
    const auto groups = got(films_in(folder_ / "card"));
    ASSERT_EQ(groups.size(), 2U);
    ASSERT_EQ(groups[0].size(), 3U);
    EXPECT_EQ(groups[0][2].filename(), "GX03.mp4");
    EXPECT_EQ(groups[1].size(), 1U);
    const KeptFilm whole = got(add_film(*library_, {groups[0], "forward", "", false}));
    EXPECT_EQ(whole.frames, 600U);
    EXPECT_NEAR(whole.duration_s, 24, 0.01);
    EXPECT_EQ(whole.start_unix_s, 1776502800.0);
    EXPECT_FALSE(films_in(folder_ / "lib/tracks")) << "a folder without films says so";
    EXPECT_FALSE(films_in(folder_ / "nowhere"));
}

TEST_F(FilmBook, KnowsWhereItLiesOnRuns) {
    const KeptFilm a = got(add_film(*library_, {{film("a.mp4")}, "forward", "", false}));
    ASSERT_TRUE(place_film(*library_, a.id, {{2}, {100.5, 1}, "by hand", {}}));
    ASSERT_TRUE(place_film(*library_, a.id, {{3}, {-7, 1.0001}, "turning", {{1, 2}}}));
    ASSERT_TRUE(place_film(*library_, a.id, {{2}, {101, 1}, "by hand", {}}));
    const KeptFilm now = got(kept_film(*library_, a.id));
    ASSERT_EQ(now.places.size(), 2U);
    ASSERT_NE(now.place_on({2}), nullptr);
    EXPECT_EQ(now.place_on({2})->at.offset_s, 101);
    EXPECT_EQ(now.place_on({3})->marks.size(), 1U);
    EXPECT_EQ(now.place_on({1}), nullptr);
    ASSERT_TRUE(unplace_film(*library_, a.id, {3}));
    EXPECT_EQ(got(kept_film(*library_, a.id)).place_on({3}), nullptr);
    EXPECT_FALSE(place_film(*library_, a.id, {{99}, {0, 1}, "", {}})) << "there is no such run";
    EXPECT_FALSE(place_film(*library_, a.id, {{2}, {0, 1.5}, "", {}})) << "no clock runs like that";
    const FilmOffset at{100.5, 1.0002};
    EXPECT_NEAR(at.film_s(at.run_s(47.25)), 47.25, 1e-12);
}

TEST_F(FilmBook, TravelsInABundleWhenAskedFor) {
    const KeptFilm a = got(add_film(*library_, {{film("a.mp4"), film("b.mp4", 60, 500)}, "forward", "27", false}));
    (void)got(add_film(*library_, {{film("c.mp4", 70, 900)}, "driver", "27", true}));
    ASSERT_TRUE(place_film(*library_, a.id, {{3}, {12.5, 1.0001}, "by hand", {{1, 13.5}}}));
    const auto plain = folder_ / "plain.zip", with = folder_ / "with.zip";
    ASSERT_TRUE(write_bundle(*library_, {.runs = {{2}, {3}}}, plain));
    ASSERT_TRUE(write_bundle(*library_, {.runs = {{2}, {3}}, .films = true}, with));
    const auto other = got(Library::open(folder_ / "other"));
    const auto items = got(preview_bundle(*other, with));
    const auto is_film = [](const BundleItem& it) { return it.kind == BundleItem::Kind::film; };
    ASSERT_EQ(std::count_if(items.begin(), items.end(), is_film), 1) << "only what lies on these runs";
    const auto before = got(preview_bundle(*other, plain));
    EXPECT_EQ(std::count_if(before.begin(), before.end(), is_film), 0);
    const auto taken = got(take_bundle(*other, with));
    ASSERT_EQ(taken.runs.size(), 2U);
    const auto films = got(kept_films(*other));
    ASSERT_EQ(films.size(), 1U);
    EXPECT_EQ(films[0].camera, "forward");
    ASSERT_EQ(films[0].files.size(), 2U);
    ASSERT_NE(films[0].place_on(taken.runs[1]), nullptr);
    EXPECT_EQ(films[0].place_on(taken.runs[1])->at, (FilmOffset{12.5, 1.0001}));
    FilmReader reader = got(FilmReader::open(got(film_paths(*other, films[0]))));
    EXPECT_EQ(test::number_in(got(reader.picture(55, 320, 180)), 320, 180), 505);
    // Taken again, it is there.
    EXPECT_TRUE(got(take_bundle(*other, with)).runs.empty());
    EXPECT_EQ(got(kept_films(*other)).size(), 1U);
    // A film that is missing is said, and nothing is written.
    fs::remove(folder_ / "card/a.mp4");
    EXPECT_FALSE(write_bundle(*library_, {.runs = {{3}}, .films = true}, folder_ / "no.zip"));
    EXPECT_FALSE(fs::exists(folder_ / "no.zip"));
}

TEST(FilmMarks, OneGivesTheOffsetTwoTheDrift) {
    const auto one = got(offset_of_marks({{10, 110}}));
    EXPECT_EQ(one.offset_s, 100);
    EXPECT_EQ(one.rate, 1);
    // Two that lie close tell the offset better, and no drift.
    const auto close = got(offset_of_marks({{10, 110}, {12, 112.04}}));
    EXPECT_NEAR(close.offset_s, 100.02, 1e-9);
    EXPECT_EQ(close.rate, 1);
    const auto two = got(offset_of_marks({{10, 110}, {610, 710.06}}));
    EXPECT_NEAR(two.rate, 1.0001, 1e-9);
    EXPECT_NEAR(two.run_s(310), 410.03, 1e-6);
    EXPECT_FALSE(offset_of_marks({{10, 110}, {610, 800}}));
    EXPECT_FALSE(offset_of_marks({{10, 110}, {12, 115}}));
    EXPECT_FALSE(offset_of_marks({}));
}

}  // namespace
}  // namespace rendak
