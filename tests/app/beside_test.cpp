// Pictures beside the traces, each linked to laps, range and cursor; and one place to find anything.
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QKeySequenceEdit>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTreeWidget>
#include <algorithm>

#include "app/session/preferences.h"
#include "app/shell/finder.h"
#include "app/shell/first_look.h"
#include "app/shell/shortcuts_dialog.h"
#include "app/shell/units_dialog.h"
#include "app/text/fuzzy.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "tests/app/window_fixture.h"

namespace rendak::app {
namespace {

class BesideTest : public OnCompareTest {};

TEST_F(BesideTest, TheListOfChangesAddsUpToTheGapAndLeadsThere) {
    key(Qt::Key_V);
    ASSERT_EQ(beside().picture(), Beside::Picture::changes);
    auto& list = beside().changes().list();
    ASSERT_GT(list.topLevelItemCount(), 3);
    double sum = 0, before = 1e9;
    for (const GapChange& stretch : beside().changes().changes()) {
        sum += stretch.change_s;
        EXPECT_LE(std::abs(stretch.change_s), before) << "the largest first";
        before = std::abs(stretch.change_s);
    }
    EXPECT_NEAR(sum, laps().laps[1].lap.time_s() - laps().laps[0].lap.time_s(), 1e-6);
    EXPECT_TRUE(beside().changes().sum_text().contains(signed_number(sum, 3)))
        << beside().changes().sum_text().toStdString();
    const Interval first = beside().changes().changes()[0].range_m;
    QTest::mouseClick(list.viewport(), Qt::LeftButton, Qt::NoModifier,
                      list.visualItemRect(list.topLevelItem(0)).center());
    settle();
    EXPECT_TRUE(state().range_m.contains(first.begin));
    EXPECT_TRUE(state().range_m.contains(first.end));
    EXPECT_NEAR(state().cursor_m, first.begin, 1e-9);
    keep_picture(window_.get(), QStringLiteral("beside-changes"));
}

TEST_F(BesideTest, TheLedgerAddsUpLeadsThereAndWidensToTheRuns) {
    key(Qt::Key_W);
    ASSERT_EQ(beside().picture(), Beside::Picture::ledger);
    settle();
    auto& picture = beside().ledger();
    ASSERT_NE(picture.ledger(), nullptr);
    const auto sum = [&] {
        double out = 0;
        for (const LedgerRow& row : picture.ledger()->rows) out += row.loss_s;
        return out;
    };
    const double difference = laps().laps[1].lap.time_s() - laps().laps[0].lap.time_s();
    EXPECT_NEAR(sum(), difference, 1e-3);
    EXPECT_TRUE(picture.foot_text().contains(signed_number(difference, 3))) << picture.foot_text().toStdString();
    keep_picture(window_.get(), QStringLiteral("beside-ledger"));
    // A row is a place.
    const LedgerRow& fifth = picture.ledger()->rows[5];
    QTest::mouseClick(&picture, Qt::LeftButton, Qt::NoModifier, picture.area_of(5).center());
    settle();
    EXPECT_NEAR(state().range_m.begin, fifth.range_m.begin - 30, 1e-6);
    EXPECT_NEAR(state().cursor_m, fifth.range_m.begin, 1e-6);
    EXPECT_TRUE(picture.row_text(fifth).contains(QStringLiteral("In the corner"))) << "what is meant, in words";
    EXPECT_TRUE(picture.row_text(fifth).contains(QStringLiteral("1 km/h more is worth 0.0")))
        << picture.row_text(fifth).toStdString();
    // And what is done otherwise is said, with its place.
    const auto& findings = picture.findings();
    const auto lift = std::find_if(findings.begin(), findings.end(),
                                   [](const LapFinding& it) { return it.kind == LapFinding::Kind::lifts; });
    ASSERT_NE(lift, findings.end());
    EXPECT_EQ(lift->corner, 6);
    const auto slow = std::find_if(findings.begin(), findings.end(),
                                   [](const LapFinding& it) { return it.kind == LapFinding::Kind::overslowed; });
    ASSERT_NE(slow, findings.end());
    EXPECT_TRUE(picture.finding_text(*slow).contains(QStringLiteral(" km/h slower")));
    set_own_unit(QStringLiteral("km/h"), QStringLiteral("mph"));
    EXPECT_TRUE(picture.finding_text(*slow).contains(QString::number(slow->size / 1.609344, 'f', 1) +
                                                     QStringLiteral(" mph slower")))
        << picture.finding_text(*slow).toStdString();
    set_own_unit(QStringLiteral("km/h"), {});
    QTest::mouseClick(&picture, Qt::LeftButton, Qt::NoModifier,
                      picture.area_of_finding(static_cast<std::size_t>(lift - findings.begin())).center());
    settle();
    EXPECT_NEAR(state().cursor_m, lift->at_m, 1e-6);
    // The bar is as long as the number says: more of the tone of loss in that row than in the last.
    const auto ink = [&](std::size_t row) {
        const QImage image = picture.grab(picture.area_of(row)).toImage();
        int count = 0;
        for (int y = 0; y < image.height(); ++y) {
            for (int x = 0; x < image.width(); ++x) count += image.pixelColor(x, y) == theme().lost;
        }
        return count;
    };
    EXPECT_GT(ink(5), 8 * (ink(14) + 1));
    // All laps that count of the two runs, by the same key.
    key(Qt::Key_W);
    ASSERT_TRUE(picture.is_wide());
    ASSERT_NE(picture.ledger(), nullptr);
    EXPECT_EQ(picture.ledger()->a_laps, 8U);
    EXPECT_EQ(picture.ledger()->b_laps, 5U);
    EXPECT_NEAR(sum(), picture.ledger()->total_s, 1e-3);
    EXPECT_TRUE(picture.foot_text().contains(QStringLiteral("95 %")));
    EXPECT_TRUE(picture.row_text(picture.ledger()->rows[5]).contains(QStringLiteral("Seen on 5 of 5 laps")));
    keep_picture(window_.get(), QStringLiteral("beside-ledger-runs"));
    // Two laps of one run are one set; and without a second lap there is none: both are said.
    focus().replace_slot(1, {{2}, 3});
    settle();
    EXPECT_EQ(picture.ledger(), nullptr);
    EXPECT_TRUE(picture.findings().empty());
    key(Qt::Key_W);
    ASSERT_NE(picture.ledger(), nullptr);
    EXPECT_EQ(picture.ledger()->b_laps, 1U);
    focus().remove_slot(1);
    settle();
    EXPECT_EQ(picture.ledger(), nullptr);
    keep_picture(window_.get(), QStringLiteral("beside-ledger-none"));
}

TEST_F(BesideTest, TheCircleShowsTheRangeItsReachAndTheCursor) {
    beside().show_picture(Beside::Picture::circle);
    settle();
    auto& circle = beside().circle();
    const std::size_t whole = circle.plot().series[0].x.size();
    ASSERT_EQ(circle.plot().series.size(), 2U);
    ASSERT_FALSE(circle.plot().series[0].reach.empty());
    const double reach =
        *std::max_element(circle.plot().series[0].reach.begin(), circle.plot().series[0].reach.end(),
                          [](double a, double b) { return (std::isnan(a) ? 0 : a) < (std::isnan(b) ? 0 : b); });
    EXPECT_GT(reach, 10);
    EXPECT_LT(reach, 40);
    keep_picture(window_.get(), QStringLiteral("beside-circle"));
    focus().set_range({1800, 2300});
    settle();
    EXPECT_LT(circle.plot().series[0].x.size(), whole / 3);
    // To the left is left on the picture; a click puts the cursor on the point's moment.
    const Scale x = circle.plot().x_scale(circle.size()), y = circle.plot().y_scale(circle.size());
    EXPECT_GT(x.to_pixel(-1), x.to_pixel(1));
    const auto& lap = laps().laps[0].lap;
    const double lateral = lap.value_at("lateral_acceleration", 2050),
                 along = lap.value_at("longitudinal_acceleration", 2050);
    QTest::mouseClick(&circle, Qt::LeftButton, Qt::NoModifier,
                      QPoint(static_cast<int>(x.to_pixel(shown("lateral_acceleration").from_si(lateral))),
                             static_cast<int>(y.to_pixel(shown("longitudinal_acceleration").from_si(along)))));
    settle();
    EXPECT_GE(state().cursor_m, 1800);
    EXPECT_LE(state().cursor_m, 2300);
    const double there = lap.value_at("lateral_acceleration", state().cursor_m);
    EXPECT_NEAR(there, lateral, 3) << "another moment of that point, or that one";
    // One side at a time.
    focus().set_range({0, laps().length_m()});
    circle.show_side(TurnSide::left);
    settle();
    for (const float value : circle.plot().series[0].x) EXPECT_GT(value, 0);
}

TEST_F(BesideTest, AScatterIsColouredFittedAndKept) {
    beside().show_picture(Beside::Picture::scatter);
    settle();
    auto boxes = beside().findChildren<QComboBox*>();
    const auto box = [&](const QString& name) {
        return *std::find_if(boxes.begin(), boxes.end(), [&](auto* it) { return it->accessibleName() == name; });
    };
    const auto choose = [&](const QString& name, const char* id) {
        auto* it = box(name);
        ASSERT_GE(it->findData(QString::fromLatin1(id)), 0) << id;
        it->setCurrentIndex(it->findData(QString::fromLatin1(id)));
        settle();
    };
    choose(QStringLiteral("Across"), "steering");
    choose(QStringLiteral("Upwards"), "lateral_acceleration");
    choose(QStringLiteral("Coloured by"), "speed");
    const PairPlot& plot = beside().scatter().plot();
    ASSERT_TRUE(plot.message.isEmpty()) << plot.message.toStdString();
    ASSERT_TRUE(plot.series[0].fit && plot.series[0].fit->known());
    EXPECT_GT(plot.series[0].fit->slope, 0) << "steering to the left turns left";
    EXPECT_EQ(plot.series[0].z.size(), plot.series[0].x.size());
    EXPECT_LT(plot.z_limits().begin, 30);
    EXPECT_GT(plot.z_limits().end, 55);
    keep_picture(window_.get(), QStringLiteral("beside-scatter"));
    const QString state = beside().state();
    beside().scatter().show_quantities("speed", "gear", "");
    beside().restore(state);
    EXPECT_EQ(beside().scatter().x(), "steering");
    EXPECT_EQ(beside().scatter().z(), "speed");
    // What nobody logged is said, not drawn as nothing.
    beside().scatter().show_quantities("speed", "no_such_thing", "");
    settle();
    EXPECT_FALSE(beside().scatter().plot().message.isEmpty());
}

TEST_F(BesideTest, SharesFollowTheStepAndTheRange) {
    beside().show_picture(Beside::Picture::shares);
    settle();
    auto* step = beside().findChild<QDoubleSpinBox*>();
    step->setValue(20);
    settle();
    const SharePlot& plot = beside().shares().plot();
    ASSERT_EQ(plot.series.size(), 2U);
    EXPECT_NEAR(plot.series[0].shares.step * 3.6, 20, 1e-6) << "in the unit shown";
    double sum = 0;
    for (const double share : plot.series[0].shares.share) sum += share;
    EXPECT_NEAR(sum, 1, 1e-9);
    keep_picture(window_.get(), QStringLiteral("beside-shares"));
}

TEST_F(BesideTest, LapAfterLapPutsAClickedLapBesideA) {
    beside().show_picture(Beside::Picture::laps);
    settle();
    auto& pictures = beside().laps();
    ASSERT_GE(pictures.laps().size(), 5U);
    for (const auto& small : pictures.laps())
        EXPECT_EQ(small.ref.run, state().laps[1].run) << "of the active lap's run";
    std::size_t other = 0;
    while (focus().slot_of(pictures.laps()[other].ref) >= 0) ++other;
    const LapRef wanted = pictures.laps()[other].ref;
    keep_picture(window_.get(), QStringLiteral("beside-laps"));
    QTest::mouseClick(&pictures, Qt::LeftButton, Qt::NoModifier, pictures.area_of(other).center());
    settle();
    EXPECT_EQ(state().laps[1], wanted);
    EXPECT_EQ(state().laps.size(), 2U) << "without clutter";
}

TEST_F(BesideTest, EachPictureSaysWhatItShows) {
    for (int i = 0; i < Beside::picture_count; ++i) {
        beside().show_picture(static_cast<Beside::Picture>(i));
        EXPECT_EQ(beside().help().count(u'.'), 2) << beside().help().toStdString();
        key(Qt::Key_Question);
        // Of the picture under the pointer, wherever that was left.
        EXPECT_EQ(window_->status().message().toStdString(), desk().help_under_pointer().toStdString());
    }
    // With one lap, and with runs that have no places, nothing is invented.
    focus().remove_slot(1);
    settle();
    beside().show_picture(Beside::Picture::changes);
    EXPECT_TRUE(beside().changes().changes().empty());
    EXPECT_TRUE(beside().changes().sum_text().contains(QStringLiteral("second lap")));
    focus().clear_laps();
    settle();
}

TEST(Fuzzy, WordsBeginningsAndInitialsAreFound) {
    EXPECT_GT(fuzzy_score(QStringLiteral("speed"), QStringLiteral("Wheel speed FL")), 0);
    EXPECT_GT(fuzzy_score(QStringLiteral("wsfl"), QStringLiteral("Wheel speed FL")), 0);
    EXPECT_GT(fuzzy_score(QStringLiteral("fl wheel"), QStringLiteral("Wheel speed FL")), 0) << "in any order";
    EXPECT_EQ(fuzzy_score(QStringLiteral("gear"), QStringLiteral("Wheel speed FL")), 0);
    EXPECT_EQ(fuzzy_score(QStringLiteral("speed gear"), QStringLiteral("Wheel speed FL")), 0) << "every word";
    EXPECT_GT(fuzzy_score(QStringLiteral("speed"), QStringLiteral("Speed")),
              fuzzy_score(QStringLiteral("speed"), QStringLiteral("Wheel speed FL")));
    EXPECT_GT(fuzzy_score(QStringLiteral("hajek"), QStringLiteral("Hájek")), 0);
    EXPECT_GT(fuzzy_score(QString(), QStringLiteral("anything")), 0);
}

class FinderTest : public BesideTest {
  protected:
    Finder& open() {
        key(Qt::Key_K, Qt::ControlModifier);
        auto* finder = window_->findChild<Finder*>();
        EXPECT_NE(finder, nullptr);
        settle();
        return *finder;
    }
    /// Types, and says what stands first.
    QString first(Finder& finder, const QString& typed) {
        finder.line().setText(typed);
        settle();
        const auto* item = finder.list().topLevelItem(0);
        return item == nullptr ? QString() : item->text(0) + QStringLiteral(": ") + item->text(1);
    }
};

TEST_F(FinderTest, AnythingIsFoundAndDone) {
    Finder& finder = open();
    EXPECT_TRUE(first(finder, QStringLiteral("turn 5")).startsWith(QStringLiteral("Corner")));
    EXPECT_TRUE(first(finder, QStringLiteral("oil temp")).contains(QStringLiteral("Oil temperature")));
    EXPECT_TRUE(first(finder, QStringLiteral("page tyres")).contains(QStringLiteral("Tyres")));
    EXPECT_TRUE(first(finder, QStringLiteral("dark")).startsWith(QStringLiteral("Setting")));
    EXPECT_TRUE(first(finder, QStringLiteral("driver osei")).startsWith(QStringLiteral("Driver")));
    EXPECT_TRUE(first(finder, QStringLiteral("lap brandvold run 2")).startsWith(QStringLiteral("Lap")))
        << first(finder, QStringLiteral("lap brandvold run 2")).toStdString();
    EXPECT_EQ(first(finder, QStringLiteral("xyzzyq")), QString());
    first(finder, QStringLiteral("pin at"));
    EXPECT_EQ(finder.list().topLevelItem(0)->text(2), QStringLiteral("I")) << "its key is shown";
    keep_picture(&finder, QStringLiteral("finder"));
    // Down goes to the second row; Enter does what the row says.
    first(finder, QStringLiteral("corner 5"));
    QTest::keyClick(&finder.line(), Qt::Key_Return);
    settle();
    const auto& corner = laps().track().corners[4];
    EXPECT_TRUE(state().range_m.contains(corner.apex_m));
    EXPECT_LT(state().range_m.length(), 800);
}

TEST_F(FinderTest, FromAnotherDeskItGoesToTheDeskFirst) {
    window_->show_desk(QStringLiteral("logbook"));
    settle();
    Finder& finder = open();
    first(finder, QStringLiteral("page tyres"));
    QTest::keyClick(&finder.line(), Qt::Key_Return);
    settle();
    EXPECT_EQ(window_->desk(), QStringLiteral("compare"));
    EXPECT_EQ(desk().page(), QStringLiteral("Tyres"));
}

TEST_F(FinderTest, KeysAreSearchedChangedAndConflictsTold) {
    ShortcutsDialog dialog(*window_);
    dialog.show();
    dialog.filter().setText(QStringLiteral("pin at the cursor, or take"));
    ASSERT_EQ(dialog.list().topLevelItemCount(), 1);
    EXPECT_EQ(dialog.list().topLevelItem(0)->text(2), QStringLiteral("I"));
    EXPECT_FALSE(dialog.set_key(0, QKeySequence(Qt::Key_G)));
    EXPECT_TRUE(dialog.told().text().contains(QStringLiteral("Gap counted"))) << dialog.told().text().toStdString();
    EXPECT_FALSE(dialog.set_key(0, QKeySequence(Qt::CTRL | Qt::Key_K))) << "heard everywhere";
    ASSERT_TRUE(dialog.set_key(0, QKeySequence(Qt::Key_J)));
    key(Qt::Key_I);
    EXPECT_FALSE(state().pin_m);
    key(Qt::Key_J);
    EXPECT_TRUE(state().pin_m);
    // The next window has it too, until it is as it came.
    auto* other = window_->open_another(true);
    settle();
    bool found = false;
    for (const QAction* action : other->desk_of<CompareDesk>().actions())
        found = found ||
                (action->text().startsWith(QStringLiteral("Pin at")) && action->shortcut() == QKeySequence(Qt::Key_J));
    EXPECT_TRUE(found);
    other->close();
    keep_picture(&dialog, QStringLiteral("shortcuts"));
    dialog.set_as_it_came(0);
    EXPECT_EQ(dialog.list().topLevelItem(0)->text(2), QStringLiteral("I"));
    dialog.close();
    settle();
}

TEST_F(FinderTest, UnitsAreChosenByQuantityAndHoldEverywhere) {
    desk().canvas().set_lanes({{"speed", 1}, {"brake_front", 1}, {"damper_fl", 1}});
    settle();
    const QString metric = desk().values().text("speed", 0, ValuePanel::Cell::high);
    UnitsDialog dialog(*window_);
    for (const UnitKind& kind : unit_kinds()) {
        // Each choice can be read, and is of the same dimension: a number goes there and back.
        for (const QString& unit : kind.choices) {
            auto& box = dialog.box(kind.metric);
            box.setCurrentIndex(box.findData(unit));
            const Shown how = shown(kind.metric == QLatin1String("km/h") ? "speed" : "brake_front");
            EXPECT_NEAR(how.from_si(12345 * how.factor + how.offset), 12345, 1e-6) << unit.toStdString();
        }
        dialog.box(kind.metric).setCurrentIndex(0);
    }
    auto& speed = dialog.box(QStringLiteral("km/h"));
    speed.setCurrentIndex(speed.findData(QStringLiteral("m/s")));
    settle();
    EXPECT_EQ(shown("speed").unit, QStringLiteral("m/s"));
    EXPECT_NEAR(desk().values().text("speed", 0, ValuePanel::Cell::high).toDouble() * 3.6, metric.toDouble(), 0.2);
    EXPECT_EQ(shown("brake_front").unit, QStringLiteral("bar")) << "only that kind";
    // Before the preset, and kept with the person.
    window_->set_imperial(true);
    EXPECT_EQ(shown("speed").unit, QStringLiteral("m/s"));
    EXPECT_EQ(shown("brake_front").unit, QStringLiteral("psi"));
    window_->set_imperial(false);
    set_own_unit(QStringLiteral("km/h"), {});
    EXPECT_EQ(shown("speed").unit, QStringLiteral("km/h"));
    Preferences::of_person().read_shown();
    EXPECT_EQ(shown("speed").unit, QStringLiteral("m/s"));
    set_own_unit(QStringLiteral("km/h"), QStringLiteral("furlong"));
    EXPECT_EQ(shown("speed").unit, QStringLiteral("m/s")) << "no such choice";
    set_own_unit(QStringLiteral("km/h"), {});
    Preferences::of_person().keep_shown();
}

TEST_F(FinderTest, AFirstLookGoesFromCleanLapsToWhy) {
    focus().clear_laps();
    window_->show_first_look(RunId{3});
    auto* look = window_->findChild<FirstLook*>();
    ASSERT_NE(look, nullptr);
    settle();
    EXPECT_TRUE(look->words(0).contains(QStringLiteral("5 of 7 complete laps count"))) << look->words(0).toStdString();
    EXPECT_FALSE(look->button(2).isEnabled()) << "where comes after two laps are picked";
    QTest::mouseClick(&look->button(1), Qt::LeftButton);
    settle();
    ASSERT_EQ(laps().laps.size(), 2U);
    EXPECT_LT(laps().laps[0].lap.time_s(), laps().laps[1].lap.time_s());
    for (const Lap& lap : laps().laps[0].run->laps) {
        if (lap.counts() && lap.number != state().laps[0].lap && lap.number != state().laps[1].lap)
            EXPECT_GE(lap.time_s(), laps().laps[1].lap.time_s()) << "the two fastest";
    }
    EXPECT_TRUE(look->words(2).contains(QStringLiteral("B ("))) << look->words(2).toStdString();
    keep_picture(look, QStringLiteral("first-look"));
    QTest::mouseClick(&look->button(2), Qt::LeftButton);
    settle();
    EXPECT_EQ(beside().picture(), Beside::Picture::changes);
    if (look->button(3).isEnabled()) {
        QTest::mouseClick(&look->button(3), Qt::LeftButton);
        settle();
        EXPECT_LT(state().range_m.length(), 1000);
    }
    QTest::mouseClick(&look->button(0), Qt::LeftButton);
    settle();
    EXPECT_EQ(window_->desk(), QStringLiteral("logbook"));
    look->close();
}

}  // namespace
}  // namespace rendak::app
