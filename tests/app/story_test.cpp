// What is said of two laps, or of sets that stand for them: the sets, the corner card, the list to work on and the work
// items.
#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QTreeWidget>
#include <algorithm>

#include "app/plot/view_out.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "app/workspace/lap_actions.h"
#include "core/intake/import.h"
#include "tests/app/window_fixture.h"

namespace rendak::app {
namespace {

class StoryTest : public OnCompareTest {
  protected:
    const std::shared_ptr<const ToldStory> told() { return beside().story().told(); }
    void take(LapsTaken which) {
        beside().story().take(which);
        settle();
    }
    static QStringList words_of(const QTreeWidget& tree) {
        QStringList out;
        for (int i = 0; i < tree.topLevelItemCount(); ++i) {
            const QTreeWidgetItem* top = tree.topLevelItem(i);
            out << top->text(0);
            for (int k = 0; k < top->childCount(); ++k) out << top->child(k)->text(0);
        }
        return out;
    }
};

TEST_F(StoryTest, SetsOfLapsStandForTheTwo) {
    key(Qt::Key_W);
    ASSERT_NE(told(), nullptr);
    EXPECT_EQ(told()->a.size(), 1U);
    take(LapsTaken::counting);
    ASSERT_NE(told(), nullptr);
    EXPECT_EQ(told()->a.size(), 8U);
    EXPECT_EQ(told()->b.size(), 5U);
    take(LapsTaken::near_best);
    ASSERT_NE(told(), nullptr);
    EXPECT_EQ(told()->b.size(), 4U) << "one of the five is more than 0.5 % off";
    for (const PreparedLap& lap : told()->a) EXPECT_LT(lap.time_s(), 1.005 * laps().laps[0].lap.time_s() + 1e-9);
    // Picked by hand: those in the tray.
    take(LapsTaken::picked);
    focus().add_lap({{2}, 3});
    focus().add_lap({{3}, 4});
    focus().set_active_slot(1);
    settle();
    ASSERT_NE(told(), nullptr);
    EXPECT_EQ(told()->a.size(), 2U);
    EXPECT_EQ(told()->b.size(), 2U);
    EXPECT_EQ(told()->b[1].ref, (LapRef{{3}, 4}));
    // All runs of a day of the same driver and car.
    take(LapsTaken::day);
    ASSERT_NE(told(), nullptr) << beside().story().message().toStdString();
    EXPECT_EQ(told()->a.size(), 8U) << "in his other run of that day nothing counts";
    EXPECT_TRUE(beside().story().head_text().contains(QStringLiteral("Brandvold")))
        << beside().story().head_text().toStdString();
    // The box above the picture follows and leads.
    QComboBox* taken = nullptr;
    for (QComboBox* it : beside().findChildren<QComboBox*>()) {
        if (it->accessibleName() == QStringLiteral("Laps that are taken")) taken = taken ? taken : it;
    }
    ASSERT_NE(taken, nullptr);
    EXPECT_EQ(taken->currentIndex(), static_cast<int>(LapsTaken::day));
    taken->setCurrentIndex(0);
    Q_EMIT taken->activated(0);
    settle();
    EXPECT_EQ(beside().story().taken(), LapsTaken::these_two);
    EXPECT_EQ(told()->a.size(), 1U);
    // Whatever else is in the tray is held against A too: lap by lap here, a third run as a set then.
    ASSERT_EQ(told()->beside.size(), 2U);
    const ToldStory::Beside& third = told()->beside[0];
    EXPECT_EQ(third.slot, 2);
    EXPECT_NEAR(third.ledger.total_s, laps().laps[2].lap.time_s() - laps().laps[0].lap.time_s(), 1e-9);
    const QString row = beside().ledger().row_text(beside().ledger().ledger()->rows[5]);
    EXPECT_TRUE(row.contains(QStringLiteral("C lap 3: ")) && row.contains(QStringLiteral("D lap 4: ")))
        << row.toStdString();
    focus().add_lap({{1}, 3});
    focus().add_lap({{1}, 4});
    focus().set_active_slot(1);
    take(LapsTaken::picked);
    ASSERT_NE(told(), nullptr) << beside().story().message().toStdString();
    ASSERT_EQ(told()->beside.size(), 1U) << "laps of A's and of B's run are in their sets";
    EXPECT_EQ(told()->beside[0].ledger.b_laps, 2U);
    EXPECT_TRUE(told()->beside[0].ledger.likely_s.has_value());
    const auto& said = beside().ledger().sentences();
    EXPECT_TRUE(std::any_of(said.begin(), said.end(), [](const LedgerPicture::Sentence& it) {
        return it.kind == LedgerPicture::Sentence::Kind::others && it.text.startsWith(QStringLiteral("E ")) &&
               it.text.contains(QStringLiteral("95 %"));
    }));
    keep_picture(window_.get(), QStringLiteral("ledger-three-sets"));
    // A whole run as a set; and one in which nothing counts cannot stand beside them, and that is said.
    take(LapsTaken::counting);
    ASSERT_NE(told(), nullptr);
    ASSERT_EQ(told()->beside.size(), 1U);
    EXPECT_GT(told()->beside[0].ledger.b_laps, 2U);
    EXPECT_TRUE(told()->not_beside.empty());
    const std::vector<Lap> of_run = laps().laps[4].run->laps;
    for (const Lap& lap : of_run) switch_lap(window_->workspace(), {1}, lap, false);
    settle();
    ASSERT_NE(told(), nullptr);
    EXPECT_TRUE(told()->beside.empty());
    ASSERT_EQ(told()->not_beside.size(), 1U) << "once a run";
    EXPECT_EQ(told()->not_beside[0].first, 4);
    EXPECT_TRUE(told()->not_beside[0].second.contains(QStringLiteral("no complete lap that counts")))
        << told()->not_beside[0].second.toStdString();
    focus().remove_slot(5);
    focus().remove_slot(4);
    // One driver's day is one set, and one run is: said, with what to do.
    focus().replace_slot(1, {{2}, 5});
    take(LapsTaken::day);
    EXPECT_EQ(told(), nullptr);
    EXPECT_TRUE(beside().story().message().contains(QStringLiteral("one set")))
        << beside().story().message().toStdString();
}

TEST_F(StoryTest, TheTwoStandOnOnePage) {
    key(Qt::Key_W, Qt::ShiftModifier | Qt::AltModifier);
    EXPECT_EQ(beside().picture(), Beside::Picture::overview);
    ASSERT_NE(beside().overview().told(), nullptr);
    take(LapsTaken::counting);
    ASSERT_NE(beside().overview().told(), nullptr);
    keep_picture(window_.get(), QStringLiteral("overview-sets"));
    using Line = OverviewPage::Line;
    const auto lines = beside().overview().page()->lines();
    const auto count = [&](Line::Kind kind) {
        return std::count_if(lines.begin(), lines.end(), [&](const Line& it) { return it.kind == kind; });
    };
    EXPECT_EQ(count(Line::Kind::name), 2);
    EXPECT_EQ(count(Line::Kind::sector), 1) << "no sector lines: the lap";
    EXPECT_GT(count(Line::Kind::words), 8);
    EXPECT_GT(count(Line::Kind::first), 1);
    int y = -1;
    for (const Line& it : lines) {
        EXPECT_GT(it.area.top(), y) << it.text.toStdString();
        y = it.area.top();
    }
    EXPECT_LE(lines.back().area.bottom(), beside().overview().minimumHeight());
    // Every line about a place leads there.
    const auto of_place =
        std::find_if(lines.begin(), lines.end(), [](const Line& it) { return it.kind == Line::Kind::first; });
    ASSERT_NE(of_place, lines.end());
    focus().set_cursor(10);
    QTest::mouseClick(&beside().overview(), Qt::LeftButton, Qt::NoModifier, of_place->area.center());
    settle();
    EXPECT_NEAR(state().cursor_m, of_place->at_m, 1);
    // As picture and as data.
    const std::filesystem::path file = folder_.path() / "overview.png";
    const ViewOut view = beside().out();
    EXPECT_TRUE(write_picture(view, file));
    EXPECT_GT(std::filesystem::file_size(file), 10000U);
    const auto data = data_of(view);
    ASSERT_TRUE(data);
    EXPECT_NE(data->find("Turn 5,"), std::string::npos);
    // One lap alone has no overview, and says why.
    focus().remove_slot(1);
    settle();
    EXPECT_EQ(beside().overview().told(), nullptr);
}

TEST_F(StoryTest, TheLedgerSaysGroupsLossesAndWhatIsNotSure) {
    key(Qt::Key_W);
    key(Qt::Key_W);
    using Sentence = LedgerPicture::Sentence;
    const auto& sentences = beside().ledger().sentences();
    const auto count = [&](Sentence::Kind kind) {
        return std::count_if(sentences.begin(), sentences.end(), [&](const Sentence& it) { return it.kind == kind; });
    };
    ASSERT_EQ(count(Sentence::Kind::groups), 1);
    EXPECT_TRUE(sentences.front().text.startsWith(QStringLiteral("Most of it in Turn 5 and Turn 6")));
    EXPECT_LT(sentences.front().area.bottom(), beside().ledger().area_of(0).top()) << "above the rows";
    EXPECT_EQ(count(Sentence::Kind::lost), static_cast<long>(beside().ledger().findings().size()));
    EXPECT_GT(count(Sentence::Kind::unsure), 0);
    int y = beside().ledger().area_of(beside().ledger().ledger()->rows.size() - 1).bottom();
    for (const Sentence& it : sentences) {
        if (it.kind == Sentence::Kind::groups) continue;
        EXPECT_GT(it.area.top(), y) << "one below the other";
        y = it.area.top();
        if (it.kind == Sentence::Kind::lost) EXPECT_TRUE(it.more.contains(QStringLiteral("Possibly")));
        if (it.kind == Sentence::Kind::unsure) EXPECT_TRUE(it.text.contains(QStringLiteral("would tell")));
    }
    EXPECT_LE(y, beside().ledger().minimumHeight());
    // In other units the sentences are said anew.
    const auto told_in = [&](const char* unit) {
        return std::any_of(sentences.begin(), sentences.end(),
                           [&](const Sentence& it) { return it.text.contains(QString::fromUtf8(unit)); });
    };
    EXPECT_TRUE(told_in(" km/h slower"));
    set_own_unit(QStringLiteral("km/h"), QStringLiteral("mph"));
    window_->repaint_all();
    EXPECT_TRUE(told_in(" mph slower"));
    EXPECT_FALSE(told_in(" km/h slower"));
    set_own_unit(QStringLiteral("km/h"), {});
    window_->repaint_all();
    // Turned round, B is the better one and it is A who is told of.
    focus().make_baseline(1);
    settle();
    ASSERT_NE(told(), nullptr);
    EXPECT_GT(count(Sentence::Kind::won), 3);
    for (const Sentence& it : sentences) {
        if (it.kind == Sentence::Kind::won)
            EXPECT_TRUE(it.text.startsWith(QStringLiteral("B is better: "))) << it.text.toStdString();
    }
}

TEST_F(StoryTest, TheCardTurnsWithTheCorner) {
    key(Qt::Key_W, Qt::ShiftModifier);
    ASSERT_EQ(beside().picture(), Beside::Picture::card);
    take(LapsTaken::counting);
    auto& card = beside().card();
    EXPECT_EQ(card.corner(), told()->row_at(state().cursor_m).corner);
    key(Qt::Key_PageDown);
    int before = card.corner();
    std::set<int> seen{before};
    for (int k = 0; k < 14; ++k) {
        key(Qt::Key_PageDown);
        EXPECT_NE(card.corner(), before);
        before = card.corner();
        seen.insert(before);
    }
    EXPECT_EQ(seen.size(), 14U) << "every corner has its card";
    while (card.corner() != 5) key(Qt::Key_PageDown);
    const QString all = card.lines().join(u'\n');
    EXPECT_TRUE(all.contains(QStringLiteral("B brakes 16 m earlier than A"))) << all.toStdString();
    EXPECT_TRUE(all.contains(QStringLiteral("on 5 of 5 laps")));
    EXPECT_TRUE(all.contains(QStringLiteral("Slowest speed: ")));
    EXPECT_TRUE(all.contains(QStringLiteral(" ±"))) << "with its scatter";
    EXPECT_TRUE(all.contains(QStringLiteral("1 km/h more is worth 0.0")));
    keep_picture(window_.get(), QStringLiteral("story-card"));
    // Something is drawn of both sides: their tones are in the picture.
    const QImage image = card.grab().toImage();
    int of_a = 0, of_b = 0;
    for (int y = 0; y < image.height(); ++y) {
        for (int x = 0; x < image.width(); ++x) {
            of_a += image.pixelColor(x, y) == theme().lap(0);
            of_b += image.pixelColor(x, y) == theme().lap(1);
        }
    }
    EXPECT_GT(of_a, 5);
    EXPECT_GT(of_b, 5);
    const auto data = data_of(card.out(QStringLiteral("Card")));
    ASSERT_TRUE(data);
    EXPECT_NE(data->find("Slowest speed,km/h,"), std::string::npos);
    // Without a second lap it says so.
    focus().remove_slot(1);
    settle();
    EXPECT_EQ(card.corner(), 0);
}

TEST_F(StoryTest, AFindingBecomesWorkAndIsPutAway) {
    key(Qt::Key_W, Qt::AltModifier);
    ASSERT_EQ(beside().picture(), Beside::Picture::work);
    take(LapsTaken::counting);
    auto& panel = beside().work();
    ASSERT_GT(panel.places().topLevelItemCount(), 3);
    QTreeWidgetItem* first = panel.places().topLevelItem(0);
    EXPECT_EQ(first->text(0), QStringLiteral("Turn 5"));
    EXPECT_EQ(first->text(1), QStringLiteral("+0.92"));
    ASSERT_GT(first->childCount(), 1);
    EXPECT_FALSE(panel.work_on_it().isEnabled()) << "nothing is chosen";
    // A sentence leads to its place, and becomes a work item.
    QTreeWidgetItem* sentence = nullptr;
    for (int k = 0; k < first->childCount(); ++k) {
        if (first->child(k)->text(0).contains(QStringLiteral("earlier"))) sentence = first->child(k);
    }
    ASSERT_NE(sentence, nullptr);
    panel.places().setCurrentItem(sentence);
    QTest::mouseClick(panel.places().viewport(), Qt::LeftButton, Qt::NoModifier,
                      panel.places().visualItemRect(sentence).center());
    settle();
    EXPECT_TRUE(told()->row_at(state().cursor_m).corner == 5);
    EXPECT_TRUE(panel.work_on_it().isEnabled());
    QTest::mouseClick(&panel.work_on_it(), Qt::LeftButton);
    settle();
    ASSERT_EQ(window_->workspace().library().work_items().value().size(), 1U);
    const QStringList words = words_of(panel.items());
    ASSERT_EQ(words.size(), 2) << words.join(u'|').toStdString();
    EXPECT_EQ(words[0], QStringLiteral("Osei"));
    EXPECT_TRUE(words[1].startsWith(QStringLiteral("Turn 5: Braking begins "))) << words[1].toStdString();
    keep_picture(window_.get(), QStringLiteral("story-work"));
    // It stands on the card of its corner too.
    beside().show_picture(Beside::Picture::card);
    settle();
    EXPECT_TRUE(beside().card().lines().join(u'\n').contains(QStringLiteral("Osei works on it")));
    beside().show_picture(Beside::Picture::work);
    // Undone, done again, put away.
    window_->workspace().session()->undo();
    settle();
    EXPECT_TRUE(words_of(panel.items()).empty());
    window_->workspace().session()->redo();
    settle();
    ASSERT_EQ(words_of(panel.items()).size(), 2);
    panel.items().setCurrentItem(panel.items().topLevelItem(0)->child(0));
    ASSERT_TRUE(panel.put_away().isEnabled());
    QTest::mouseClick(&panel.put_away(), Qt::LeftButton);
    settle();
    EXPECT_TRUE(words_of(panel.items()).empty());
    EXPECT_TRUE(window_->workspace().library().work_items().value()[0].closed);
    const auto data = data_of(beside().out());
    ASSERT_TRUE(data);
    EXPECT_NE(data->find("Turn 5,"), std::string::npos);
}

TEST_F(StoryTest, OfAReceiverAloneItSaysWhatItCanAndThatPedalsAreInferred) {
    auto& library = window_->workspace().library();
    const auto run = import_file(library, folder_ / "demo-files/saturday-run-2-pocket.csv", {});
    ASSERT_TRUE(run) << run.error().text();
    window_->workspace().library_changed();
    settle();
    focus().clear_laps();
    window_->workspace().pick_best(run->run);
    window_->workspace().pick_best({3});
    settle();
    key(Qt::Key_W);
    take(LapsTaken::counting);
    ASSERT_NE(told(), nullptr) << beside().story().message().toStdString();
    EXPECT_TRUE(told()->story.ledger.inferred);
    EXPECT_TRUE(beside().ledger().foot_text().contains(QStringLiteral("Pedals are inferred")));
    EXPECT_TRUE(std::any_of(told()->story.lost.begin(), told()->story.lost.end(), [](const LapFinding& it) {
        return it.corner == 5;
    })) << "what is lost at the hairpin shows in places and speeds alone";
    for (const LapFinding& it : told()->story.lost) EXPECT_NE(it.kind, LapFinding::Kind::locks_up);
    // And what its throttle does nobody knows: it is not called flat.
    const auto* evidence = window_->desk_of<CompareDesk>().findChild<QLabel*>(QStringLiteral("evidence"));
    ASSERT_NE(evidence, nullptr);
    EXPECT_FALSE(evidence->text().contains(QStringLiteral("stays flat"))) << evidence->text().toStdString();
    for (const ZoneDifference& it : laps().laps[1].differences) EXPECT_FALSE(it.throttle_lift);
    keep_picture(window_.get(), QStringLiteral("story-receiver"));
    beside().show_picture(Beside::Picture::card);
    while (beside().card().corner() != 5) key(Qt::Key_PageDown);
    keep_picture(window_.get(), QStringLiteral("story-receiver-card"));
    const QString all = beside().card().lines().join(u'\n');
    EXPECT_TRUE(all.contains(QStringLiteral("Slowest speed: ")));
    EXPECT_TRUE(all.contains(QStringLiteral("Gear: – | 1 ±0"))) << all.toStdString();
}

}  // namespace
}  // namespace rendak::app
