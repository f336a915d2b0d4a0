// The Video desk in the real window: the frame of the cursor's moment, exactly; putting in step; clips; missing films.
#include <QComboBox>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <cmath>
#include <fstream>
#include <nlohmann/json.hpp>
#include <numbers>
#include <span>

#include "app/desks/video/clip_dialog.h"
#include "app/desks/video/moment_strip.h"
#include "app/desks/video/video_desk.h"
#include "app/film/film_speaker.h"
#include "app/film/sound_stream.h"
#include "app/jobs/wait_until.h"
#include "core/video/film_book.h"
#include "tests/app/window_fixture.h"
#include "tests/support/got.h"
#include "tests/support/made_film.h"

namespace rendak::app {
namespace {

using test::got;

class VideoDeskTest : public WindowTest {
  protected:
    void SetUp() override {
        test::copy_library(test::weekend_library(), folder_.path());
        truth_ = nlohmann::json::parse(test::read_all(folder_ / "truth/films.json"));
        open_window();
    }
    VideoDesk& desk() { return window_->desk_of<VideoDesk>(); }
    Library& library() { return window_->workspace().library(); }
    void open_with(const std::vector<std::int64_t>& runs) {
        for (const std::int64_t run : runs) window_->workspace().pick_best({run});
        window_->show_desk(QStringLiteral("video"));
        frames();
    }
    /// Until nothing is computed and every frame is there.
    void frames() {
        settle();
        ASSERT_TRUE(wait_until([this] { return window_->workspace().jobs().idle() && desk().up_to_date(); }, 600));
    }
    void press(const char* name) {
        auto* button = desk().findChild<QPushButton*>(QLatin1String(name));
        ASSERT_TRUE(button != nullptr && button->isVisible() && button->isEnabled()) << name;
        QTest::mouseClick(button, Qt::LeftButton);
        frames();
    }
    double truth(const char* name) { return truth_[name]; }
    nlohmann::json truth_;
};

TEST_F(VideoDeskTest, ShowsTheFrameOfTheCursorOfBothLaps) {
    open_with({2, 3});
    auto tiles = desk().shown_tiles();
    ASSERT_EQ(tiles.size(), 3U) << "two cameras of A, one of B that is in step";
    EXPECT_EQ(desk().headline(), QStringLiteral("A Run 2, lap 4 and B Run 3, lap 1, at the same place"));
    for (const double at_m : {900.0, 2150.0, 3300.0}) {
        focus().set_cursor(at_m);
        frames();
        const auto check = [&](FilmTile& tile, const char* name, int slot) {
            const double run_s = laps().laps[static_cast<std::size_t>(slot)].lap.map.time_at(at_m);
            const double frame = (run_s - truth(name)) * 25;
            EXPECT_NEAR(static_cast<double>(*tile.wanted_frame()) + 0.5, frame, 1.5) << name << at_m;
            EXPECT_EQ(tile.film()->source->shown(), tile.wanted_frame());
            EXPECT_TRUE(tile.message().isEmpty()) << tile.message().toStdString();
        };
        check(*tiles[0], "saturday-run-2-forward.mp4", 0);
        check(*tiles[1], "saturday-run-2-driver.mp4", 0);
        check(*tiles[2], "saturday-run-3-forward.mp4", 1);
    }
    keep_picture(window_.get(), QStringLiteral("video"));
    // After the same time the slower one is not there yet: its frame is an earlier one.
    const auto frame = *tiles[2]->wanted_frame();
    auto* lock = desk().findChild<QComboBox*>(QStringLiteral("video-lock"));
    lock->setCurrentIndex(1);
    Q_EMIT lock->activated(1);
    frames();
    EXPECT_LT(*tiles[2]->wanted_frame(), frame);
    // A frame on, a frame back.
    const auto now = *tiles[0]->wanted_frame();
    QTest::keyClick(&desk(), Qt::Key_Period);
    frames();
    EXPECT_EQ(*tiles[0]->wanted_frame(), now + 1);
    QTest::keyClick(&desk(), Qt::Key_Comma);
    frames();
    EXPECT_EQ(*tiles[0]->wanted_frame(), now);
    // Played, the pictures go on.
    desk().replay().start();
    desk().replay().advance(1);
    desk().replay().stop();
    frames();
    EXPECT_NEAR(static_cast<double>(*tiles[0]->wanted_frame()), static_cast<double>(now) + 25, 2);
    // Any as the large one, and over the whole screen.
    QTest::mouseDClick(tiles[1], Qt::LeftButton);
    frames();
    EXPECT_GT(tiles[1]->width(), 2 * tiles[0]->width());
    keep_picture(window_.get(), QStringLiteral("video-large"));
    QTest::mouseClick(tiles[0], Qt::LeftButton);
    EXPECT_EQ(desk().chosen_tile(), tiles[0]);
    desk().set_full_screen(true);
    frames();
    EXPECT_TRUE(tiles[0]->isVisible());
    EXPECT_NE(tiles[0]->window(), window_.get());
    keep_picture(tiles[0], QStringLiteral("video-full"));
    desk().set_full_screen(false);
    frames();
    EXPECT_EQ(tiles[0]->window(), window_.get());
}

TEST_F(VideoDeskTest, StandsBesideTheTracesToo) {
    compare_best();
    auto& beside = window_->desk_of<CompareDesk>().beside();
    beside.show_picture(Beside::Picture::film);
    const auto wait = [&] {
        settle();
        ASSERT_TRUE(wait_until([&] { return beside.films().up_to_date(); }, 600));
    };
    focus().set_cursor(2150);
    wait();
    for (const std::size_t k : {0U, 1U}) {
        const double run_s = laps().laps[k].lap.map.time_at(2150);
        const double frame = (run_s - truth(k == 0 ? "saturday-run-2-forward.mp4" : "saturday-run-3-forward.mp4")) * 25;
        EXPECT_NEAR(static_cast<double>(*beside.films().tile(k).wanted_frame()) + 0.5, frame, 1.5);
    }
    keep_picture(window_.get(), QStringLiteral("compare-film"));
    // Played, the film that was clicked is heard, A's at first.
    FilmsBeside& films = beside.films();
    EXPECT_FALSE(films.to_hear());
    key(Qt::Key_Space);
    ASSERT_TRUE(films.to_hear());
    EXPECT_EQ(films.to_hear()->files, films.tile(0).film()->source->files());
    EXPECT_NEAR(films.to_hear()->film_s, films.tile(0).film_s(), 1e-9);
    const auto shown = films.tile(0).film()->moments;
    QTest::mouseClick(&films.tile(1), Qt::LeftButton);
    EXPECT_EQ(films.to_hear()->files, films.tile(1).film()->source->files());
    EXPECT_EQ(films.tile(0).film()->moments, shown) << "what is shown was not read anew";
    auto* button = beside.findChild<QPushButton*>(QStringLiteral("film-sound"));
    QTest::mouseClick(button, Qt::LeftButton);
    EXPECT_FALSE(films.to_hear());
    const QString silent = beside.state();
    QTest::mouseClick(button, Qt::LeftButton);
    EXPECT_TRUE(films.to_hear());
    beside.restore(silent);
    EXPECT_FALSE(button->isChecked()) << "as it was left";
    button->setChecked(true);
    beside.show_picture(Beside::Picture::values);
    EXPECT_FALSE(films.to_hear()) << "what is not seen is not heard";
    beside.show_picture(Beside::Picture::film);
    key(Qt::Key_Space);
    EXPECT_FALSE(films.to_hear());
    QTest::mouseDClick(&beside.films().tile(0), Qt::LeftButton);
    frames();
    EXPECT_TRUE(desk().isVisible());
}

TEST_F(VideoDeskTest, WhereTheFilmDoesNotReachItSaysSo) {
    // Only one lap of each run was filmed.
    window_->workspace().pick({{2}, 2});
    open_with({});
    ASSERT_GE(desk().shown_tiles().size(), 1U);
    focus().set_cursor(2000);
    frames();
    EXPECT_EQ(desk().shown_tiles()[0]->message(), QStringLiteral("The film does not cover this place."));
    EXPECT_FALSE(desk().shown_tiles()[0]->wanted_frame());
    keep_picture(window_.get(), QStringLiteral("video-not-covered"));
}

TEST_F(VideoDeskTest, IsPutInStepByHandByMarksAndByItself) {
    open_with({2, 3});
    auto* tile = desk().shown_tiles()[0];
    QTest::mouseClick(tile, Qt::LeftButton);
    EXPECT_TRUE(desk().told().contains(QStringLiteral("in step by hand"))) << desk().told().toStdString();
    const double before = tile->film()->place->at.offset_s;
    press("video-frame-on");
    EXPECT_NEAR(tile->film()->place->at.offset_s, before + 0.04, 1e-9);
    press("video-second-back");
    EXPECT_NEAR(tile->film()->place->at.offset_s, before - 0.96, 1e-9);
    window_->workspace().session()->undo();
    window_->workspace().session()->undo();
    frames();
    EXPECT_NEAR(tile->film()->place->at.offset_s, before, 1e-9);
    // An event in both: the picture is held while the cursor goes to it.
    focus().set_cursor(2000);
    frames();
    const double film_s = tile->film_s();
    press("video-mark");
    EXPECT_TRUE(tile->holds());
    focus().set_cursor(2100);
    frames();
    EXPECT_EQ(tile->film_s(), film_s);
    press("video-mark");
    EXPECT_FALSE(tile->holds());
    const double run_s = laps().laps[0].lap.map.time_at(2100);
    EXPECT_NEAR(tile->film()->place->at.offset_s, run_s - film_s, 1e-6);
    EXPECT_EQ(tile->film()->place->marks.size(), 1U);
    // And back to where it is by itself.
    press("video-propose");
    EXPECT_NEAR(tile->film()->place->at.offset_s, truth("saturday-run-2-forward.mp4"), 0.08);
    EXPECT_TRUE(desk().told().contains(QStringLiteral("told by turning"))) << desk().told().toStdString();
    EXPECT_NEAR(got(kept_film(library(), tile->film()->film.id)).place_on({2})->at.offset_s,
                truth("saturday-run-2-forward.mp4"), 0.08);
}

TEST_F(VideoDeskTest, AClipHasTheFramesAndTheFigures) {
    open_with({2, 3});
    const QString file = QString::fromStdString((folder_ / "clip.mp4").string());
    desk().write_clip(
        {.both = true, .beside = true, .range_m = Interval{1950, 2050}, .lead_s = 0.5, .size = {}, .file = file});
    frames();
    FilmReader clip = got(FilmReader::open({file.toStdString()}));
    EXPECT_EQ(clip.facts().width, 800);
    EXPECT_EQ(clip.facts().height, 224);
    EXPECT_TRUE(clip.facts().sound);
    const PreparedLap& lap = laps().laps[0].lap;
    const double seconds = lap.map.time_at(2050) - lap.map.time_at(1950) + 0.5;
    EXPECT_NEAR(static_cast<double>(clip.facts().frames), seconds * 25, 2);
    // Each frame is the film's of that moment: held against it, away from the figures.
    const double first_s = lap.map.time_at(1950) - 0.5;
    const auto& of = *desk().shown_tiles()[0]->film();
    FilmReader film = got(FilmReader::open(got(film_paths(library(), of.film))));
    for (const std::size_t k : {std::size_t{0}, clip.facts().frames / 2, clip.facts().frames - 1}) {
        const auto wanted = film.frame_at(of.place->at.film_s(first_s + static_cast<double>(k) / 25));
        const auto source = got(film.picture(*wanted, 400, 224));
        const std::vector<std::uint8_t> expected(source.begin(), source.end());
        const auto pixels = got(clip.picture(k, 800, 224));
        double off = 0;
        int count = 0;
        for (int y = 80; y < 150; ++y) {
            for (int x = 100; x < 300; ++x, ++count)
                off += std::abs(int{pixels[static_cast<std::size_t>(y * 800 + x) * 4 + 1]} -
                                int{expected[static_cast<std::size_t>(y * 400 + x) * 4 + 1]});
        }
        EXPECT_LT(off / count, 6) << k;
        // The strip of figures is dark where the film is not.
        int dark = 0;
        for (int x = 15; x < 170; ++x) dark += pixels[static_cast<std::size_t>(205 * 800 + x) * 4 + 1] < 90 ? 1 : 0;
        EXPECT_GT(dark, 60);
        if (qEnvironmentVariableIsSet("RENDAK_PICTURES") && k > 0)
            keep_image(QImage(pixels.data(), 800, 224, QImage::Format_RGB32).copy(), QStringLiteral("video-clip"));
    }
    // What nobody filmed is not written.
    const QString other = QString::fromStdString((folder_ / "other.mp4").string());
    window_->workspace().focus().clear_laps();
    window_->workspace().pick({{2}, 2});
    frames();
    desk().write_clip({.file = other});
    frames();
    EXPECT_FALSE(std::filesystem::exists(other.toStdString()));
    // The dialog says how large it becomes.
    ClipDialog dialog({{1920, 1080}, 50, 106, 12, 0, {100, 500}, {}, {}, true}, window_.get());
    EXPECT_TRUE(dialog.findChild<QComboBox*>(QStringLiteral("clip-laps"))->count() == 3);
    EXPECT_EQ(dialog.findChild<QComboBox*>(QStringLiteral("clip-part"))->count(), 2);
    dialog.findChild<QComboBox*>(QStringLiteral("clip-part"))->setCurrentIndex(1);
    EXPECT_EQ(dialog.clip().range_m, (Interval{100, 500}));
}

TEST_F(VideoDeskTest, FourPicturesAndALongName) {
    // The driver's film of run 3 is put in step, too: two cameras of both laps.
    for (const KeptFilm& film : got(kept_films(library())))
        if (film.places.empty())
            ASSERT_TRUE(place_film(library(), film.id, {{3}, {truth("saturday-run-3-driver.mp4"), 1}, "by hand", {}}));
    RunFacts facts = got(library().run({3}));
    facts.driver = "Somebody whose name is much longer than there is room for in any corner of a picture";
    facts.name = "A run with a name that goes on for longer than there is room for it";
    ASSERT_TRUE(library().set_facts({3}, facts));
    open_with({2, 3});
    ASSERT_EQ(desk().shown_tiles().size(), 4U);
    focus().set_cursor(2150);
    frames();
    for (const FilmTile* tile : desk().shown_tiles())
        EXPECT_TRUE(tile->message().isEmpty()) << tile->message().toStdString();
    keep_picture(window_.get(), QStringLiteral("video-four"));
    window_->resize(1000, 620);
    frames();
    EXPECT_EQ(window_->size(), QSize(1000, 620)) << "the desk fits the smallest window";
    for (const FilmTile* tile : desk().shown_tiles()) EXPECT_GT(tile->height(), 60);
    keep_picture(window_.get(), QStringLiteral("video-small"));
}

TEST_F(VideoDeskTest, TheTracesAreDraggedUnderThePicture) {
    open_with({2});
    FilmTile& tile = *desk().shown_tiles()[0];
    const double before = tile.film()->place->at.offset_s;
    auto* strip = desk().findChild<MomentStrip*>();
    ASSERT_TRUE(strip->isVisible());
    // 20 s are as wide as the strip; to the right is earlier.
    drag(*strip, {300, 40}, {300 + strip->width() / 20, 40});
    frames();
    EXPECT_NEAR(tile.film()->place->at.offset_s, before - 1, 0.03);
    EXPECT_TRUE(desk().told().contains(QStringLiteral("in step by hand"))) << desk().told().toStdString();
}

TEST_F(VideoDeskTest, FiguresAreChosenAndKeptForTheCar) {
    open_with({2, 3});
    auto* menu = desk().findChild<QPushButton*>(QStringLiteral("video-figures"))->menu();
    const auto press_action = [&](const char* text) {
        Q_EMIT menu->aboutToShow();
        for (QAction* action : menu->actions())
            if (action->text() == QLatin1String(text)) return action->trigger();
        FAIL() << "no " << text;
    };
    const QImage with = desk().shown_tiles()[0]->grab().toImage();
    press_action("Map");
    press_action("Large");
    press_action("Along the upper edge");
    frames();
    EXPECT_NE(desk().shown_tiles()[0]->grab().toImage(), with);
    const auto text = QString::fromStdString(got(library().setting("film_figures")));
    EXPECT_FALSE(text.contains(QStringLiteral("map"))) << text.toStdString();
    EXPECT_TRUE(text.contains(QStringLiteral("; top; 1.4"))) << text.toStdString();
    // They are there with the next window.
    window_.reset();
    open_window();
    open_with({2, 3});
    Q_EMIT desk().findChild<QPushButton*>(QStringLiteral("video-figures"))->menu()->aboutToShow();
    for (const QAction* action : desk().findChild<QPushButton*>(QStringLiteral("video-figures"))->menu()->actions()) {
        if (action->text() == QStringLiteral("Map")) EXPECT_FALSE(action->isChecked());
        if (action->text() == QStringLiteral("Large")) EXPECT_TRUE(action->isChecked());
    }
}

TEST_F(VideoDeskTest, WhatIsMissingOrDamagedIsSaidInThePicture) {
    const auto films = got(kept_films(library()));
    const std::filesystem::path videos = folder_ / "videos";
    std::filesystem::remove(videos / films[0].files[0].file);
    // The other one is cut off in the middle: what lies behind is not what was there before.
    const std::string whole = test::read_all(videos / films[2].files[0].file);
    std::string broken = whole;
    std::fill(broken.begin() + static_cast<std::ptrdiff_t>(broken.size() / 2), broken.end(), '\0');
    std::ofstream(videos / films[2].files[0].file, std::ios::binary) << broken;
    open_with({2, 3});
    EXPECT_TRUE(desk().shown_tiles()[0]->message().contains(QStringLiteral("no longer where it was")))
        << desk().shown_tiles()[0]->message().toStdString();
    FilmTile& cut = *desk().shown_tiles()[2];
    focus().set_cursor(400);
    frames();
    EXPECT_TRUE(cut.message().isEmpty()) << cut.message().toStdString();
    focus().set_cursor(4500);
    frames();
    EXPECT_FALSE(cut.message().isEmpty()) << "a frame that cannot be decoded is not replaced by another one";
    keep_picture(window_.get(), QStringLiteral("video-damaged"));
    // The whole screen goes with the film that it shows.
    QTest::mouseClick(&cut, Qt::LeftButton);
    desk().set_full_screen(true);
    frames();
    EXPECT_NE(cut.window(), window_.get());
    focus().clear_laps();
    frames();
    EXPECT_EQ(cut.window(), window_.get());
    EXPECT_TRUE(desk().findChild<QLabel*>(QStringLiteral("video-empty"))->isVisible());
}

TEST(FilmStyleText, ComesBackAsItWas) {
    FilmStyle style;
    style.figures = {FilmFigure::gear, FilmFigure::map};
    style.on_top = true;
    style.size = 1.4;
    EXPECT_EQ(film_style_from(to_text(style)), style);
    EXPECT_EQ(film_style_from(to_text(usual_film_style())), usual_film_style());
    EXPECT_EQ(film_style_from(QStringLiteral("nonsense")), usual_film_style());
    EXPECT_EQ(film_style_from(QStringLiteral("gear; bottom; 900")).size, 1) << "no size that hides the film";
}

TEST_F(VideoDeskTest, FilmsAreAddedAndFoundAgain) {
    for (const KeptFilm& film : got(kept_films(library()))) ASSERT_TRUE(drop_film(library(), film.id));
    open_with({2});
    EXPECT_TRUE(desk().findChild<QLabel*>(QStringLiteral("video-empty"))->isVisible());
    keep_picture(window_.get(), QStringLiteral("video-empty"));
    // A portrait film, a 4:3 one, and something that is none.
    test::MadeFilm tall;
    tall.frames = 50;
    tall.wish.width = 180;
    tall.wish.height = 320;
    tall.wish.file = (folder_ / "tall.mp4").string();
    test::write_film(tall);
    test::MadeFilm square = tall;
    square.wish.width = 320;
    square.wish.height = 240;
    square.wish.file = (folder_ / "square.mp4").string();
    square.first_number = 300;
    test::write_film(square);
    desk().add_films({{folder_ / "tall.mp4"}, {folder_.write("no.mp4", "none")}, {folder_ / "square.mp4"}},
                     QStringLiteral("rearward"), false);
    frames();
    ASSERT_EQ(got(kept_films(library())).size(), 2U);
    ASSERT_EQ(desk().shown_tiles().size(), 1U) << "one of its car, to be put in step";
    FilmTile& tile = *desk().shown_tiles()[0];
    EXPECT_FALSE(tile.film()->place);
    EXPECT_TRUE(desk().told().contains(QStringLiteral("not in step yet"))) << desk().told().toStdString();
    focus().set_cursor(10);
    frames();
    keep_picture(window_.get(), QStringLiteral("video-portrait"));
    auto* box = desk().findChild<QComboBox*>(QStringLiteral("video-film"));
    ASSERT_EQ(box->count(), 2);
    box->setCurrentIndex(1);
    Q_EMIT box->activated(1);
    frames();
    EXPECT_EQ(tile.film()->film.width, 320);
    keep_picture(window_.get(), QStringLiteral("video-square"));
    // Nothing is proposed of what tells nothing.
    press("video-propose");
    EXPECT_FALSE(desk().shown_tiles()[0]->film()->place);
    // All of a folder: what is there already is said, and not added twice.
    std::filesystem::create_directories(folder_ / "card");
    test::MadeFilm more = square;
    more.first_number = 700;
    more.wish.file = (folder_ / "card/more.mp4").string();
    test::write_film(more);
    std::filesystem::copy_file(folder_ / "tall.mp4", folder_ / "card/tall.mp4");
    desk().add_folder(folder_ / "card", QStringLiteral("driver"));
    frames();
    frames();
    ASSERT_EQ(got(kept_films(library())).size(), 3U);
    EXPECT_EQ(got(kept_films(library()))[2].camera, "driver");
    desk().take_out(got(kept_films(library()))[2].id);
    frames();
    // Gone, and found.
    std::filesystem::create_directories(folder_ / "moved");
    std::filesystem::rename(folder_ / "square.mp4", folder_ / "moved/s.mp4");
    desk().find_moved(folder_ / "moved");
    frames();
    EXPECT_TRUE(film_paths(library(), got(kept_films(library()))[1]));
    desk().take_out(got(kept_films(library()))[1].id);
    frames();
    EXPECT_EQ(got(kept_films(library())).size(), 1U);
    EXPECT_TRUE(std::filesystem::exists(folder_ / "moved/s.mp4"));
}

/// Mono samples as a sound device draws them.
std::vector<float> heard(SoundStream& stream, double seconds) {
    std::vector<float> out(static_cast<std::size_t>(seconds * SoundStream::rate_hz));
    std::size_t given = 0;
    while (given < out.size()) {
        // A device asks for a few milliseconds at a time.
        const std::size_t now = std::min<std::size_t>(480, out.size() - given);
        EXPECT_EQ(stream.read(reinterpret_cast<char*>(out.data() + given), static_cast<qint64>(now * sizeof(float))),
                  static_cast<qint64>(now * sizeof(float)));
        given += now;
    }
    return out;
}

/// Turns of a tone a second, by its passes through nothing.
double tone_hz(std::span<const float> samples) {
    int passes = 0;
    for (std::size_t i = 1; i < samples.size(); ++i) passes += samples[i - 1] < 0 && samples[i] >= 0 ? 1 : 0;
    return passes * static_cast<double>(SoundStream::rate_hz) / static_cast<double>(samples.size());
}

TEST(FilmSoundTest, IsThatOfTheMomentAndGoesQuickerWithTheFilm) {
    const test::TempFolder folder;
    const std::string file = (folder / "tones.mp4").string();
    // A tone of 400 Hz for three seconds, then one of 800 Hz.
    FilmWish wish{.file = file, .width = 64, .height = 48, .frames_per_s = 25};
    wish.sound_hz = 48'000;
    FilmWriter writer = got(FilmWriter::begin(wish));
    std::vector<float> sound;
    for (int k = 0; k < 48'000 * 8; ++k) {
        const double t = k / 48'000.0;
        sound.push_back(static_cast<float>(0.4 * std::sin(2 * std::numbers::pi * (t < 3 ? 400 : 800) * t)));
    }
    for (int frame = 0; frame < 200; ++frame) {
        std::fill_n(writer.pixels().begin(), 64 * 48 * 4, std::uint8_t{90});
        ASSERT_TRUE(writer.put(frame));
        ASSERT_TRUE(writer.put_sound(std::span(sound).subspan(static_cast<std::size_t>(frame) * 1920, 1920)));
    }
    ASSERT_TRUE(writer.finish());
    SoundStream stream;
    ASSERT_TRUE(stream.play({file}, 1, 1));
    const auto low = heard(stream, 1.5);
    EXPECT_NEAR(tone_hz(low), 400, 4);
    EXPECT_NEAR(stream.film_s(), 2.5, 1e-6);
    // No seam where a block that was decoded ends and the next one begins: a tone of 400 Hz never bends harder.
    double bend = 0;
    for (std::size_t i = 4801; i + 1 < low.size(); ++i)
        bend = std::max(bend, static_cast<double>(std::abs(low[i - 1] - 2 * low[i] + low[i + 1])));
    EXPECT_LT(bend, 0.02);
    const auto both = heard(stream, 1.5);
    EXPECT_NEAR(tone_hz(std::span(both).first(22'000)), 400, 8);
    EXPECT_NEAR(tone_hz(std::span(both).last(40'000)), 800, 8);
    // At a tenth, a half, twice and four times.
    for (const double times : {0.1, 0.5, 2.0, 4.0}) {
        ASSERT_TRUE(stream.play({file}, 0.5, times));
        EXPECT_NEAR(tone_hz(heard(stream, 0.5)), 400 * times, 400 * times * 0.02 + 3) << times;
        EXPECT_NEAR(stream.film_s(), 0.5 + 0.5 * times, 1e-6);
    }
    // Behind its end, and at rest, it is silent.
    ASSERT_TRUE(stream.play({file}, 20, 1));
    for (const float it : heard(stream, 0.3)) EXPECT_EQ(it, 0.0F);
    ASSERT_TRUE(stream.play({file}, 1, 1));
    stream.rest();
    for (const float it : heard(stream, 0.1)) EXPECT_EQ(it, 0.0F);
    test::write_film({.frames = 10, .wish = {.file = (folder / "mute.mp4").string(), .width = 64, .height = 48}});
    const auto mute = stream.play({(folder / "mute.mp4").string()}, 0, 1);
    ASSERT_FALSE(mute);
    EXPECT_NE(mute.error().text().find("no sound"), std::string::npos);
    EXPECT_FALSE(stream.play({(folder / "gone.mp4").string()}, 0, 1));
}

TEST_F(VideoDeskTest, WhatIsHeardIsTheChosenFilmWhileItPlays) {
    open_with({2, 3});
    focus().set_cursor(1200);
    frames();
    EXPECT_FALSE(desk().to_hear());
    // While it plays no picture is waited for: on a slow machine the next one is always on its way.
    QTest::mouseClick(desk().findChild<QPushButton*>(QStringLiteral("video-play")), Qt::LeftButton);
    ASSERT_TRUE(desk().replay().running());
    const auto tiles = desk().shown_tiles();
    auto heard = desk().to_hear();
    ASSERT_TRUE(heard);
    EXPECT_EQ(heard->files, tiles[0]->film()->source->files());
    EXPECT_NEAR(heard->film_s, tiles[0]->film_s(), 1e-9);
    EXPECT_EQ(heard->times, 1);
    // Another tile is heard once it is chosen.
    QTest::mouseClick(tiles[2], Qt::LeftButton);
    heard = desk().to_hear();
    ASSERT_TRUE(heard);
    EXPECT_EQ(heard->files, tiles[2]->film()->source->files());
    desk().replay().set_speed(2);
    EXPECT_EQ(desk().to_hear()->times, 2);
    auto* button = desk().findChild<QPushButton*>(QStringLiteral("video-sound"));
    QTest::mouseClick(button, Qt::LeftButton);
    EXPECT_FALSE(desk().to_hear());
    EXPECT_NE(desk().state().indexOf(QStringLiteral("\"silent\":true")), -1);
    QTest::mouseClick(button, Qt::LeftButton);
    EXPECT_TRUE(desk().to_hear());
    press("video-play");
    EXPECT_FALSE(desk().to_hear());
}

TEST_F(VideoDeskTest, AFigureIsDraggedToWhereItIsWantedAndStaysThere) {
    open_with({2, 3});
    focus().set_cursor(1800);
    frames();
    FilmTile* tile = desk().shown_tiles().front();
    const auto box_of = [&](FilmFigure figure) {
        const FilmTile::Of& of = *tile->film();
        QSizeF size(of.source->facts()->width, of.source->facts()->height);
        size.scale(QSizeF(tile->width(), tile->height()), Qt::KeepAspectRatio);
        const QRectF picture(QPointF((tile->width() - size.width()) / 2, (tile->height() - size.height()) / 2), size);
        for (const FigureBox& it :
             film_figure_boxes(picture, of.moments->at(of.place->at.run_s(tile->film_s())), tile->film_style()))
            if (it.figure == figure) return it.box;
        return QRectF();
    };
    const QRectF before = box_of(FilmFigure::map), gear = box_of(FilmFigure::gear);
    ASSERT_FALSE(before.isEmpty());
    // A click moves nothing.
    QTest::mouseClick(tile, Qt::LeftButton, {}, before.center().toPoint());
    EXPECT_TRUE(tile->film_style().moved.empty());
    const QPoint from = before.center().toPoint(), to(tile->width() / 2, tile->height() / 2 - 10);
    QTest::mousePress(tile, Qt::LeftButton, {}, from);
    QTest::mouseMove(tile, (from + to) / 2);
    QTest::mouseMove(tile, to);
    QTest::mouseRelease(tile, Qt::LeftButton, {}, to);
    const QRectF after = box_of(FilmFigure::map);
    EXPECT_NEAR(after.center().x(), to.x(), 2);
    EXPECT_NEAR(after.center().y(), to.y(), 2);
    EXPECT_EQ(box_of(FilmFigure::gear), gear) << "the others stay";
    keep_picture(window_.get(), QStringLiteral("video-moved"));
    // On every tile, kept for the car, and never out of the picture.
    EXPECT_EQ(desk().shown_tiles().back()->film_style(), tile->film_style());
    EXPECT_NE(got(library().setting("film_figures")).find("map@"), std::string::npos);
    QTest::mousePress(tile, Qt::LeftButton, {}, to);
    QTest::mouseMove(tile, QPoint(0, 0));
    QTest::mouseRelease(tile, Qt::LeftButton, {}, QPoint(0, 0));
    EXPECT_GE(box_of(FilmFigure::map).left(), 0);
    EXPECT_EQ(film_style_from(to_text(tile->film_style())).moved.size(), 1U);
    EXPECT_TRUE(film_style_from(QStringLiteral("map; top; 1; map@7,2 gear@x,1 what")).moved.empty());
    EXPECT_EQ(film_style_from(QStringLiteral("map; top; 1")).figures.size(), 1U) << "as it was written before";
    // And back.
    auto* menu = desk().findChild<QPushButton*>(QStringLiteral("video-figures"))->menu();
    Q_EMIT menu->aboutToShow();
    for (QAction* action : menu->actions())
        if (action->text() == QStringLiteral("Put moved ones back")) action->trigger();
    EXPECT_EQ(box_of(FilmFigure::map), before);
}

TEST_F(VideoDeskTest, ACamerasOwnLogPutsItsFilmInStep) {
    open_with({3});
    auto* box = desk().findChild<QComboBox*>(QStringLiteral("video-film"));
    const int driver = box->findText(QStringLiteral("driver, saturday-run-3-driver.mp4"));
    ASSERT_GE(driver, 0);
    box->setCurrentIndex(driver);
    Q_EMIT box->activated(driver);
    frames();
    desk().propose_by_log(folder_ / "demo-files/video/saturday-run-3-driver-log.gpx");
    frames();
    const auto film = got(kept_film(library(), 4));
    const FilmPlace* place = film.place_on({3});
    ASSERT_NE(place, nullptr);
    EXPECT_NEAR(place->at.offset_s, truth("saturday-run-3-driver.mp4"), 0.08);
    EXPECT_NE(place->how.find("the camera's log"), std::string::npos) << place->how;
    // In step now, it is among the lap's films by itself, and is shown once.
    const auto tiles = desk().shown_tiles();
    ASSERT_EQ(tiles.size(), 2U);
    EXPECT_EQ(tiles[0]->film()->film.id, 4);
    EXPECT_EQ(tiles[1]->film()->film.id, 3);
    EXPECT_NE(tiles[0]->film()->source, tiles[1]->film()->source);
    window_->workspace().session()->undo();
    settle();
    EXPECT_EQ(got(kept_film(library(), 4)).place_on({3}), nullptr);
    // What is no log says so and changes nothing.
    desk().propose_by_log(folder_ / "truth/films.json");
    frames();
    EXPECT_EQ(got(kept_film(library(), 4)).place_on({3}), nullptr);
}

TEST(FilmSpeakerTest, SaysWhyNothingIsHeardAndIsGoneAtOnce) {
    const test::TempFolder folder;
    const std::string mute = (folder / "mute.mp4").string();
    test::write_film({.frames = 10, .wish = {.file = mute, .width = 64, .height = 48}});
    FilmSpeaker speaker;
    const auto until_told = [&](const char* what) {
        return wait_until([&] { return speaker.trouble().contains(QLatin1String(what)); });
    };
    speaker.follow(std::nullopt);
    EXPECT_TRUE(speaker.trouble().isEmpty());
    for (int k = 0; k < 50; ++k) speaker.follow(FilmSpeaker::Wish{{mute}, 0.01 * k, 1});
    EXPECT_TRUE(until_told("has no sound")) << speaker.trouble().toStdString();
    speaker.follow(std::nullopt);
    EXPECT_TRUE(wait_until([&] { return speaker.trouble().isEmpty(); })) << "nobody asks for a sound now";
    std::ofstream(folder / "no film.mp4") << "words";
    speaker.follow(FilmSpeaker::Wish{{(folder / "no film.mp4").string()}, 0, 1});
    EXPECT_TRUE(until_told("film")) << speaker.trouble().toStdString();
}

}  // namespace
}  // namespace rendak::app
