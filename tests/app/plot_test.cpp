#include <gtest/gtest.h>

#include <QImage>
#include <QPainter>
#include <QSignalSpy>
#include <QTest>
#include <cmath>
#include <stdexcept>

#include "app/plot/plot_frame.h"
#include "app/plot/scale.h"
#include "app/plot/ticks.h"
#include "app/plot/trace_picture.h"
#include "app/plot/trace_raster.h"
#include "app/theme/theme.h"
#include "core/signal/overview.h"

using namespace rendak;
using namespace rendak::app;

namespace {

constexpr QRgb ground = 0xffffffff, ink = 0xff000000;

void draw(QImage& image, const Trace& trace, Interval x, QRect area, double width_px = 1.6) {
    const DrawnLane lane{area, {x, 0, 200}, {{0, 100}, 100, 0}, width_px, {{&trace, ink}}};
    draw_lanes(image, std::span(&lane, 1));
}

/// Draws a trace of points into a picture of 200 × 100 whose pixels are its coordinates (y upwards from the bottom).
QImage drawn(const Trace& trace, double width_px = 1.6) {
    QImage image(200, 100, QImage::Format_RGB32);
    image.fill(ground);
    draw(image, trace, {0, 200}, image.rect(), width_px);
    return image;
}

Trace trace(std::vector<float> x, std::vector<float> y, bool state = false) {
    Trace out;
    out.x = std::move(x);
    out.y = std::move(y);
    out.is_state = state;
    return out;
}

/// Ink in a column, in whole pixels.
double ink_in_column(const QImage& image, int column, int from = 0, int to = 99) {
    double sum = 0;
    for (int row = from; row <= to; ++row) sum += (255 - qRed(image.pixel(column, row))) / 255.0;
    return sum;
}

double middle_of_column(const QImage& image, int column) {
    double sum = 0, weight = 0;
    for (int row = 0; row < 100; ++row) {
        const double w = 255 - qRed(image.pixel(column, row));
        sum += w * (row + 0.5);
        weight += w;
    }
    return sum / weight;
}

}  // namespace

TEST(Ticks, RoundValuesInsideTheInterval) {
    const struct {
        Interval interval;
        int most;
        std::vector<double> expected;
    } rows[] = {{{0, 100}, 5, {0, 20, 40, 60, 80, 100}},
                {{-0.3, 0.55}, 4, {0, 0.5}},
                {{13, 14}, 10, {13, 13.1, 13.2, 13.3, 13.4, 13.5, 13.6, 13.7, 13.8, 13.9, 14}},
                {{5, 5}, 3, {}}};
    for (const auto& row : rows) {
        const Ticks ticks = ticks_for(row.interval, row.most);
        ASSERT_EQ(ticks.values.size(), row.expected.size()) << row.interval.begin;
        for (std::size_t i = 0; i < ticks.values.size(); ++i) EXPECT_NEAR(ticks.values[i], row.expected[i], 1e-9);
    }
    EXPECT_EQ(ticks_for({0, 1}, 5).decimals, 1);
    EXPECT_EQ(ticks_for({0, 5000}, 5).decimals, 0);
}

TEST(Ticks, MarginIsNeverEmpty) {
    for (const Interval i : {Interval{0, 0}, {5, 5}, {-3, 7}}) {
        EXPECT_LT(with_margin(i).begin, i.begin);
        EXPECT_GT(with_margin(i).end, i.end);
    }
}

TEST(Scale, ThereAndBack) {
    const Scale up{{10, 20}, 300, 100};
    EXPECT_EQ(up.to_pixel(10), 300);
    EXPECT_EQ(up.to_pixel(20), 100);
    EXPECT_DOUBLE_EQ(up.to_value(up.to_pixel(13.7)), 13.7);
}

TEST(Raster, AFlatLineHasItsWidthAndPlace) {
    const QImage image = drawn(trace({0, 200}, {50.3F, 50.3F}));
    for (const int column : {5, 100, 190}) {
        EXPECT_NEAR(ink_in_column(image, column), 1.6, 0.05);
        EXPECT_NEAR(middle_of_column(image, column), 100 - 50.3, 0.08);
    }
}

