// The Logbook as a person uses it.
#include <QAbstractItemModelTester>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableView>
#include <QTreeView>

#include "app/text/shown.h"
#include "core/intake/import.h"
#include "core/laps/cut.h"
#include "tests/app/window_fixture.h"
#include "tests/support/figures_only.h"

namespace rendak::app {
namespace {

class LogbookTest : public WindowTest {
  protected:
    QTreeView& tree() { return *window_->desk_of<LogbookDesk>().findChild<QTreeView*>(); }
    QTableView& laps_view() { return *window_->desk_of<LogbookDesk>().findChild<QTableView*>(QStringLiteral("laps")); }
    QModelIndex run_row(int row) {
        const auto* model = tree().model();
        return model->index(row, 0, model->index(0, 0, model->index(0, 0)));
    }
    QStringList shown_runs() {
        QStringList names;
        const auto* model = tree().model();
        for (int e = 0; e < model->rowCount(); ++e) {
            const auto event = model->index(e, 0);
            for (int s = 0; s < model->rowCount(event); ++s) {
                const auto session = model->index(s, 0, event);
                for (int r = 0; r < model->rowCount(session); ++r)
                    names << model->index(r, 0, session).data().toString();
            }
        }
        return names;
    }
    QString cell(int row, int column) { return laps_view().model()->index(row, column).data().toString(); }
    void click_cell(int row, int column) {
        const QRect area = laps_view().visualRect(laps_view().model()->index(row, column));
        QTest::mouseClick(laps_view().viewport(), Qt::LeftButton, Qt::NoModifier, area.center());
        settle();
    }
};

TEST_F(LogbookTest, ListsRunsByEventAndSession) {
    EXPECT_EQ(tree().model()->index(0, 0).data().toString(), QStringLiteral("Skerrow Point test weekend"));
    EXPECT_EQ(tree().model()->index(0, 0, tree().model()->index(0, 0)).data().toString(), QStringLiteral("Saturday"));
    EXPECT_EQ(shown_runs(), QStringList({QStringLiteral("Run 1"), QStringLiteral("Run 2"), QStringLiteral("Run 3")}));
    const QModelIndex run2 = run_row(1);
    EXPECT_EQ(run2.siblingAtColumn(RunTree::driver).data().toString(), QStringLiteral("Brandvold"));
    EXPECT_EQ(run2.siblingAtColumn(RunTree::flying).data().toString(), QStringLiteral("8"));
    const auto laps = window_->workspace().library().laps({2}).value();
    EXPECT_EQ(run2.siblingAtColumn(RunTree::best).data().toString(), lap_time(best_lap(laps)->time_s()));
}

TEST_F(LogbookTest, SortsAndFilters) {
    tree().sortByColumn(RunTree::best, Qt::AscendingOrder);
    EXPECT_EQ(shown_runs().front(), QStringLiteral("Run 2")) << "fastest first";
    tree().sortByColumn(RunTree::best, Qt::DescendingOrder);
    EXPECT_EQ(shown_runs().front(), QStringLiteral("Run 3"));
    auto* filter = window_->desk_of<LogbookDesk>().findChild<QLineEdit*>(QStringLiteral("filter"));
    QTest::keyClicks(filter, QStringLiteral("osei skerrow"));
    EXPECT_EQ(shown_runs(), QStringList(QStringLiteral("Run 3")));
    filter->clear();
    QTest::keyClicks(filter, QStringLiteral("nobody"));
    EXPECT_TRUE(shown_runs().isEmpty());
    filter->clear();
    EXPECT_EQ(shown_runs().size(), 3);
}

TEST_F(LogbookTest, LapsOfTheSelectedRunWithKindsAndReasons) {
    window_->desk_of<LogbookDesk>().select_run({1});
    ASSERT_EQ(laps_view().model()->rowCount(), 6);
    EXPECT_EQ(cell(0, LapTable::kind), QStringLiteral("part lap"));
    EXPECT_EQ(cell(0, LapTable::why), QStringLiteral("the recording starts in mid-lap"));
    EXPECT_EQ(laps_view().model()->index(0, LapTable::included).data(Qt::CheckStateRole).toInt(), Qt::Unchecked);
    window_->desk_of<LogbookDesk>().select_run({2});
    ASSERT_EQ(laps_view().model()->rowCount(), 10);
    EXPECT_EQ(cell(0, LapTable::kind), QStringLiteral("out lap"));
    EXPECT_EQ(cell(9, LapTable::kind), QStringLiteral("in lap"));
    int best = 0;
    for (int row = 0; row < 10; ++row) best += cell(row, LapTable::time).contains(QStringLiteral("best"));
    EXPECT_EQ(best, 1);
}

TEST_F(LogbookTest, SwitchingTheBestLapOutMovesTheBestAndUndoes) {
    window_->desk_of<LogbookDesk>().select_run({2});
    auto& library = window_->workspace().library();
    const int best = best_lap(library.laps({2}).value())->number;
    const QRect tick = laps_view().visualRect(laps_view().model()->index(best, LapTable::included));
    QTest::mouseClick(laps_view().viewport(), Qt::LeftButton, Qt::NoModifier,
                      QPoint(tick.left() + 12, tick.center().y()));
    settle();
    EXPECT_FALSE(library.laps({2}).value()[static_cast<std::size_t>(best)].included);
    EXPECT_EQ(library.laps({2}).value()[static_cast<std::size_t>(best)].reason, "switched out by hand");
    const int next = best_lap(library.laps({2}).value())->number;
    EXPECT_NE(next, best);
    EXPECT_TRUE(cell(next, LapTable::time).contains(QStringLiteral("best")));
    EXPECT_EQ(run_row(1).siblingAtColumn(RunTree::flying).data().toString(), QStringLiteral("7"));
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(library.laps({2}).value()[static_cast<std::size_t>(best)].included);
    EXPECT_EQ(best_lap(library.laps({2}).value())->number, best);
}

TEST_F(LogbookTest, TheReasonCanBeWritten) {
    window_->desk_of<LogbookDesk>().select_run({3});
    auto* model = laps_view().model();
    ASSERT_TRUE(model->setData(model->index(5, LapTable::included), Qt::Unchecked, Qt::CheckStateRole));
    ASSERT_TRUE(
        model->setData(model->index(5, LapTable::note), QStringLiteral("locked a wheel, off at Turn 1"), Qt::EditRole));
    settle();
    EXPECT_TRUE(cell(5, LapTable::note).startsWith(QStringLiteral("locked a wheel, off at Turn 1 · ")))
        << "what was written, then what is known: " << cell(5, LapTable::note).toStdString();
    EXPECT_EQ(window_->workspace().library().laps({3}).value()[5].note, "locked a wheel, off at Turn 1");
    EXPECT_FALSE(window_->workspace().library().laps({3}).value()[5].included);
}

TEST_F(LogbookTest, EnterPicksTheBestLapAndTheFirstBecomesA) {
    window_->desk_of<LogbookDesk>().select_run({3});
    tree().setFocus();
    QTest::keyClick(&tree(), Qt::Key_Return);
    settle();
    window_->desk_of<LogbookDesk>().select_run({2});
    QTest::keyClick(&tree(), Qt::Key_Return);
    settle();
    ASSERT_EQ(state().laps.size(), 2U);
    EXPECT_EQ(state().laps[0], (LapRef{{3}, best_lap(window_->workspace().library().laps({3}).value())->number}));
    ASSERT_EQ(window_->tray().cards().size(), 2U);
    EXPECT_EQ(window_->tray().cards()[0]->texts()[0], QStringLiteral("Osei"));
    EXPECT_EQ(window_->tray().cards()[0]->texts()[3], QStringLiteral("baseline"));
    focus().set_fastest_is_a(true);
    settle();
    EXPECT_EQ(window_->tray().cards()[0]->texts()[0], QStringLiteral("Brandvold"));
    EXPECT_EQ(window_->tray().cards()[0]->texts()[3], QStringLiteral("baseline, fastest"));
}

TEST_F(LogbookTest, DoubleClickPicksALapAndPartLapsAreShownOverTime) {
    window_->desk_of<LogbookDesk>().select_run({2});
    const auto double_click = [&](int row) {
        const QRect area = laps_view().visualRect(laps_view().model()->index(row, LapTable::time));
        QTest::mouseClick(laps_view().viewport(), Qt::LeftButton, Qt::NoModifier, area.center());
        QTest::mouseDClick(laps_view().viewport(), Qt::LeftButton, Qt::NoModifier, area.center());
        settle();
    };
    double_click(3);
    EXPECT_EQ(state().laps, (std::vector<LapRef>{{{2}, 3}}));
    double_click(0);
    EXPECT_EQ(state().laps.size(), 2U);
    EXPECT_TRUE(window_->status().message().contains(QStringLiteral("no complete lap")));
    EXPECT_FALSE(laps().on_track()) << "places are compared from line to line only";
}

TEST_F(LogbookTest, ImportingAFileShowsItAndABadOneSaysWhy) {
    const auto good = folder_.write("oval run.csv", test::oval_table(3, 20).text);
    window_->desk_of<LogbookDesk>().import_files({QString::fromStdString(good.string())});
    settle();
    EXPECT_EQ(shown_runs().size(), 4);
    EXPECT_EQ(window_->desk_of<LogbookDesk>().selected_runs(), (std::vector<RunId>{{4}}));
    EXPECT_TRUE(window_->status().message().contains(QStringLiteral("Imported as run 4")));
    window_->desk_of<LogbookDesk>().import_files({QString::fromStdString(good.string())});
    settle();
    EXPECT_TRUE(window_->status().message().contains(QStringLiteral("in the library already")));
    const auto bad = folder_.write("bad.csv", "this is no table\n");
    window_->desk_of<LogbookDesk>().import_files({QString::fromStdString(bad.string())});
    settle();
    EXPECT_TRUE(window_->status().message().contains(QStringLiteral("bad.csv: No table of numbers was found")));
    EXPECT_EQ(shown_runs().size(), 4);
}

TEST_F(LogbookTest, ATableWithoutTimeAsksForItsRate) {
    const auto file = folder_.write("no time.csv", "Speed [km/h],Gear\n10,1\n20,1\n30,2\n40,2\n");
    window_->desk_of<LogbookDesk>().import_files({QString::fromStdString(file.string())});
    settle();
    auto* dialog = window_->desk_of<LogbookDesk>().findChild<QInputDialog*>();
    ASSERT_NE(dialog, nullptr);
    EXPECT_TRUE(dialog->labelText().contains(QStringLiteral("No time column was found")));
    dialog->setDoubleValue(5);
    dialog->accept();
    settle();
    EXPECT_EQ(shown_runs().size(), 4);
    EXPECT_EQ((*window_->workspace().library().open_run({4}))->find("speed")->clock.rate_hz, 5);
}

TEST_F(LogbookTest, ModelsKeepTheirPromises) {
    RunTree tree_model;
    ASSERT_TRUE(tree_model.read(window_->workspace().library()));
    LapTable table(window_->workspace());
    const QAbstractItemModelTester a(&tree_model, QAbstractItemModelTester::FailureReportingMode::Fatal),
        b(&table, QAbstractItemModelTester::FailureReportingMode::Fatal);
    tree_model.set_words(QStringLiteral("osei"));
    tree_model.sort(RunTree::best, Qt::DescendingOrder);
    tree_model.set_grouped(false);
    tree_model.set_words({});
    tree_model.set_grouped(true);
    table.show_run({2});
    table.show_run({1});
    table.show_run({});
    EXPECT_EQ(table.rowCount(), 0);
}

class EmptyLogbookTest : public LogbookTest {
  protected:
    void SetUp() override { open_window(); }
};

TEST_F(EmptyLogbookTest, OneButtonWritesTheDemo) {
    RENDAK_FIGURES_ONLY("demo.weekend");
    auto* button = window_->desk_of<LogbookDesk>().findChild<QPushButton*>(QStringLiteral("write-demo"));
    ASSERT_TRUE(button->isVisible());
    QTest::mouseClick(button, Qt::LeftButton);
    settle();
    EXPECT_EQ(shown_runs().size(), 17);
    EXPECT_FALSE(button->isVisible());
}

}  // namespace
}  // namespace rendak::app
