// Lanes under the hand: joined, split, moved, alone; their scales; pages; the pin; what the keys do.
#include <QContextMenuEvent>
#include <QDropEvent>
#include <QMenu>
#include <QMimeData>
#include <QPainter>
#include <QPushButton>
#include <QSplitter>
#include <QTimer>
#include <QTreeWidget>
#include <fstream>
#include <set>

#include "app/desks/compare/channel_picker.h"
#include "app/session/preferences.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "tests/app/window_fixture.h"

namespace rendak::app {
namespace {

std::vector<Lane> three() {
    return {{"speed", 1}, {"throttle", 1}, {"brake_front", 1}};
}

std::vector<std::string> names(const std::vector<Lane>& lanes) {
    std::vector<std::string> out;
    for (const Lane& lane : lanes) {
        std::string text;
        for (const std::string& id : lane.quantities()) text += (text.empty() ? "" : "+") + id;
        out.push_back(text);
    }
    return out;
}

using Names = std::vector<std::string>;

TEST(LaneHands, ChannelsMoveIntoBetweenAndOutOfLanes) {
    auto lanes = three();
    join_channel(lanes, "brake_front", 1);
    EXPECT_EQ(names(lanes), (Names{"speed", "throttle+brake_front"}));
    join_channel(lanes, "gear", 0);
    EXPECT_EQ(names(lanes), (Names{"speed+gear", "throttle+brake_front"})) << "one that had no lane";
    move_channel(lanes, "speed", 2);
    EXPECT_EQ(names(lanes), (Names{"gear", "throttle+brake_front", "speed"})) << "the first of a lane leaves the rest";
    split_lane(lanes, 1);
    EXPECT_EQ(names(lanes), (Names{"gear", "throttle", "brake_front", "speed"}));
    move_lane(lanes, 3, 0);
    EXPECT_EQ(names(lanes), (Names{"speed", "gear", "throttle", "brake_front"}));
    move_lane(lanes, 0, 4);
    EXPECT_EQ(names(lanes), (Names{"gear", "throttle", "brake_front", "speed"}));
    join_lane(lanes, 3, 0);
    EXPECT_EQ(names(lanes), (Names{"gear+speed", "throttle", "brake_front"}));
    EXPECT_TRUE(remove_channel(lanes, "gear"));
    EXPECT_TRUE(remove_channel(lanes, "throttle"));
    EXPECT_EQ(names(lanes), (Names{"speed", "brake_front"}));
    EXPECT_TRUE(remove_channel(lanes, "speed"));
    EXPECT_FALSE(remove_channel(lanes, "brake_front")) << "the last lane stays";
    std::vector<Lane> with_gap{{"gap", 1}, {"speed", 1}};
    join_channel(with_gap, "speed", 0);
    join_lane(with_gap, 0, 1);
    EXPECT_EQ(names(with_gap), (Names{"gap", "speed"})) << "the gap keeps a lane of its own";
}

TEST(LaneText, PagesComeBackAsTheyWereAndOldOnesAreRead) {
    std::vector<Lane> lanes{{"speed", 1.5}, {"wheel_speed_fl", 2, {"wheel_speed_fr", "channel:Odd Name + more"}}};
    lanes[0].scale = LaneScale::hand;
    lanes[0].by_hand = Interval{10, 60};
    lanes[1].scale = LaneScale::view;
    EXPECT_EQ(lanes_from(text_of_lanes(lanes)), lanes);
    EXPECT_EQ(names(lanes_from("speed 1.5\ngear 0.5\n")), (Names{"speed", "gear"}));
    EXPECT_TRUE(lanes_from("[{\"channels\": 3}]").empty());
    EXPECT_TRUE(lanes_from("[{\"channels\": [\"speed\"], \"weight\": -1}]").empty());
}

TEST(ChannelColours, AreSeenOnBothGroundsAndAreNoLapsColours) {
    for (const Theme* theme : {&light_theme(), &garage_theme()}) {
        std::set<QRgb> seen;
        for (std::size_t i = 0; i < 8; ++i) {
            const QColor colour = theme->channel(i);
            EXPECT_GE(contrast(colour, theme->panel), 2.99) << i;
            EXPECT_TRUE(seen.insert(colour.rgb()).second) << i;
            for (int slot = 0; slot < 8; ++slot) EXPECT_NE(colour.rgb(), theme->lap(slot).rgb());
        }
    }
}

class LanesTest : public OnCompareTest {
  protected:
    QPoint label(std::size_t lane) { return {20, canvas().lane_area(lane).center().y()}; }
    QPoint scale(std::size_t lane) { return {TracePicture::label_width - 20, canvas().lane_area(lane).center().y()}; }
    void wheel(QPoint at, int steps) {
        QWheelEvent event(at, canvas().mapToGlobal(at), {}, {0, 120 * steps}, Qt::NoButton, Qt::NoModifier,
                          Qt::NoScrollPhase, false);
        QApplication::sendEvent(&canvas(), &event);
        settle();
    }
    /// Pixels of a lane that have a colour.
    int painted(std::size_t lane, QColor colour) {
        const QImage image = canvas().grab().toImage();
        const QRect area = canvas().lane_area(lane);
        int count = 0;
        for (int y = area.top(); y < area.bottom(); ++y) {
            for (int x = area.left(); x < area.right(); ++x) {
                const QColor at = image.pixelColor(x, y);
                count += std::abs(at.red() - colour.red()) + std::abs(at.green() - colour.green()) +
                             std::abs(at.blue() - colour.blue()) <
                         40;
            }
        }
        return count;
    }
};

TEST_F(LanesTest, LabelsAreDraggedToAnotherPlaceAndIntoAnotherLane) {
    canvas().set_lanes(three());
    settle();
    // To the top edge of the first lane.
    drag(canvas(), label(2), {20, canvas().lane_area(0).top() + 2});
    EXPECT_EQ(names(canvas().lanes()), (Names{"brake_front", "speed", "throttle"}));
    // Into the middle of the last one.
    drag(canvas(), label(0), label(2));
    EXPECT_EQ(names(canvas().lanes()), (Names{"speed", "throttle+brake_front"}));
    EXPECT_FALSE(canvas().shown_lane(1).more[0].shares) << "% and bar have scales of their own";
    keep_picture(window_.get(), QStringLiteral("lanes-joined"));
    // Values at the cursor list both.
    EXPECT_FALSE(desk().values().cell_area("brake_front", 1, ValuePanel::Cell::value).isNull());
    EXPECT_TRUE(desk().page_is_touched());
    key(Qt::Key_1);
    EXPECT_FALSE(desk().page_is_touched()) << "one key a page, and it comes as it is kept";
    EXPECT_EQ(desk().page(), Pages::first());
}

TEST_F(LanesTest, FourWheelsShareALaneAndAScaleInPatterns) {
    desk().show_page(QStringLiteral("Wheels and slip"));
    settle();
    std::size_t lane = 0;
    while (canvas().lanes()[lane].quantity != "wheel_speed_fl") ++lane;
    ASSERT_EQ(canvas().lanes()[lane].more.size(), 3U);
    const PlottedLane& shown_lane = canvas().shown_lane(lane);
    EXPECT_TRUE(shown_lane.more[0].shares);
    EXPECT_EQ(shown_lane.traces.size(), 8U) << "two laps, four wheels";
    std::set<LinePattern> patterns;
    for (std::size_t q = 0; q < 4; ++q) patterns.insert(pattern_of(q));
    EXPECT_EQ(patterns.size(), 4U);
    EXPECT_GT(painted(lane, theme().lap(0)), 200);
    EXPECT_GT(painted(lane, theme().lap(1)), 200) << "lap colours stay";
    keep_picture(window_.get(), QStringLiteral("lanes-wheels"));
}

TEST_F(LanesTest, ALapAloneIsColouredByChannelWhenAsked) {
    focus().remove_slot(1);
    settle();
    canvas().set_lanes({{"wheel_speed_fl", 1, {"wheel_speed_rr"}}});
    settle();
    const int before = painted(0, theme().channel(1));
    canvas().colour_by_channel(true);
    settle();
    EXPECT_GT(painted(0, theme().channel(0)), 100);
    EXPECT_GT(painted(0, theme().channel(1)), before + 100);
    EXPECT_LT(painted(0, theme().lap(0)), 50);
}

TEST_F(LanesTest, AChannelDroppedFromTheListLandsWhereItIsLetGo) {
    canvas().set_lanes(three());
    settle();
    const auto drop = [this](const char* id, QPoint at) {
        QMimeData data;
        data.setData(QLatin1String(channel_mime), id);
        QDragEnterEvent enter(at, Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(&canvas(), &enter);
        ASSERT_TRUE(enter.isAccepted());
        QDragMoveEvent move(at, Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(&canvas(), &move);
        QDropEvent event(at, Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(&canvas(), &event);
        settle();
    };
    drop("gear", {300, canvas().lane_area(1).center().y()});
    EXPECT_EQ(names(canvas().lanes()), (Names{"speed", "throttle+gear", "brake_front"}));
    drop("steering", {300, canvas().lane_area(2).bottom() - 1});
    EXPECT_EQ(names(canvas().lanes()), (Names{"speed", "throttle+gear", "brake_front", "steering"}));
    drop("gear", {300, canvas().lane_area(0).top() + 1});
    EXPECT_EQ(names(canvas().lanes()), (Names{"gear", "speed", "throttle", "brake_front", "steering"}))
        << "and out of it";
    desk().show_picker();
    EXPECT_TRUE(desk().picker().list().dragEnabled());
    desk().picker().close();
}

TEST_F(LanesTest, OneKeyShowsOneLaneAndAllAgain) {
    canvas().set_lanes(three());
    settle();
    const int third = canvas().lane_area(1).height();
    QTest::mouseMove(&canvas(), QPoint(400, canvas().lane_area(1).center().y()));
    QMouseEvent move(QEvent::MouseMove, QPointF(400, canvas().lane_area(1).center().y()), QPointF(), Qt::NoButton,
                     Qt::NoButton, Qt::NoModifier);
    QApplication::sendEvent(&canvas(), &move);
    key(Qt::Key_O);
    EXPECT_TRUE(canvas().shows_only_one());
    EXPECT_EQ(canvas().shown_lane(0).how.label, shown("throttle").label);
    EXPECT_GT(canvas().lane_area(0).height(), 2 * third);
    EXPECT_EQ(canvas().lanes().size(), 3U) << "the others are only out of sight";
    EXPECT_TRUE(desk().page_is_touched());
    key(Qt::Key_O);
    EXPECT_EQ(canvas().lane_area(1).height(), third);
}

TEST_F(LanesTest, ScalesFitTheLapTheViewOrAreFixedOrSetByHand) {
    canvas().set_lanes(three());
    focus().set_range({2000, 2100});
    settle();
    const Interval whole = canvas().lane_values(0);
    canvas().scale_lane(0, LaneScale::view);
    settle();
    const Interval view = canvas().lane_values(0);
    EXPECT_LT(view.length(), whole.length());
    EXPECT_EQ(canvas().shown_lane(0).scale_word, QStringLiteral("fits the view"));
    focus().set_range({500, 600});
    settle();
    EXPECT_NE(canvas().lane_values(0).begin, view.begin) << "goes with the view";
    // Fixed: what is shown now, for every run from now on.
    canvas().scale_lane(0, LaneScale::fixed);
    settle();
    const Interval fixed = canvas().lane_values(0);
    focus().set_range({2000, 2100});
    settle();
    EXPECT_NEAR(canvas().lane_values(0).begin, fixed.begin, 1e-6);
    ASSERT_TRUE(fixed_scale("speed"));
    EXPECT_NEAR(fixed_scale("speed")->begin * 3.6, fixed.begin, 1e-6) << "kept in SI";
    set_fixed_scale("speed", std::nullopt);
    Preferences::of_person().read_shown();
    EXPECT_TRUE(fixed_scale("speed")) << "kept with the person";
    // By hand: the wheel on the numbers, then a drag, then back by a double-click.
    wheel(scale(0), 1);
    EXPECT_EQ(canvas().lanes()[0].scale, LaneScale::hand);
    EXPECT_NEAR(canvas().lane_values(0).length(), 0.8 * fixed.length(), 1e-3 * fixed.length());
    const Interval before = canvas().lane_values(0);
    drag(canvas(), scale(0), scale(0) + QPoint(0, 30));
    EXPECT_GT(canvas().lane_values(0).begin, before.begin) << "dragged down, higher values come into sight";
    EXPECT_NEAR(canvas().lane_values(0).length(), before.length(), 1e-6);
    EXPECT_EQ(canvas().shown_lane(0).scale_word, QStringLiteral("by hand"));
    QTest::mouseDClick(&canvas(), Qt::LeftButton, Qt::NoModifier, scale(0));
    settle();
    EXPECT_NEAR(canvas().lane_values(0).begin, whole.begin, 1e-6);
    set_fixed_scale("speed", std::nullopt);
    Preferences::of_person().keep_shown();
}

TEST_F(LanesTest, ThePanelBesideHidesWithOneKeyAndItsWidthIsDragged) {
    const int narrow = canvas().width();
    key(Qt::Key_S);
    EXPECT_FALSE(desk().side_is_shown());
    EXPECT_GT(canvas().width(), narrow + 300);
    key(Qt::Key_S);
    EXPECT_TRUE(desk().side_is_shown());
    EXPECT_NEAR(canvas().width(), narrow, 2);
    auto* splitter = desk().findChild<QSplitter*>();
    ASSERT_NE(splitter, nullptr);
    splitter->setSizes({splitter->width() - 500, 500});
    settle();
    EXPECT_LT(canvas().width(), narrow - 100);
    // As it was at the next start; changed lanes too.
    canvas().set_lanes(three());
    settle();
    const QString state = desk().state();
    desk().show_page(QStringLiteral("Driver"));
    desk().restore(state);
    settle();
    EXPECT_EQ(names(canvas().lanes()), names(three()));
    EXPECT_TRUE(desk().page_is_touched());
}

TEST_F(LanesTest, APageGoesToAFileAndComesBackBesideItsNamesake) {
    const auto file = folder_.path() / "page.json";
    ASSERT_TRUE(write_page({QStringLiteral("Overview"), {{"speed", 1, {"gear"}}}}, file));
    desk().take_page(QString::fromStdString(file.string()));
    settle();
    EXPECT_EQ(desk().page(), QStringLiteral("Overview 2"));
    EXPECT_EQ(names(canvas().lanes()), (Names{"speed+gear"}));
    for (const char* bad : {"", "{}", "[1,2", "{\"format\":\"rendak page\",\"name\":\"x\",\"lanes\":[]}",
                            "{\"format\":\"rendak page\",\"version\":9,\"name\":\"x\",\"lanes\":[]}"}) {
        std::ofstream(file) << bad;
        const auto read = read_page(file);
        ASSERT_FALSE(read) << bad;
        EXPECT_NE(read.error().message.find("Nothing was changed"), std::string::npos) << read.error().text();
    }
}

TEST_F(LanesTest, ThePinMeasuresWhatLiesBetween) {
    canvas().set_lanes(three());
    focus().set_range({1800, 2300});
    focus().set_cursor(1900);
    key(Qt::Key_I);
    ASSERT_TRUE(state().pin_m);
    EXPECT_EQ(*state().pin_m, 1900);
    focus().set_cursor(2150);
    settle();
    auto& values = desk().values();
    const auto a = values.between(0), b = values.between(1);
    ASSERT_TRUE(a && b);
    const auto& first = laps().laps[0].lap.map;
    EXPECT_NEAR(a->time_s, first.time_at(2150) - first.time_at(1900), 1e-9);
    EXPECT_NEAR(a->way_m, 250, 1e-9);
    EXPECT_NEAR(b->time_s - a->time_s, b->gap_s, 2e-3) << "what the gap gains is what the lap takes longer";
    const double change = laps().laps[1].lap.value_at("speed", 2150) - laps().laps[1].lap.value_at("speed", 1900);
    EXPECT_EQ(values.pin_text("speed", 1, ValuePanel::PinCell::change), shown("speed").difference_text(change));
    EXPECT_NE(values.pin_text("throttle", 0, ValuePanel::PinCell::area), QStringLiteral("–"));
    keep_picture(window_.get(), QStringLiteral("pin"));
    // Ctrl and a click move it; the same key at the cursor takes it away.
    QTest::mouseClick(&canvas(), Qt::LeftButton, Qt::ControlModifier,
                      {static_cast<int>(canvas().x_scale().to_pixel(2000)), canvas().lane_area(0).center().y()});
    EXPECT_NEAR(*state().pin_m, 2000, 1);
    focus().set_cursor(*state().pin_m);
    key(Qt::Key_I);
    EXPECT_FALSE(state().pin_m);
    const auto back = focus_from_json(focus_to_json([&] {
        FocusState pinned = state();
        pinned.pin_m = 12.5;
        return pinned;
    }()));
    ASSERT_TRUE(back);
    EXPECT_EQ(back->pin_m, 12.5);
}

TEST_F(LanesTest, RangesGoBackAndForthAndTheGapCountsFromTheEdge) {
    canvas().set_lanes({{"gap", 1}, {"speed", 1}});
    settle();
    drag(canvas(), {200, 60}, {400, 60});
    const Interval first = state().range_m;
    drag(canvas(), {200, 60}, {400, 60});
    const Interval second = state().range_m;
    key(Qt::Key_Left, Qt::AltModifier);
    EXPECT_EQ(state().range_m, first);
    key(Qt::Key_Right, Qt::AltModifier);
    EXPECT_EQ(state().range_m, second);
    focus().set_range({1900, 2300});
    settle();
    key(Qt::Key_G);
    const PlottedLane& gap = canvas().shown_lane(0);
    ASSERT_EQ(gap.traces.size(), 1U);
    EXPECT_NEAR(gap.traces[0].minus, laps().laps[1].gap.at(1900), 1e-9);
    EXPECT_NEAR(gap.values.begin, 0, 0.1) << "from nothing on";
    key(Qt::Key_G);
    EXPECT_EQ(canvas().shown_lane(0).traces[0].minus, 0);
}

TEST_F(LanesTest, EventsAreStoppedAtAndMeasuredAgainstTheOtherLap) {
    const auto& corner = laps().track().corners[4];
    focus().set_range({corner.start_m - 200, corner.end_m + 100});
    focus().set_cursor(corner.start_m - 199);
    settle();
    const auto& b = laps().laps[1];
    const auto brakes = [](const ComparedLap& lap, int number) {
        for (const LapEvent& event : lap.moments)
            if (event.kind == EventKind::brake_on && event.corner == number) return event.place_m;
        return -1.0;
    };
    const double at = brakes(b, corner.number), reference = brakes(laps().laps[0], corner.number);
    ASSERT_GT(at, 0);
    for (int i = 0; i < 30 && std::abs(state().cursor_m - at) > 0.01; ++i) key(Qt::Key_E);
    EXPECT_NEAR(state().cursor_m, at, 0.01);
    const QString told = window_->status().message();
    EXPECT_TRUE(told.contains(QStringLiteral("B brakes at"))) << told.toStdString();
    EXPECT_TRUE(told.contains(signed_number(at - reference, 1))) << told.toStdString();
    // The same by a click on its mark below the lanes.
    focus().set_cursor(corner.start_m - 199);
    settle();
    for (const auto& moment : canvas().moments_in_view()) {
        if (moment.slot != 1 || moment.event.kind != EventKind::brake_on) continue;
        QTest::mouseClick(&canvas(), Qt::LeftButton, Qt::NoModifier,
                          {static_cast<int>(moment.pixel), canvas().plot_area().bottom() + 4});
    }
    settle();
    EXPECT_NEAR(state().cursor_m, at, 0.01);
}

TEST_F(LanesTest, WhatTheseRunsLackIsStillOnThePageWhenItIsKept) {
    const std::vector<Lane> page{{"speed", 1},
                                 {"battery_voltage", 1, {"throttle"}},
                                 {"brake_front", 1, {"brake_rear", "no_such_channel"}},
                                 {"another_that_is_not_here", 0.5}};
    ASSERT_TRUE(desk().pages().save(QStringLiteral("Wide"), page));
    desk().show_page(QStringLiteral("Wide"));
    settle();
    EXPECT_EQ(names(canvas().lanes()), (Names{"speed", "throttle", "brake_front+brake_rear"}));
    // A touch, and kept: on a car that logs them they are there again.
    canvas().scale_lane(0, LaneScale::view);
    settle();
    EXPECT_TRUE(desk().page_is_touched());
    desk().keep_page();
    const auto kept = desk().pages().lanes(QStringLiteral("Wide"));
    EXPECT_EQ(names(kept), (Names{"speed", "battery_voltage+throttle", "brake_front+brake_rear+no_such_channel",
                                  "another_that_is_not_here"}));
    EXPECT_EQ(kept[0].scale, LaneScale::view);
}

TEST_F(LanesTest, TheSpaceBarPressesAButtonThatHasTheKeyboard) {
    const auto buttons = beside().findChildren<QPushButton*>();
    auto* changes = *std::find_if(buttons.begin(), buttons.end(),
                                  [](const QPushButton* it) { return it->text() == QStringLiteral("Changes"); });
    changes->setFocus();
    QTest::keyClick(changes, Qt::Key_Space);
    settle();
    EXPECT_EQ(beside().picture(), Beside::Picture::changes);
    EXPECT_FALSE(desk().replay().running());
    // A click with the mouse leaves the keyboard with the traces.
    canvas().setFocus();
    QTest::mouseClick(changes, Qt::LeftButton);
    EXPECT_TRUE(canvas().hasFocus());
    QTest::keyClick(&canvas(), Qt::Key_Space);
    EXPECT_TRUE(desk().replay().running());
    desk().replay().stop();
    settle();
}

TEST_F(LanesTest, AViewThatIsAllZeroForOneLapIsNotEmpty) {
    // On the straight A does not brake: zero is a value, and stays in sight beside another lap's.
    canvas().set_lanes({{"brake_front", 1}});
    const auto& event = laps().laps[1].events[4];
    focus().set_range({*event.brake_on_m - 30, *event.brake_on_m + 12});
    canvas().scale_lane(0, LaneScale::view);
    settle();
    const Interval shown_values = canvas().lane_values(0);
    EXPECT_LT(shown_values.begin, 0.5) << "bar";
    EXPECT_GT(shown_values.end, 3);
}

TEST_F(LanesTest, OverTheWholeRunTheGapHasNoEdgeToCountFrom) {
    canvas().set_lanes({{"gap", 1}, {"speed", 1}});
    focus().set_range({1900, 2300});
    settle();
    key(Qt::Key_G);
    ASSERT_NE(canvas().shown_lane(0).traces[0].minus, 0);
    key(Qt::Key_R);
    EXPECT_EQ(canvas().shown_lane(0).traces.empty() ? 0 : canvas().shown_lane(0).traces[0].minus, 0);
    EXPECT_FALSE(canvas().counts_gap_from_view());
    key(Qt::Key_D);
    EXPECT_NE(canvas().shown_lane(0).traces[0].minus, 0) << "and again where there is one";
}

}  // namespace
}  // namespace rendak::app
