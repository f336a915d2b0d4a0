#include "app/theme/theme.h"

#include <gtest/gtest.h>

#include <QApplication>
#include <QFontInfo>
#include <QFontMetrics>
#include <QImage>
#include <QPainter>
#include <QStyle>
#include <array>
#include <cmath>
#include <thread>

using namespace rendak::app;

TEST(Theme, DialogsCarryOurIconsOnEveryDesktop) {
    apply_theme(false);
    const QStyle& style = *QApplication::style();
    EXPECT_EQ(style.styleHint(QStyle::SH_DialogButtonBox_ButtonsHaveIcons), 1);
    const auto ink_of = [&](QStyle::StandardPixmap which) {
        const QImage image = style.standardIcon(which).pixmap(16, 16).toImage();
        int inked = 0;
        for (int y = 0; y < image.height(); ++y) {
            for (int x = 0; x < image.width(); ++x) inked += qAlpha(image.pixel(x, y)) > 100;
        }
        return inked;
    };
    const int tick = ink_of(QStyle::SP_DialogOkButton), cross = ink_of(QStyle::SP_DialogCancelButton);
    EXPECT_GT(tick, 10);
    EXPECT_GT(cross, 10);
    EXPECT_NE(tick, cross);
    EXPECT_EQ(ink_of(QStyle::SP_DialogApplyButton), tick);
}

namespace {

using Lab = std::array<double, 3>;

double linear(double v) {
    return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4);
}

/// CIE L*a*b* of a colour as a dichromat sees it: projection in linear RGB after Viénot, Brettel & Mollon (1999).
Lab seen(const QColor& colour, int kind) {
    const double r = linear(colour.redF()), g = linear(colour.greenF()), b = linear(colour.blueF());
    static constexpr double protan[9] = {0.11238, 0.88762, 0, 0.11238, 0.88762, 0, 0.00401, -0.00401, 1};
    static constexpr double deutan[9] = {0.29275, 0.70725, 0, 0.29275, 0.70725, 0, -0.02234, 0.02234, 1};
    static constexpr double normal[9] = {1, 0, 0, 0, 1, 0, 0, 0, 1};
    const double* m = kind == 1 ? protan : kind == 2 ? deutan : normal;
    const double R = m[0] * r + m[1] * g + m[2] * b, G = m[3] * r + m[4] * g + m[5] * b,
                 B = m[6] * r + m[7] * g + m[8] * b;
    const auto f = [](double t) { return t > 0.008856 ? std::cbrt(t) : 7.787 * t + 16.0 / 116; };
    const double x = f((0.4124 * R + 0.3576 * G + 0.1805 * B) / 0.9505), y = f(0.2126 * R + 0.7152 * G + 0.0722 * B),
                 z = f((0.0193 * R + 0.1192 * G + 0.9505 * B) / 1.089);
    return {116 * y - 16, 500 * (x - y), 200 * (y - z)};
}

double distance(const Lab& a, const Lab& b) {
    return std::hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
}

}  // namespace

TEST(Theme, TextReachesContrastAa) {
    for (const Theme* t : {&light_theme(), &garage_theme()}) {
        for (const QColor& ground : {t->paper, t->panel, t->range}) {
            EXPECT_GE(contrast(t->ink, ground), 4.5) << ground.name().toStdString();
            EXPECT_GE(contrast(t->mute, ground), 4.5) << ground.name().toStdString();
        }
        EXPECT_GE(contrast(t->on_rail, t->rail), 4.5);
        EXPECT_GE(contrast(t->on_rail_mute, t->rail), 4.5);
        EXPECT_GE(contrast(t->on_accent, t->accent), 4.5);
        EXPECT_GE(contrast(t->accent, t->panel), 4.5);
        EXPECT_GE(contrast(t->lost, t->panel), 4.0) << "always with a sign beside it";
        for (int slot = 0; slot < 8; ++slot) {
            EXPECT_GE(contrast(t->lap(slot), t->panel), 3.0) << "traces and letters of slot " << slot;
            EXPECT_GE(contrast(t->on_lap, t->lap(slot)), 3.0) << "large bold letter on its colour, slot " << slot;
        }
    }
}

