// Replay, the line beside A, marks on the map, what is missing, colours of channels, windows that come back.
#include <QElapsedTimer>
#include <QLabel>
#include <QMenu>
#include <QTimer>
#include <algorithm>
#include <cmath>
#include <fstream>

#include "app/session/preferences.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "tests/app/window_fixture.h"

namespace rendak::app {
namespace {

class ReplayTest : public OnCompareTest {};

TEST_F(ReplayTest, TheCursorRunsAsTheLapWasDrivenAndOverTheRangeAgain) {
    focus().set_range({1800, 2300});
    focus().set_cursor(1800);
    settle();
    auto& replay = desk().replay();
    const LapMap& a = laps().laps[0].lap.map;
    replay.set_speed(0.5);
    replay.advance(2);
    EXPECT_NEAR(state().cursor_m, a.distance_at(a.time_at(1800) + 1), 1e-6);
    replay.set_speed(4);
    replay.advance(1);
    EXPECT_NEAR(state().cursor_m, a.distance_at(a.time_at(1800) + 5), 1e-6);
    replay.advance(30);
    EXPECT_NEAR(state().cursor_m, 1800, 1e-6) << "from the beginning again";
    // By place every lap is where A is; by time it is as far as it is by then.
    focus().set_cursor(2150);
    const LapMap& b = laps().laps[1].lap.map;
    EXPECT_NEAR(replay.time_of(1), b.time_at(2150), 1e-9);
    replay.set_by_time(true);
    EXPECT_NEAR(replay.time_of(1) - b.start_s(), a.time_at(2150) - a.start_s(), 1e-9);
    EXPECT_LT(b.distance_at(replay.time_of(1)), 2150) << "the slower one is not there yet";
    replay.set_by_time(false);
    // Space starts and holds it; the real clock moves the cursor.
    focus().set_cursor(1800);
    replay.set_speed(1);
    window_->activateWindow();
    QTest::keyClick(window_.get(), Qt::Key_Space);
    ASSERT_TRUE(replay.running());
    EXPECT_TRUE(desk().board().isVisible());
    ASSERT_TRUE(QTest::qWaitFor([this] { return state().cursor_m > 1801; }, 20'000));
    keep_picture(window_.get(), QStringLiteral("replay"));
    // As many seconds go by as the clock counts, from one tick to a much later one.
    QElapsedTimer clock;
    double begin_s = 0, off_s = 1e9;
    QObject::connect(&focus(), &Focus::cursor_changed, &replay, [&] {
        if (!clock.isValid()) {
            clock.start();
            begin_s = replay.time_of(0);
        }
        const double played_s = replay.time_of(0) - begin_s;
        if (played_s > 1.2)
            off_s = std::min(off_s, std::abs(static_cast<double>(clock.nsecsElapsed()) * 1e-9 - played_s));
    });
    ASSERT_TRUE(QTest::qWaitFor([&] { return clock.isValid() && replay.time_of(0) - begin_s > 1.7; }, 20'000));
    QObject::disconnect(&focus(), nullptr, &replay, nullptr);
    EXPECT_LT(off_s, 0.02);
    QTest::keyClick(window_.get(), Qt::Key_Space);
    EXPECT_FALSE(replay.running());
    key(Qt::Key_Comma);
    EXPECT_EQ(replay.speed(), 0.5);
    for (int i = 0; i < 8; ++i) key(Qt::Key_Comma);
    EXPECT_EQ(replay.speed(), 0.1);
    for (int i = 0; i < 8; ++i) key(Qt::Key_Period);
    EXPECT_EQ(replay.speed(), 4);
    key(Qt::Key_Space, Qt::ShiftModifier);
    EXPECT_FALSE(desk().board().isVisible());
}

TEST_F(ReplayTest, TheBoardSaysWhatEachCarDoes) {
    const auto& corner = laps().track().corners[4];
    const auto& events = laps().laps[0].events[4];
    focus().set_cursor(*events.brake_on_m + 30);
    settle();
    const auto braking = desk().board().row(0);
    EXPECT_GT(braking.now.brake, 0.3);
    EXPECT_LE(braking.now.brake, 1.01);
    EXPECT_LT(braking.now.throttle, 0.05);
    EXPECT_LT(braking.now.along_mps2, -5);
    focus().set_cursor(corner.apex_m);
    settle();
    const auto apex = desk().board().row(0);
    EXPECT_NEAR(apex.now.speed_mps, laps().laps[0].lap.value_at("speed", corner.apex_m), 1e-6);
    EXPECT_EQ(std::signbit(apex.now.steering_rad), !corner.left) << "to the left is positive";
    EXPECT_GT(std::abs(apex.now.steering_rad), 0.35);
    const auto b = desk().board().row(1);
    EXPECT_NEAR(b.gap_s, laps().laps[1].gap.at(corner.apex_m), 1e-6);
    EXPECT_TRUE(std::isnan(apex.gap_s));
}

TEST_F(ReplayTest, TheLineBesideAIsWhereTheMapShowsIt) {
    canvas().set_lanes({{"gap", 1}, {"line_offset", 1}, {"speed", 1}});
    settle();
    const ComparedLap &a = laps().laps[0], &b = laps().laps[1];
    double most = 0;
    for (double s = 100; s < laps().length_m() - 100; s += 37) {
        const Point at_a = a.lap.position_at(s), at_b = b.lap.position_at(s);
        // Nearly all of what lies between the two positions at one place lies across the road.
        const double apart = std::hypot(at_b.x - at_a.x, at_b.y - at_a.y);
        EXPECT_LE(std::abs(b.offset.at(s)), apart + 0.01);
        EXPECT_GT(std::abs(b.offset.at(s)), apart - 0.7) << s;
        most = std::max(most, std::abs(b.offset.at(s)));
        EXPECT_NEAR(a.offset.at(s), 0, 1e-9);
    }
    EXPECT_GT(most, 0.3);
    EXPECT_LT(most, 15);
    EXPECT_FALSE(canvas().shown_lane(1).traces.empty());
    EXPECT_EQ(canvas().shown_lane(1).veil_text, QStringLiteral("up = left of A"));
    EXPECT_NE(canvas().shown_lane(1).band, nullptr) << "where they are closer than can be told";
    EXPECT_FALSE(desk().values().text("line_offset", 1, ValuePanel::Cell::value).isEmpty());
    keep_picture(window_.get(), QStringLiteral("line-offset"));
    // Swapped laps lie on the other side.
    const double before = b.offset.at(2000);
    focus().make_baseline(1);
    settle();
    EXPECT_NEAR(laps().laps[1].offset.at(2000), -before, 0.3);
}

TEST_F(ReplayTest, TheMapFollowsTheRangeAndKeepsItsPaint) {
    auto& map = desk().map();
    focus().set_range({1800, 2300});
    settle();
    const QPointF before = map.to_pixel(laps().track().position_at(2100)),
                  start = map.to_pixel(laps().track().position_at(0));
    map.follow_range(true);
    settle();
    const QPointF far = map.to_pixel(laps().track().position_at(0));
    EXPECT_GT(std::hypot(far.x() - before.x(), far.y() - before.y()),
              1.5 * std::hypot(start.x() - before.x(), start.y() - before.y()))
        << "closer";
    map.follow_range(false);
    map.show_events(true);
    keep_picture(window_.get(), QStringLiteral("map-events"));
    desk().set_paint({.quantity = "speed", .bands = true, .band_count = 3, .limits = Interval{20, 50}});
    const MapPaint kept = CompareDesk::kept_paint("speed");
    EXPECT_EQ(kept, map.paint());
    EXPECT_EQ(CompareDesk::kept_paint("gear"), (MapPaint{.quantity = "gear"}));
}

TEST_F(ReplayTest, WhatAPageLacksIsNamedWhereItWouldStand) {
    ASSERT_TRUE(desk().pages().save(QStringLiteral("Odd"), {{"speed", 1}, {"battery_voltage", 1}, {"throttle", 1}}));
    const bool logged = window_->workspace().comparison().offers("battery_voltage");
    desk().show_page(QStringLiteral("Odd"));
    settle();
    if (logged) GTEST_SKIP() << "the demo car logs it now";
    EXPECT_EQ(canvas().lanes().size(), 2U);
    EXPECT_TRUE(canvas().shown_lane(0).below.contains(shown("battery_voltage").label))
        << canvas().shown_lane(0).below.toStdString();
    EXPECT_TRUE(canvas().shown_lane(1).below.isEmpty());
}

TEST_F(ReplayTest, AColourThatCannotBeSeenIsExchangedAndSaid) {
    for (const char* wish : {"#fffff0", "#101010", "#00ff00", "#3366aa"}) {
        const QColor wished(QString::fromLatin1(wish));
        desk().colour_channel("speed", wished);
        const auto taken = channel_colour("speed");
        ASSERT_TRUE(taken) << wish;
        EXPECT_EQ(colour_fault(*taken, {}), ColourFault::none) << wish;
        if (colour_fault(wished, {}) == ColourFault::none)
            EXPECT_EQ(*taken, wished);
        else
            EXPECT_TRUE(window_->status().message().contains(QStringLiteral("nearest"))) << wish;
    }
    // Red and green of one lightness are one colour to some.
    const QColor red(200, 80, 60), green(128, 120, 40);
    desk().colour_channel("speed", red);
    desk().colour_channel("gear", green);
    EXPECT_EQ(colour_fault(*channel_colour("gear"), {*channel_colour("speed")}), ColourFault::none);
    set_channel_colour("speed", std::nullopt);
    Preferences::of_person().read_shown();
    EXPECT_TRUE(channel_colour("speed")) << "kept with the person";
    for (const char* id : {"speed", "gear"}) set_channel_colour(id, std::nullopt);
    Preferences::of_person().keep_shown();
}

TEST_F(ReplayTest, WindowsComeBackAsTheyStood) {
    auto* linked = window_->open_another(true);
    auto* own = window_->open_another(false);
    settle();
    linked->show_desk(QStringLiteral("corners"));
    own->workspace().focus().remove_slot(1);
    settle();
    const QStringList stood = MainWindow::arrangement(*window_);
    ASSERT_EQ(stood.size(), 4);
    own->close();
    linked->close();
    settle();
    EXPECT_EQ(Preferences::of_person().windows().size(), 2) << "one that is closed alone does not come back";
    window_->arrange(stood);
    settle();
    std::vector<MainWindow*> all;
    for (QWidget* top : QApplication::topLevelWidgets()) {
        auto* window = qobject_cast<MainWindow*>(top);
        if (window != nullptr && window->isVisible() && window != window_.get()) all.push_back(window);
    }
    ASSERT_EQ(all.size(), 2U);
    int at_corners = 0, with_one_lap = 0;
    for (MainWindow* window : all) {
        at_corners += window->desk() == QLatin1String("corners");
        with_one_lap += window->workspace().focus().state().laps.size() == 1;
    }
    EXPECT_EQ(at_corners, 1);
    EXPECT_EQ(with_one_lap, 1) << "its own laps, not the first one's";
    EXPECT_EQ(state().laps.size(), 2U);
    for (MainWindow* window : all) window->close();
    settle();
}

TEST_F(ReplayTest, TwoWindowsSideBySideFitSmallScreens) {
    auto* linked = window_->open_another(true);
    linked->show_desk(QStringLiteral("corners"));
    for (MainWindow* window : {window_.get(), linked}) window->resize(1280, 740);
    settle();
    for (MainWindow* window : {window_.get(), linked}) {
        EXPECT_EQ(window->size(), QSize(1280, 740)) << "nothing in it asks for more";
        EXPECT_EQ(window->workspace().focus().state().laps.size(), 2U);
    }
    keep_picture(window_.get(), QStringLiteral("two-windows-compare"));
    keep_picture(linked, QStringLiteral("two-windows-corners"));
    linked->close();
    settle();
}

TEST_F(ReplayTest, APictureAloneHasTheSameLapsAndComesBack) {
    Q_EMIT desk().findChild<QMenu*>(QStringLiteral("out"))->aboutToShow();
    auto* traces = desk().open_picture(PictureWindow::Shows::traces);
    auto* map = desk().open_picture(PictureWindow::Shows::map);
    auto* beside = desk().open_picture(PictureWindow::Shows::beside);
    beside->beside()->show_picture(Beside::Picture::circle);
    traces->show_page(QStringLiteral("Pedals and g"));
    settle();
    EXPECT_GT(traces->canvas()->lanes().size(), 1U);
    EXPECT_NE(quantities_of(traces->canvas()->lanes()), quantities_of(canvas().lanes())) << "a page of its own";
    keep_picture(traces, QStringLiteral("alone-traces"));
    keep_picture(map, QStringLiteral("alone-map"));
    keep_picture(beside, QStringLiteral("alone-beside"));
    // Linked both ways: a drag there is the range here.
    focus().set_range({1000, 2000});
    settle();
    EXPECT_EQ(traces->canvas()->x_scale().values, (Interval{1000, 2000}));
    const QRect plot = traces->canvas()->plot_area();
    drag(*traces->canvas(), {plot.left() + 100, 80}, {plot.left() + 300, 80});
    EXPECT_LT(state().range_m.length(), 600);
    EXPECT_EQ(canvas().x_scale().values, state().range_m);
    // The keys of the traces work there, too.
    const auto press = [&](Qt::Key key, Qt::KeyboardModifiers modifiers = Qt::NoModifier) {
        traces->activateWindow();
        QApplication::processEvents();
        QTest::keyClick(traces->canvas(), key, modifiers);
        settle();
    };
    focus().set_cursor(1500);
    const double before = state().cursor_m;
    press(Qt::Key_Right, Qt::ShiftModifier);
    EXPECT_GT(state().cursor_m, before);
    press(Qt::Key_Left, Qt::ShiftModifier);
    EXPECT_NEAR(state().cursor_m, before, 1e-6);
    const Interval near = state().range_m;
    press(Qt::Key_Up);
    EXPECT_LT(state().range_m.length(), near.length());
    press(Qt::Key_Home);
    EXPECT_NEAR(state().range_m.length(), laps().length_m(), 1e-6);
    press(Qt::Key_I);
    EXPECT_TRUE(state().pin_m);
    press(Qt::Key_I);
    EXPECT_FALSE(state().pin_m);
    const auto page = quantities_of(traces->canvas()->lanes());
    press(Qt::Key_P);
    EXPECT_NE(quantities_of(traces->canvas()->lanes()), page);
    traces->show_page(QStringLiteral("No such page"));
    EXPECT_GT(traces->canvas()->lanes().size(), 0U) << "an unknown page changes nothing";
    // Lanes that were changed there stay when laps change; the desk's are its own.
    auto lanes = traces->canvas()->lanes();
    lanes.push_back({"gear", 1});
    traces->canvas()->set_lanes(lanes);
    focus().set_active_slot(0);
    settle();
    EXPECT_EQ(traces->canvas()->lanes(), lanes);
    EXPECT_NE(quantities_of(canvas().lanes()), quantities_of(lanes));
    focus().set_active_slot(1);
    settle();
    map->map()->set_view(MapCanvas::View::lines);
    settle();
    const QStringList stood = MainWindow::arrangement(*window_);
    for (QWidget* it : {static_cast<QWidget*>(traces), static_cast<QWidget*>(map), static_cast<QWidget*>(beside)})
        it->close();
    settle();
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    EXPECT_TRUE(desk().windows().isEmpty());
    window_->arrange(stood);
    settle();
    ASSERT_EQ(desk().windows().size(), 3);
    int circles = 0, pages = 0;
    for (auto* it : window_->findChildren<PictureWindow*>()) {
        circles += it->beside() != nullptr && it->beside()->picture() == Beside::Picture::circle;
        pages += it->canvas() != nullptr && it->canvas()->lanes().size() > 1;
    }
    EXPECT_EQ(circles, 1);
    EXPECT_EQ(pages, 1);
    EXPECT_EQ(PictureWindow::opened(window_->workspace(), desk().pages(), QStringLiteral("9 x y"), nullptr), nullptr);
    EXPECT_EQ(PictureWindow::opened(window_->workspace(), desk().pages(), QString(), nullptr), nullptr);
}

TEST_F(ReplayTest, NotesStayWithTheRunAndStandOnEveryPictureOfTheLap) {
    canvas().set_lanes({{"speed", 1}, {"throttle", 1}});
    focus().set_cursor(2090);
    settle();
    const int before = [&] { return canvas().shown_lane(0).traces.empty() ? 0 : canvas().redraws(); }();
    desk().note_on_picture("speed", QStringLiteral("brakes too early"));
    desk().note_on_picture("", QStringLiteral("wide here"));
    settle();
    EXPECT_GT(canvas().redraws(), before);
    const auto& notes = laps().laps[1].run->picture_notes;
    ASSERT_EQ(notes.size(), 2U);
    EXPECT_NEAR(notes[0].at_s, laps().laps[1].lap.map.time_at(2090), 1e-6);
    keep_picture(window_.get(), QStringLiteral("notes"));
    // Given out with the picture, as words in the SVG.
    const auto file = folder_.path() / "notes.svg";
    ASSERT_TRUE(write_picture(desk().views_out()[0], file));
    std::ifstream in(file);
    const std::string svg{std::istreambuf_iterator<char>(in), {}};
    EXPECT_NE(svg.find("brakes too early"), std::string::npos);
    EXPECT_EQ(svg.find("wide here"), std::string::npos) << "that stands on the map";
    // Gone with the lap, there again with it; listed, and taken back.
    const LapRef lap = state().laps[1];
    focus().remove_slot(1);
    settle();
    ASSERT_TRUE(write_picture(desk().views_out()[0], file));
    std::ifstream again(file);
    EXPECT_EQ((std::string{std::istreambuf_iterator<char>(again), {}}).find("brakes too early"), std::string::npos);
    focus().add_lap(lap);
    settle();
    EXPECT_EQ(laps().laps[1].run->picture_notes.size(), 2U);
    auto* marks = desk().findChild<QMenu*>(QStringLiteral("marks"));
    Q_EMIT marks->aboutToShow();
    QStringList listed;
    for (const QAction* action : marks->actions().last()->menu()->actions()) listed << action->text();
    EXPECT_TRUE(listed.join(u'|').contains(QStringLiteral("brakes too early – Speed")))
        << listed.join(u'|').toStdString();
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(laps().laps[1].run->picture_notes.size(), 1U);
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(laps().laps[1].run->picture_notes.empty());
    window_->workspace().session()->redo();
    settle();
    EXPECT_EQ(laps().laps[1].run->picture_notes.size(), 1U);
}

}  // namespace
}  // namespace rendak::app