TEST(Raster, SlopesKeepTheirWidth) {
    const QImage image = drawn(trace({0, 100}, {0, 100}));
    // A line of 45 degrees covers width · √2 of a column.
    for (const int column : {20, 50, 80}) {
        EXPECT_NEAR(ink_in_column(image, column), 1.6 * std::sqrt(2.0), 0.35);
        EXPECT_NEAR(middle_of_column(image, column), 100 - column - 0.5, 0.1);
    }
}

TEST(Raster, AStepIsAsWideAsALineAndFullHeight) {
    const QImage image = drawn(trace({0, 99.6F, 100.4F, 200}, {20, 20, 80, 80}));
    double ink_in_row = 0;
    for (int column = 90; column < 110; ++column) ink_in_row += (255 - qRed(image.pixel(column, 50))) / 255.0;
    EXPECT_GT(ink_in_row, 1.2);
    EXPECT_LT(ink_in_row, 3.1);
}

TEST(Raster, StatesStepInsteadOfSloping) {
    const QImage state = drawn(trace({0, 100, 200}, {20, 80, 80}, true));
    EXPECT_NEAR(middle_of_column(state, 60), 80, 0.1) << "holds the value until the next sample";
    const QImage slope = drawn(trace({0, 100, 200}, {20, 80, 80}));
    EXPECT_NEAR(middle_of_column(slope, 50), 100 - 50.3, 1);
}

TEST(Raster, MissingSamplesBreakTheLine) {
    const float nothing = std::nanf("");
    const QImage image = drawn(trace({0, 50, 60, 140, 150, 200}, {50, 50, nothing, nothing, 50, 50}));
    EXPECT_GT(ink_in_column(image, 25), 1);
    EXPECT_EQ(ink_in_column(image, 100), 0);
    EXPECT_GT(ink_in_column(image, 175), 1);
}

