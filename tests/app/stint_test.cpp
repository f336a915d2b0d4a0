// The Stint desk: the two long runs held against each other, figures of every lap, watch rules, the day.
#include <QAction>
#include <QComboBox>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QTableView>
#include <QTableWidget>
#include <QTreeView>
#include <atomic>
#include <filesystem>
#include <set>
#include <thread>

#include "app/desks/stint/balance_table.h"
#include "app/desks/stint/columns_dialog.h"
#include "app/desks/stint/day_page.h"
#include "app/desks/stint/over_laps_picture.h"
#include "app/desks/stint/rules_dialog.h"
#include "app/desks/stint/stint_desk.h"
#include "app/desks/stint/wheels_picture.h"
#include "app/jobs/wait_until.h"
#include "app/text/sentences.h"
#include "app/theme/theme.h"
#include "core/intake/import.h"
#include "core/recording/recording_file.h"
#include "tests/app/window_fixture.h"
#include "tests/support/got.h"

namespace rendak::app {
namespace {

using test::got;

class StintDeskTest : public WindowTest {
  protected:
    void SetUp() override {
        test::copy_library(test::weekend_library(), folder_.path());
        open_window();
    }
    StintDesk& desk() { return window_->desk_of<StintDesk>(); }
    Library& library() { return window_->workspace().library(); }
    void open_with(const std::vector<std::int64_t>& runs) {
        for (const std::int64_t run : runs) window_->workspace().pick_best({run});
        window_->show_desk(QStringLiteral("stint"));
        settle();
    }
    QString cell(int row, int column) { return desk().table().model()->index(row, column).data().toString(); }
    /// The column of the table with this heading; −1: there is none.
    int column(const QString& heading) {
        for (int c = 0; c < desk().figures().columnCount(); ++c) {
            if (desk().figures().headerData(c, Qt::Horizontal, Qt::DisplayRole).toString() == heading) return c;
        }
        return -1;
    }
    int row(const QString& label) {
        for (int r = 0; r < desk().table().model()->rowCount(); ++r) {
            if (cell(r, 0) == label) return r;
        }
        return -1;
    }
    QString balance(const QString& title, int at) {
        for (int r = 0; r < desk().balance().rowCount(); ++r) {
            if (desk().balance().item(r, 0)->text() == title) return desk().balance().item(r, at)->text();
        }
        return {};
    }
    QString label(const char* name) { return desk().findChild<QLabel*>(QLatin1String(name))->text(); }
    QStringList watch_lines() {
        QStringList out;
        const auto take = [&](const auto& self, QTreeWidgetItem* item) -> void {
            out << item->text(0) + u'|' + item->text(1);
            for (int k = 0; k < item->childCount(); ++k) self(self, item->child(k));
        };
        for (int k = 0; k < desk().watch().topLevelItemCount(); ++k) take(take, desk().watch().topLevelItem(k));
        return out;
    }
};

TEST_F(StintDeskTest, TwoLongRunsInOneLook) {
    window_->show_desk(QStringLiteral("stint"));
    settle();
    EXPECT_TRUE(desk().findChild<QLabel*>(QStringLiteral("empty"))->isVisible());
    keep_picture(window_.get(), QStringLiteral("stint-empty"));
    open_with({4, 5});
    EXPECT_TRUE(desk().headline().startsWith(QStringLiteral("B keeps its pace better")))
        << desk().headline().toStdString();
    EXPECT_TRUE(desk().headline().contains(QStringLiteral("A loses 0.09 s a lap"))) << desk().headline().toStdString();
    EXPECT_TRUE(desk().foot().contains(QStringLiteral("→ 32.6")));
    EXPECT_TRUE(desk().foot().contains(QStringLiteral("The price: rears worn after 18 laps 29.9")))
        << desk().foot().toStdString();
    EXPECT_TRUE(desk().foot().contains(QStringLiteral("12 laps on cold tyres, 1 left out")));
    // Pace: 18 laps each, four of them cold; fuel taken out.
    const OverLapsPlot& plot = desk().picture().plot();
    ASSERT_EQ(plot.series.size(), 2U);
    EXPECT_EQ(plot.series[0].values.size(), 18U);
    EXPECT_EQ(std::count(plot.series[0].tells.begin(), plot.series[0].tells.end(), 0), 4);
    ASSERT_TRUE(plot.series[0].line);
    EXPECT_NEAR(plot.series[0].line->per_lap, 0.088, 0.005);
    // One table, before and after, with the verdict.
    EXPECT_TRUE(balance(QStringLiteral("front − rear, carcass"), 3).endsWith(QStringLiteral("better")));
    EXPECT_TRUE(balance(QStringLiteral("rears worn after 18 laps"), 3).endsWith(QStringLiteral("worse")));
    EXPECT_TRUE(balance(QStringLiteral("lap time"), 1).startsWith(QStringLiteral("1:47.5")));
    // The wheels: means of the laps that tell, share in the window, what is left.
    EXPECT_EQ(desk().wheels().kinds().size(), wheel_kinds().size());
    const QStringList fl = desk().wheels().words(0);
    EXPECT_TRUE(fl.contains(QStringLiteral("A left % 52"))) << fl.join(u'\n').toStdString();
    EXPECT_TRUE(fl.contains(QStringLiteral("B in window % 82"))) << fl.join(u'\n').toStdString();
    EXPECT_TRUE(label("spike").startsWith(QStringLiteral("FL differs most at Turn "))) << label("spike").toStdString();
    EXPECT_TRUE(label("scatter").contains(QStringLiteral("most of it from Turn 9 18 %")))
        << label("scatter").toStdString();
    EXPECT_TRUE(label("ducts").contains(QStringLiteral("No difference is told from chance")));
    keep_picture(window_.get(), QStringLiteral("stint-two"));
    // A row of it over the laps, and back.
    Q_EMIT desk().balance().cellClicked(2, 0);
    EXPECT_EQ(desk().picture().plot().title, QStringLiteral("front − rear, carcass"));
    ASSERT_EQ(desk().picture().plot().series.size(), 2U);
    EXPECT_NEAR(desk().picture().plot().series[0].values[10], 13, 1);
    keep_picture(window_.get(), QStringLiteral("stint-balance"));
    Q_EMIT desk().balance().cellClicked(1, 0);
    EXPECT_EQ(desk().picture().plot().title, QStringLiteral("Pace over the stint"));
    EXPECT_TRUE(label("spike").endsWith(QStringLiteral("Band: window of Club prototype 27, 2026.")))
        << label("spike").toStdString();
    for (QPushButton* button : desk().findChildren<QPushButton*>()) {
        if (button->text() == QStringLiteral("Pressure")) button->click();
    }
    EXPECT_FALSE(desk().wheels().words(0).filter(QStringLiteral("A off wanted +0.2")).isEmpty())
        << desk().wheels().words(0).join(u'\n').toStdString();
    // The tread apart in corners and on straights, and round the lap.
    for (QPushButton* button : desk().findChildren<QPushButton*>()) {
        if (button->text() == QStringLiteral("Inner")) button->click();
    }
    EXPECT_TRUE(desk().wheels().words(0).contains(QStringLiteral("A straight +10.0")))
        << desk().wheels().words(0).join(u'\n').toStdString();
    auto* mode = desk().findChild<QComboBox*>(QStringLiteral("wheel-mode"));
    mode->setCurrentIndex(1);
    Q_EMIT mode->activated(1);
    EXPECT_EQ(desk().wheels().mode(), WheelsPicture::Mode::round);
    keep_picture(window_.get(), QStringLiteral("stint-round"));
    mode->setCurrentIndex(2);
    Q_EMIT mode->activated(2);
    focus().set_cursor(1500);
    settle();
    keep_picture(window_.get(), QStringLiteral("stint-cursor"));
    // A click on a lap's point: that lap in place of its run's, on Compare.
    const auto at = desk().picture().place_of({{4}, 12});
    ASSERT_TRUE(at);
    QTest::mouseClick(&desk().picture(), Qt::LeftButton, Qt::NoModifier, at->toPoint());
    settle();
    EXPECT_EQ(state().laps[0], (LapRef{{4}, 12}));
    EXPECT_EQ(state().laps.size(), 2U);
    EXPECT_TRUE(window_->desk_of<CompareDesk>().isVisible());
}

TEST_F(StintDeskTest, FiguresOfEveryLapWithTheirTrend) {
    open_with({4, 5});
    EXPECT_EQ(cell(0, 0), QStringLiteral("A, a lap"));
    EXPECT_TRUE(cell(0, 1).startsWith(QStringLiteral("+0.06"))) << cell(0, 1).toStdString();
    EXPECT_EQ(cell(2, 0), QStringLiteral("A Run 5, mean"));
    EXPECT_GE(row(QStringLiteral("B 18")), 0);
    const int coasting = column(QStringLiteral("Coasting time, s"));
    ASSERT_GT(coasting, 0);
    // Sorted by a figure the laps change places, what stands on top stays.
    desk().table().sortByColumn(1, Qt::DescendingOrder);
    EXPECT_EQ(cell(0, 0).contains(QStringLiteral("a lap")) || cell(0, 0).contains(QStringLiteral("mean")), true);
    desk().table().sortByColumn(1, Qt::AscendingOrder);
    EXPECT_EQ(cell(0, 0), QStringLiteral("A, a lap"));
    EXPECT_EQ(cell(4, 0), QStringLiteral("B 12")) << "the best lap";
    // A heading: its picture. Pace: back.
    desk().show_column(coasting - 1);
    EXPECT_EQ(desk().picture().plot().title, QStringLiteral("Coasting time"));
    keep_picture(window_.get(), QStringLiteral("stint-column"));
    desk().show_column(-1);
    EXPECT_EQ(desk().picture().plot().title, QStringLiteral("Pace over the stint"));
    // Another set, columns of one's own, and what nobody logs.
    desk().show_set(QStringLiteral("tyres"));
    settle();
    EXPECT_GT(column(QStringLiteral("Tyre carcass FL mean, °C")), 0);
    desk().show_columns(QStringLiteral(
        "lap_time; oil_pressure low in 9; oil_temperature above 100 °C; gearbox_temperature high; speed at 1200 m"));
    settle();
    ASSERT_GT(column(QStringLiteral("Oil pressure low in 9, bar")), 0);
    ASSERT_GT(column(QStringLiteral("Oil temperature above 100 °C, %")), 0);
    EXPECT_TRUE(desk().table().isColumnHidden(4));
    EXPECT_FALSE(desk().table().isColumnHidden(5));
    // A figure of a lap: that place on Compare.
    const int low = column(QStringLiteral("Oil pressure low in 9, bar"));
    const int lap_15 = row(QStringLiteral("A 15"));
    ASSERT_GE(lap_15, 0);
    Q_EMIT desk().table().doubleClicked(desk().table().model()->index(lap_15, low));
    settle();
    EXPECT_EQ(state().laps[0], (LapRef{{4}, 15}));
    const Corner& turn_9 = laps().track().corners[8];
    EXPECT_GE(state().cursor_m, turn_9.start_m - 1);
    EXPECT_LE(state().cursor_m, turn_9.end_m + 1);
    // The whole day, filtered and grouped.
    window_->show_desk(QStringLiteral("stint"));
    settle();
    desk().show_whole_day(true);
    settle();
    EXPECT_EQ(desk().figures().runs().size(), 14U);
    const int all = desk().table().model()->rowCount();
    auto* words = desk().findChild<QLineEdit*>(QStringLiteral("figure-words"));
    words->setText(QStringLiteral("osei"));
    EXPECT_LT(desk().table().model()->rowCount(), all);
    words->clear();
    desk().figures().set_group(LapFigureModel::Group::drivers);
    EXPECT_GE(row(QStringLiteral("Osei, mean")), 0);
    EXPECT_LT(row(QStringLiteral("A, a lap")), 0);
    keep_picture(window_.get(), QStringLiteral("stint-day-figures"));
    const QString csv = desk().figures().as_text(u',');
    EXPECT_GT(csv.count(u'\n'), 80);
    EXPECT_TRUE(csv.startsWith(QStringLiteral("Run,Lap,Counts,Lap time,\"")) ||
                csv.startsWith(QStringLiteral("Run,Lap,Counts,Lap time")))
        << csv.left(80).toStdString();
    ASSERT_TRUE(desk().save_csv(QString::fromStdString((folder_.path() / "laps.csv").string())));
    // Arranged again after a start.
    const QString as_left = desk().state();
    desk().show_whole_day(false);
    desk().show_set(QStringLiteral("fuel"));
    desk().restore(as_left);
    settle();
    EXPECT_EQ(desk().figures().runs().size(), 14U);
    EXPECT_GT(column(QStringLiteral("Oil pressure low in 9, bar")), 0);
    desk().restore(QStringLiteral("nonsense"));
}

TEST_F(StintDeskTest, OwnSetsOfColumnsAreKept) {
    open_with({4});
    ColumnsDialog dialog(window_->workspace(), runs_of(laps()), QStringLiteral("lap_time"), nullptr);
    const auto combo = [&](const char* name) {
        for (auto* it : dialog.findChildren<QComboBox*>())
            if (it->accessibleName() == QLatin1String(name)) return it;
        return static_cast<QComboBox*>(nullptr);
    };
    combo("Channel")->setCurrentIndex(combo("Channel")->findData(QStringLiteral("oil_temperature")));
    combo("Figure")->setCurrentIndex(combo("Figure")->findData(QStringLiteral("above")));
    for (auto* it : dialog.findChildren<QLineEdit*>()) {
        if (it->accessibleName() == QStringLiteral("Limit or place")) it->setText(QStringLiteral("100 °C"));
    }
    for (auto* it : dialog.findChildren<QPushButton*>()) {
        if (it->text() == QStringLiteral("Add")) it->click();
    }
    EXPECT_EQ(dialog.columns(), QStringLiteral("lap_time; oil_temperature above 100 °C"));
    ASSERT_TRUE(dialog.keep_as(QStringLiteral("Hot oil")));
    EXPECT_FALSE(dialog.keep_as(QStringLiteral("driver"))) << "a shipped one";
    auto* sets = desk().findChild<QComboBox*>(QStringLiteral("figure-set"));
    EXPECT_GE(sets->findData(QStringLiteral("Hot oil")), 0);
    desk().show_set(QStringLiteral("Hot oil"));
    settle();
    EXPECT_GT(column(QStringLiteral("Oil temperature above 100 °C, %")), 0);
    // Given away, taken away, and taken back.
    const QString file = QString::fromStdString((folder_.path() / "sets.json").string());
    ASSERT_TRUE(dialog.save_sets(file));
    window_->workspace().session()->undo();
    EXPECT_LT(sets->findData(QStringLiteral("Hot oil")), 0);
    ASSERT_TRUE(dialog.take_sets(file));
    EXPECT_TRUE(got(column_sets(library())).contains("Hot oil"));
    EXPECT_FALSE(dialog.take_sets(QStringLiteral("/nowhere")));
    // What cannot be read is said at once.
    dialog.findChild<QPlainTextEdit*>()->setPlainText(QStringLiteral("speed highest"));
    EXPECT_TRUE(dialog.findChild<QLabel*>(QStringLiteral("columns-problem"))
                    ->text()
                    .contains(QStringLiteral("no figure of a lap")));
    keep_picture(&dialog, QStringLiteral("stint-columns"));
}

TEST_F(StintDeskTest, WatchRulesAreSeenLookedAtAndChanged) {
    auto& logbook = window_->desk_of<LogbookDesk>();
    const auto badge = [&](std::int64_t id) {
        const auto* tree = logbook.findChild<QTreeView*>();
        const auto* model = static_cast<const RunTree*>(tree->model());
        const QModelIndex index = model->index_of({id});
        return !index.siblingAtColumn(RunTree::name).data(Qt::DecorationRole).isNull();
    };
    EXPECT_TRUE(badge(4));
    open_with({4, 5});
    QStringList lines = watch_lines();
    ASSERT_FALSE(lines.empty());
    EXPECT_TRUE(lines[0].contains(QStringLiteral("●  Oil pressure low for the revs|0.32"))) << lines[0].toStdString();
    EXPECT_TRUE(lines[1].startsWith(QStringLiteral("Run 5: laps 13–19"))) << lines[1].toStdString();
    EXPECT_TRUE(lines[1].contains(QStringLiteral("also on the slow-down lap")));
    EXPECT_TRUE(lines.filter(QStringLiteral("It speaks in 1 of 16 runs, last in Run 5 from lap 13 on")).size() == 1)
        << lines.join(u'\n').toStdString();
    EXPECT_FALSE(lines.filter(QStringLiteral("Silent: ")).isEmpty());
    // A time of it: with what stood beside, and the moment on Compare.
    QTreeWidgetItem* words = desk().watch().topLevelItem(0)->child(0);
    ASSERT_GT(words->childCount(), 10);
    EXPECT_TRUE(words->child(0)->text(0).contains(QStringLiteral("Lateral ")))
        << words->child(0)->text(0).toStdString();
    EXPECT_TRUE(words->child(0)->text(0).contains(QStringLiteral("Fuel")));
    Q_EMIT desk().watch().itemActivated(words->child(0), 0);
    settle();
    EXPECT_EQ(state().laps[0], (LapRef{{4}, 13}));
    EXPECT_GT(state().cursor_m, 0);
    // The last one lies on the slow-down lap: the whole run, over time.
    window_->show_desk(QStringLiteral("stint"));
    settle();
    words = desk().watch().topLevelItem(0)->child(0);
    Q_EMIT desk().watch().itemActivated(words->child(words->childCount() - 1), 0);
    settle();
    EXPECT_EQ(state().laps[0], (LapRef{{4}, whole_run}));
    EXPECT_GT(state().run_cursor_s, 1800);
    focus().clear_laps();
    open_with({4, 5});
    // Looked at: it goes below what is open, and the badge goes once all are.
    auto* looked = desk().findChild<QPushButton*>(QStringLiteral("looked-at"));
    EXPECT_FALSE(looked->isEnabled());
    for (int k = 0; k < 2; ++k) {
        for (int item = 0; item < desk().watch().topLevelItemCount(); ++item) {
            desk().watch().setCurrentItem(desk().watch().topLevelItem(item));
            if (desk().watch().chosen() == nullptr || desk().watch().chosen()->run->row.id != RunId{4} ||
                desk().watch().chosen()->kept.seen_unix_s > 0)
                continue;
            looked->click();
            settle();
            break;
        }
    }
    EXPECT_FALSE(badge(4));
    EXPECT_TRUE(badge(5));
    EXPECT_FALSE(watch_lines().filter(QStringLiteral("looked at, ")).isEmpty());
    keep_picture(window_.get(), QStringLiteral("stint-watch"));
    // A rule of one's own is checked on all runs at once.
    RulesDialog rules(window_->workspace(), nullptr);
    EXPECT_GE(rules.findChild<QListWidget*>()->count(), 13);
    rules.findChild<QLineEdit*>(QStringLiteral("rule-name"))->setText(QStringLiteral("Fast"));
    rules.findChild<QLineEdit*>(QStringLiteral("rule-condition"))->setText(QStringLiteral("speed > 230 km/h and"));
    EXPECT_FALSE(rules.keep());
    EXPECT_FALSE(rules.findChild<QLabel*>(QStringLiteral("rule-problem"))->text().isEmpty());
    rules.findChild<QLineEdit*>(QStringLiteral("rule-condition"))->setText(QStringLiteral("speed > 230 km/h"));
    ASSERT_TRUE(rules.keep());
    keep_picture(&rules, QStringLiteral("stint-rules"));
    settle();
    EXPECT_FALSE(watch_lines().filter(QStringLiteral("●  Fast")).isEmpty());
    EXPECT_TRUE(got(unwatched_runs(library())).empty());
    int answered = 0;
    for (const RunRow& it : got(library().runs())) {
        for (const KeptWatch& one : got(kept_watch(library(), it.id)))
            answered += one.rule.name == "Fast" && !one.stale ? 1 : 0;
    }
    EXPECT_EQ(answered, 17);
    window_->workspace().session()->undo();
    settle();
}

TEST_F(StintDeskTest, WhatComesInIsWatchedInTheBackground) {
    const auto file = folder_.path() / "demo-files" / "saturday-run-2-pocket.csv";
    ASSERT_TRUE(std::filesystem::exists(file));
    const auto run = import_file(library(), file, {});
    ASSERT_TRUE(run) << run.error().text();
    window_->workspace().library_changed(Change::papers);
    settle();
    EXPECT_TRUE(got(unwatched_runs(library())).empty());
    // A receiver alone: no tyres, no fuel; what can be told is, and what cannot is said.
    open_with({run->run.value});
    EXPECT_TRUE(desk().wheels().kinds().empty());
    EXPECT_FALSE(desk().headline().isEmpty());
    EXPECT_TRUE(desk().foot().contains(QStringLiteral("weight of the fuel is left in"))) << desk().foot().toStdString();
    EXPECT_FALSE(watch_lines().filter(QStringLiteral("Cannot be told")).isEmpty());
    EXPECT_GT(desk().figures().rowCount(), 5);
    keep_picture(window_.get(), QStringLiteral("stint-receiver"));
}

TEST_F(StintDeskTest, TheFirstRunIsThereWhileTheOthersAreWorkedOut) {
    open_with({4, 5});
    // The disk keeps whoever wants the second run.
    const std::string held = got(library().run({5})).recording_file;
    std::atomic<bool> go_on{false};
    set_opening_hook([&, gui = std::this_thread::get_id()](const std::filesystem::path& file) {
        const bool waits = file.string().ends_with(held) && std::this_thread::get_id() != gui;
        while (waits && !go_on) std::this_thread::yield();
    });
    const auto runs_shown = [&] {
        std::set<std::int64_t> out;
        for (const auto& it : desk().figures().table()->rows) out.insert(it.ref.run.value);
        return out;
    };
    ASSERT_EQ(runs_shown(), (std::set<std::int64_t>{4, 5}));
    desk().show_columns(QStringLiteral("engine_speed high in 3"));
    EXPECT_TRUE(wait_until([&] { return runs_shown().size() == 1; }));
    EXPECT_EQ(runs_shown(), (std::set<std::int64_t>{4}));
    EXPECT_EQ(desk().figures().table()->columns.front().column.channel, "engine_speed");
    EXPECT_EQ(label("table-hint"), QStringLiteral("A's run; the others follow."));
    EXPECT_FALSE(window_->workspace().jobs().idle());
    keep_picture(window_.get(), QStringLiteral("stint-first-run"));
    // Given up, nothing is promised any more.
    window_->workspace().jobs().cancel_all();
    go_on = true;
    settle();
    EXPECT_EQ(runs_shown(), (std::set<std::int64_t>{4}));
    EXPECT_EQ(label("table-hint"), QStringLiteral("The figures were not worked out to the end."));
    go_on = false;
    desk().show_columns(QStringLiteral("engine_speed low in 3"));
    EXPECT_TRUE(wait_until([&] { return label("table-hint") == QStringLiteral("A's run; the others follow."); }));
    go_on = true;
    settle();
    set_opening_hook({});
    EXPECT_EQ(runs_shown(), (std::set<std::int64_t>{4, 5}));
    EXPECT_NE(label("table-hint"), QStringLiteral("A's run; the others follow."));
    // One that needs no wait comes as a whole; nothing is left of the part.
    desk().show_columns(QStringLiteral("engine_speed high in 3; speed high"));
    settle();
    EXPECT_EQ(runs_shown(), (std::set<std::int64_t>{4, 5}));
}

TEST_F(StintDeskTest, OneLapManyLapsMissingWheelsAndTheDark) {
    // A climb is one lap.
    open_with({14});
    EXPECT_TRUE(desk().headline().contains(QStringLiteral("Too few laps"))) << desk().headline().toStdString();
    keep_picture(window_.get(), QStringLiteral("stint-one-lap"));
    focus().clear_laps();
    // A run whose front right is not logged.
    for (const char* kind : {"Carcass", "Inner", "Middle", "Outer", "Pressure"})
        ASSERT_TRUE(library().set_unused({4}, std::string("Tyre ") + kind + " FR", true));
    window_->workspace().library_changed(Change::recordings);
    settle();
    open_with({4});
    EXPECT_TRUE(desk().wheels().words(1).filter(QStringLiteral("°C")).isEmpty());
    EXPECT_FALSE(desk().wheels().words(0).filter(QStringLiteral("°C")).isEmpty());
    keep_picture(window_.get(), QStringLiteral("stint-missing-wheel"));
    // In other units, and in the dark.
    set_imperial_units(true);
    window_->repaint_all();
    settle();
    EXPECT_FALSE(desk().wheels().words(0).filter(QStringLiteral("°F")).isEmpty());
    set_imperial_units(false);
    apply_theme(true);
    window_->repaint_all();
    settle();
    keep_picture(window_.get(), QStringLiteral("stint-garage"));
    apply_theme(false);
    window_->repaint_all();
    settle();
    // 120 laps in one run: the same laps over and over.
    std::vector<Lap> laps_of = got(library().laps({2})), many;
    for (int k = 0; k < 120; ++k) {
        for (const Lap& it : laps_of) {
            if (it.kind != LapKind::flying) continue;
            Lap lap = it;
            lap.number = k + 1;
            many.push_back(lap);
            break;
        }
    }
    ASSERT_TRUE(library().set_laps({2}, many));
    window_->workspace().library_changed(Change::recordings);
    focus().clear_laps();
    settle();
    open_with({2});
    EXPECT_EQ(desk().picture().plot().series.at(0).values.size(), 120U);
    keep_picture(window_.get(), QStringLiteral("stint-120"));
}

TEST_F(StintDeskTest, WhatChangesWhileItIsOutOfSightIsThereWhenItComesBack) {
    open_with({4, 5});
    desk().show_whole_day(true);
    settle();
    window_->show_desk(QStringLiteral("logbook"));
    settle();
    // A rule is looked at somewhere else, and a lap of a run that is not on the tray is left out.
    ASSERT_TRUE(set_watch_seen(library(), {4}, "Oil pressure low for the revs", true));
    Q_EMIT window_->workspace().session()->watch().changed();
    ASSERT_TRUE(window_->workspace().edit(
        QStringLiteral("leave out"),
        [this] {
            return library().switch_lap({{2}, 3}, false, "looked at");
        },
        [this] {
            return library().unswitch_lap({{2}, 3});
        }));
    settle();
    window_->show_desk(QStringLiteral("stint"));
    settle();
    EXPECT_FALSE(watch_lines().filter(QStringLiteral("○  Oil pressure low for the revs|looked at")).isEmpty());
    int found = 0;
    for (int r = 0; r < desk().figures().rowCount(); ++r) {
        const rendak::LapTable::Row* lap = desk().figures().lap_at(r);
        if (lap == nullptr || lap->ref != LapRef{{2}, 3}) continue;
        ++found;
        EXPECT_FALSE(lap->counts);
    }
    EXPECT_EQ(found, 1);
    // The other run held against A, and back: what was worked out of the runs is taken over.
    window_->workspace().pick_best({2});
    settle();
    EXPECT_TRUE(balance(QStringLiteral("lap time"), 2).startsWith(QStringLiteral("1:46.5")))
        << balance(QStringLiteral("lap time"), 2).toStdString();
    focus().set_active_slot(1);
    settle();
    EXPECT_TRUE(balance(QStringLiteral("lap time"), 2).startsWith(QStringLiteral("1:46.8")))
        << balance(QStringLiteral("lap time"), 2).toStdString();
}

TEST_F(StintDeskTest, EditsOutliveTheDialogsThatMadeThem) {
    open_with({4});
    Session& session = *window_->workspace().session();
    const auto rule_said = [&] {
        int out = 0;
        for (const KeptWatch& it : got(kept_watch(library(), {2}))) out += it.rule.name == "Fast" ? 1 : 0;
        return out;
    };
    {
        RulesDialog rules(window_->workspace(), nullptr);
        rules.show_rule({});
        rules.findChild<QLineEdit*>(QStringLiteral("rule-name"))->setText(QStringLiteral("Fast"));
        rules.findChild<QLineEdit*>(QStringLiteral("rule-condition"))->setText(QStringLiteral("speed > 230 km/h"));
        ASSERT_TRUE(rules.keep());
        ColumnsDialog columns(window_->workspace(), runs_of(laps()), QStringLiteral("speed high"), nullptr);
        ASSERT_TRUE(columns.keep_as(QStringLiteral("Mine")));
    }
    settle();
    EXPECT_EQ(rule_said(), 1);
    session.undo();
    EXPECT_TRUE(got(column_sets(library())).empty());
    session.undo();
    settle();
    EXPECT_TRUE(got(watch_book(library())).own.empty());
    EXPECT_EQ(rule_said(), 0);
    EXPECT_TRUE(watch_lines().filter(QStringLiteral("Fast")).isEmpty());
    // Done again: it is checked again.
    session.redo();
    settle();
    EXPECT_EQ(rule_said(), 1);
    session.redo();
    EXPECT_TRUE(got(column_sets(library())).contains("Mine"));
}

TEST_F(StintDeskTest, ARunThatCannotBeOpenedStopsNoOther) {
    // Runs 2 and 3 were never watched; the recording of run 2 is gone.
    for (const std::int64_t id : {2, 3}) {
        for (const KeptResult& it : got(library().kept_results({id}, "watch: ")))
            ASSERT_TRUE(library().drop_results(it.what));
    }
    std::filesystem::remove(folder_.path() / got(library().run({2})).recording_file);
    window_->workspace().session()->watch().check_new();
    settle();
    EXPECT_EQ(got(unwatched_runs(library())), std::vector<RunId>{{2}});
    // It is not tried for ever.
    window_->workspace().session()->watch().check_new();
    EXPECT_TRUE(window_->workspace().jobs().idle());
}

TEST_F(StintDeskTest, TheDayRunByRun) {
    open_with({5});
    desk().show_day(true);
    settle();
    EXPECT_EQ(desk().day().table().rowCount(), 14);
    EXPECT_TRUE(desk().day().words().contains(QStringLiteral("Run 6, against Run 5")))
        << desk().day().words().toStdString();
    EXPECT_TRUE(desk().day().words().contains(QStringLiteral("the lap time fell by")));
    desk().day().table().selectRow(0);
    EXPECT_TRUE(desk().day().words().contains(QStringLiteral("no run of this driver and car before it")));
    const QString csv = desk().day().as_text(u',');
    EXPECT_EQ(csv.count(u'\n'), 15);
    ASSERT_TRUE(desk().save_csv(QString::fromStdString((folder_.path() / "day.csv").string())));
    Q_EMIT desk().day().table().cellDoubleClicked(1, 0);
    settle();
    EXPECT_GE(focus().slot_of({{2}, 6}) + focus().slot_of({{2}, 5}) + focus().slot_of({{2}, 4}), -2);
    EXPECT_TRUE(window_->desk_of<CompareDesk>().isVisible());
}

}  // namespace
}  // namespace rendak::app
