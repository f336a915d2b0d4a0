// The guide: round the track corner by corner, with one lap.
#include <QFile>
#include <QLabel>
#include <QPushButton>
#include <QTableWidget>

#include "app/desks/guide/guide_desk.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/intake/import.h"
#include "tests/app/window_fixture.h"

namespace rendak::app {
namespace {

class GuideTest : public WindowTest {
  protected:
    GuideDesk& guide() { return window_->desk_of<GuideDesk>(); }
    void open_with_one_lap() {
        window_->workspace().pick_best({2});
        window_->show_desk(QStringLiteral("guide"));
        settle();
    }
    QString cell(int row, int column) {
        const QTableWidgetItem* item = guide().table().item(row, column);
        return item == nullptr ? QString() : item->text();
    }
};

TEST_F(GuideTest, OneLapIsEnoughToGoRound) {
    window_->show_desk(QStringLiteral("guide"));
    settle();
    const auto* empty = guide().findChild<QLabel*>(QStringLiteral("empty"));
    ASSERT_NE(empty, nullptr);
    EXPECT_TRUE(empty->isVisible());
    EXPECT_TRUE(empty->text().contains(QStringLiteral("One lap is enough")));
    keep_picture(window_.get(), QStringLiteral("guide-empty"));
    open_with_one_lap();
    ASSERT_NE(guide().guide(), nullptr);
    EXPECT_EQ(laps().laps.size(), 1U);
    EXPECT_EQ(guide().table().rowCount(), 14);
    EXPECT_TRUE(guide().headline().startsWith(QStringLiteral("Turn 1: "))) << guide().headline().toStdString();
    EXPECT_EQ(cell(4, 1), QStringLiteral("tight right"));
    EXPECT_EQ(cell(5, 1), QStringLiteral("fast right, flat"));
    // By key, round the lap.
    key(Qt::Key_PageDown);
    EXPECT_EQ(guide().corner(), 1U);
    EXPECT_EQ(guide().table().currentRow(), 1);
    key(Qt::Key_PageUp);
    key(Qt::Key_PageUp);
    EXPECT_EQ(guide().corner(), 13U);
    // By hand: on the road, and in the table.
    QTest::mouseClick(&guide().road(), Qt::LeftButton, Qt::NoModifier, guide().road().place_of(4).toPoint());
    EXPECT_EQ(guide().corner(), 4U);
    EXPECT_TRUE(guide().page().words().contains(QStringLiteral("A tight right of 155°")))
        << guide().page().words().toStdString();
    guide().table().setCurrentCell(2, 1);
    EXPECT_EQ(guide().corner(), 2U);
    // The best lap of its run is a tenth away from what the car has shown.
    const auto told = guide().guide();
    EXPECT_NEAR(told->pace_s, 105.996, 0.008) << "two compilers' sums differ by some milliseconds here";
    EXPECT_TRUE(guide().foot().contains(
        QStringLiteral("The car has shown it can do %1 on this line").arg(lap_time(told->pace_s))))
        << guide().foot().toStdString();
    // In other units it is written anew, without being worked out again.
    set_imperial_units(true);
    window_->repaint_all();
    settle();
    EXPECT_EQ(guide().guide(), told);
    EXPECT_TRUE(guide().page().words().contains(QStringLiteral(" mph")));
    EXPECT_TRUE(guide().headline().contains(QStringLiteral("1 mph more")));
    set_imperial_units(false);
    window_->repaint_all();
    settle();
    EXPECT_TRUE(guide().headline().contains(QStringLiteral("1 km/h more")));
}

TEST_F(GuideTest, ALapThatLeavesTimeSaysWhere) {
    window_->workspace().pick_best({3});
    window_->show_desk(QStringLiteral("guide"));
    settle();
    ASSERT_NE(guide().guide(), nullptr);
    const PaceRow* turn_5 = guide().guide()->pace_of(5);
    ASSERT_NE(turn_5, nullptr);
    double sum = 0;
    for (const PaceRow& row : guide().guide()->pace) sum += row.unused_s();
    EXPECT_NEAR(sum, guide().guide()->lap_s - guide().guide()->pace_s, 1e-6);
    // Show in Compare goes to the corner.
    guide().show_corner(4);
    keep_picture(window_.get(), QStringLiteral("guide-slow-lap"));
    for (QPushButton* button : guide().findChildren<QPushButton*>()) {
        if (button->text() == QStringLiteral("Show in Compare")) button->click();
    }
    settle();
    EXPECT_EQ(window_->desk(), QStringLiteral("compare"));
    EXPECT_NEAR(state().cursor_m, guide().guide()->guide.corners[4].corner.apex_m, 1);
}

TEST_F(GuideTest, TheLimitIsSeenAndCornersArePutBack) {
    open_with_one_lap();
    guide().show_limit(true);
    settle();
    EXPECT_TRUE(guide().limit().isVisible());
    ASSERT_NE(guide().guide()->limit, nullptr);
    const QString words = guide().limit().words();
    EXPECT_TRUE(words.contains(QStringLiteral("Observed, over 8 laps"))) << words.toStdString();
    EXPECT_TRUE(words.contains(QStringLiteral("Turn 6 (taken flat"))) << words.toStdString();
    keep_picture(window_.get(), QStringLiteral("guide-limit"));
    const double before = guide().guide()->limit->lateral.at(40);
    const auto click = [&](int corner) {
        QTest::mouseClick(&guide().limit(), Qt::LeftButton, Qt::NoModifier, guide().limit().place_of(corner).toPoint());
        settle();
    };
    click(6);
    EXPECT_EQ(guide().guide()->limit->reach_of(6)->left_out, CornerReach::Left_out::no);
    EXPECT_TRUE(guide().limit().words().contains(QStringLiteral("Put back by hand: Turn 6")));
    click(6);
    EXPECT_EQ(guide().guide()->limit->reach_of(6)->left_out, CornerReach::Left_out::flat);
    EXPECT_DOUBLE_EQ(guide().guide()->limit->lateral.at(40), before);
    // One that counts stays.
    click(5);
    EXPECT_TRUE(guide().guide()->put_back.empty());
    // What somebody calculated stands beside it.
    CarSheet sheet;
    sheet.car = laps().baseline().run->row.car;
    sheet.season = "2026";
    sheet.values = {{"Lateral limit at 100 km/h", "1.7", "g"}, {"Lateral limit at 200 km/h", "2.3", "g"}};
    const auto& library = window_->workspace().library();
    ASSERT_TRUE(const_cast<Library&>(library).put_car_sheet(sheet));
    const auto run = load_run(library, {2});
    ASSERT_TRUE(run);
    const auto told = guide_data(**run, laps().baseline().lap);
    EXPECT_NEAR(told->calculated_lateral.at(150 / 3.6), 2.0 * 9.80665, 1e-6);
    LimitPicture picture;
    picture.resize(520, 600);
    picture.set_data(told);
    EXPECT_TRUE(picture.words().contains(QStringLiteral("Dashed: calculated")));
    keep_picture(&picture, QStringLiteral("guide-limit-calculated"));
}

/// With the hill climb.
class HillGuideTest : public GuideTest {
  protected:
    void SetUp() override {
        test::copy_library(test::weekend_library(), folder_.path());
        open_window();
    }
};

TEST_F(HillGuideTest, ARoadFromAStartToAFinish) {
    window_->workspace().pick_best({14});
    window_->show_desk(QStringLiteral("guide"));
    settle();
    ASSERT_NE(guide().guide(), nullptr);
    EXPECT_EQ(guide().table().rowCount(), 7);
    const GuideCorner& last = guide().guide()->guide.corners.back();
    EXPECT_EQ(last.next, 0) << "no corner behind the last";
    EXPECT_TRUE(cell(6, 6).contains(QStringLiteral("the finish"))) << cell(6, 6).toStdString();
    EXPECT_GE(last.after_m, 0);
    guide().show_corner(2);
    keep_picture(window_.get(), QStringLiteral("guide-hill"));
    const ObservedLimit* limit = guide().guide()->limit.get();
    ASSERT_NE(limit, nullptr) << guide().guide()->no_pace.toStdString();
    EXPECT_EQ(limit->laps, 1U);
    // The start is as it was driven: what more would do there was not seen.
    EXPECT_LT(guide().guide()->pace_of(0)->unused_s(), 0.15);
}

TEST_F(GuideTest, TheTableFollowsTheTheme) {
    open_with_one_lap();
    const QColor light = guide().table().item(0, 7)->foreground().color();
    EXPECT_EQ(light, theme().accent);
    apply_theme(true);
    settle();
    EXPECT_NE(theme().accent, light);
    EXPECT_EQ(guide().table().item(0, 7)->foreground().color(), theme().accent);
    apply_theme(false);
}

TEST_F(GuideTest, IsPrintedAsABooklet) {
    open_with_one_lap();
    const QString file = QString::fromStdString((folder_.path() / "guide.pdf").string());
    guide().print_to(file);
    settle();
    QFile written(file);
    ASSERT_TRUE(written.open(QIODevice::ReadOnly));
    const QByteArray bytes = written.readAll();
    EXPECT_TRUE(bytes.startsWith("%PDF"));
    // The road, and a page for each of 14 corners.
    EXPECT_EQ(bytes.count("/Type /Page\n"), 15) << "pages";
    guide().print_to(QStringLiteral("/nowhere/guide.pdf"));
    settle();
    EXPECT_FALSE(QFile::exists(QStringLiteral("/nowhere/guide.pdf")));
}

TEST_F(GuideTest, AReceiverAloneAndARoadWithoutHeightsSayWhatIsNotKnown) {
    // Another driver's pocket receiver on a hill that nobody has been round with edges, heights or banking.
    open_with_one_lap();
    auto bare = std::make_shared<Track>(laps().track());
    bare->height = {};
    bare->banking = {};
    bare->edges = {};
    PreparedLap lap = laps().baseline().lap;
    lap.track = bare;
    const auto told = guide_data(*laps().baseline().run, lap);
    EXPECT_FALSE(told->guide.height_known);
    for (const GuideCorner& it : told->guide.corners) {
        EXPECT_FALSE(it.climbs_in_m || it.climbs_out_m || it.lean_middle || it.crest_m);
        EXPECT_NE(it.matters, GuideCorner::Matters::cannot_be_told);
    }
    GuidePage page;
    page.resize(520, 640);
    page.set_data(told);
    page.show();
    page.set_corner(4);
    keep_picture(&page, QStringLiteral("guide-bare"));
    EXPECT_TRUE(page.warnings().isEmpty()) << page.warnings().join(u';').toStdString();
    // Without a throttle and a speed that rises nobody knows what a km/h is worth.
    GuideCorner unknown = told->guide.corners[4];
    unknown.matters = GuideCorner::Matters::cannot_be_told;
    EXPECT_NE(guide_headline(unknown, *bare).find("cannot be told"), std::string::npos);
}

}  // namespace
}  // namespace rendak::app