TEST(Theme, LapColoursStayApartUnderColourBlindness) {
    for (const Theme* t : {&light_theme(), &garage_theme()}) {
        for (int kind = 0; kind < 3; ++kind) {
            for (int i = 0; i < 8; ++i) {
                for (int j = i + 1; j < 8; ++j) {
                    // Letters stand beside colours everywhere; the first four laps must be apart by colour alone.
                    const double least = i < 4 && j < 4 ? 12 : 5;
                    EXPECT_GT(distance(seen(t->lap(i), kind), seen(t->lap(j), kind)), least)
                        << "kind " << kind << ", slots " << i << " and " << j;
                }
            }
        }
    }
}

TEST(Theme, ShippedFontIsUsed) {
    EXPECT_EQ(QFontInfo(body_font()).family(), QStringLiteral("Noto Sans"));
    EXPECT_EQ(QFontInfo(body_font()).weight(), QFont::Normal);
    EXPECT_EQ(QFontInfo(number_font()).weight(), QFont::Bold);
    const QFontMetrics metrics(number_font());
    for (char16_t digit = u'0'; digit <= u'9'; ++digit)
        EXPECT_EQ(metrics.horizontalAdvance(QChar(digit)), metrics.horizontalAdvance(QLatin1Char('0')))
            << "figures are tabular";
}

TEST(Theme, RoundBracketsAreRoundAtSmallSizes) {
    // Ink by column: a round bracket's ends lie to the right of its middle, a square one's stem is all on the left.
    for (const QFont& font : {small_font(), body_font(), formula_font()}) {
        QImage image(24, 32, QImage::Format_Grayscale8);
        image.fill(255);
        QPainter painter(&image);
        painter.setFont(font);
        painter.drawText(QPoint(6, 22), QStringLiteral("("));
        painter.end();
        const auto middle_of_ink = [&](int row) {
            double sum = 0, weight = 0;
            for (int x = 0; x < image.width(); ++x) {
                const double ink = 255 - image.constScanLine(row)[x];
                sum += ink * x;
                weight += ink;
            }
            return weight > 60 ? sum / weight : -1;
        };
        std::vector<double> rows;
        for (int row = 0; row < image.height(); ++row) {
            if (const double at = middle_of_ink(row); at >= 0) rows.push_back(at);
        }
        ASSERT_GT(rows.size(), 7u);
        // The bow is gradual: the second row from either end is left of the end and right of the middle.
        const double middle = rows[rows.size() / 2];
        EXPECT_GT(rows.front(), middle + 0.7) << font.pixelSize();
        EXPECT_GT(rows.back(), middle + 0.7) << font.pixelSize();
        EXPECT_GT(rows[1], middle + 0.2) << font.pixelSize();
    }
}

TEST(Theme, PrintsAreInkOnWhiteWhateverTheWindowShows) {
    apply_theme(true);
    const QColor dark = theme().panel;
    {
        const OnWhitePaper printing;
        EXPECT_EQ(theme().panel, QColor(Qt::white));
        EXPECT_GT(contrast(theme().ink, theme().panel), 7);
        std::thread([&] { EXPECT_EQ(theme().panel, dark) << "the window goes on as it is"; }).join();
    }
    EXPECT_EQ(theme().panel, dark);
    apply_theme(false);
}

TEST(Theme, SlotLetters) {
    EXPECT_EQ(slot_letter(0), QStringLiteral("A"));
    EXPECT_EQ(slot_letter(7), QStringLiteral("H"));
}

TEST(Theme, PaintScalesCanBeReadUnderColourBlindness) {
    for (int kind = 0; kind < 3; ++kind) {
        double last = -1;
        for (double share = 0; share <= 1.001; share += 0.1) {
            const double lightness = seen(one_sided_scale(share), kind)[0];
            EXPECT_GT(lightness, last) << "more is lighter, kind " << kind << " at " << share;
            last = lightness;
        }
        // The two ends and the middle of the two-sided scale are far apart, and both sides darken from the middle.
        EXPECT_GT(distance(seen(two_sided_scale(0), kind), seen(two_sided_scale(1), kind)), 40) << kind;
        EXPECT_GT(distance(seen(two_sided_scale(0), kind), seen(two_sided_scale(0.5), kind)), 25) << kind;
        EXPECT_GT(distance(seen(two_sided_scale(1), kind), seen(two_sided_scale(0.5), kind)), 25) << kind;
    }
}
