// The Track and Corners desks, the painted map, the whole run and the choice of laps, as a person uses them.
#include <QClipboard>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QPushButton>
#include <QTableView>
#include <QTableWidget>
#include <QToolButton>
#include <fstream>

#include "app/desks/logbook/launch_dialog.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/intake/import.h"
#include "core/intake/run_recording.h"
#include "core/intake/shared_track.h"
#include "core/laps/cut.h"
#include "demo/sensors.h"
#include "tests/app/window_fixture.h"

namespace rendak::app {
namespace {

class TrackDeskTest : public WindowTest {
  protected:
    void SetUp() override {
        WindowTest::SetUp();
        compare_best();
        window_->show_desk(QStringLiteral("track"));
        settle();
    }
    TrackDesk& desk() { return window_->desk_of<TrackDesk>(); }
    const Track& track() { return *desk().track(); }
    Track stored() {
        return *read_track(window_->workspace().library(),
                           *window_->workspace().library().find_track("Skerrow Point").value());
    }
    void press(const char* text) {
        for (auto* button : desk().findChildren<QPushButton*>()) {
            if (button->text() == QString::fromUtf8(text)) {
                ASSERT_TRUE(button->isEnabled()) << text;
                QTest::mouseClick(button, Qt::LeftButton);
                settle();
                return;
            }
        }
        FAIL() << "no button " << text;
    }
    QPoint on_strip(double distance_m, int y = 60) {
        return {static_cast<int>(std::lround(desk().strip().pixel_of(distance_m))), y};
    }
    void undo() { key(Qt::Key_Z, Qt::ControlModifier); }
};

TEST_F(TrackDeskTest, ShowsTheTrackOfThePickedLapsAndAClickChoosesACorner) {
    EXPECT_EQ(track().name, "Skerrow Point");
    EXPECT_TRUE(desk().summary().contains(QStringLiteral("14 corners"))) << desk().summary().toStdString();
    QTest::mouseClick(&desk().strip(), Qt::LeftButton, {}, on_strip(track().corners[4].apex_m));
    EXPECT_EQ(desk().findChild<QTableWidget*>()->currentRow(), 4);
    QTest::mouseClick(&desk().map(), Qt::LeftButton, {},
                      desk().map().to_pixel(track().position_at(track().corners[8].apex_m)).toPoint());
    EXPECT_EQ(desk().findChild<QTableWidget*>()->currentRow(), 8);
}

TEST_F(TrackDeskTest, DeleteRenameAndUndoReachEveryTable) {
    desk().select_corner(6);
    press("Delete");
    EXPECT_EQ(stored().corners.size(), 13U);
    EXPECT_EQ(laps().track().corners.size(), 13U) << "Compare follows";
    auto* table = desk().findChild<QTableWidget*>();
    table->item(4, 1)->setText(QStringLiteral("Gull Hook"));
    settle();
    EXPECT_EQ(stored().corners[4].name, "Gull Hook");
    window_->show_desk(QStringLiteral("corners"));
    settle();
    bool shown_there = false;
    auto& model = window_->desk_of<CornersDesk>().model();
    for (int row = 0; row < model.rowCount(); ++row)
        shown_there |= model.index(row, 0).data().toString() == QStringLiteral("Gull Hook");
    EXPECT_TRUE(shown_there);
    undo();
    undo();
    EXPECT_EQ(stored().corners.size(), 14U);
    EXPECT_EQ(stored().corners[4].name, "");
}

TEST_F(TrackDeskTest, LimitsAreDraggedAndAStretchBecomesACorner) {
    desk().select_corner(4);
    const double end = track().corners[4].end_m;
    drag(desk().strip(), on_strip(end), on_strip(end + 60));
    EXPECT_NEAR(stored().corners[4].end_m, end + 60, 12);
    undo();
    EXPECT_NEAR(stored().corners[4].end_m, end, 0.01);
    // The straight behind the hairpin has a bend in somebody's opinion.
    desk().select_corner(-1);
    drag(desk().strip(), on_strip(end + 90), on_strip(end + 200));
    EXPECT_TRUE(desk().hint().contains(QStringLiteral("Chosen")));
    press("Add");
    ASSERT_EQ(stored().corners.size(), 15U);
    EXPECT_NEAR(stored().corners[5].start_m, end + 90, 12);
    press("As found");
    EXPECT_EQ(stored().corners.size(), 14U);
}

TEST_F(TrackDeskTest, NumbersJoinsAndRefusals) {
    desk().select_corner(6);
    press("Join with next");
    EXPECT_EQ(stored().corners.size(), 13U);
    desk().select_corner(3);
    desk().number_selected(1);
    EXPECT_TRUE(window_->status().message().contains(QStringLiteral("must be 4 or more")))
        << window_->status().message().toStdString();
    desk().number_selected(10);
    settle();
    EXPECT_EQ(stored().corners[3].number, 10);
    EXPECT_EQ(stored().corners[4].number, 11);
}

TEST_F(TrackDeskTest, SectorLinesAreSetDraggedAndRemoved) {
    desk().set_place(1500);
    press("Sector line here");
    desk().set_place(3300);
    press("Sector line here");
    ASSERT_EQ(stored().sector_lines_m.size(), 2U);
    drag(desk().strip(), on_strip(1500), on_strip(1700));
    EXPECT_NEAR(stored().sector_lines_m[0], 1700, 12);
    window_->show_desk(QStringLiteral("corners"));
    window_->desk_of<CornersDesk>().show_table(FigureModel::Shows::sectors);
    settle();
    EXPECT_EQ(window_->desk_of<CornersDesk>().model().rowCount(), 4) << "three sectors and the lap";
    window_->show_desk(QStringLiteral("track"));
    desk().set_place(3200);
    press("Remove line");
    EXPECT_EQ(stored().sector_lines_m.size(), 1U);
}

TEST_F(TrackDeskTest, StartLineMovesForEveryRunAndComesBackWithUndo) {
    auto& library = window_->workspace().library();
    const auto before = library.laps({3}).value();
    const auto mark = library.add_mark(*library.find_track("Skerrow Point").value(), "Hairpin", {2000, 2200});
    ASSERT_TRUE(mark);
    desk().set_place(1200);
    settle();
    EXPECT_TRUE(desk().hint().contains(QStringLiteral("would cut Run 2 into 9 flying laps")))
        << desk().hint().toStdString();
    press("Start line here");
    for (const std::int64_t run : {1, 2, 3}) {
        const auto laps_now = library.laps({run}).value();
        ASSERT_NE(best_lap(laps_now), nullptr) << run;
    }
    EXPECT_GT(std::abs(library.laps({3}).value()[1].start_s - before[1].start_s), 10);
    EXPECT_NEAR(library.marks(*library.find_track("Skerrow Point").value()).value()[0].range_m.begin, 800, 0.01)
        << "marks keep their place on earth";
    undo();
    settle();
    const auto after = library.laps({3}).value();
    ASSERT_EQ(after.size(), before.size());
    for (std::size_t k = 0; k < after.size(); ++k) EXPECT_NEAR(after[k].start_s, before[k].start_s, 1e-3);
    EXPECT_NEAR(library.marks(*library.find_track("Skerrow Point").value()).value()[0].range_m.begin, 2000, 0.01);
    EXPECT_NEAR(track().corners[4].apex_m, stored().corners[4].apex_m, 0.01);
}

TEST_F(TrackDeskTest, EdgesHeightBankingAndPitLaneAreLearntFromLaps) {
    press("Edges: spread");
    EXPECT_EQ(stored().edges.source, Edges::Source::spread);
    EXPECT_TRUE(desk().summary().contains(QStringLiteral("spread of laps")));
    press("Height, banking");
    const auto heights = stored().height.value;
    ASSERT_FALSE(heights.empty());
    const auto [low, high] = std::minmax_element(heights.begin(), heights.end());
    EXPECT_NEAR(*high - *low, 40, 3);
    press("Pit lane");
    EXPECT_GT(stored().pit_lane.size(), 10U);
    desk().learn_edges_from_laps({{2}, 3}, {{2}, 4});
    settle();
    EXPECT_TRUE(window_->status().message().contains(QStringLiteral("m wide at")))
        << "racing laps are no edges: " << window_->status().message().toStdString();
    undo();
    undo();
    undo();
    EXPECT_EQ(stored().edges.source, Edges::Source::none);
}

TEST_F(TrackDeskTest, TurnedRoundNoLapIsLeftAndUndoBringsThemBack) {
    press("Turn round");
    EXPECT_EQ(best_lap(window_->workspace().library().laps({2}).value()), nullptr) << "nobody drove this way";
    undo();
    settle();
    ASSERT_NE(best_lap(window_->workspace().library().laps({2}).value()), nullptr);
}

TEST_F(TrackDeskTest, ATrackGoesOutAndAnotherOneComesIn) {
    const auto file = folder_ / "out.geojson";
    ASSERT_TRUE(desk().export_file(QString::fromStdString(file.string())));
    std::ifstream stream(file);
    std::string text((std::istreambuf_iterator<char>(stream)), {});
    // In place of the one of that name, with another corner name in it.
    Track changed = *track_from_geojson(text, "");
    changed.corners[0].name = "Light";
    folder_.write("in.geojson", track_to_geojson(changed));
    // The one that is here was learnt and edited: it goes only when that is wanted.
    QStringList asked;
    bool answer = false;
    desk().ask_to_replace = [&](const QString& name) {
        asked << name;
        return answer;
    };
    desk().import_file(QString::fromStdString((folder_ / "in.geojson").string()));
    settle();
    EXPECT_EQ(asked, QStringList{QStringLiteral("Skerrow Point")});
    EXPECT_EQ(stored().corners[0].name, "");
    answer = true;
    desk().import_file(QString::fromStdString((folder_ / "in.geojson").string()));
    settle();
    EXPECT_EQ(stored().corners[0].name, "Light");
    undo();
    settle();
    EXPECT_EQ(stored().corners[0].name, "");
    folder_.write("bad.geojson", "{}");
    desk().import_file(QString::fromStdString((folder_ / "bad.geojson").string()));
    EXPECT_TRUE(window_->status().message().contains(QStringLiteral("cannot be read")));
}

TEST_F(TrackDeskTest, WhatIsLearntBelongsToItsTrackWhateverIsShownMeanwhile) {
    auto& library = window_->workspace().library();
    Track other = *desk().track();
    other.name = "Elsewhere";
    const auto id = library.put_track(other.name, other.length_m, track_to_geojson(other));
    ASSERT_TRUE(id);
    window_->workspace().library_changed();
    settle();
    desk().learn_edges_from_spread();
    desk().show_track(*id);
    settle();
    EXPECT_EQ(desk().track()->name, "Elsewhere");
    EXPECT_EQ(desk().track()->edges.source, Edges::Source::none);
    EXPECT_EQ(stored().edges.source, Edges::Source::spread) << "filed with the track that it was learnt for";
    undo();
    settle();
    EXPECT_EQ(stored().edges.source, Edges::Source::none);
    // An error is told as well: there are no laps there to learn from.
    desk().learn_edges_from_spread();
    desk().show_track(*library.find_track("Skerrow Point").value());
    settle();
    EXPECT_FALSE(window_->status().message().isEmpty());
}

TEST_F(TrackDeskTest, OnlyATrackWithoutRunsIsRemovedAndComesBack) {
    auto& library = window_->workspace().library();
    desk().remove();
    EXPECT_TRUE(window_->status().message().contains(QStringLiteral("cannot be removed")));
    EXPECT_EQ(library.tracks().value().size(), 1U);
    Track spare = track();
    spare.name = "Spare";
    const auto id = library.put_track(spare.name, spare.length_m, track_to_geojson(spare));
    ASSERT_TRUE(id);
    ASSERT_TRUE(library.add_mark(*id, "Here", {10, 20}));
    window_->workspace().library_changed();
    settle();
    desk().show_track(*id);
    desk().remove();
    EXPECT_FALSE(library.find_track("Spare").value());
    undo();
    ASSERT_TRUE(library.find_track("Spare").value());
    EXPECT_EQ(library.marks(*library.find_track("Spare").value()).value().size(), 1U);
}

class CornersDeskTest : public WindowTest {
  protected:
    void SetUp() override {
        WindowTest::SetUp();
        compare_best();
        window_->show_desk(QStringLiteral("corners"));
        settle();
    }
    FigureModel& model() { return window_->desk_of<CornersDesk>().model(); }
    QString cell(int row, int column) { return model().index(row, column).data().toString(); }
    int row_of(const char* name) {
        for (int row = 0; row < model().rowCount(); ++row) {
            if (cell(row, 0) == QString::fromUtf8(name)) return row;
        }
        return -1;
    }
};

TEST_F(CornersDeskTest, IdealLapAndVerdictStandOnTop) {
    EXPECT_EQ(model().rowCount(), static_cast<int>(sections_of(laps().track()).size()) + 1);
    EXPECT_EQ(model().columnCount(), model().first_lap_column() + 15);
    EXPECT_TRUE(window_->desk_of<CornersDesk>().headline().startsWith(QStringLiteral("Ideal lap 1:")))
        << window_->desk_of<CornersDesk>().headline().toStdString();
    EXPECT_TRUE(window_->desk_of<CornersDesk>().verdict().contains(QStringLiteral("must be worth")));
    EXPECT_TRUE(window_->desk_of<CornersDesk>().verdict().contains(QStringLiteral("2 doubtful laps")));
    // No section needs scrolling at 1280 × 800.
    auto& table = window_->desk_of<CornersDesk>().table();
    EXPECT_LT(table.rowViewportPosition(model().rowCount() - 1) + table.rowHeight(0), table.viewport()->height());
}

TEST_F(CornersDeskTest, AClickShowsLapAndSectionOnCompare) {
    const int row = row_of("Turn 5");
    int column = -1;
    for (int c = model().first_lap_column(); c < model().columnCount(); ++c) {
        if (model().lap_of(c) == LapRef{{3}, 4}) column = c;
    }
    ASSERT_GE(column, 0);
    auto& table = window_->desk_of<CornersDesk>().table();
    QModelIndex target;
    for (int r = 0; r < table.model()->rowCount(); ++r) {
        if (table.model()->index(r, 0).data().toString() == QStringLiteral("Turn 5"))
            target = table.model()->index(r, column);
    }
    table.scrollTo(target);
    QTest::mouseClick(table.viewport(), Qt::LeftButton, {}, table.visualRect(target).center());
    settle();
    EXPECT_EQ(window_->desk(), QStringLiteral("compare"));
    EXPECT_EQ(state().range_m, model().range_of(row));
    EXPECT_GE(focus().slot_of({{3}, 4}), 1) << "in the tray, held against A";
}

TEST_F(CornersDeskTest, FollowsLapSwitchesAtOnceAndCopies) {
    const QString before = window_->desk_of<CornersDesk>().headline();
    const auto best = laps().baseline().lap.ref;
    window_->workspace().edit(
        QStringLiteral("out"), [&] { return window_->workspace().library().switch_lap(best, false, "test"); },
        [&] { return window_->workspace().library().unswitch_lap(best); });
    settle();
    EXPECT_NE(window_->desk_of<CornersDesk>().headline(), before);
    QTest::keyClick(&window_->desk_of<CornersDesk>().table(), Qt::Key_C, Qt::ControlModifier);
    const QString copied = QApplication::clipboard()->text();
    EXPECT_EQ(copied.count(u'\n'), model().rowCount() + 1);
    EXPECT_TRUE(copied.startsWith(QStringLiteral("Section\tBest\tMiddle\tMean")));
    const QString file = QString::fromStdString((folder_ / "t.csv").string());
    ASSERT_TRUE(window_->desk_of<CornersDesk>().save_csv(file));
    std::ifstream stream(file.toStdString());
    std::string line;
    std::getline(stream, line);
    EXPECT_EQ(line.substr(0, 13), "Section,Best,");
}

TEST_F(CornersDeskTest, AnyChannelOrFormulaSectionBySection) {
    window_->desk_of<CornersDesk>().show_channel("combined_g");
    settle();
    ASSERT_GT(model().rowCount(), 15);
    EXPECT_EQ(model().headerData(0, Qt::Horizontal, Qt::DisplayRole).toString(), QStringLiteral("Section, g"));
    const auto lap = model().lap_of(model().first_lap_column());
    ASSERT_TRUE(lap);
    const auto& run = *laps().baseline().run;
    const auto prepared = prepare_lap(run, lap->lap);
    ASSERT_TRUE(prepared);
    const double mean = figures_in_range(*prepared, "combined_g", model().range_of(3)).mean / 9.80665;
    EXPECT_NEAR(model().index(3, model().first_lap_column()).data().toString().toDouble(), mean, 0.006);
    EXPECT_TRUE(model().as_text(u',').startsWith(QStringLiteral("\"Section, g\",Lowest")));
}

TEST_F(CornersDeskTest, PeaksAndSorting) {
    window_->desk_of<CornersDesk>().show_table(FigureModel::Shows::peaks);
    EXPECT_EQ(model().rowCount(), 14);
    auto& table = window_->desk_of<CornersDesk>().table();
    table.sortByColumn(3, Qt::DescendingOrder);  // best g
    double last = 1e9;
    for (int row = 0; row < table.model()->rowCount(); ++row) {
        const double value = table.model()->index(row, 3).data(FigureModel::sort_role).toDouble();
        EXPECT_LE(value, last);
        last = value;
    }
}

class MapTest : public WindowTest {
  protected:
    void SetUp() override {
        WindowTest::SetUp();
        compare_best();
    }
    MapCanvas& map() { return window_->desk_of<CompareDesk>().map(); }
    QImage picture() {
        settle();
        return map().grab().toImage().convertToFormat(QImage::Format_RGB32);
    }
    static int near_colour(const QImage& image, const QColor& wanted) {
        int count = 0;
        for (int y = 0; y < image.height(); ++y) {
            for (int x = 0; x < image.width(); ++x) {
                const QColor c(image.pixel(x, y));
                count += std::abs(c.red() - wanted.red()) + std::abs(c.green() - wanted.green()) +
                             std::abs(c.blue() - wanted.blue()) <
                         24;
            }
        }
        return count;
    }
};

TEST_F(MapTest, PaintedByAChannelSmoothAndInBands) {
    window_->desk_of<CompareDesk>().set_paint({.quantity = "longitudinal_acceleration"});
    const QImage smooth = picture();
    EXPECT_GT(near_colour(smooth, two_sided_scale(0.02)), 15) << "hard braking";
    EXPECT_GT(near_colour(smooth, two_sided_scale(0.5)), 100) << "the middle tone is zero";
    window_->desk_of<CompareDesk>().set_paint(
        {.quantity = "longitudinal_acceleration", .bands = true, .band_count = 2});
    const QImage bands = picture();
    EXPECT_LT(near_colour(bands, two_sided_scale(0.5)), near_colour(smooth, two_sided_scale(0.5)));
    window_->desk_of<CompareDesk>().set_paint({.quantity = "speed", .limits = Interval{0, 1}});
    EXPECT_GT(near_colour(picture(), one_sided_scale(1)), 300) << "everything lies above these limits";
}

TEST_F(MapTest, ValueUnderThePointer) {
    const double at = laps().track().corners[4].apex_m;
    const QPointF pixel = map().to_pixel(laps().laps[1].lap.position_at(at));
    QMouseEvent move(QEvent::MouseMove, pixel, map().mapToGlobal(pixel), Qt::NoButton, Qt::NoButton, {});
    QApplication::sendEvent(&map(), &move);
    EXPECT_TRUE(map().hover_text().startsWith(QStringLiteral("Turn 5"))) << map().hover_text().toStdString();
    EXPECT_TRUE(map().hover_text().contains(QStringLiteral("km/h")));
    QMouseEvent away(QEvent::MouseMove, QPointF(3, 3), map().mapToGlobal(QPointF(3, 3)), Qt::NoButton, Qt::NoButton,
                     {});
    QApplication::sendEvent(&map(), &away);
    EXPECT_TRUE(map().hover_text().isEmpty());
}

TEST_F(MapTest, TurnedMapIsKeptWithTheTrack) {
    const QPointF before = map().to_pixel(laps().track().position_at(2000));
    map().turn(90);
    settle();
    const QPointF after = map().to_pixel(laps().track().position_at(2000));
    EXPECT_GT(QLineF(before, after).length(), 20);
    window_.reset();
    open_window();
    compare_best();
    EXPECT_NEAR(map().turned_deg(), 90, 0.01);
    map().north_up();
    EXPECT_EQ(map().turned_deg(), 0);
}

TEST_F(MapTest, ShapesOfBothLapsInTheRangeAndTheSideView) {
    focus().set_range(view_of_corner(laps().track(), laps().track().corners[4]));
    window_->desk_of<CompareDesk>().show_map(MapCanvas::View::lines);
    const int without = near_colour(picture(), theme().lap(1));
    map().show_events(true);
    EXPECT_GT(near_colour(picture(), theme().lap(1)), without + 40);
    window_->desk_of<CompareDesk>().show_map(MapCanvas::View::side);
    EXPECT_EQ(map().view(), MapCanvas::View::side);
    (void)picture();
}

TEST_F(MapTest, FitShowsTheWholeAndAtASecondClickTheRange) {
    focus().set_range(view_of_corner(laps().track(), laps().track().corners[4]));
    settle();
    map().zoom(3);
    const auto apart = [&] {
        return QLineF(map().to_pixel(laps().track().position_at(2000)),
                      map().to_pixel(laps().track().position_at(2200)))
            .length();
    };
    const double zoomed = apart();
    QToolButton* fit = nullptr;
    for (auto* button : window_->desk_of<CompareDesk>().findChildren<QToolButton*>()) {
        if (button->text() == QStringLiteral("Fit")) fit = button;
    }
    ASSERT_NE(fit, nullptr);
    QTest::mouseClick(fit, Qt::LeftButton);
    const double whole = apart();
    EXPECT_LT(whole, zoomed);
    QTest::mouseClick(fit, Qt::LeftButton);
    EXPECT_GT(apart(), 3 * whole);
}

class RunAxisTest : public WindowTest {
  protected:
    void SetUp() override {
        WindowTest::SetUp();
        compare_best();
    }
    TraceCanvas& canvas() { return window_->desk_of<CompareDesk>().canvas(); }
};

TEST_F(RunAxisTest, TheWholeRunAtAKeyAndBack) {
    focus().set_range({1000, 1500});
    key(Qt::Key_R);
    EXPECT_EQ(state().axis, Axis::run);
    const Interval all = window_->workspace().comparison().view();
    EXPECT_LT(all.begin, -120) << "the out lap";
    EXPECT_GT(all.end, laps().baseline().lap.time_s() + 100);
    const Trace& speed = window_->workspace().comparison().trace(0, "speed");
    ASSERT_NE(speed.whole, nullptr) << "the recording's own samples, not a copy";
    EXPECT_EQ(speed.whole->floats().data(), laps().baseline().lap.recording->find("speed")->floats().data());
    // A drag chooses a stretch of several laps; the lap's own range is not touched.
    const int y = canvas().lane_area(1).center().y();
    const auto px = [&](double s) { return static_cast<int>(canvas().x_scale().to_pixel(s)); };
    drag(canvas(), {px(-110), y}, {px(210), y});
    EXPECT_NEAR(window_->workspace().comparison().view().length(), 320, 8);
    EXPECT_EQ(state().range_m, (Interval{1000, 1500}));
    // The cursor takes the place on track with it inside the lap.
    QTest::mouseClick(&canvas(), Qt::LeftButton, {}, {px(40), y});
    EXPECT_NEAR(state().run_cursor_s, 40, 1);
    EXPECT_NEAR(state().cursor_m,
                laps().baseline().lap.map.distance_at(laps().baseline().lap.map.start_s() + state().run_cursor_s),
                0.01);
    // Values are those of the stretch.
    const auto figures = window_->desk_of<CompareDesk>().values().text("speed", 0, ValuePanel::Cell::low);
    EXPECT_FALSE(figures.isEmpty());
    key(Qt::Key_D);
    EXPECT_EQ(state().axis, Axis::distance);
    EXPECT_EQ(window_->workspace().comparison().view(), (Interval{1000, 1500}));
}

TEST_F(RunAxisTest, StandingCarShowsAgainstTime) {
    focus().set_axis(Axis::run);
    const double start = laps().baseline().lap.map.start_s();
    window_->workspace().comparison().set_cursor_in_view(2 - start);  // two seconds into the recording it stands
    settle();
    EXPECT_LT(window_->workspace().comparison().value_at_cursor(0, "speed"), 0.5);
    EXPECT_GT(window_->workspace().comparison().value_at_cursor(0, "engine_speed"), 100);
}

class LapToolsTest : public WindowTest {
  protected:
    LapTools& tools() { return window_->desk_of<LogbookDesk>().lap_tools(); }
    void select(std::int64_t run) {
        window_->desk_of<LogbookDesk>().select_run({run});
        settle();
    }
};

TEST_F(LapToolsTest, FirstAndLastGoOutInOneActAndComeBack) {
    select(2);
    tools().leave_first_and_last_out();
    settle();
    auto laps_now = window_->workspace().library().laps({2}).value();
    EXPECT_FALSE(laps_now[1].included || laps_now[8].included);
    EXPECT_TRUE(laps_now[2].included);
    key(Qt::Key_Z, Qt::ControlModifier);
    laps_now = window_->workspace().library().laps({2}).value();
    EXPECT_TRUE(laps_now[1].included && laps_now[8].included);
}

TEST_F(LapToolsTest, NearBestLapsFillTheTrayFastestFirst) {
    select(2);
    tools().margin().setValue(0.35);
    tools().pick_near_best();
    settle();
    ASSERT_GE(state().laps.size(), 2U);
    double last = 0;
    for (const ComparedLap& it : laps().laps) {
        EXPECT_GE(it.lap.time_s(), last);
        EXPECT_LE(it.lap.time_s(), laps().baseline().lap.time_s() + 0.35);
        last = it.lap.time_s();
    }
}

TEST_F(LapToolsTest, AFairLapIsNoLapWithADoubt) {
    window_->workspace().pick_best({2});
    settle();
    select(3);
    tools().pick_fair_lap();
    settle();
    ASSERT_EQ(state().laps.size(), 2U);
    EXPECT_EQ(state().laps[1].run.value, 3);
    EXPECT_NE(state().laps[1].lap, 3) << "traffic";
    EXPECT_NE(state().laps[1].lap, 5) << "an excursion";
}

TEST_F(LapToolsTest, VerdictSaysWhetherAnEffectShows) {
    select(2);
    tools().effect().setValue(0.5);
    EXPECT_TRUE(tools().verdict().startsWith(QStringLiteral("Yes")));
    tools().effect().setValue(0.02);
    EXPECT_TRUE(tools().verdict().startsWith(QStringLiteral("No")));
    EXPECT_FALSE(tools().can_set_launch()) << "a circuit has no launch";
}

class PlacesPicturesTest : public WindowTest {
  protected:
    void keep(const char* name) {
        settle();
        const QByteArray folder = qgetenv("RENDAK_PICTURES");
        if (!folder.isEmpty())
            window_->grab().save(QString::fromLocal8Bit(folder) + u'/' + QString::fromLatin1(name) +
                                 QStringLiteral(".png"));
    }
    RunId import(Recording recording, const char* name) {
        ImportOptions options;
        options.event = "Elsewhere";
        options.name = name;
        const auto run = import_recording(window_->workspace().library(), {std::move(recording), {}}, options);
        EXPECT_TRUE(run) << run.error().text();
        return run ? run->run : RunId{};
    }
};

TEST_F(PlacesPicturesTest, HillClimbIsOverlaidFromTheLaunchAndOneWithoutIsRefused) {
    const demo::Circuit hill = demo::corrin_hill();
    std::vector<RunId> runs;
    for (const demo::RunPlan& plan : demo::hill_climb())
        runs.push_back(
            import(demo::main_logger(hill, plan.car, plan, demo::drive_run(hill, plan.car, plan)), plan.name.c_str()));
    // The last one again, cut so that it begins on the move.
    auto& library = window_->workspace().library();
    const auto whole = library.open_run(runs[2]);
    ASSERT_TRUE(whole);
    Recording late = cut_to(**whole, {30, 110});
    late.digest.clear();
    const RunId moving = import(std::move(late), "Began too late");
    ASSERT_TRUE(learn_track_from_run(library, runs[2], hill.name, {}, {}, TrackKind::open));
    window_->workspace().library_changed();
    EXPECT_TRUE(window_->workspace().pick_best(runs[0]));
    EXPECT_TRUE(window_->workspace().pick_best(runs[1]));
    EXPECT_FALSE(window_->workspace().pick_best(moving)) << "no launch, nothing to line up";
    window_->show_desk(QStringLiteral("compare"));
    settle();
    ASSERT_EQ(laps().laps.size(), 2U);
    EXPECT_LT(laps().laps[0].lap.value_at("speed", 0), 1.5) << "distance counts from the launch";
    keep("hill-compare");
    window_->show_desk(QStringLiteral("track"));
    keep("hill-track");
    window_->desk_of<LogbookDesk>().select_run(moving);
    settle();
    EXPECT_TRUE(window_->desk_of<LogbookDesk>().lap_tools().can_set_launch());
    window_->show_desk(QStringLiteral("logbook"));
    keep("hill-no-launch");
    const auto recording = library.open_run(runs[0]);
    LaunchDialog dialog(*recording, 3.92, {});
    EXPECT_FALSE(dialog.launch_s()) << "as found";
    dialog.time().setValue(4.5);
    ASSERT_TRUE(dialog.launch_s());
    EXPECT_NEAR(*dialog.launch_s(), 4.5, 1e-9);
    const QByteArray folder = qgetenv("RENDAK_PICTURES");
    if (!folder.isEmpty()) dialog.grab().save(QString::fromLocal8Bit(folder) + QStringLiteral("/hill-launch.png"));
}

TEST_F(PlacesPicturesTest, WithoutGpsTheTrustIsPoorAndShown) {
    auto& library = window_->workspace().library();
    Recording blind = **library.open_run({3});
    std::erase_if(blind.channels, [](const Channel& channel) {
        return channel.quantity == "latitude" || channel.quantity == "longitude";
    });
    blind.digest.clear();
    const RunId run = import(std::move(blind), "No GPS");
    window_->workspace().library_changed();
    const auto row = library.run(run);
    ASSERT_TRUE(row);
    EXPECT_EQ(row->track_name, "Skerrow Point") << "recognised by its bends";
    EXPECT_EQ(library.laps(run).value().size(), library.laps({3}).value().size());
    window_->workspace().pick_best({2});
    window_->workspace().pick_best(run);
    window_->show_desk(QStringLiteral("compare"));
    settle();
    ASSERT_EQ(laps().laps.size(), 2U);
    EXPECT_GT(laps().laps[1].lap.trust_m, poor_trust_m);
    EXPECT_TRUE(window_->status().range_text().contains(QStringLiteral("(poor)")))
        << window_->status().range_text().toStdString();
    keep("no-gps");
}

TEST_F(PlacesPicturesTest, EmptyAndGarage) {
    const auto dark = [](QWidget& widget) {
        const QImage image = widget.grab().toImage();
        double sum = 0;
        for (int x = 0; x < image.width(); x += 3) sum += image.pixelColor(x, image.height() / 2).lightnessF();
        const int columns = (image.width() + 2) / 3;
        return sum / columns < 0.35;
    };
    auto& corners = window_->desk_of<CornersDesk>();
    window_->show_desk(QStringLiteral("corners"));
    keep("corners-empty");
    EXPECT_EQ(corners.model().rowCount(), 0);
    EXPECT_FALSE(corners.table().isVisible()) << "instead it says what to do";
    window_->set_garage(true);
    compare_best();
    auto& map = window_->desk_of<CompareDesk>().map();
    window_->desk_of<CompareDesk>().set_paint({.quantity = "speed"});
    keep("painted-garage");
    EXPECT_TRUE(dark(map));
    // Painted by the speed: slow and fast places of the road have colours of the two ends of the scale.
    const auto& lap = window_->workspace().comparison().active().lap;
    const QImage painted = map.grab().toImage();
    const auto colour_at = [&](double s) { return painted.pixelColor(map.to_pixel(lap.position_at(s)).toPoint()); };
    double slow = 0, fast = 0;
    for (double s = 0; s < lap.map.length_m(); s += 5) {
        if (lap.value_at("speed", s) < lap.value_at("speed", slow)) slow = s;
        if (lap.value_at("speed", s) > lap.value_at("speed", fast)) fast = s;
    }
    EXPECT_GT(colour_at(fast).lightnessF(), colour_at(slow).lightnessF() + 0.2);
    window_->show_desk(QStringLiteral("track"));
    window_->resize(1000, 700);
    keep("track-garage-small");
    EXPECT_TRUE(dark(window_->desk_of<TrackDesk>().map()));
    window_->show_desk(QStringLiteral("corners"));
    keep("corners-garage-small");
    EXPECT_TRUE(dark(corners.table()));
    EXPECT_GT(corners.model().rowCount(), 10);
    window_->set_garage(false);
}

}  // namespace
}  // namespace rendak::app
