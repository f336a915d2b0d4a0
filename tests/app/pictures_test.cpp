// States nobody plans for: each must paint, and with RENDAK_PICTURES=DIR a picture of each is kept to look at.
#include <QTreeView>

#include "app/desks/formulas/name_picker.h"
#include "core/intake/import.h"
#include "tests/app/window_fixture.h"

namespace rendak::app {
namespace {

class PicturesTest : public WindowTest {
  protected:
    /// How many different colours the picture has: an empty or broken screen has few.
    int colours(const char* name) {
        settle();
        const QImage image = window_->grab().toImage().convertToFormat(QImage::Format_RGB32);
        const QByteArray folder = qgetenv("RENDAK_PICTURES");
        if (!folder.isEmpty())
            image.save(QString::fromLocal8Bit(folder) + u'/' + QString::fromLatin1(name) + QStringLiteral(".png"));
        QSet<QRgb> seen;
        for (int y = 0; y < image.height(); y += 2) {
            for (int x = 0; x < image.width(); x += 2) seen.insert(image.pixel(x, y));
        }
        return static_cast<int>(seen.size());
    }
};

TEST_F(PicturesTest, OneLapOnly) {
    window_->workspace().pick_best({2});
    window_->show_desk(QStringLiteral("compare"));
    EXPECT_GT(colours("one-lap"), 60);
}

TEST_F(PicturesTest, EightLapsInGarage) {
    window_->set_garage(true);
    for (int lap = 1; lap <= 4; ++lap) {
        window_->workspace().pick({{2}, lap});
        window_->workspace().pick({{3}, lap});
    }
    window_->show_desk(QStringLiteral("compare"));
    EXPECT_GT(colours("eight-laps-garage"), 100);
    EXPECT_EQ(laps().laps.size(), 8U);
    window_->set_garage(false);
}

TEST_F(PicturesTest, TimeAxisAndManyLanesInImperialUnits) {
    compare_best();
    window_->set_imperial(true);
    focus().set_axis(Axis::time);
    auto lanes = window_->desk_of<CompareDesk>().canvas().lanes();
    for (const char* more : {"ride_height_front", "damper_fl", "tyre_temperature_fl", "lateral_acceleration"})
        lanes.push_back({more, 0.8});
    window_->desk_of<CompareDesk>().canvas().set_lanes(lanes);
    EXPECT_GT(colours("time-axis-imperial"), 100);
    window_->set_imperial(false);
}

TEST_F(PicturesTest, FormulasInEveryState) {
    auto& desk = window_->desk_of<FormulasDesk>();
    window_->show_desk(QStringLiteral("formulas"));
    EXPECT_GT(colours("formulas-no-lap"), 20);
    compare_best();
    window_->show_desk(QStringLiteral("formulas"));
    ASSERT_TRUE(desk.paste(
        QStringLiteral("a_very_long_name_of_a_formula_that_nobody_planned_for in km/h = speed * 2 + (1 bar if "
                       "brake_front > 3 bar else lateral_acceleration * 2 s) + hypot(speed, speed) - 3 m/s")));
    EXPECT_GT(colours("formulas-wrong"), 20);
    window_->set_garage(true);
    desk.show_formula(QStringLiteral("damper_speed_rr"));
    EXPECT_GT(colours("formulas-garage"), 20);
    window_->set_garage(false);
    window_->resize(1000, 700);
    desk.show_formula(QStringLiteral("coasting_time"));
    desk.names().show_kind(NamePicker::functions);
    EXPECT_GT(colours("formulas-small"), 20);
    window_->resize(1280, 800);
    window_->desk_of<CornersDesk>().show_channel("combined_g");
    window_->show_desk(QStringLiteral("corners"));
    EXPECT_GT(colours("corners-channel"), 20);
}

TEST_F(PicturesTest, NothingPicked) {
    window_->show_desk(QStringLiteral("compare"));
    EXPECT_GT(colours("nothing-picked"), 10);
}

TEST_F(PicturesTest, SmallWindow) {
    compare_best();
    window_->resize(1000, 620);
    EXPECT_GT(colours("small-window"), 100);
}

TEST_F(PicturesTest, CollectInGarage) {
    window_->set_garage(true);
    window_->show_desk(QStringLiteral("collect"));
    window_->desk_of<CollectDesk>().connect_to(QString::fromStdString((folder_ / "demo-files/card").string()));
    EXPECT_GT(colours("collect-garage"), 40);
    window_->set_garage(false);
}

TEST_F(PicturesTest, FactsOfSeveralRunsInASmallWindow) {
    window_->resize(1000, 620);
    window_->desk_of<LogbookDesk>().findChild<QTreeView*>()->selectAll();
    window_->desk_of<LogbookDesk>().show_tab(LogbookDesk::facts_tab);
    EXPECT_GT(colours("facts-small"), 40);
}

class EmptyLibraryTest : public PicturesTest {
  protected:
    void SetUp() override { open_window(); }
};

TEST_F(EmptyLibraryTest, SaysWhatToDoNext) {
    EXPECT_GT(colours("empty-library"), 10);
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
    EXPECT_GT(colours("long-names"), 30);
    window_->desk_of<LogbookDesk>().show_tab(LogbookDesk::tidy_tab);
    EXPECT_GT(colours("long-names-tidy"), 30);
    window_->show_desk(QStringLiteral("collect"));
    EXPECT_GT(colours("collect-empty-library"), 30);
}

}  // namespace
}  // namespace rendak::app
