// States nobody plans for: what must be seen in each; with RENDAK_PICTURES=DIR a picture of each is kept to look at.
#include <QAbstractButton>
#include <QLabel>
#include <QLineEdit>
#include <QTreeView>

#include "app/desks/formulas/formula_edit.h"
#include "app/desks/formulas/name_picker.h"
#include "app/desks/formulas/preview_plot.h"
#include "app/theme/theme.h"
#include "core/intake/import.h"
#include "tests/app/window_fixture.h"

namespace rendak::app {
namespace {

class PicturesTest : public WindowTest {
  protected:
    /// What is seen of a widget; with RENDAK_PICTURES=DIR the whole window is kept to be looked at.
    QImage picture(const char* name, QWidget* of = nullptr) {
        settle();
        const QByteArray folder = qgetenv("RENDAK_PICTURES");
        if (!folder.isEmpty())
            window_->grab().save(QString::fromLocal8Bit(folder) + u'/' + QString::fromLatin1(name) +
                                 QStringLiteral(".png"));
        return (of == nullptr ? static_cast<QWidget*>(window_.get()) : of)
            ->grab()
            .toImage()
            .convertToFormat(QImage::Format_RGB32);
    }
    /// How many pixels have a colour, give or take the soft edges of lines.
    static int pixels(const QImage& image, const QColor& colour, int tolerance = 6) {
        int count = 0;
        for (int y = 0; y < image.height(); ++y) {
            for (int x = 0; x < image.width(); ++x) {
                const QColor c = image.pixelColor(x, y);
                count += std::abs(c.red() - colour.red()) <= tolerance &&
                         std::abs(c.green() - colour.green()) <= tolerance &&
                         std::abs(c.blue() - colour.blue()) <= tolerance;
            }
        }
        return count;
    }
    static double lightness(const QImage& image) {
        double sum = 0;
        for (int y = 0; y < image.height(); y += 3) {
            for (int x = 0; x < image.width(); x += 3) sum += image.pixelColor(x, y).lightnessF();
        }
        const int rows = (image.height() + 2) / 3, columns = (image.width() + 2) / 3;
        return sum / (rows * columns);
    }
    /// Words of the labels and buttons that are in sight.
    [[nodiscard]] QString words(const QWidget& in) const {
        QStringList out;
        for (const auto* label : in.findChildren<QLabel*>()) {
            if (label->isVisible()) out << label->text();
        }
        for (const auto* button : in.findChildren<QAbstractButton*>()) {
            if (button->isVisible()) out << button->text();
        }
        return out.join(u'\n');
    }
    /// No control in sight is cut off by the window's edge or squeezed to nothing.
    void expect_all_inside(QWidget& desk) {
        for (const auto* button : desk.findChildren<QAbstractButton*>()) {
            // What a scroll bar leads to is not in sight.
            if (!button->isVisible() || button->text().isEmpty() || button->visibleRegion().isEmpty()) continue;
            const QRect box(button->mapTo(window_.get(), QPoint(0, 0)), button->size());
            EXPECT_TRUE(window_->rect().adjusted(-1, -1, 1, 1).contains(box)) << button->text().toStdString();
            EXPECT_GE(button->width() + 2, button->minimumSizeHint().width()) << button->text().toStdString();
        }
    }
    CompareDesk& compare() { return window_->desk_of<CompareDesk>(); }
};

TEST_F(PicturesTest, OneLapOnly) {
    window_->workspace().pick_best({2});
    window_->show_desk(QStringLiteral("compare"));
    const QImage traces = picture("one-lap", &compare().canvas());
    EXPECT_GT(pixels(traces, theme().lap(0)), 2000) << "A's traces";
    EXPECT_EQ(pixels(traces, theme().lap(1)), 0) << "nobody else's";
    EXPECT_EQ(pixels(traces, theme().lost), 0) << "and no gap to anybody";
    EXPECT_TRUE(words(compare()).contains(QStringLiteral("Pick a second lap"))) << words(compare()).toStdString();
    EXPECT_EQ(window_->tray().cards().size(), 1u);
}

TEST_F(PicturesTest, EightLapsInGarage) {
    window_->set_garage(true);
    for (int lap = 1; lap <= 4; ++lap) {
        window_->workspace().pick({{2}, lap});
        window_->workspace().pick({{3}, lap});
    }
    window_->show_desk(QStringLiteral("compare"));
    const QImage traces = picture("eight-laps-garage", &compare().canvas());
    EXPECT_EQ(laps().laps.size(), 8U);
    for (int slot = 0; slot < 8; ++slot)
        EXPECT_GT(pixels(traces, garage_theme().lap(slot)), 150) << slot_letter(slot).toStdString();
    EXPECT_LT(lightness(traces), 0.3) << "dark";
    for (const LapCard* card : window_->tray().cards()) EXPECT_GT(card->width(), 80);
    window_->set_garage(false);
    EXPECT_GT(lightness(picture("eight-laps", &compare().canvas())), 0.7) << "and light again at once";
}

TEST_F(PicturesTest, TimeAxisAndManyLanesInImperialUnits) {
    compare_best();
    const double metric = compare().canvas().lane_values(1).end;
    window_->set_imperial(true);
    focus().set_axis(Axis::time);
    auto lanes = compare().canvas().lanes();
    for (const char* more : {"ride_height_front", "damper_fl", "tyre_temperature_fl", "lateral_acceleration"})
        lanes.push_back({more, 0.8});
    compare().canvas().set_lanes(lanes);
    const QImage traces = picture("time-axis-imperial", &compare().canvas());
    EXPECT_NEAR(compare().canvas().lane_values(1).end, metric / 1.609344, 2) << "miles an hour";
    EXPECT_NEAR(compare().canvas().x_scale().values.end, laps().baseline().lap.time_s(), 0.01);
    for (std::size_t lane = 0; lane < lanes.size(); ++lane) {
        const QRect area = compare().canvas().lane_area(lane);
        EXPECT_GT(area.height(), 20) << lanes[lane].quantity;
        EXPECT_GT(pixels(traces.copy(area), theme().lap(1)) + pixels(traces.copy(area), theme().lap(0)), 50)
            << lanes[lane].quantity << " has a curve";
    }
    window_->set_imperial(false);
}

TEST_F(PicturesTest, FormulasInEveryState) {
    auto& desk = window_->desk_of<FormulasDesk>();
    window_->show_desk(QStringLiteral("formulas"));
    EXPECT_EQ(pixels(picture("formulas-no-lap", &desk.preview()), theme().lap(0)), 0);
    EXPECT_TRUE(desk.preview().trace().empty());
    compare_best();
    window_->show_desk(QStringLiteral("formulas"));
    ASSERT_TRUE(desk.paste(
        QStringLiteral("a_very_long_name_of_a_formula_that_nobody_planned_for in km/h = speed * 2 + (1 bar if "
                       "brake_front > 3 bar else lateral_acceleration * 2 s) + hypot(speed, speed) - 3 m/s")));
    picture("formulas-wrong");
    EXPECT_FALSE(desk.message().isEmpty());
    EXPECT_EQ(desk.editor().extraSelections().size(), 1) << "the place is marked";
    EXPECT_TRUE(desk.preview().trace().empty()) << "and no curve is shown";
    expect_all_inside(desk);
    window_->set_garage(true);
    desk.show_formula(QStringLiteral("damper_speed_rr"));
    const QImage garage = picture("formulas-garage", &desk.preview());
    EXPECT_LT(lightness(garage), 0.3);
    EXPECT_GT(pixels(garage, theme().lap(1)) + pixels(garage, theme().lap(0)), 300) << "the curve";
    window_->set_garage(false);
    window_->resize(1000, 700);
    desk.show_formula(QStringLiteral("coasting_time"));
    desk.names().show_kind(NamePicker::functions);
    picture("formulas-small");
    expect_all_inside(desk);
    window_->resize(1280, 800);
    window_->desk_of<CornersDesk>().show_channel("combined_g");
    window_->show_desk(QStringLiteral("corners"));
    picture("corners-channel");
    EXPECT_GT(window_->desk_of<CornersDesk>().model().rowCount(), 10);
}

TEST_F(PicturesTest, NothingPicked) {
    window_->show_desk(QStringLiteral("compare"));
    picture("nothing-picked");
    EXPECT_TRUE(words(compare()).contains(QStringLiteral("No laps are picked yet.")));
    EXPECT_TRUE(words(compare()).contains(QStringLiteral("Compare the best laps of the two latest runs")));
    EXPECT_FALSE(compare().canvas().isVisible());
}

TEST_F(PicturesTest, SmallWindow) {
    compare_best();
    window_->resize(1000, 620);
    const QImage traces = picture("small-window", &compare().canvas());
    for (int slot = 0; slot < 2; ++slot) EXPECT_GT(pixels(traces, theme().lap(slot)), 800);
    expect_all_inside(compare());
    for (std::size_t lane = 0; lane < compare().canvas().lanes().size(); ++lane)
        EXPECT_GT(compare().canvas().lane_area(lane).height(), 12);
}

TEST_F(PicturesTest, CollectInGarage) {
    window_->set_garage(true);
    window_->show_desk(QStringLiteral("collect"));
    auto& desk = window_->desk_of<CollectDesk>();
    desk.connect_to(QString::fromStdString((folder_ / "demo-files/card").string()));
    EXPECT_LT(lightness(picture("collect-garage", &desk)), 0.3);
    EXPECT_EQ(desk.recordings().rows().size(), 6u);
    EXPECT_TRUE(words(desk).contains(QStringLiteral("Download 3 recordings"))) << words(desk).toStdString();
    EXPECT_TRUE(desk.check_text().contains(QStringLiteral("3 recordings not yet in the library")));
    EXPECT_FALSE(desk.check_text().contains(QStringLiteral("○ Card back"))) << "nothing that can never be ticked";
    window_->set_garage(false);
}

TEST_F(PicturesTest, FactsOfSeveralRunsInASmallWindow) {
    window_->resize(1000, 620);
    auto& desk = window_->desk_of<LogbookDesk>();
    desk.findChild<QTreeView*>()->selectAll();
    desk.show_tab(LogbookDesk::facts_tab);
    picture("facts-small");
    const auto* driver = desk.findChild<QLineEdit*>(QStringLiteral("fact-Driver"));
    ASSERT_NE(driver, nullptr);
    EXPECT_TRUE(driver->isVisible());
    EXPECT_TRUE(driver->text().isEmpty());
    EXPECT_TRUE(driver->placeholderText().startsWith(QStringLiteral("several: ")))
        << driver->placeholderText().toStdString();
    expect_all_inside(desk);
}

class EmptyLibraryTest : public PicturesTest {
  protected:
    void SetUp() override { open_window(); }
};

TEST_F(EmptyLibraryTest, SaysWhatToDoNext) {
    picture("empty-library");
    auto& desk = window_->desk_of<LogbookDesk>();
    EXPECT_TRUE(words(desk).contains(QStringLiteral("This library is empty.")));
    EXPECT_TRUE(words(desk).contains(QStringLiteral("Import files …")));
    EXPECT_TRUE(words(desk).contains(QStringLiteral("Write the demo weekend")));
    EXPECT_FALSE(desk.findChild<QTreeView*>()->isVisible());
}

TEST_F(EmptyLibraryTest, LongNamesAndUnknownTrack) {
    const auto oval = test::oval_table(4, 20);
    auto file = folder_.write("a very long file name of a run that somebody named with great care and many words.csv",
                              oval.text);
    auto library = Library::open(folder_.path());
    ImportOptions options;
    options.event = "The long-distance test weekend at the far end of the coast";
    options.session = "Second free practice of the afternoon, partly wet";
    options.driver = "Wolfeschlegel-Steinhausen van der Brandvold-Osei";
    options.car = "Club prototype 27 with the long tail and the old engine";
    options.name = "Run with the third set of tyres and the stiffer front bar";
    ASSERT_TRUE(import_file(**library, file, options));
    window_->workspace().library_changed();
    picture("long-names");
    auto& desk = window_->desk_of<LogbookDesk>();
    EXPECT_EQ(desk.run_list().size(), 1u);
    expect_all_inside(desk);
    EXPECT_EQ(window_->width(), 1280) << "no name makes the window wider";
    EXPECT_TRUE(words(desk).contains(QStringLiteral("Learn the track"))) << "its place is not known";
    desk.show_tab(LogbookDesk::tidy_tab);
    picture("long-names-tidy");
    expect_all_inside(desk);
    window_->show_desk(QStringLiteral("collect"));
    picture("collect-empty-library");
    expect_all_inside(window_->desk_of<CollectDesk>());
}

}  // namespace
}  // namespace rendak::app
