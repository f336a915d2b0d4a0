// A lap's curves slid along the road by hand, and places in the unit of the person.
#include <QComboBox>
#include <QTableWidget>
#include <fstream>
#include <sstream>

#include "app/plot/view_out.h"
#include "app/shell/foot_line.h"
#include "app/shell/lap_tray.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/base/file_io.h"
#include "tests/app/window_fixture.h"
#include "tests/support/got.h"

namespace rendak::app {
namespace {

class SlidTest : public OnCompareTest {
  protected:
    void SetUp() override {
        OnCompareTest::SetUp();
        canvas().set_lanes({{"gap", 1}, {"speed", 1}});
        focus().set_range({1800, 2300});
        focus().set_cursor(2000);
        settle();
    }
    const PreparedLap& b() { return laps().laps[1].lap; }
    Comparison& comparison() { return window_->workspace().comparison(); }
    std::string traces_csv() {
        const auto text = data_of(desk().views_out()[0]);
        EXPECT_TRUE(text);
        return text.value_or("");
    }
};

TEST_F(SlidTest, ADragSlidesTheCurvesAndLeavesWhatWasMeasured) {
    const double gap = comparison().value_at_cursor(1, "gap"), total = laps().laps[1].gap.at(2300);
    const QPoint from(500, canvas().lane_area(1).center().y());
    const double metre_px = canvas().plot_area().width() / 500.0;
    drag(canvas(), from, from + QPoint(static_cast<int>(std::lround(20 * metre_px)), 0),
         Qt::ControlModifier | Qt::ShiftModifier);
    const double by = comparison().slid_m(1);
    EXPECT_NEAR(by, 20, 0.5);
    EXPECT_EQ(state().range_m, (Interval{1800, 2300})) << "it is no zoom";
    EXPECT_EQ(comparison().slid_m(0), 0);
    // Values at the cursor are of the place that now lies there; the gap is as driven.
    EXPECT_NEAR(comparison().value_at_cursor(1, "speed"), b().value_at("speed", 2000 - by), 1e-9);
    EXPECT_EQ(comparison().value_at_cursor(1, "gap"), gap);
    EXPECT_EQ(laps().laps[1].gap.at(2300), total);
    EXPECT_EQ(canvas().shown_lane(0).traces[0].x_shift, 0) << "the gap's curve stays";
    for (const PlottedTrace& it : canvas().shown_lane(1).traces) EXPECT_EQ(it.x_shift, it.slot == 1 ? by : 0);
    // Said wherever the lap is named.
    const QString words = QStringLiteral("slid by hand +") + QString::number(by, 'f', 1);
    EXPECT_TRUE(window_->tray().cards()[1]->accessibleName().contains(words));
    EXPECT_FALSE(window_->tray().cards()[0]->accessibleName().contains(QStringLiteral("slid")));
    keep_picture(window_.get(), QStringLiteral("slid"));
    std::istringstream table(traces_csv());
    std::string head;
    std::getline(table, head);
    EXPECT_NE(head.find("B Speed [km/h] (slid by hand +"), std::string::npos) << head;
    EXPECT_EQ(head.find("B Gap to A [s] ("), std::string::npos) << head;
    for (std::string row; std::getline(table, row);) {
        if (!row.starts_with("2000.0,")) continue;
        const double kmh = std::stod(row.substr(row.rfind(',') + 1));
        EXPECT_NEAR(kmh, 3.6 * b().value_at("speed", 2000 - by), 1e-2);
    }
    // Where places do not matter nothing is slid.
    key(Qt::Key_T);
    EXPECT_EQ(comparison().slid_m(1), 0);
    EXPECT_FALSE(window_->tray().cards()[1]->accessibleName().contains(words));
    key(Qt::Key_D);
    EXPECT_EQ(comparison().slid_m(1), by);
}

TEST_F(SlidTest, WhatIsDrawnIsTheCurveFurtherOn) {
    canvas().set_lanes({{"speed", 1}});
    settle();
    const Interval values = canvas().shown_lane(0).values;
    const QRect area = canvas().lane_area(0);
    // The row at which B's colour stands in a column.
    const auto row_of = [&](const QImage& image, int x) {
        const QColor colour = theme().lap(1);
        double sum = 0;
        int count = 0;
        for (int y = area.top(); y < area.bottom(); ++y) {
            const QColor at = image.pixelColor(x, y);
            if (std::abs(at.red() - colour.red()) + std::abs(at.green() - colour.green()) +
                    std::abs(at.blue() - colour.blue()) <
                60) {
                sum += y;
                ++count;
            }
        }
        return count == 0 ? -1 : sum / count;
    };
    focus().set_cursor(1800);
    settle();
    const QImage before = canvas().grab().toImage();
    for (int i = 0; i < 30; ++i) key(Qt::Key_Right, Qt::ControlModifier);
    ASSERT_EQ(comparison().slid_m(1), 30);
    ASSERT_EQ(values, canvas().shown_lane(0).values) << "the scale stays";
    const QImage after = canvas().grab().toImage();
    const int shift = static_cast<int>(std::lround(30 * canvas().plot_area().width() / 500.0));
    int compared = 0;
    for (int x = area.left() + 20; x + shift < area.right() - 180; x += 7) {
        const double was = row_of(before, x), is = row_of(after, x + shift);
        if (was < 0 || is < 0) continue;  // A's line is on top
        EXPECT_NEAR(was, is, 4) << x;
        ++compared;
    }
    EXPECT_GT(compared, 20);
    // Back by one key; by what is done to the lap.
    key(Qt::Key_Left, Qt::ControlModifier);
    EXPECT_EQ(comparison().slid_m(1), 29);
    const auto kept = focus_from_json(focus_to_json(state()));
    ASSERT_TRUE(kept);
    EXPECT_EQ(kept->slid_m, state().slid_m);
    key(Qt::Key_Down, Qt::ControlModifier);
    EXPECT_EQ(comparison().slid_m(1), 0);
    EXPECT_TRUE(state().slid_m.empty());
    key(Qt::Key_Right, Qt::ControlModifier);
    EXPECT_EQ(state().slid_m.size(), 1U);
    focus().make_baseline(1);
    settle();
    EXPECT_TRUE(state().slid_m.empty()) << "A lies where it was driven";
}

TEST_F(SlidTest, PlacesAreInTheUnitOfThePerson) {
    EXPECT_EQ(distance_text(1234), QStringLiteral("1234\u2009m"));
    EXPECT_EQ(stretch_text({1800, 2300}), QStringLiteral("1800–2300\u2009m"));
    ASSERT_TRUE(window_->status().range_text().contains(stretch_text({1800, 2300})));
    set_own_unit(QStringLiteral("m"), QStringLiteral("ft"));
    window_->repaint_all();
    settle();
    EXPECT_EQ(stretch_text({1800, 2300}), QStringLiteral("5906–7546\u2009ft"));
    EXPECT_TRUE(window_->status().range_text().contains(QStringLiteral("5906–7546")))
        << window_->status().range_text().toStdString();
    keep_picture(window_.get(), QStringLiteral("feet"));
    // The events, the corners' figures, the track's table.
    const auto& moments = laps().laps[1].moments;
    focus().set_cursor(1800);
    key(Qt::Key_E);
    const auto next = std::find_if(moments.begin(), moments.end(), [](const auto& it) { return it.place_m > 1800; });
    ASSERT_NE(next, moments.end());
    EXPECT_TRUE(window_->status().message().contains(distance_text(next->place_m, 1)))
        << window_->status().message().toStdString();
    window_->show_desk(QStringLiteral("corners"));
    settle();
    const auto* figures = window_->desk_of<CornersDesk>().findChild<QComboBox*>(QStringLiteral("corner-figure"));
    ASSERT_NE(figures, nullptr);
    EXPECT_GE(figures->findText(QStringLiteral("Braking begins, ft")), 0);
    window_->show_desk(QStringLiteral("track"));
    settle();
    const auto* corners = window_->desk_of<TrackDesk>().findChild<QTableWidget*>();
    ASSERT_NE(corners, nullptr);
    EXPECT_EQ(corners->item(0, 3)->text(), distance_shown().text(laps().track().corners[0].start_m));
    EXPECT_NE(corners->item(0, 3)->text(), QString::number(laps().track().corners[0].start_m, 'f', 0));
    keep_picture(window_.get(), QStringLiteral("feet-track"));
    set_own_unit(QStringLiteral("m"), {});
    window_->repaint_all();
}

}  // namespace
}  // namespace rendak::app
