// Compare as a person uses it: keys, clicks and drags on the real window, and what is read there afterwards.
#include <QAction>
#include <QInputDialog>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QTimer>

#include "app/text/shown.h"
#include "core/intake/import.h"
#include "core/laps/cut.h"
#include "tests/app/window_fixture.h"
#include "tests/support/got.h"

namespace rendak::app {
namespace {

class CompareTest : public WindowTest {
  protected:
    void SetUp() override {
        WindowTest::SetUp();
        compare_best();
    }
    TraceCanvas& canvas() { return window_->desk_of<CompareDesk>().canvas(); }
    ValuePanel& values() { return window_->desk_of<CompareDesk>().values(); }
    MapCanvas& map() { return window_->desk_of<CompareDesk>().map(); }
    ShapeStrip& strip() { return window_->desk_of<CompareDesk>().strip(); }
    QString label(const char* name) {
        return window_->desk_of<CompareDesk>().findChild<QLabel*>(QString::fromLatin1(name))->text();
    }
    QPoint on_canvas(double distance_m, std::size_t lane = 1) {
        return {static_cast<int>(canvas().x_scale().to_pixel(distance_m)), canvas().lane_area(lane).center().y()};
    }
    void click(QWidget& widget, QPoint at) {
        QTest::mouseClick(&widget, Qt::LeftButton, Qt::NoModifier, at);
        settle();
    }
};

TEST_F(CompareTest, TheAnswerStandsOnTop) {
    const double gap = laps().laps[1].lap.time_s() - laps().laps[0].lap.time_s();
    ASSERT_GT(gap, 1);
    const QString headline = label("headline");
    EXPECT_TRUE(headline.contains(QStringLiteral("loses ") + QString::number(gap, 'f', 3))) << headline.toStdString();
    EXPECT_TRUE(headline.contains(QStringLiteral("Osei")));
    EXPECT_TRUE(headline.contains(QStringLiteral("Turns 5")))
        << "the largest loss comes first: " << headline.toStdString();
    EXPECT_TRUE(label("evidence").contains(QStringLiteral("m earlier")));
    EXPECT_TRUE(label("evidence").contains(QStringLiteral("lifts where A stays flat")));
}

TEST_F(CompareTest, GapAtTheEndIsTheLapTimeDifference) {
    focus().set_cursor(laps().length_m());
    settle();
    const double gap = laps().laps[1].lap.time_s() - laps().laps[0].lap.time_s();
    EXPECT_EQ(values().text("gap", 1, ValuePanel::Cell::value), signed_number(gap, 3));
    EXPECT_EQ(window_->tray().cards()[1]->texts()[3], signed_number(gap, 3));
}

TEST_F(CompareTest, AClickPutsTheCursorAndTheTableFollows) {
    click(canvas(), on_canvas(2000));
    EXPECT_NEAR(state().cursor_m, 2000, 8);
    const double a = laps().laps[0].lap.value_at("speed", state().cursor_m),
                 b = laps().laps[1].lap.value_at("speed", state().cursor_m);
    EXPECT_EQ(values().text("speed", 0, ValuePanel::Cell::value), shown("speed").text(a));
    EXPECT_EQ(values().text("speed", 1, ValuePanel::Cell::value), shown("speed").text(b));
    EXPECT_EQ(values().text("speed", 1, ValuePanel::Cell::difference), shown("speed").difference_text(b - a));
}

TEST_F(CompareTest, ACursorMoveDoesNotRedrawTheTraces) {
    (void)window_->grab();
    const int before = canvas().redraws();
    for (int i = 0; i < 20; ++i) {
        focus().set_cursor(100 + 50 * i);
        (void)window_->grab();
    }
    EXPECT_EQ(canvas().redraws(), before);
    focus().set_range({100, 500});
    (void)window_->grab();
    EXPECT_EQ(canvas().redraws(), before + 1);
}

TEST_F(CompareTest, DraggingZoomsAndEscapeGoesBack) {
    drag(canvas(), on_canvas(1900), on_canvas(2300));
    EXPECT_NEAR(state().range_m.begin, 1900, 10);
    EXPECT_NEAR(state().range_m.end, 2300, 10);
    EXPECT_TRUE(window_->status().range_text().contains(QStringLiteral("Turn 5")))
        << window_->status().range_text().toStdString();
    drag(canvas(), on_canvas(2000), on_canvas(2100));
    EXPECT_NEAR(state().range_m.length(), 100, 5);
    key(Qt::Key_Escape);
    EXPECT_NEAR(state().range_m.end, 2300, 10);
    key(Qt::Key_Home);
    EXPECT_NEAR(state().range_m.length(), laps().length_m(), 1);
    EXPECT_TRUE(window_->status().range_text().contains(QStringLiteral("Whole lap")));
}

TEST_F(CompareTest, TheWheelZoomsAboutThePointer) {
    const QPoint at = on_canvas(3000);
    QWheelEvent wheel(at, canvas().mapToGlobal(at), {}, {0, 240}, Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase,
                      false);
    QApplication::sendEvent(&canvas(), &wheel);
    settle();
    EXPECT_NEAR(state().range_m.length(), laps().length_m() * 0.64, 5);
    EXPECT_NEAR(canvas().x_scale().to_value(at.x()), 3000, 10) << "the place under the pointer stays";
}

TEST_F(CompareTest, KeysStepTheCursorCornersAndLaps) {
    focus().set_cursor(1000);
    key(Qt::Key_Right);
    const double fine = state().cursor_m - 1000;
    EXPECT_GT(fine, 0);
    key(Qt::Key_Right, Qt::ShiftModifier);
    EXPECT_NEAR(state().cursor_m - 1000 - fine, 20 * fine, 1e-6);
    key(Qt::Key_PageDown);
    EXPECT_NEAR(state().cursor_m, laps().track().corners[0].apex_m, 1e-6) << "from the whole lap to the first corner";
    key(Qt::Key_PageDown);
    EXPECT_NEAR(state().cursor_m, laps().track().corners[1].apex_m, 1e-6);
    EXPECT_TRUE(state().range_m.contains(laps().track().corners[1].apex_m));
    key(Qt::Key_PageUp);
    EXPECT_NEAR(state().cursor_m, laps().track().corners[0].apex_m, 1e-6);

    const Interval range = state().range_m;
    focus().replace_slot(1, {{3}, 4});
    settle();
    const LapRef before = state().laps[1];
    key(Qt::Key_BracketLeft);
    EXPECT_EQ(state().laps[1].run, before.run);
    EXPECT_EQ(state().laps[1].lap, before.lap - 1);
    EXPECT_EQ(state().range_m, range) << "the zoom survives a change of laps";
    key(Qt::Key_BracketRight);
    EXPECT_EQ(state().laps[1], before);
}

TEST_F(CompareTest, RangeAndCursorSurviveDesksAndARestart) {
    focus().set_range({500, 900});
    focus().set_cursor(700);
    key(Qt::Key_2, Qt::ControlModifier);
    EXPECT_EQ(window_->desk(), QStringLiteral("logbook"));
    key(Qt::Key_3, Qt::ControlModifier);
    EXPECT_EQ(window_->desk(), QStringLiteral("compare"));
    EXPECT_EQ(state().range_m, (Interval{500, 900}));
    const auto before = state();
    window_->close();
    window_.reset();
    open_window();
    EXPECT_EQ(state(), before);
    EXPECT_EQ(window_->desk(), QStringLiteral("compare"));
    EXPECT_EQ(laps().laps.size(), 2U);
}

TEST_F(CompareTest, ShapeStripSetsTheRangeAndNumbersGoToCorners) {
    const Scale x = strip().x_scale();
    const Corner corner = laps().track().corners[4];
    click(strip(), strip().badge(corner));
    EXPECT_TRUE(state().range_m.contains(corner.apex_m));
    EXPECT_LT(state().range_m.length(), 500);
    drag(strip(), {static_cast<int>(x.to_pixel(600)), 42}, {static_cast<int>(x.to_pixel(1400)), 42});
    EXPECT_NEAR(state().range_m.begin, 600, 10);
    EXPECT_NEAR(state().range_m.end, 1400, 10);
    drag(strip(), {static_cast<int>(x.to_pixel(1000)), 10}, {static_cast<int>(x.to_pixel(1500)), 10});
    EXPECT_NEAR(state().range_m.begin, 1100, 15) << "dragging the range moves it";
    EXPECT_NEAR(state().range_m.length(), 800, 15);
}

TEST_F(CompareTest, NumbersOfCornersAreWhollyInsideTheStripHoweverNarrow) {
    const QSize before = strip().size();
    constexpr int radius_px = 8;
    for (const int width : {before.width(), 500, 260, 150, 110, 40}) {
        strip().resize(width, before.height());
        for (const Corner& corner : laps().track().corners) {
            const QPoint at = strip().badge(corner);
            EXPECT_GE(at.x(), strip().x_scale().first + radius_px) << width;
            if (width > 120) EXPECT_LE(at.x() + radius_px, width) << width << ' ' << corner.number;
            EXPECT_GE(at.y(), radius_px) << width << ' ' << corner.number;
            EXPECT_LE(at.y() + radius_px, before.height()) << width << ' ' << corner.number;
        }
    }
    strip().resize(before);
}

TEST_F(CompareTest, AClickOnTheMapMovesTheCursor) {
    const double place = laps().track().corners[8].apex_m;
    click(map(), map().to_pixel(laps().baseline().lap.position_at(place)).toPoint());
    EXPECT_NEAR(state().cursor_m, place, 25);
    const QPointF before = map().to_pixel(laps().track().line.front());
    drag(map(), {100, 100}, {140, 120});
    const QPointF after = map().to_pixel(laps().track().line.front());
    EXPECT_NEAR(after.x() - before.x(), 40, 1.5) << "dragging moves the map";
    EXPECT_NEAR(state().cursor_m, place, 25) << "and not the cursor";
}

TEST_F(CompareTest, LowAndHighAreFoundAndJumpedTo) {
    const auto low = values().cell_area("speed", 0, ValuePanel::Cell::low);
    ASSERT_FALSE(low.isEmpty());
    click(values(), low.center());
    const RangeFigures figures = figures_in_range(laps().laps[0].lap, "speed", {0, laps().length_m()});
    EXPECT_NEAR(state().cursor_m, figures.low_at_m, 0.01);
    EXPECT_EQ(values().text("speed", 0, ValuePanel::Cell::low), shown("speed").text(figures.low));
    focus().set_range({100, 300});
    settle();
    const RangeFigures in_range = figures_in_range(laps().laps[0].lap, "speed", {100, 300});
    EXPECT_EQ(values().text("speed", 0, ValuePanel::Cell::mean), shown("speed").text(in_range.mean))
        << "figures follow the range";
}

TEST_F(CompareTest, TheAxisIsAlwaysSaidAndSwitches) {
    auto button = [&](const QString& text) {
        for (auto* b : window_->desk_of<CompareDesk>().findChildren<QPushButton*>()) {
            if (b->text() == text) return b;
        }
        return static_cast<QPushButton*>(nullptr);
    };
    EXPECT_TRUE(button(QStringLiteral("Distance"))->isChecked()) << "distance is what laps are compared on";
    key(Qt::Key_T);
    EXPECT_EQ(state().axis, Axis::time);
    EXPECT_TRUE(button(QStringLiteral("Time"))->isChecked());
    EXPECT_NEAR(canvas().x_scale().values.end, laps().baseline().lap.time_s(), 1e-6);
    // On the time axis both laps are read at the same moment, not the same place.
    focus().set_cursor(3000);
    settle();
    EXPECT_LT(window_->workspace().comparison().cursor_distance(1), 3000);
    click(*button(QStringLiteral("Distance")), {5, 5});
    EXPECT_EQ(state().axis, Axis::distance);
}

TEST_F(CompareTest, LanesAreAdjustedByDraggingAndRemembered) {
    const int before = canvas().lane_area(1).height();
    const QPoint line(400, canvas().lane_area(1).bottom());
    drag(canvas(), line, line + QPoint(0, 40));
    EXPECT_NEAR(canvas().lane_area(1).height(), before + 40, 4);
    EXPECT_NEAR(state().range_m.length(), 0, 1e-9) << "dragging a separator is no zoom";
    window_.reset();
    open_window();
    compare_best();
    EXPECT_NEAR(canvas().lane_area(1).height(), before + 40, 4);
}

TEST_F(CompareTest, LapsAreMadeBaselineAndTakenAwayByKeyboard) {
    const auto cards = window_->tray().cards();
    cards[1]->setFocus();
    QTest::keyClick(cards[1], Qt::Key_Return);
    settle();
    EXPECT_EQ(state().laps[0].run, (RunId{3}));
    EXPECT_TRUE(label("headline").contains(QStringLiteral("is quicker than A by")))
        << "B is now the faster one: " << label("headline").toStdString();
    QTest::keyClick(window_->tray().cards()[1], Qt::Key_Delete);
    settle();
    EXPECT_EQ(laps().laps.size(), 1U);
    EXPECT_TRUE(label("headline").startsWith(QStringLiteral("A is Osei")));
}

TEST_F(CompareTest, MarksAreSavedRecalledAndUndone) {
    focus().set_range({1900, 2200});
    auto* menu = window_->desk_of<CompareDesk>().findChild<QMenu*>(QStringLiteral("marks"));
    Q_EMIT menu->aboutToShow();
    QTimer::singleShot(0, [] {
        auto* dialog = qobject_cast<QInputDialog*>(QApplication::activeModalWidget());
        ASSERT_NE(dialog, nullptr);
        dialog->setTextValue(QStringLiteral("Hairpin"));
        dialog->accept();
    });
    menu->actions().front()->trigger();
    settle();
    const auto track = laps().baseline().run->row.track;
    ASSERT_EQ(window_->workspace().library().marks(track).value().size(), 1U);
    focus().set_range({0, 500});
    Q_EMIT menu->aboutToShow();
    for (QAction* action : menu->actions()) {
        if (action->text() == QStringLiteral("Hairpin")) action->trigger();
    }
    EXPECT_EQ(state().range_m, (Interval{1900, 2200}));
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(window_->workspace().library().marks(track).value().empty());
}

TEST_F(CompareTest, TurningASignRoundChangesTheTraceAndUndoes) {
    focus().set_cursor(laps().track().corners[4].apex_m);
    settle();
    const double before = laps().laps[1].lap.value_at("steering", state().cursor_m);
    ASSERT_LT(before, -0.3) << "a right-hander";
    Q_EMIT canvas().flip_sign_asked("steering");
    settle();
    EXPECT_NEAR(laps().laps[1].lap.value_at("steering", state().cursor_m), -before, 1e-6);
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_NEAR(laps().laps[1].lap.value_at("steering", state().cursor_m), before, 1e-6);
}

TEST_F(CompareTest, LapsOfOtherTracksAreRefusedWithAReason) {
    auto& library = window_->workspace().library();
    const auto oval = test::oval_table(3, 20);
    const auto run = import_file(library, folder_.write("o.csv", oval.text), {});
    ASSERT_TRUE(run);
    ASSERT_TRUE(learn_track_from_run(library, run->run, "Oval", {}));
    window_->workspace().pick({run->run, 1});
    settle();
    EXPECT_EQ(laps().laps.size(), 2U);
    EXPECT_EQ(state().laps.size(), 2U) << "the tray shows what is compared";
    EXPECT_TRUE(window_->status().message().contains(QStringLiteral("another track")));
}

TEST_F(CompareTest, CancellingTheAlignmentKeepsThePicks) {
    const auto picks = state().laps;
    window_->workspace().comparison().reload();
    window_->workspace().jobs().cancel_all();
    settle();
    EXPECT_EQ(state().laps, picks);
    window_->workspace().comparison().reload();
    settle();
    EXPECT_EQ(laps().laps.size(), 2U) << window_->status().message().toStdString();
}

TEST_F(CompareTest, EveryControlHasAName) {
    for (const auto* button : window_->findChildren<QAbstractButton*>()) {
        // Qt's own parts inside a table or a line edit.
        const QLatin1String kind(button->metaObject()->className());
        if (kind == QLatin1String("QTableCornerButton") || kind == QLatin1String("QLineEditIconButton")) continue;
        EXPECT_FALSE(button->text().isEmpty() && button->accessibleName().isEmpty())
            << button->metaObject()->className();
    }
}

TEST_F(CompareTest, NoScrollBarAtTheUsualSize) {
    const auto* scroll = values().parentWidget()->parentWidget();
    EXPECT_GE(scroll->height(), values().sizeHint().height()) << "two laps and six channels fit at 1280 × 800";
}

class NothingPickedTest : public WindowTest {};

TEST_F(NothingPickedTest, FewSensorsShowSpeedAndAccelerations) {
    auto& library = window_->workspace().library();
    const auto run = import_file(library, folder_ / "demo-files/saturday-run-2-pocket.csv", {});
    ASSERT_TRUE(run) << run.error().text();
    EXPECT_EQ(library.run(run->run)->track_name, "Skerrow Point");
    ASSERT_TRUE(window_->workspace().pick_best(run->run));
    window_->workspace().pick({run->run, 2});
    settle();
    std::vector<std::string> lanes;
    for (const Lane& lane : window_->desk_of<CompareDesk>().canvas().lanes()) lanes.push_back(lane.quantity);
    EXPECT_EQ(lanes, (std::vector<std::string>{"gap", "speed", "lateral_acceleration", "longitudinal_acceleration"}));
    window_->workspace().pick_best({3});
    settle();
    EXPECT_EQ(window_->desk_of<CompareDesk>().canvas().lanes().size(), 6U)
        << "with the main logger the pedals are back";
}

TEST_F(NothingPickedTest, OneButtonComparesTheLatestRuns) {
    window_->show_desk(QStringLiteral("compare"));
    settle();
    auto* button = window_->desk_of<CompareDesk>().findChild<QPushButton*>(QStringLiteral("pick-latest"));
    ASSERT_TRUE(button->isVisible());
    QTest::mouseClick(button, Qt::LeftButton);
    settle();
    ASSERT_EQ(laps().laps.size(), 2U);
    EXPECT_EQ(laps().laps[0].run->row.id, (RunId{2}));
    EXPECT_EQ(laps().laps[1].run->row.id, (RunId{3}));
    EXPECT_FALSE(button->isVisible());
}

TEST_F(WindowTest, PagesKeepTheCursorAndComeBackAsTheyWere) {
    compare_best();
    focus().set_range({500, 1500});
    focus().set_cursor(900);
    const auto quantities = [this] {
        std::vector<std::string> out;
        for (const Lane& lane : window_->desk_of<CompareDesk>().canvas().lanes()) out.push_back(lane.quantity);
        return out;
    };
    const auto overview = quantities();
    key(Qt::Key_P);
    EXPECT_EQ(window_->desk_of<CompareDesk>().page(), QStringLiteral("Driver"));
    EXPECT_NE(quantities(), overview);
    EXPECT_EQ(state().cursor_m, 900);
    EXPECT_EQ(state().range_m, (Interval{500, 1500}));
    auto& desk = window_->desk_of<CompareDesk>();
    const QString ride = QStringLiteral("Ride and dampers");
    desk.show_page(ride);
    auto lanes = desk.canvas().lanes();
    ASSERT_EQ(lanes[1].quantity, "damper_fl");
    std::swap(lanes[0], lanes[1]);
    desk.canvas().set_lanes(lanes);
    EXPECT_TRUE(desk.page_is_touched());
    desk.show_page(Pages::first());
    EXPECT_EQ(quantities(), overview);
    desk.show_page(ride);
    EXPECT_EQ(quantities()[0], "speed") << "a touch is kept only when that is asked for";
    desk.canvas().set_lanes(lanes);
    desk.back_to_page();
    EXPECT_EQ(quantities()[0], "speed");
    EXPECT_FALSE(desk.page_is_touched());
    desk.canvas().set_lanes(lanes);
    desk.keep_page();
    EXPECT_FALSE(desk.page_is_touched());
    desk.show_page(Pages::first());
    desk.show_page(ride);
    EXPECT_EQ(quantities()[0], "damper_fl") << "kept";
    ASSERT_TRUE(desk.pages().forget(ride));
    desk.show_page(ride);
    EXPECT_EQ(quantities()[0], "speed") << "as it came";
    ASSERT_TRUE(window_->desk_of<CompareDesk>().pages().save(QStringLiteral("Mine"), {{"speed", 1}, {"fuel", 1}}));
    window_->desk_of<CompareDesk>().show_page(QStringLiteral("Mine"));
    EXPECT_EQ(quantities(), (std::vector<std::string>{"speed", "fuel"}));
    ASSERT_TRUE(window_->desk_of<CompareDesk>().pages().forget(QStringLiteral("Mine")));
    EXPECT_FALSE(window_->desk_of<CompareDesk>().pages().names().contains(QStringLiteral("Mine")));
}

TEST_F(WindowTest, SeveralChangesBetweenTwoRunsAreSaid) {
    compare_best();
    EXPECT_TRUE(
        window_->desk_of<CompareDesk>().changes_text().startsWith(QStringLiteral("No change of the car is noted")))
        << window_->desk_of<CompareDesk>().changes_text().toStdString();
    EXPECT_TRUE(window_->desk_of<CompareDesk>().changes_text().contains(
        QStringLiteral("another driver, tyres 10 laps older, 1.2 h later")));
    auto& library = window_->workspace().library();
    RunFacts facts = *library.run({3});
    for (const auto& sheet : test::got(library.setups())) {
        if (sheet.title() == "Base 2") facts.setup = sheet.id;
    }
    ASSERT_TRUE(library.set_facts({3}, facts));
    window_->workspace().library_changed();
    settle();
    EXPECT_TRUE(window_->desk_of<CompareDesk>().changes_text().startsWith(
        QStringLiteral("4 changes at once, so what helped cannot be told apart: Packers front 0 to 6 mm")))
        << window_->desk_of<CompareDesk>().changes_text().toStdString();
}

}  // namespace
}  // namespace rendak::app
