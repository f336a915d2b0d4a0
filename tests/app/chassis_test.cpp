// The Chassis desk in the real window: every page of the demo's runs, what is chosen, what is written, what is missing.
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>

#include "app/desks/chassis/chassis_desk.h"
#include "app/desks/chassis/trial_dialog.h"
#include "app/desks/compare/compare_desk.h"
#include "app/theme/theme.h"
#include "core/intake/channel_edits.h"
#include "core/trials/planned_runs.h"
#include "core/trials/trial_book.h"
#include "tests/app/window_fixture.h"
#include "tests/support/got.h"

namespace rendak::app {
namespace {

using test::got;

class ChassisDeskTest : public WindowTest {
  protected:
    void SetUp() override {
        test::copy_library(test::weekend_library(), folder_.path());
        open_window();
    }
    ChassisDesk& desk() { return window_->desk_of<ChassisDesk>(); }
    Library& library() { return window_->workspace().library(); }
    void open_with(const std::vector<std::int64_t>& runs) {
        for (const std::int64_t run : runs) window_->workspace().pick_best({run});
        window_->show_desk(QStringLiteral("chassis"));
        settle();
    }
    void press(const char* title) {
        for (QPushButton* button : desk().findChildren<QPushButton*>()) {
            if (button->text() != QLatin1String(title)) continue;
            ASSERT_TRUE(button->isVisible()) << title;
            QTest::mouseClick(button, Qt::LeftButton);
            settle();
            return;
        }
        FAIL() << "no button " << title;
    }
    template <class Of>
    Of* tool(const char* name) {
        return desk().findChild<Of*>(QLatin1String(name));
    }
    void choose(const char* name, const QString& item) {
        auto* box = tool<QComboBox>(name);
        ASSERT_TRUE(box->isVisible()) << name;
        box->setCurrentIndex(box->findText(item));
        Q_EMIT box->activated(box->currentIndex());
        settle();
    }
    QString cell(std::size_t table, int row, int column) {
        const QTableWidgetItem* item = desk().table(table).item(row, column);
        return item == nullptr ? QString() : item->text();
    }
    /// Row of a table whose first cell begins so; −1: none.
    int row(std::size_t table, const QString& begin) {
        for (int r = 0; r < desk().table(table).rowCount(); ++r)
            if (cell(table, r, 0).startsWith(begin)) return r;
        return -1;
    }
};

TEST_F(ChassisDeskTest, NothingIsPickedAtFirst) {
    window_->show_desk(QStringLiteral("chassis"));
    settle();
    EXPECT_TRUE(desk().findChild<QLabel*>(QStringLiteral("empty"))->isVisible());
    EXPECT_EQ(desk().look(), nullptr);
    keep_picture(window_.get(), QStringLiteral("chassis-empty"));
}

TEST_F(ChassisDeskTest, TheLadderSaysWhatIsBestAndWritesTheNextRuns) {
    open_with({6, 9});
    press("Ladder");
    EXPECT_TRUE(desk().headline().startsWith(
        QStringLiteral("Bump rear at 8 clicks moves the load of the loaded rear tyre least")))
        << desk().headline().toStdString();
    EXPECT_TRUE(desk().foot().contains(QStringLiteral("a calmer load is not yet time"))) << desk().foot().toStdString();
    ASSERT_EQ(desk().picture(0).plot().series.size(), 1U);
    EXPECT_EQ(desk().picture(0).plot().series[0].x, (std::vector<double>{2, 4, 6, 8, 10, 12}));
    EXPECT_EQ(desk().picture(0).plot().series[0].laps.size(), 18U);
    EXPECT_EQ(desk().picture(1).plot().series.size(), 2U) << "baseline and best";
    const int together = row(0, QStringLiteral("Together"));
    ASSERT_GE(together, 3);
    EXPECT_TRUE(cell(0, together, 4).startsWith(u'−')) << cell(0, together, 4).toStdString();
    EXPECT_EQ(desk().table(0).item(together, 4)->foreground().color(), theme().won);
    EXPECT_EQ(cell(1, 0, 0), QStringLiteral("Bump rear 7 clicks"));
    keep_picture(window_.get(), QStringLiteral("chassis-ladder"));
    press("Write to the run sheet");
    EXPECT_EQ(got(planned_runs(library())).size(), 3U);
    press("Write to the run sheet");
    EXPECT_EQ(got(planned_runs(library())).size(), 3U) << "once is enough";
    // Against another baseline: what was 8 clicks' gain over 2 is one over 12.
    choose("chassis-baseline", QStringLiteral("12"));
    EXPECT_TRUE(desk().headline().contains(QStringLiteral("below 12 clicks"))) << desk().headline().toStdString();
    EXPECT_EQ(tool<QComboBox>("chassis-line")->currentText(), QStringLiteral("Bump rear"));
    // Judged elsewhere: whole lap.
    choose("chassis-on", QStringLiteral("whole lap"));
    EXPECT_EQ(desk().look()->stretches.size(), 1U);
}

TEST_F(ChassisDeskTest, EveryPageHoldsTwoRunsAgainstEachOther) {
    open_with({4, 5});
    press("Balance");
    EXPECT_TRUE(desk().headline().startsWith(QStringLiteral("A Run 5 understeers by 1.2")))
        << desk().headline().toStdString();
    EXPECT_TRUE(desk().headline().endsWith(QStringLiteral("surely another balance.")))
        << desk().headline().toStdString();
    const int slope = row(1, QStringLiteral("understeer a g"));
    ASSERT_GE(slope, 0);
    EXPECT_TRUE(cell(1, slope, 1).startsWith(QStringLiteral("1.2"))) << cell(1, slope, 1).toStdString();
    EXPECT_TRUE(cell(1, slope, 2).startsWith(QStringLiteral("0.5"))) << cell(1, slope, 2).toStdString();
    EXPECT_TRUE(cell(1, slope, 3).startsWith(u'−'));
    EXPECT_EQ(desk().table(0).rowCount(), 14);
    keep_picture(window_.get(), QStringLiteral("chassis-balance"));
    press("Ride height");
    EXPECT_TRUE(desk().headline().startsWith(QStringLiteral("The front is under its limit")))
        << desk().headline().toStdString();
    const int crest = row(0, QStringLiteral("before Turn 6"));
    ASSERT_GE(crest, 0);
    EXPECT_EQ(cell(0, crest, 6), QStringLiteral("compression of the road"));
    EXPECT_FALSE(desk().table(0).item(crest, 6)->toolTip().isEmpty()) << "what is usually changed";
    keep_picture(window_.get(), QStringLiteral("chassis-heights"));
    // A place of the list on Compare.
    Q_EMIT desk().table(0).cellDoubleClicked(crest, 0);
    settle();
    EXPECT_TRUE(window_->desk_of<CompareDesk>().isVisible());
    EXPECT_NEAR(window_->workspace().focus().state().cursor_m,
                *desk().look()->tables[0].at_m[static_cast<std::size_t>(crest)], 1);
    window_->show_desk(QStringLiteral("chassis"));
    settle();
    press("Damper speed");
    EXPECT_EQ(desk().table(0).rowCount(), 8) << "four wheels of two runs";
    EXPECT_EQ(desk().picture(0).plot().series.size(), 2U);
    const QString slow = cell(0, 0, 3);
    tool<QDoubleSpinBox>("chassis-border")->setValue(20);
    settle();
    EXPECT_LT(cell(0, 0, 3).toDouble(), slow.toDouble()) << "less of it is slow";
    keep_picture(window_.get(), QStringLiteral("chassis-dampers"));
    press("Spectrum");
    EXPECT_EQ(desk().table(0).rowCount(), 1);
    EXPECT_EQ(cell(0, 0, 0), QStringLiteral("rear, loaded"));
    choose("chassis-axle", QStringLiteral("both"));
    choose("chassis-wheels", QStringLiteral("each wheel"));
    EXPECT_EQ(desk().table(0).rowCount(), 4);
    keep_picture(window_.get(), QStringLiteral("chassis-spectrum"));
    press("Pull");
    EXPECT_TRUE(desk().headline().contains(QStringLiteral("kW at the wheels"))) << desk().headline().toStdString();
    keep_picture(window_.get(), QStringLiteral("chassis-pull"));
    press("Kerbs, lock-ups");
    EXPECT_TRUE(desk().headline().contains(QStringLiteral("lock-ups"))) << desk().headline().toStdString();
    EXPECT_GE(row(0, QStringLiteral("Turn 7")), 0);
    keep_picture(window_.get(), QStringLiteral("chassis-strikes"));
    press("Pull");
    // The page and what was chosen come back with the window.
    const QString state = desk().state();
    press("Ride height");
    desk().restore(state);
    settle();
    EXPECT_EQ(desk().look()->choice.page, ChassisPage::pull);
}

TEST_F(ChassisDeskTest, StretchesAreDraggedByTheirEnds) {
    open_with({6, 9});
    press("Ride height");
    EXPECT_FALSE(desk().strip().isVisible()) << "nothing to choose there";
    press("Spectrum");
    StretchStrip& strip = desk().strip();
    ASSERT_TRUE(strip.isVisible());
    const std::vector<Interval> proposed = strip.stretches();
    ASSERT_GE(proposed.size(), 2U);
    EXPECT_EQ(proposed.size(), desk().look()->stretches.size());
    const auto at = [&](double m) { return QPoint(static_cast<int>(std::lround(strip.x_scale().to_pixel(m))), 20); };
    const auto drag = [&](double from_m, double to_m, bool let_go = true) {
        QTest::mousePress(&strip, Qt::LeftButton, {}, at(from_m));
        for (int k = 1; k <= 4; ++k) {
            const QPointF here = at(from_m + (to_m - from_m) * k / 4);
            QMouseEvent move(QEvent::MouseMove, here, strip.mapToGlobal(here), Qt::NoButton, Qt::LeftButton, {});
            QApplication::sendEvent(&strip, &move);
        }
        if (let_go) QTest::mouseRelease(&strip, Qt::LeftButton, {}, at(to_m));
    };
    const auto before = desk().look();
    drag(proposed[0].end, proposed[0].end + 60, false);
    EXPECT_NEAR(strip.stretches()[0].end, proposed[0].end + 60, 6) << "it is painted while it is dragged";
    settle();
    EXPECT_EQ(desk().look(), before) << "and worked out when it is let go";
    QTest::mouseRelease(&strip, Qt::LeftButton, {}, at(proposed[0].end + 60));
    settle();
    EXPECT_NE(desk().look(), before);
    EXPECT_EQ(tool<QComboBox>("chassis-on")->currentText(), QStringLiteral("my own"));
    EXPECT_NEAR(desk().look()->stretches[0].range_m.end, proposed[0].end + 60, 6);
    EXPECT_EQ(desk().look()->stretches.size(), proposed.size());
    // One more, where there is none; then it is taken out again.
    const double free_m = proposed[0].end + 200;
    ASSERT_LT(free_m + 80, proposed[1].begin);
    drag(free_m, free_m + 80);
    settle();
    EXPECT_EQ(desk().look()->stretches.size(), proposed.size() + 1);
    keep_picture(window_.get(), QStringLiteral("chassis-own-stretches"));
    // They are there on the ladder, too, and with the window again.
    press("Ladder");
    EXPECT_EQ(desk().look()->stretches.size(), proposed.size() + 1);
    const QString state = desk().state();
    QTest::mouseDClick(&strip, Qt::LeftButton, {}, at(free_m + 40));
    settle();
    EXPECT_EQ(desk().look()->stretches.size(), proposed.size());
    desk().restore(state);
    settle();
    EXPECT_EQ(desk().look()->stretches.size(), proposed.size() + 1);
    press("Spectrum");
    choose("chassis-on", QStringLiteral("as proposed"));
    EXPECT_EQ(strip.stretches(), proposed);
}

TEST_F(ChassisDeskTest, SpectraOfAllRunsOfTheTrayLieOverEachOther) {
    open_with({6, 9, 11, 7});
    press("Spectrum");
    ASSERT_EQ(desk().picture(0).plot().series.size(), 4U);
    EXPECT_EQ(desk().table(0).columnCount(), 2 + 2 * 3);
    // The active lap's run stands beside A. 8 clicks (B) are calmer than 2 (A), surely.
    EXPECT_TRUE(desk().headline().startsWith(QStringLiteral("Rear, loaded does not differ in D")))
        << desk().headline().toStdString();
    EXPECT_TRUE(desk().headline().contains(QStringLiteral("rear, loaded moves by −15")))
        << desk().headline().toStdString();
    keep_picture(window_.get(), QStringLiteral("chassis-four-runs"));
}

TEST_F(ChassisDeskTest, ATrialIsAimedAndKept) {
    open_with({2, 12});
    press("Change trials");
    EXPECT_TRUE(desk().headline().startsWith(QStringLiteral("Quicker by"))) << desk().headline().toStdString();
    EXPECT_GE(row(0, QStringLiteral("Net")), 5);
    choose("chassis-aim", QStringLiteral("slow corners"));
    EXPECT_EQ(row(0, QStringLiteral("Aimed at: slow corners")), 0);
    keep_picture(window_.get(), QStringLiteral("chassis-trial"));
    press("Keep the trial");
    const auto kept = got(kept_trials(library()));
    ASSERT_EQ(kept.size(), 1U);
    EXPECT_EQ(kept[0].aim, "slow corners");
    EXPECT_LT(kept[0].net_s, 0);
    EXPECT_EQ(cell(1, 0, 0), QStringLiteral("Nothing noted")) << "among those that were kept";
    // What was decided is written to it, and an undo takes it back.
    Q_EMIT desk().table(1).cellDoubleClicked(0, 0);
    auto* dialog = desk().findChild<TrialDialog*>();
    ASSERT_NE(dialog, nullptr);
    dialog->findChild<QComboBox*>(QStringLiteral("trial-verdict"))->setCurrentText(QStringLiteral("keep"));
    dialog->findChild<QLineEdit*>(QStringLiteral("trial-by"))->setText(QStringLiteral("Ketil"));
    dialog->accept();
    settle();
    EXPECT_EQ(got(kept_trials(library()))[0].verdict, "keep");
    EXPECT_EQ(cell(1, 0, 3), QStringLiteral("Ketil"));
    window_->workspace().session()->undo();
    settle();
    EXPECT_EQ(got(kept_trials(library()))[0].verdict, "");
}

TEST_F(ChassisDeskTest, WithoutASheetAndWithoutAWheel) {
    // No setup sheet, another car's name, and the sensor of one wheel left out.
    RunFacts facts = got(library().run({2}));
    facts.car = "A car with a name that is much longer than any car's name has a right to be, number 271828";
    facts.name = "A run with a name that goes on for longer than there is room for it";
    facts.setup = {};
    ASSERT_TRUE(library().set_facts({2}, facts));
    ASSERT_TRUE(edit_channels(library(), {2}, {{.channel = "Damper FL", .quantity = ""}}));
    open_with({2});
    press("Balance");
    EXPECT_TRUE(desk().foot().contains(QStringLiteral("steering ratio"))) << desk().foot().toStdString();
    EXPECT_TRUE(desk().headline().endsWith(QStringLiteral("cannot be told."))) << desk().headline().toStdString();
    keep_picture(window_.get(), QStringLiteral("chassis-no-sheet"));
    press("Pull");
    EXPECT_TRUE(desk().headline().contains(QStringLiteral("W/kg"))) << desk().headline().toStdString();
    EXPECT_TRUE(desk().foot().contains(QStringLiteral("no mass"))) << desk().foot().toStdString();
    press("Damper speed");
    EXPECT_EQ(desk().table(0).rowCount(), 3) << "three wheels";
    keep_picture(window_.get(), QStringLiteral("chassis-three-wheels"));
    press("Ladder");
    EXPECT_TRUE(desk().headline().contains(QStringLiteral("step one value"))) << desk().headline().toStdString();
}

TEST_F(ChassisDeskTest, WhatIsMissingIsSaid) {
    // One lap of a hill climb: no ladder, nothing to try a change against.
    open_with({16});
    press("Ladder");
    EXPECT_TRUE(desk().headline().contains(QStringLiteral("step one value of the setup sheet")))
        << desk().headline().toStdString();
    EXPECT_FALSE(desk().picture(0).isVisible());
    press("Change trials");
    EXPECT_TRUE(desk().headline().startsWith(QStringLiteral("A trial needs a second run")))
        << desk().headline().toStdString();
    EXPECT_TRUE(cell(1, 0, 0).contains(QStringLiteral("takes three"))) << cell(1, 0, 0).toStdString();
    press("Balance");
    EXPECT_FALSE(desk().headline().isEmpty());
    press("Damper speed");
    EXPECT_EQ(desk().table(0).rowCount(), 4);
    keep_picture(window_.get(), QStringLiteral("chassis-one-lap"));
    // Dark, and in other units.
    press("Ride height");
    set_imperial_units(true);
    window_->repaint_all();
    settle();
    EXPECT_TRUE(desk().foot().contains(QStringLiteral(" in"))) << desk().foot().toStdString();
    set_imperial_units(false);
    window_->repaint_all();
    settle();
}

}  // namespace
}  // namespace rendak::app
