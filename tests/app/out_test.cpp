// Views given out: pictures, data, and the command line that paints without a window.
#include <QAction>
#include <QClipboard>
#include <QImage>
#include <QMenu>
#include <QProcess>
#include <QSvgRenderer>
#include <algorithm>
#include <fstream>
#include <set>
#include <sstream>

#include "app/plot/view_out.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/base/file_io.h"
#include "tests/app/window_fixture.h"
#include "tests/support/got.h"
#include "tests/support/own_build.h"

namespace rendak::app {
namespace {

class OutTest : public OnCompareTest {
  protected:
    static std::string text_of(const std::filesystem::path& file) {
        std::ostringstream out;
        out << std::ifstream(file, std::ios::binary).rdbuf();
        return out.str();
    }
    static int pixels_like(const QImage& image, QColor colour) {
        int count = 0;
        for (int y = 0; y < image.height(); ++y) {
            for (int x = 0; x < image.width(); ++x) {
                const QColor at = image.pixelColor(x, y);
                count += std::abs(at.red() - colour.red()) + std::abs(at.green() - colour.green()) +
                             std::abs(at.blue() - colour.blue()) <
                         60;
            }
        }
        return count;
    }
};

TEST_F(OutTest, TracesGoOutAsPngSvgAndPdf) {
    focus().set_range({1800, 2300});
    settle();
    const auto views = desk().views_out();
    ASSERT_EQ(views.size(), 3U) << "traces, map, and what stands beside";
    const auto png = folder_.path() / "traces.png", svg = folder_.path() / "traces.svg",
               pdf = folder_.path() / "traces.pdf";
    for (const auto& file : {png, svg, pdf}) ASSERT_TRUE(write_picture(views[0], file)) << file;
    const QImage image(QString::fromStdString(png.string()));
    EXPECT_EQ(image.size(), views[0].size * 2);
    EXPECT_GT(pixels_like(image, theme().lap(0)), 2000);
    EXPECT_GT(pixels_like(image, theme().lap(1)), 2000);
    // Lines stay lines: no picture inside, and it draws the same again.
    const std::string vector = text_of(svg);
    EXPECT_EQ(vector.find("<image"), std::string::npos);
    EXPECT_NE(vector.find("<polyline"), std::string::npos);
    QSvgRenderer renderer(QString::fromStdString(svg.string()));
    ASSERT_TRUE(renderer.isValid());
    QImage again(views[0].size * 2, QImage::Format_RGB32);
    again.fill(Qt::white);
    QPainter painter(&again);
    renderer.render(&painter);
    painter.end();
    EXPECT_NEAR(pixels_like(again, theme().lap(1)), pixels_like(image, theme().lap(1)),
                0.35 * pixels_like(image, theme().lap(1)));
    EXPECT_EQ(text_of(pdf).substr(0, 5), "%PDF-");
    EXPECT_FALSE(write_picture(views[0], folder_.path() / "traces.bmp"));
    const auto refused = write_picture(views[0], "/nowhere/at/all.png");
    ASSERT_FALSE(refused);
    for (const ViewOut& view : views)
        EXPECT_TRUE(write_picture(view, folder_.path() / "view.png")) << view.name.toStdString();
}

TEST_F(OutTest, MapAndSidePicturesStayLinesAndWords) {
    focus().set_range({1800, 2300});
    settle();
    for (int i = 0; i < Beside::picture_count; ++i) {
        beside().show_picture(static_cast<Beside::Picture>(i));
        settle();
        const ViewOut view = beside().out();
        const auto file = folder_.path() / ("view" + std::to_string(i) + ".svg");
        ASSERT_TRUE(write_picture(view, file));
        const std::string text = text_of(file);
        // A list's arrows are little pictures of the widget style.
        if (beside().picture() != Beside::Picture::changes)
            EXPECT_EQ(text.find("<image"), std::string::npos) << view.name.toStdString() << " holds pixels";
        EXPECT_NE(text.find("<text"), std::string::npos) << view.name.toStdString();
        if (beside().picture() == Beside::Picture::film) continue;  // a film is no lines
        EXPECT_GT(std::count(text.begin(), text.end(), '\n'), 60) << view.name.toStdString();
        // And it looks as it does on the screen.
        const QImage picture = picture_of(view);
        keep_image(picture, QStringLiteral("out-") + view.name);
        std::set<QRgb> colours;
        for (int y = 0; y < picture.height(); y += 3) {
            for (int x = 0; x < picture.width(); x += 3) colours.insert(picture.pixel(x, y));
        }
        EXPECT_GT(colours.size(), 6U) << view.name.toStdString();
    }
    const auto file = folder_.path() / "map.svg";
    ASSERT_TRUE(write_picture(desk().map().out(QStringLiteral("Map")), file));
    const std::string text = text_of(file);
    EXPECT_EQ(text.find("<image"), std::string::npos);
    EXPECT_NE(text.find(">5</text>"), std::string::npos) << "the corners' numbers are words";
}

TEST_F(OutTest, DataAreWhatTheTracesShow) {
    desk().canvas().set_lanes({{"gap", 1}, {"speed", 1, {"throttle"}}});
    focus().set_range({1000, 1200});
    settle();
    const auto file = folder_.path() / "traces.csv";
    ASSERT_TRUE(write_file(file, test::got(data_of(desk().views_out()[0]))));
    std::ifstream in(file);
    std::string head, row;
    std::getline(in, head);
    EXPECT_EQ(head, "Distance [m],B Gap to A [s],A Speed [km/h],B Speed [km/h],A Throttle [%],B Throttle [%]");
    int rows = 0;
    while (std::getline(in, row)) {
        if (rows++ != 100) continue;
        std::istringstream cells(row);
        std::vector<double> values;
        for (std::string cell; std::getline(cells, cell, ',');) values.push_back(std::stod(cell));
        ASSERT_EQ(values.size(), 6U);
        EXPECT_EQ(values[0], 1100);
        EXPECT_NEAR(values[1], laps().laps[1].gap.at(1100), 1e-4);
        EXPECT_NEAR(values[2], 3.6 * laps().laps[0].lap.value_at("speed", 1100), 1e-3);
        EXPECT_NEAR(values[3], 3.6 * laps().laps[1].lap.value_at("speed", 1100), 1e-3);
    }
    EXPECT_EQ(rows, 201) << "a metre apart";
    // To the clipboard, from the menu; and of each picture beside.
    auto* menu = desk().findChild<QMenu*>(QStringLiteral("out"));
    ASSERT_NE(menu, nullptr);
    Q_EMIT menu->aboutToShow();
    ASSERT_EQ(menu->actions().size(), 4) << "three views, and windows";
    auto* traces = menu->actions()[0]->menu();
    traces->actions().last()->trigger();
    settle();
    EXPECT_EQ(QApplication::clipboard()->text().toStdString(), text_of(file));
    traces->actions()[1]->trigger();
    EXPECT_EQ(QApplication::clipboard()->image().size(), desk().views_out()[0].size * 2);
    for (int i = 0; i < Beside::picture_count; ++i) {
        const auto picture = static_cast<Beside::Picture>(i);
        desk().beside().show_picture(picture);
        settle();
        const ViewOut view = desk().beside().out();
        EXPECT_FALSE(picture_of(view).isNull());
        if (picture == Beside::Picture::laps) continue;
        const auto text = data_of(view);
        ASSERT_TRUE(text) << text.error().text();
        EXPECT_GE(std::count(text->begin(), text->end(), '\n'), 3) << view.name.toStdString();
    }
}

TEST_F(OutTest, TheCommandLinePaintsWithoutAWindow) {
    const auto run = [this](const QStringList& words) {
        QProcess process;
        process.start(QString::fromStdString(test::own_cli()),
                      QStringList{QStringLiteral("--library"), QString::fromStdString(folder_.path().string()),
                                  QStringLiteral("plot")} +
                          words);
        process.waitForFinished(-1);
        return std::tuple(process.exitCode(), QString::fromUtf8(process.readAllStandardOutput()),
                          QString::fromUtf8(process.readAllStandardError()));
    };
    const auto name = [this](const char* file) { return QString::fromStdString((folder_.path() / file).string()); };
    const auto [code, out, error] =
        run({QStringLiteral("--laps"), QStringLiteral("2:best,3:best"), QStringLiteral("--page"),
             QStringLiteral("Driver"), QStringLiteral("--range"), QStringLiteral("1800-2300"), QStringLiteral("--size"),
             QStringLiteral("900x600"), QStringLiteral("--out"), name("plot.png")});
    ASSERT_EQ(code, 0) << error.toStdString();
    EXPECT_TRUE(out.contains(QStringLiteral("plot.png"))) << out.toStdString();
    const QImage image(name("plot.png"));
    EXPECT_EQ(image.size(), QSize(1800, 1200));
    EXPECT_GT(pixels_like(image, theme().lap(1)), 1000);
    const auto [csv_code, csv_out, csv_error] =
        run({QStringLiteral("--laps"), QStringLiteral("2:4"), QStringLiteral("--channels"),
             QStringLiteral("speed+gear,throttle"), QStringLiteral("--out"), name("plot.csv")});
    ASSERT_EQ(csv_code, 0) << csv_error.toStdString();
    EXPECT_EQ(text_of(folder_.path() / "plot.csv").substr(0, 56),
              "Distance [m],A Speed [km/h],A Gear,A Throttle [%]\n0.0,21");
    // Nothing else happens in the library: a folder that the window would watch is left alone.
    {
        auto library = test::got(Library::open(folder_.path()));
        std::filesystem::create_directories(folder_.path() / "watched");
        std::filesystem::copy_file(folder_.path() / "demo-files/saturday-run-3-phone.gpx",
                                   folder_.path() / "watched/new.gpx");
        ASSERT_TRUE(library->set_setting("watched_folder", (folder_.path() / "watched").string()));
    }
    const auto runs_before = test::got(window_->workspace().library().runs()).size();
    ASSERT_EQ(
        std::get<0>(run({QStringLiteral("--laps"), QStringLiteral("2:4"), QStringLiteral("--out"), name("plot.svg")})),
        0);
    EXPECT_EQ(test::got(window_->workspace().library().runs()).size(), runs_before);
    for (const QStringList& wrong :
         {QStringList{},
          {QStringLiteral("--laps"), QStringLiteral("2:4")},
          {QStringLiteral("--laps"), QStringLiteral("9:1"), QStringLiteral("--out"), name("x.png")},
          {QStringLiteral("--laps"), QStringLiteral("2:4"), QStringLiteral("--page"), QStringLiteral("No such"),
           QStringLiteral("--out"), name("x.png")},
          {QStringLiteral("--laps"), QStringLiteral("2:4"), QStringLiteral("--range"), QStringLiteral("5-1"),
           QStringLiteral("--out"), name("x.png")},
          {QStringLiteral("--laps"), QStringLiteral("2:4"), QStringLiteral("--out"), name("x.gif")}}) {
        const auto [bad_code, bad_out, bad_error] = run(wrong);
        EXPECT_EQ(bad_code, 1) << wrong.join(u' ').toStdString();
        EXPECT_TRUE(bad_error.contains(QStringLiteral("rendak plot: "))) << bad_error.toStdString();
        EXPECT_FALSE(std::filesystem::exists(folder_.path() / "x.png"));
    }
}

}  // namespace
}  // namespace rendak::app
