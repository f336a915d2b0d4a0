// Compare on recordings without places, the picker of channels, and laps in hand wherever they are seen.
#include <QCheckBox>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QDoubleSpinBox>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QSet>
#include <QTableView>
#include <QTimer>
#include <QTreeWidget>
#include <QWheelEvent>

#include "app/desks/compare/channel_picker.h"
#include "app/desks/logbook/lap_table.h"
#include "app/desks/logbook/learn_track_dialog.h"
#include "app/session/preferences.h"
#include "app/shell/lap_tray.h"
#include "app/theme/theme.h"
#include "app/workspace/lap_actions.h"
#include "core/intake/import.h"
#include "core/laps/cut.h"
#include "tests/app/window_fixture.h"
#include "tests/support/got.h"
#include "tests/support/made_channel.h"

namespace rendak::app {
namespace {

using test::got;
using test::made_channel;

class OverTimeTest : public WindowTest {
  protected:
    /// A bench run: speed and revs, no places, `late_s` later than what happened.
    RunId bench_run(const char* name, double late_s, int extra_channels = 0) {
        const auto speed = [late_s](double t) {
            t += late_s;
            return 30 + 12 * std::sin(t / 3.1) + 9 * std::sin(t / 7.7 + 1) + 5 * std::sin(t / 1.9 + 2);
        };
        Recording recording;
        recording.source_name = name;
        recording.channels.push_back(made_channel("speed", "m/s", 20, 0, 180, speed));
        recording.channels.push_back(
            made_channel("engine_speed", "rad/s", 20, 0, 180, [&](double t) { return 8 * speed(t); }));
        for (int k = 0; k < extra_channels; ++k) {
            Channel extra = made_channel("", "V", 2, 0, 180, [k](double t) { return t + k; });
            extra.name = "Probe " + std::to_string(k);
            recording.channels.push_back(extra);
        }
        ImportOptions options;
        options.name = name;
        const RunId run = got(import_recording(window_->workspace().library(), {recording, {}}, options)).run;
        window_->workspace().library_changed();
        settle();
        return run;
    }
    CompareDesk& compare() { return window_->desk_of<CompareDesk>(); }
    QString label(const char* name) { return compare().findChild<QLabel*>(QString::fromLatin1(name))->text(); }
    QPushButton* button(const QString& text) {
        for (QPushButton* it : compare().findChildren<QPushButton*>()) {
            if (it->text() == text) return it;
        }
        return nullptr;
    }
    QTreeWidgetItem* item_of(const QString& name) {
        const auto found = compare().picker().list().findItems(name, Qt::MatchStartsWith | Qt::MatchRecursive);
        return found.isEmpty() ? nullptr : found.front();
    }
    Lap lap_of(LapRef ref) {
        for (const Lap& lap : got(window_->workspace().library().laps(ref.run))) {
            if (lap.number == ref.lap) return lap;
        }
        return {};
    }
};

TEST_F(OverTimeTest, ARunWithoutLapsOpensAndIsDrawn) {
    const RunId run = bench_run("Bench 1", 0);
    auto& logbook = window_->desk_of<LogbookDesk>();
    window_->show_desk(QStringLiteral("logbook"));
    logbook.select_run(run);
    QTest::keyClick(logbook.findChild<QTreeView*>(), Qt::Key_Return);
    settle();
    ASSERT_EQ(state().laps, (std::vector<LapRef>{{run, whole_run}}));
    window_->show_desk(QStringLiteral("compare"));
    settle();
    ASSERT_EQ(laps().laps.size(), 1u);
    EXPECT_FALSE(laps().on_track());
    EXPECT_EQ(window_->workspace().comparison().axis(), Axis::run);
    EXPECT_FALSE(window_->workspace().comparison().trace(0, "speed").empty());
    EXPECT_NEAR(window_->workspace().comparison().view_limits().length(), 180, 1);
    EXPECT_TRUE(label("evidence").contains(QStringLiteral("Learn its track"))) << label("evidence").toStdString();
    EXPECT_FALSE(button(QStringLiteral("Distance"))->isEnabled()) << "there are no places";
    EXPECT_FALSE(compare().strip().isVisible() || compare().map().isVisible());
    // Cursor, zoom and every desk bear it.
    key(Qt::Key_Right);
    key(Qt::Key_Up);
    EXPECT_LT(window_->workspace().comparison().view().length(), 150);
    for (const char* desk : {"corners", "track", "formulas", "compare"}) {
        window_->show_desk(QString::fromLatin1(desk));
        settle();
        (void)window_->grab();
    }
}

TEST_F(OverTimeTest, TwoRunsLieOverEachOtherByHandAndByThemselves) {
    const RunId a = bench_run("Bench 1", 0), b = bench_run("Bench 2", 14.3);
    window_->show_desk(QStringLiteral("compare"));
    window_->workspace().pick({a, whole_run});
    window_->workspace().pick({b, whole_run});
    settle();
    ASSERT_EQ(laps().laps.size(), 2u);
    auto* box = compare().findChild<QWidget*>(QStringLiteral("overlay"))->findChild<QDoubleSpinBox*>();
    ASSERT_TRUE(box->isVisible());
    box->setValue(5);
    settle();
    EXPECT_NEAR(laps().laps[1].lap.map.start_s(), -5, 1e-9);
    // A drag with Ctrl moves it on by a tenth of what is in view.
    auto& canvas = compare().canvas();
    const QRect plot = canvas.plot_area();
    const double view_s = window_->workspace().comparison().view().length();
    drag(canvas, plot.center(), plot.center() + QPoint(plot.width() / 10, 0), Qt::ControlModifier);
    EXPECT_NEAR(state().shifts_s.at(b), 5 + view_s / 10, 0.02 * view_s);
    QTest::mouseClick(button(QStringLiteral("Find the offset")), Qt::LeftButton);
    settle();
    EXPECT_NEAR(state().shifts_s.at(b), 14.3, 0.02);
    EXPECT_NEAR(box->value(), 14.3, 0.02) << "shown where it can be set";
    // What happened at one moment stands at one place now.
    const auto& comparison = window_->workspace().comparison();
    focus().set_run_cursor(60);
    EXPECT_NEAR(comparison.value_at_cursor(0, "speed"), comparison.value_at_cursor(1, "speed"), 0.3);
    EXPECT_TRUE(std::isnan(comparison.value_at_cursor(1, "gap")));
    // Kept like the rest of what is looked at.
    EXPECT_EQ(focus_from_json(focus_to_json(state())), state());
}

TEST_F(OverTimeTest, AWholeRunBesideALapIsShownOverTimeAndTheLapComesBack) {
    compare_best();
    ASSERT_TRUE(laps().on_track());
    window_->workspace().pick({{3}, whole_run});
    settle();
    EXPECT_FALSE(laps().on_track());
    EXPECT_EQ(laps().laps.size(), 3u);
    EXPECT_TRUE(window_->tray().cards()[2]->accessibleName().contains(QStringLiteral("whole run")));
    focus().remove_slot(2);
    settle();
    EXPECT_TRUE(laps().on_track());
    EXPECT_EQ(window_->workspace().comparison().axis(), Axis::distance);
    EXPECT_FALSE(window_->workspace().comparison().trace(1, "gap").empty());
}

// ---- the picker ----------------------------------------------------------------------------------

TEST_F(OverTimeTest, ThePickerSearchesTicksAndStaysOpen) {
    compare_best();
    key(Qt::Key_C);
    auto& picker = compare().picker();
    ASSERT_TRUE(picker.isVisible());
    ASSERT_TRUE(picker.filter().hasFocus() || QApplication::activePopupWidget() == &picker);
    QTest::keyClicks(&picker.filter(), QStringLiteral("damper"));
    settle();
    QTreeWidgetItem* first = item_of(QStringLiteral("Damper"));
    ASSERT_NE(first, nullptr);
    EXPECT_EQ(item_of(QStringLiteral("Speed")), nullptr) << "does not fit what was typed";
    EXPECT_EQ(first->parent()->text(0), QStringLiteral("Suspension"));
    EXPECT_EQ(first->text(1), QStringLiteral("mm"));
    EXPECT_TRUE(first->text(2).endsWith(QStringLiteral("Hz"))) << first->text(2).toStdString();
    const auto before = compare().canvas().lanes().size();
    QTest::keyClick(&picker.filter(), Qt::Key_Down);
    QTest::keyClick(&picker.list(), Qt::Key_Space);
    settle();
    EXPECT_TRUE(picker.isVisible()) << "stays open";
    EXPECT_EQ(compare().canvas().lanes().size(), before + 1);
    QTest::keyClick(&picker.list(), Qt::Key_Down);
    QTest::keyClick(&picker.list(), Qt::Key_Space);
    settle();
    EXPECT_EQ(compare().canvas().lanes().size(), before + 2) << "the next one too";
    QTest::keyClick(&picker.list(), Qt::Key_Space);
    settle();
    EXPECT_EQ(compare().canvas().lanes().size(), before + 1) << "and off again";
    // A star keeps it at the top, for this person.
    QTest::keyClick(&picker.list(), Qt::Key_F);
    picker.filter().clear();
    settle();
    EXPECT_EQ(Preferences::of_person().favourites().size(), 1);
    EXPECT_EQ(picker.list().topLevelItem(0)->text(0), QStringLiteral("At hand"));
    Preferences::of_person().set_favourites({});
    picker.close();
}

TEST_F(OverTimeTest, ThePickerNamesWhatThePageWantsAndWhatCouldStandIn) {
    window_->show_desk(QStringLiteral("compare"));
    window_->workspace().pick({bench_run("Bench", 0), whole_run});
    settle();
    compare().show_picker();
    auto* gear = item_of(QStringLiteral("Gear"));
    ASSERT_NE(gear, nullptr);
    EXPECT_TRUE(gear->parent()->text(0).startsWith(QStringLiteral("Wanted by this page")));
    EXPECT_TRUE(gear->text(0).contains(QStringLiteral("could stand in"))) << gear->text(0).toStdString();
    gear->setCheckState(0, Qt::Checked);
    settle();
    const auto& lanes = compare().canvas().lanes();
    EXPECT_TRUE(std::any_of(lanes.begin(), lanes.end(), [](const Lane& it) { return it.quantity == "engine_speed"; }));
    auto* steering = item_of(QStringLiteral("Steering"));
    ASSERT_NE(steering, nullptr);
    EXPECT_FALSE(steering->flags().testFlag(Qt::ItemIsEnabled)) << "nothing says the same";
    compare().picker().close();
}

TEST_F(OverTimeTest, ThePickerBearsFiveHundredChannels) {
    window_->show_desk(QStringLiteral("compare"));
    window_->workspace().pick({bench_run("Many", 0, 500), whole_run});
    settle();
    compare().show_picker();
    QTest::keyClicks(&compare().picker().filter(), QStringLiteral("probe 377"));
    settle();
    auto* probe = item_of(QStringLiteral("Probe 377"));
    ASSERT_NE(probe, nullptr);
    EXPECT_EQ(probe->parent()->text(0), QStringLiteral("Under their own names"));
    EXPECT_EQ(probe->parent()->childCount(), 1);
    EXPECT_EQ(probe->text(1), QStringLiteral("V"));
    probe->setCheckState(0, Qt::Checked);
    settle();
    EXPECT_FALSE(window_->workspace().comparison().trace(0, "channel:Probe 377").empty());
    compare().picker().close();
}

// ---- laps in hand --------------------------------------------------------------------------------

TEST_F(OverTimeTest, ALapIsSwitchedAndNotedFromCompare) {
    compare_best();
    const LapRef active = state().laps[1];
    key(Qt::Key_X);
    EXPECT_FALSE(lap_of(active).counts());
    EXPECT_EQ(state().laps.size(), 2u) << "it stays in the tray";
    key(Qt::Key_X);
    EXPECT_TRUE(lap_of(active).counts());
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_FALSE(lap_of(active).counts());
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(lap_of(active).counts());
    QTimer answer;
    QObject::connect(&answer, &QTimer::timeout, [&answer] {
        auto* dialog = qobject_cast<QInputDialog*>(QApplication::activeModalWidget());
        if (dialog == nullptr) return;
        answer.stop();
        dialog->setTextValue(QStringLiteral("tow on the main straight"));
        dialog->accept();
    });
    answer.start(5);
    key(Qt::Key_N);
    EXPECT_EQ(lap_of(active).note, "tow on the main straight");
    EXPECT_TRUE(lap_of(active).counts()) << "a note switches nothing";
    key(Qt::Key_L);
    EXPECT_EQ(window_->desk(), QStringLiteral("logbook"));
    auto* table = window_->desk_of<LogbookDesk>().findChild<QTableView*>(QStringLiteral("laps"));
    ASSERT_NE(table, nullptr);
    EXPECT_EQ(table->model()->index(table->currentIndex().row(), LapTable::number).data().toInt(), active.lap);
}

TEST_F(OverTimeTest, EveryPlaceThatShowsALapHasItsMenu) {
    compare_best();
    const LapRef picked = state().laps[1], other{picked.run, picked.lap == 2 ? 3 : 2};
    const auto texts_of = [&](LapRef lap) {
        QMenu menu;
        add_lap_actions(menu, window_->workspace(), lap, window_.get());
        QStringList out;
        for (const QAction* action : menu.actions()) out << action->text();
        return out;
    };
    EXPECT_TRUE(texts_of(picked).contains(QStringLiteral("Take this lap away")));
    EXPECT_TRUE(texts_of(other).contains(QStringLiteral("Pick this lap")));
    EXPECT_TRUE(texts_of(other).contains(QStringLiteral("Leave lap %1 out").arg(other.lap)));
    EXPECT_EQ(texts_of({picked.run, whole_run}).size(), 2) << "a whole run is neither counted nor noted";
    // The real menus of a card, of a row of values and of a column of Corners.
    const auto menu_at = [&](QWidget& widget, QPoint at) {
        QStringList out;
        QTimer::singleShot(0, [&out] {
            auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
            if (menu == nullptr) return;
            for (const QAction* action : menu->actions()) out << action->text();
            menu->close();
        });
        QContextMenuEvent event(QContextMenuEvent::Mouse, at, widget.mapToGlobal(at));
        QApplication::sendEvent(&widget, &event);
        QApplication::processEvents();
        return out.join(u'\n');
    };
    LapCard& card = *window_->tray().cards()[1];
    EXPECT_TRUE(menu_at(card, card.rect().center()).contains(QStringLiteral("Show in the Logbook")));
    auto& values = compare().values();
    const QRect row = values.cell_area("speed", 1, ValuePanel::Cell::mean);
    EXPECT_TRUE(menu_at(values, row.center()).contains(QStringLiteral("Note of lap %1 …").arg(picked.lap)));
    window_->show_desk(QStringLiteral("corners"));
    settle();
    auto* table = window_->desk_of<CornersDesk>().findChild<QTableView*>();
    const QModelIndex last = table->model()->index(1, table->model()->columnCount() - 1);
    EXPECT_TRUE(menu_at(*table->viewport(), table->visualRect(last).center()).contains(QStringLiteral("Note of lap")));
}

TEST_F(OverTimeTest, AnOutLapIsNotedButNeverCounted) {
    window_->workspace().pick({{2}, 0});
    window_->show_desk(QStringLiteral("compare"));
    settle();
    ASSERT_EQ(laps().laps.size(), 1u) << "shown over time";
    key(Qt::Key_X);
    EXPECT_FALSE(lap_of({{2}, 0}).included);
    EXPECT_TRUE(window_->status().message().contains(QStringLiteral("only flying laps")))
        << window_->status().message().toStdString();
    QMenu menu;
    add_lap_actions(menu, window_->workspace(), {{2}, 0}, window_.get());
    for (const QAction* action : menu.actions()) EXPECT_FALSE(action->text().startsWith(QStringLiteral("Count")));
    window_->show_desk(QStringLiteral("corners"));
    settle();
    auto* empty = window_->desk_of<CornersDesk>().findChild<QLabel*>(QStringLiteral("empty"));
    EXPECT_TRUE(empty->text().contains(QStringLiteral("has no places"))) << empty->text().toStdString();
    // Stepping says why it does not.
    window_->show_desk(QStringLiteral("compare"));
    window_->workspace().selection()->step_lap(1);
    EXPECT_EQ(state().laps[0], (LapRef{{2}, 0}));
    EXPECT_TRUE(window_->status().message().contains(QStringLiteral("this is none")));
}

TEST_F(OverTimeTest, ADoubtSetsNoBestUntilAClickSettlesIt) {
    auto& logbook = window_->desk_of<LogbookDesk>();
    window_->show_desk(QStringLiteral("logbook"));
    logbook.select_run({3});
    auto* table = logbook.findChild<QTableView*>(QStringLiteral("laps"));
    ASSERT_NE(table, nullptr);
    auto* model = table->model();
    const LapRef doubtful{{3}, 3};
    ASSERT_TRUE(lap_of(doubtful).doubtful());
    const auto ticked = [&] { return model->index(3, LapTable::included).data(Qt::CheckStateRole).toInt(); };
    EXPECT_EQ(ticked(), Qt::PartiallyChecked);
    EXPECT_TRUE(model->index(3, LapTable::why).data().toString().contains(QStringLiteral("traffic?")));
    ASSERT_TRUE(model->setData(model->index(3, LapTable::note), QStringLiteral("behind Osei"), Qt::EditRole));
    settle();
    EXPECT_TRUE(lap_of(doubtful).doubtful()) << "a note clears no doubt";
    EXPECT_EQ(model->index(3, LapTable::note).data(Qt::EditRole).toString(), QStringLiteral("behind Osei"));
    EXPECT_TRUE(model->index(3, LapTable::note).data().toString().startsWith(QStringLiteral("behind Osei · ")));
    ASSERT_TRUE(model->setData(model->index(3, LapTable::included), Qt::Checked, Qt::CheckStateRole));
    settle();
    EXPECT_TRUE(lap_of(doubtful).counts());
    EXPECT_EQ(ticked(), Qt::Checked);
    EXPECT_TRUE(model->index(3, LapTable::why).data().toString().contains(QStringLiteral("traffic?"))) << "still known";
}

TEST_F(OverTimeTest, CornersSaysWhatItLeavesOutAndPoolsDriversOnlyWhenAsked) {
    compare_best();
    focus().make_baseline(1);  // A is Osei's, Brandvold is quicker
    window_->show_desk(QStringLiteral("corners"));
    settle();
    auto& desk = window_->desk_of<CornersDesk>();
    desk.show_table(FigureModel::Shows::peaks);
    const auto* peaks = desk.findChild<QTableView*>()->model();
    for (int row = 0; row < peaks->rowCount(); ++row) {
        int best = 0;
        for (int column = 5; column < peaks->columnCount(); ++column) {
            const QModelIndex at = peaks->index(row, column);
            const bool bold = at.data(Qt::FontRole).value<QFont>().bold();
            best += bold;
            if (bold)
                EXPECT_EQ(at.data(Qt::ForegroundRole).value<QColor>(), theme().won) << "no best of a lap left out";
        }
        EXPECT_GE(best, 1) << row;
    }
    desk.show_table(FigureModel::Shows::sections);
    auto* mixed = desk.findChild<QCheckBox*>(QStringLiteral("mixed"));
    ASSERT_TRUE(mixed->isVisible()) << "there are two drivers";
    EXPECT_FALSE(mixed->isChecked());
    EXPECT_TRUE(desk.verdict().contains(QStringLiteral("of other drivers or cars"))) << desk.verdict().toStdString();
    const QString alone = desk.headline();
    // Runs stand apart: the other driver's too, though his laps set no best here.
    const auto* times = desk.findChild<QTableView*>()->model();
    int runs_apart = 0;
    for (int column = 6; column < desk.model().first_lap_column(); ++column, ++runs_apart)
        EXPECT_TRUE(times->index(0, column).data().toString().startsWith(QStringLiteral("5.7")))
            << times->index(0, column).data().toString().toStdString();
    EXPECT_EQ(runs_apart, 2);
    // What is done in each section: its own seconds, which add up to the lap's.
    desk.show_table(FigureModel::Shows::activity);
    auto* which = desk.findChild<QComboBox*>(QStringLiteral("activity"));
    ASSERT_TRUE(which->isVisible());
    double sum = 0;
    const int lap = desk.model().first_lap_column();
    for (int row = 0; row + 1 < times->rowCount(); ++row) sum += times->index(row, lap).data().toString().toDouble();
    const double total = times->index(times->rowCount() - 1, lap).data().toString().toDouble();
    EXPECT_NEAR(sum, total, 0.2) << which->currentText().toStdString();
    EXPECT_GT(total, 5);
    which->setCurrentIndex(5);
    EXPECT_EQ(which->currentText(), QStringLiteral("Full throttle, m"));
    EXPECT_GT(times->index(times->rowCount() - 1, lap).data().toString().toDouble(), 1500);
    EXPECT_TRUE(desk.model().as_text(u',').startsWith(QStringLiteral("\"Section, m\",Lowest,Middle")))
        << desk.model().as_text(u',').left(60).toStdString();
    desk.show_table(FigureModel::Shows::sections);
    mixed->click();
    settle();
    EXPECT_FALSE(desk.verdict().contains(QStringLiteral("of other drivers or cars")));
    EXPECT_TRUE(desk.verdict().contains(QStringLiteral("doubtful"))) << desk.verdict().toStdString();
    EXPECT_NE(desk.headline(), alone) << "the ideal lap is another one";
}

TEST_F(OverTimeTest, RunsOfOneNameAreToldApart) {
    auto& library = window_->workspace().library();
    auto facts = static_cast<RunFacts>(got(library.run({3})));
    facts.name = got(library.run({2})).name;
    ASSERT_TRUE(library.set_facts({3}, facts));
    window_->workspace().library_changed();
    compare_best();
    const QString b = window_->tray().cards()[1]->accessibleName();
    EXPECT_TRUE(b.contains(QStringLiteral("(Osei)"))) << b.toStdString();
    EXPECT_TRUE(label("headline").contains(QStringLiteral("(Osei)"))) << label("headline").toStdString();
}

TEST_F(OverTimeTest, SaveThisRangeSavesWhatIsSeen) {
    compare_best();
    focus().set_range({100, 400});
    key(Qt::Key_R);
    const LapMap& a = laps().baseline().lap.map;
    focus().set_run_range({20, 30});
    auto* menu = compare().findChild<QMenu*>(QStringLiteral("marks"));
    Q_EMIT menu->aboutToShow();
    const QString wanted = QStringLiteral("%1–%2\u2009m")
                               .arg(a.distance_at(a.start_s() + 20), 0, 'f', 0)
                               .arg(a.distance_at(a.start_s() + 30), 0, 'f', 0);
    EXPECT_TRUE(menu->actions().front()->text().contains(wanted)) << menu->actions().front()->text().toStdString();
}

TEST_F(OverTimeTest, TheLastLaneStaysAndGroupsComeInOrder) {
    compare_best();
    compare().canvas().set_lanes({{"speed", 1}});
    settle();
    compare().show_picker();
    auto* speed = item_of(QStringLiteral("Speed"));
    ASSERT_NE(speed, nullptr);
    EXPECT_EQ(speed->checkState(0), Qt::Checked);
    speed->setCheckState(0, Qt::Unchecked);
    settle();
    EXPECT_EQ(compare().canvas().lanes().size(), 1u);
    EXPECT_TRUE(window_->status().message().contains(QStringLiteral("last lane stays")));
    EXPECT_EQ(item_of(QStringLiteral("Speed"))->checkState(0), Qt::Checked) << "the list says what is drawn";
    const auto& list = compare().picker().list();
    QStringList groups;
    for (int g = 0; g < list.topLevelItemCount(); ++g) groups << list.topLevelItem(g)->text(0);
    EXPECT_LT(groups.indexOf(QStringLiteral("Car")), groups.indexOf(QStringLiteral("Driver")));
    const auto place = groups.indexOf(QStringLiteral("Place and time"));
    for (qsizetype g = 0; g < groups.size(); ++g) {
        if (g > place) EXPECT_TRUE(groups[g].startsWith(QStringLiteral("Formulas"))) << groups[g].toStdString();
    }
    QSet<QString> ids;
    for (int g = 0; g < list.topLevelItemCount(); ++g) {
        for (int i = 0; i < list.topLevelItem(g)->childCount(); ++i)
            ids << list.topLevelItem(g)->child(i)->data(0, Qt::UserRole).toString();
    }
    EXPECT_GT(ids.size(), 60) << "logged ones and formulas";
    compare().picker().filter().setText(QStringLiteral("nothing is called so"));
    EXPECT_EQ(list.topLevelItemCount(), 0);
    compare().picker().close();
}

TEST_F(OverTimeTest, StopsAreMarkedAndToldOnTheRunAxis) {
    // A bench run with laps by the counter and a stop of 15 s in one of them; learnt from nothing.
    const auto speed = [](double t) { return t > 100 && t < 115 ? 0 : 30 + 10 * std::sin(t / 4); };
    Recording recording;
    recording.source_name = "with a stop";
    recording.channels.push_back(made_channel("speed", "m/s", 20, 0, 300, speed));
    recording.channels.push_back(
        made_channel("lap_count", "", 20, 0, 300, [](double t) { return std::floor(t / 50); }));
    const RunId run = got(import_recording(window_->workspace().library(), {recording, {}}, {})).run;
    window_->workspace().library_changed();
    window_->workspace().pick({run, 3});
    settle();
    ASSERT_EQ(laps().laps.size(), 1u);
    EXPECT_NEAR(laps().laps[0].lap.map.start_s(), 150, 0.1) << "from the logger's line";
    EXPECT_NEAR(laps().laps[0].lap.time_s(), 50, 0.1);
    ASSERT_EQ(laps().laps[0].stops.size(), 1u);
    EXPECT_NEAR(laps().laps[0].stops[0].standing_s.length(), 15, 0.5);
    EXPECT_EQ(laps().laps[0].stops[0].lap, 2);
    EXPECT_NEAR(laps().laps[0].stops[0].lost_s, 0, 0.1) << "the counter cut by the clock, so no lap is longer";
    window_->show_desk(QStringLiteral("compare"));
    settle();
    (void)window_->grab();
    EXPECT_TRUE(label("headline").contains(QStringLiteral("lap 3"))) << label("headline").toStdString();
    EXPECT_TRUE(label("evidence").contains(QStringLiteral("A: stood 14."))) << label("evidence").toStdString();
}

TEST(RunMapTest, ZoomsMovesAndPlacesAcrossTheWayDriven) {
    auto path = std::make_shared<Path>();
    path->origin = {57.3, 4.8};
    // A ring of 200 m, driven to the left; it stands for the first second.
    for (int i = 0; i <= 2000; ++i) {
        const double t = i * 0.05, along = std::max(0.0, t - 1) * 25, angle = along / 200;
        path->time_s.push_back(t);
        path->position.push_back({200 * std::cos(angle), 200 * std::sin(angle)});
        path->velocity.push_back(Point{-std::sin(angle), std::cos(angle)} * (t < 1 ? 0 : 25));
        path->distance_m.push_back(along);
    }
    RunMap map;
    map.resize(500, 400);
    map.set_message(QStringLiteral("The run is being read …"));
    map.show();
    (void)map.grab();
    std::optional<StartPlace> placed;
    QObject::connect(&map, &RunMap::line_placed, &map, [&placed](const StartPlace& line) { placed = line; });
    QTest::mouseClick(&map, Qt::LeftButton, Qt::NoModifier, QPoint(250, 200));
    EXPECT_FALSE(placed) << "there is no way yet";
    map.set_path(path);
    const double quarter_s = 1 + 200 * 1.5707963 / 25;  // at the top, going west
    QTest::mouseClick(&map, Qt::LeftButton, Qt::NoModifier, map.pixel_at(quarter_s).toPoint());
    ASSERT_TRUE(placed);
    EXPECT_NEAR(placed->heading_deg, 270, 3);
    const Point at = LocalPlane(path->origin).to_local(placed->place);
    EXPECT_NEAR(at.x, 0, 6);
    EXPECT_NEAR(at.y, 200, 3);
    const QPointF before = map.pixel_at(10);
    QWheelEvent wheel(QPointF(250, 200), map.mapToGlobal(QPointF(250, 200)), {}, {0, 240}, Qt::NoButton, Qt::NoModifier,
                      Qt::NoScrollPhase, false);
    QApplication::sendEvent(&map, &wheel);
    EXPECT_GT(QLineF(map.pixel_at(10), QPointF(250, 200)).length(), 1.3 * QLineF(before, QPointF(250, 200)).length());
    placed.reset();
    const QPointF start = map.pixel_at(10);
    QTest::mousePress(&map, Qt::LeftButton, Qt::NoModifier, QPoint(200, 200));
    QMouseEvent move(QEvent::MouseMove, QPointF(260, 230), map.mapToGlobal(QPointF(260, 230)), Qt::NoButton,
                     Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&map, &move);
    QTest::mouseRelease(&map, Qt::LeftButton, Qt::NoModifier, QPoint(260, 230));
    EXPECT_FALSE(placed) << "a drag moves the map";
    EXPECT_NEAR(map.pixel_at(10).x() - start.x(), 60, 2);
    QTest::mouseDClick(&map, Qt::LeftButton, Qt::NoModifier, QPoint(10, 10));
    EXPECT_NEAR(map.pixel_at(10).x(), before.x(), 1) << "all of it again";
}

TEST_F(OverTimeTest, TheStartLineIsPlacedOnAMapOfTheRun) {
    auto& library = window_->workspace().library();
    const auto oval = test::oval_table(3, 20);
    const RunId run = got(import_file(library, folder_.write("o.csv", oval.text), {})).run;
    EXPECT_TRUE(got(library.run(run)).event.starts_with("Unfiled"));
    window_->workspace().library_changed();
    settle();
    window_->show_desk(QStringLiteral("logbook"));
    auto& desk = window_->desk_of<LogbookDesk>();
    desk.select_run(run);
    settle();
    std::optional<StartPlace> placed;
    bool icons = false, apart = true;
    QTimer answer;
    QObject::connect(&answer, &QTimer::timeout, [&] {
        auto* dialog = qobject_cast<LearnTrackDialog*>(QApplication::activeModalWidget());
        if (dialog == nullptr || dialog->map().pixel_at(30).isNull()) return;  // the run is being read
        answer.stop();
        const QPoint at = dialog->map().pixel_at(30).toPoint();
        QTest::mouseClick(&dialog->map(), Qt::LeftButton, Qt::NoModifier, at);
        placed = dialog->start();
        (void)dialog->grab();
        for (const QWidget* row : dialog->findChildren<QDoubleSpinBox*>())
            apart = apart && !row->geometry().intersects(dialog->map().geometry());
        icons = !dialog->findChild<QDialogButtonBox*>()->button(QDialogButtonBox::Cancel)->icon().isNull();
        dialog->findChild<QLineEdit*>()->setText(QStringLiteral("Oval"));
        dialog->accept();
    });
    answer.start(5);
    for (QPushButton* it : desk.findChildren<QPushButton*>()) {
        if (it->text().startsWith(QStringLiteral("Learn")) && it->isVisible()) it->click();
    }
    settle();
    ASSERT_TRUE(placed) << "a click chooses the place";
    EXPECT_TRUE(icons);
    EXPECT_TRUE(apart) << "the map covers no row of the form";
    const auto row = got(library.run(run));
    ASSERT_TRUE(row.track);
    EXPECT_TRUE(row.event.starts_with("Oval")) << "filed as the next run from there will be: " << row.event;
    const auto data = got(load_run(library, run));
    EXPECT_LT(
        length(LocalPlane(placed->place).to_local(LocalPlane(data->track->origin).to_geo(data->track->start.position))),
        6);
    EXPECT_GE(data->laps.size(), 3u);
}

}  // namespace
}  // namespace rendak::app