TEST(Raster, ManySamplesInAColumnShowTheirExtremes) {
    // One spike of one sample among 100 000 must be seen.
    Trace dense;
    for (int i = 0; i < 100'000; ++i) {
        dense.x.push_back(static_cast<float>(i) * 0.002F);
        dense.y.push_back(i == 50'123 ? 95.0F : 30.0F);
    }
    const QImage image = drawn(dense);
    EXPECT_GT(ink_in_column(image, 100, 4, 60), 50);
    EXPECT_LT(ink_in_column(image, 130, 4, 60), 0.1);
}

TEST(Raster, ZoomedInTheLineRunsThroughTheView) {
    QImage image(200, 100, QImage::Format_RGB32);
    image.fill(ground);
    draw(image, trace({0, 1000}, {0, 100}), {480, 520}, image.rect());
    for (const int column : {0, 100, 199})
        EXPECT_NEAR(ink_in_column(image, column), 1.6, 0.15) << "no sample lies in view, the line does";
}

TEST(Raster, NothingIsDrawnOutsideTheArea) {
    QImage image(200, 100, QImage::Format_RGB32);
    image.fill(ground);
    const QRect area(50, 20, 80, 40);
    draw(image, trace({0, 60, 120, 200}, {0, 300, -300, 100}), {0, 200}, area);
    for (int y = 0; y < 100; ++y) {
        for (int x = 0; x < 200; ++x) {
            if (!area.contains(x, y)) ASSERT_EQ(image.pixel(x, y), ground) << x << " " << y;
        }
    }
}

TEST(Raster, DenseAndSparseWaysAgree) {
    // The same wave with many samples a column and with few: the pictures differ by a hair only.
    const auto wave = [](int points) {
        Trace out;
        for (int i = 0; i <= points; ++i) {
            out.x.push_back(200.0F * static_cast<float>(i) / static_cast<float>(points));
            out.y.push_back(50 + 30 * std::sin(out.x.back() * 0.2F));
        }
        return out;
    };
    const QImage dense = drawn(wave(4000)), sparse = drawn(wave(500));
    for (int column = 2; column < 198; ++column) {
        EXPECT_NEAR(ink_in_column(dense, column), ink_in_column(sparse, column), 0.6) << column;
        EXPECT_NEAR(middle_of_column(dense, column), middle_of_column(sparse, column), 0.45) << column;
    }
}

TEST(Raster, ThreadsDoNotChangeThePicture) {
    std::vector<Trace> traces(8);
    for (std::size_t k = 0; k < traces.size(); ++k) {
        for (int i = 0; i < 40'000; ++i) {
            traces[k].x.push_back(static_cast<float>(i) * 0.005F);
            traces[k].y.push_back(50 + 40 * std::sin(static_cast<float>(i) * 0.001F * static_cast<float>(k + 1)));
        }
    }
    std::vector<DrawnLane> lanes;
    for (int k = 0; k < 8; ++k) {
        const QRect area(0, k * 50, 200, 50);
        lanes.push_back({area,
                         {{0, 200}, 0, 200},
                         {{0, 100}, double(area.bottom()), double(area.top())},
                         1.6,
                         {{&traces[static_cast<std::size_t>(k)], ink}}});
    }
    QImage one(200, 400, QImage::Format_RGB32), four = one;
    one.fill(ground);
    four.fill(ground);
    draw_lanes(one, lanes, 1);
    draw_lanes(four, lanes, 4);
    EXPECT_EQ(one, four);
}

TEST(Raster, WhatFailsBesideTheLanesIsToldAndNobodyWaitsForIt) {
    Trace of;
    for (int i = 0; i <= 130'000; ++i) {
        of.x.push_back(static_cast<float>(0.0015 * i));
        of.y.push_back(static_cast<float>(i % 100));
    }
    QImage image(200, 100, QImage::Format_RGB32);
    const DrawnLane lane{image.rect(), {{0, 200}, 0, 200}, {{0, 100}, 100, 0}, 1.6, {{&of, ink}}};
    const auto fails = [] { throw std::runtime_error("no memory"); };
    EXPECT_THROW(draw_lanes(image, std::span(&lane, 1), 2, {fails, {}}), std::runtime_error);
    EXPECT_THROW(draw_lanes(image, std::span(&lane, 1), 1, {fails, {}}), std::runtime_error);
}

TEST(Raster, EmptyAndTinyTracesAreFine) {
    EXPECT_EQ(drawn(trace({}, {})).pixel(10, 10), ground);
    EXPECT_EQ(drawn(trace({5}, {50})).pixel(5, 50), ground);
    EXPECT_EQ(drawn(trace({-50, -10}, {50, 50})).pixel(0, 50), ground) << "all before the view";
}

namespace {

/// A day at 100 Hz, 5 … 15 with one sample of 60 at `spike_s`.
Trace day(double spike_s, double from_s) {
    static std::vector<std::vector<MinMax>> levels;
    ChannelStorage storage;
    storage.floats.resize(24 * 3600 * 100);
    for (std::size_t i = 0; i < storage.floats.size(); ++i)
        storage.floats[i] = 10 + 5 * static_cast<float>(std::sin(static_cast<double>(i) * 1e-4));
    storage.floats[static_cast<std::size_t>(spike_s * 100)] = 60;
    Channel channel = make_channel("Day", "", "", std::move(storage), 0, 100);
    levels = build_overview(channel.floats());
    for (const auto& level : levels) channel.overview.emplace_back(level);
    Trace out;
    out.whole = std::make_shared<const Channel>(std::move(channel));
    out.whole_start_s = from_s;
    return out;
}

int topmost_ink(const QImage& image, int column) {
    for (int row = 0; row < image.height(); ++row) {
        if (qRed(image.pixel(column, row)) < 128) return row;
    }
    return image.height();
}

/// One curve over an axis of its own: a plot that knows no laps.
class Alone : public PlotFrame {
  public:
    Alone() : PlotFrame(std::make_unique<OwnAxis>()) {
        own().set_limits({0, 100}, 1);
        resize(400, 120);
    }
    OwnAxis& own() { return static_cast<OwnAxis&>(axis()); }
    [[nodiscard]] QRect plot_area() const override { return TracePicture::plot_area(size()); }
    int cursors = 0;

  protected:
    void draw_picture(QImage& image) override {
        TracePicture picture;
        picture.x = x_scale().values;
        paint(picture, image, size());
    }
    void draw_cursor(QPainter&) override { ++cursors; }
};

}  // namespace

TEST(Raster, ADayIsDrawnFromItsOverviewAndLosesNoSpike) {
    const double start = 3600;
    const Trace whole = day(50'000, start);
    EXPECT_NEAR(whole.limits().end, 60, 1e-6);
    EXPECT_FALSE(whole.empty());
    QImage image(200, 100, QImage::Format_RGB32);
    image.fill(ground);
    draw(image, whole, {-start, 24 * 3600 - start}, image.rect());
    const int spike = static_cast<int>(50'000 / (24 * 3600.0) * 200);
    EXPECT_NEAR(topmost_ink(image, spike), 40, 2) << "value 60 of 0 … 100";
    EXPECT_GT(topmost_ink(image, spike - 3), 80);
    EXPECT_GT(topmost_ink(image, spike + 3), 80);
    // Close by, at the end of the day, single samples stand at their times: floats would step by 8 ms there.
    const double near = 23.9 * 3600;
    const Trace late = day(near, start);
    image.fill(ground);
    draw(image, late, {near - start - 0.05, near - start + 0.05}, image.rect());
    EXPECT_NEAR(topmost_ink(image, 100), 40, 3);
    EXPECT_GT(topmost_ink(image, 60), 60) << "20 ms away the line is half down at most";
    EXPECT_GT(topmost_ink(image, 140), 60);
}

TEST(PlotKit, APictureNeedsNoWidget) {
    const Trace curve = trace({0, 50, 100}, {0, 10, 0});
    TracePicture picture;
    picture.x = {0, 100};
    picture.x_caption = QStringLiteral("m");
    PlottedLane lane;
    lane.how.label = QStringLiteral("Height");
    lane.traces.push_back({&curve, theme().lap(1)});
    lane.values = fitted_values(lane);
    picture.lanes = {lane, lane};
    picture.lanes[1].message = QStringLiteral("nothing to see");
    const QSize size(400, 200);
    EXPECT_EQ(picture.separator_at(size, picture.lane_area(size, 0).bottom()), 0);
    EXPECT_EQ(picture.separator_at(size, 20), -1);
    for (const double ratio : {1.0, 2.0}) {
        QImage image((QSizeF(size) * ratio).toSize(), QImage::Format_RGB32);
        image.setDevicePixelRatio(ratio);
        image.fill(theme().panel.rgb());
        paint(picture, image, size);
        const auto curve_in = [&](std::size_t at) {
            const QRect area = picture.lane_area(size, at);
            int count = 0;
            for (int y = area.top(); y < area.bottom(); ++y) {
                for (int x = area.left(); x < area.right(); ++x)
                    count += image.pixelColor(int(x * ratio), int(y * ratio)) == theme().lap(1);
            }
            return count;
        };
        EXPECT_GT(curve_in(0), 100) << ratio;
        EXPECT_EQ(curve_in(1), 0) << "a lane with a message has no curve";
    }
}

TEST(PlotKit, AFrameWorksWithoutLaps) {
    Alone plot;
    plot.show();
    (void)plot.grab();
    const int before = plot.redraws();
    const QRect area = plot.plot_area();
    QTest::mouseClick(&plot, Qt::LeftButton, {}, area.center());
    EXPECT_NEAR(plot.own().cursor(), 50, 1) << "a click puts the cursor there";
    (void)plot.grab();
    EXPECT_EQ(plot.redraws(), before) << "and draws no picture";
    EXPECT_GT(plot.cursors, 0);
    plot.zoom(50, 0.5);
    EXPECT_NEAR(plot.own().view().length(), 50, 1e-9);
    EXPECT_NEAR(plot.own().view().begin, 25, 1e-9);
    (void)plot.grab();
    EXPECT_EQ(plot.redraws(), before + 1);
    plot.pan(10);
    EXPECT_EQ(plot.own().view().end, 100) << "never beyond what there is";
    plot.zoom(90, 0.0001);
    EXPECT_GE(plot.own().view().length(), 1) << "nor closer than makes sense";
    plot.show_all();
    EXPECT_EQ(plot.own().view(), (Interval{0, 100}));
    plot.zoom_back();
    EXPECT_LT(plot.own().view().length(), 2);
}

namespace {

/// A lane of one wavy trace over 200 pixels, with what is wanted of it.
TracePicture wavy(const Trace& of, double x_shift, double minus) {
    TracePicture out;
    PlottedLane lane;
    lane.how = {QStringLiteral("Wave"), QStringLiteral("V"), {}, 1, 0, 1, {}};
    lane.values = {-20, 120};
    lane.traces.push_back({&of, QColor(ink), 0, 0, minus, x_shift});
    out.lanes.push_back(lane);
    out.x = {0, 200};
    out.x_caption = QStringLiteral("m");
    return out;
}

/// Where the ink of the curve stands in a column of the plot; NaN where there is none.
double curve_at(const QImage& image, QRect area, int x) {
    double sum = 0, weight = 0;
    for (int y = area.top() + 2; y < area.bottom() - 2; ++y) {
        const double w = qGray(image.pixel(x, y)) < 90 ? 1 : 0;
        sum += w * y;
        weight += w;
    }
    return weight > 0 ? sum / weight : std::nan("");
}

}  // namespace

TEST(TracePictures, LinesAndPixelsAreTheSameCurveSlidAndTakenOff) {
    Trace of;
    for (int i = 0; i <= 200; ++i) {
        of.x.push_back(static_cast<float>(i));
        of.y.push_back(static_cast<float>(50 + 40 * std::sin(0.06 * i)));
    }
    const QSize size(420, 220);
    const auto painted = [&](const TracePicture& picture, bool as_lines) {
        QImage image(size, QImage::Format_RGB32);
        image.fill(theme().panel.rgb());
        if (as_lines) {
            QPainter painter(&image);
            paint_lines(picture, painter, size);
        } else {
            paint(picture, image, size);
        }
        return image;
    };
    for (const auto& [shift, minus] : {std::pair{0.0, 0.0}, {25.0, 0.0}, {-40.0, 10.0}}) {
        const TracePicture picture = wavy(of, shift, minus);
        const QImage pixels = painted(picture, false), lines = painted(picture, true);
        const QRect area = picture.lane_area(size, 0);
        const Scale x = picture.x_scale(size), y = picture.y_scale(size, 0);
        int compared = 0;
        for (int column = area.left() + 6; column < area.right() - 6; column += 9) {
            const double at = x.to_value(column + 0.5) - shift;
            if (at < 2 || at > 198) continue;
            const double expected = y.to_pixel(50 + 40 * std::sin(0.06 * at) - minus);
            EXPECT_NEAR(curve_at(pixels, area, column), expected, 2.5) << "pixels, slid by " << shift;
            EXPECT_NEAR(curve_at(lines, area, column), expected, 2.5) << "lines, slid by " << shift;
            ++compared;
        }
        EXPECT_GT(compared, 20);
        // What is slid out of the view leaves no ink there.
        if (shift > 0) EXPECT_TRUE(std::isnan(curve_at(pixels, area, area.left() + 8)));
    }
}

TEST(TracePictures, EveryPixelIsPaintedWhateverTheSizeAndTheScaleOfTheScreen) {
    Trace of;
    for (int i = 0; i <= 40'000; ++i) {
        of.x.push_back(static_cast<float>(0.005 * i));
        of.y.push_back(static_cast<float>(50 + 40 * std::sin(0.0003 * i)));
    }
    TracePicture picture = wavy(of, 0, 0);
    picture.lanes.push_back(picture.lanes.front());
    picture.lanes[1].weight = 0.7;
    picture.lanes[1].message = QStringLiteral("This lap has none.");
    picture.lanes.push_back(picture.lanes.front());
    picture.lanes[2].veil = &of;
    picture.lanes[2].veil_text = QStringLiteral("lost");
    picture.marks = {{30, QStringLiteral("mark")}, {500, QStringLiteral("out of view")}};
    picture.remarks = QStringList{QStringLiteral("slid by 3 m")};
    picture.remark_colours = {QColor(Qt::darkGreen)};
    for (const double ratio : {1.0, 1.25, 1.5, 1.75, 2.0}) {
        for (const QSize size : {QSize(420, 220), {421, 223}, {640, 57}, {60, 200}, {130, 20}, {300, 1}}) {
            const auto painted = [&](const TracePicture& what, QRgb before) {
                QImage image((QSizeF(size) * ratio).toSize(), QImage::Format_RGB32);
                image.setDevicePixelRatio(ratio);
                image.fill(before);
                paint(what, image, size);
                return image;
            };
            // What stood there before shows nowhere.
            EXPECT_EQ(painted(picture, 0xff00ff00), painted(picture, 0xff800080))
                << ratio << ", " << size.width() << " × " << size.height();
            EXPECT_EQ(painted({}, 0xff00ff00), painted({}, 0xff800080)) << ratio;
        }
    }
    // Curves of many points are drawn by two threads, and as one would: the third lane looks like the first.
    picture.lanes[2].veil = nullptr;
    picture.marks.clear();
    picture.remarks.clear();
    QImage image(QSize(800, 630), QImage::Format_RGB32);
    paint(picture, image, image.size());
    const QRect first = picture.lane_area(image.size(), 0), third = picture.lane_area(image.size(), 2);
    ASSERT_EQ(first.height(), third.height());
    int differ = 0, inked = 0;
    for (int y = 0; y < first.height(); ++y) {
        for (int x = first.left(); x <= first.right(); ++x) {
            const int here = qGray(image.pixel(x, first.top() + y)), there = qGray(image.pixel(x, third.top() + y));
            inked += here < 90 ? 1 : 0;
            differ += std::abs(here - there) > 4 ? 1 : 0;  // rows are single numbers: soft edges differ by a hair
        }
    }
    EXPECT_EQ(differ, 0);
    EXPECT_GT(inked, 500);
}

TEST(TracePictures, AViewIsFittedToWhatIsSlidIntoIt) {
    Trace of;
    for (int i = 0; i <= 100; ++i) {
        of.x.push_back(static_cast<float>(i));
        of.y.push_back(static_cast<float>(i));
    }
    const TracePicture plain = wavy(of, 0, 0), slid = wavy(of, 30, 0);
    const Interval whole = fitted_values(plain.lanes[0], 0, Interval{40, 60}),
                   further = fitted_values(slid.lanes[0], 0, Interval{40, 60});
    EXPECT_LT(whole.begin, 40);
    EXPECT_GT(whole.end, 60);
    EXPECT_LT(further.begin, 10);
    EXPECT_GT(further.end, 30);
    EXPECT_LT(further.end, 40) << "what stands at 40 to 60 is what was at 10 to 30";
}

TEST(TracePictures, NumbersBelowAreInTheUnitThatIsAsked) {
    Trace of;
    of.x = {0, 200};
    of.y = {0, 100};
    const QSize size(640, 220);
    const auto grid_columns = [&](double unit) {
        TracePicture picture = wavy(of, 0, 0);
        picture.lanes[0].traces.clear();
        picture.x_unit = unit;
        QImage image(size, QImage::Format_RGB32);
        image.fill(theme().panel.rgb());
        paint(picture, image, size);
        const QRect area = picture.lane_area(size, 0);
        std::vector<int> out;
        for (int x = area.left() + 2; x < area.right() - 2; ++x) {
            int ink_here = 0;
            for (int y = area.top() + 4; y < area.bottom() - 4; ++y)
                ink_here += image.pixel(x, y) == theme().grid.rgb();
            if (ink_here > area.height() / 2) out.push_back(x);
        }
        return out;
    };
    const Scale x = wavy(of, 0, 0).x_scale(size);
    const auto metres = grid_columns(1), feet = grid_columns(0.3048);
    ASSERT_GE(metres.size(), 2U);
    ASSERT_GE(feet.size(), 2U);
    const auto is_round = [&](int column, double unit) {
        const double value = x.to_value(column) / unit;
        return std::abs(std::remainder(value, 10)) < 1.2 / unit;
    };
    for (const int column : metres) EXPECT_TRUE(is_round(column, 1)) << x.to_value(column);
    for (const int column : feet) EXPECT_TRUE(is_round(column, 0.3048)) << x.to_value(column) / 0.3048;
    EXPECT_NE(metres, feet);
}
