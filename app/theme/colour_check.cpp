// Whether a chosen colour can be seen, and be told from others, on both grounds and by most eyes.
#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr double least_contrast = 3, least_difference = 10;

double linear(double v) {
    return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4);
}

double coded(double v) {
    v = std::clamp(v, 0.0, 1.0);
    return v <= 0.0031308 ? 12.92 * v : 1.055 * std::pow(v, 1 / 2.4) - 0.055;
}

std::array<double, 3> lab(const QColor& colour) {
    const double r = linear(colour.redF()), g = linear(colour.greenF()), b = linear(colour.blueF());
    const auto f = [](double t) { return t > 0.008856 ? std::cbrt(t) : 7.787 * t + 16.0 / 116; };
    const double x = f((0.4124 * r + 0.3576 * g + 0.1805 * b) / 0.9505), y = f(0.2126 * r + 0.7152 * g + 0.0722 * b),
                 z = f((0.0193 * r + 0.1192 * g + 0.9505 * b) / 1.089);
    return {116 * y - 16, 500 * (x - y), 200 * (y - z)};
}

}  // namespace

/// Projection in linear RGB, after Viénot, Brettel & Mollon (1999) for the two red-green kinds; for the rare blue one
/// after Brettel, Viénot & Mollon (1997), one half plane.
QColor as_seen(const QColor& colour, Sight sight) {
    const double r = linear(colour.redF()), g = linear(colour.greenF()), b = linear(colour.blueF());
    static constexpr double no_red[9] = {0.11238, 0.88762, 0, 0.11238, 0.88762, 0, 0.00401, -0.00401, 1};
    static constexpr double no_green[9] = {0.29275, 0.70725, 0, 0.29275, 0.70725, 0, -0.02234, 0.02234, 1};
    static constexpr double no_blue[9] = {1.01277, 0.13548, -0.14826, -0.01243, 0.86812,
                                          0.14431, 0.07589, 0.805,    0.11911};
    if (sight == Sight::usual) return colour;
    const double* m = sight == Sight::no_red ? no_red : sight == Sight::no_green ? no_green : no_blue;
    return QColor::fromRgbF(static_cast<float>(coded(m[0] * r + m[1] * g + m[2] * b)),
                            static_cast<float>(coded(m[3] * r + m[4] * g + m[5] * b)),
                            static_cast<float>(coded(m[6] * r + m[7] * g + m[8] * b)));
}

double colour_difference(const QColor& a, const QColor& b) {
    const auto x = lab(a), y = lab(b);
    return std::hypot(x[0] - y[0], x[1] - y[1], x[2] - y[2]);
}

ColourFault colour_fault(const QColor& colour, const std::vector<QColor>& others) {
    for (const Theme* it : {&light_theme(), &garage_theme()}) {
        if (contrast(colour, it->panel) < least_contrast) return ColourFault::not_seen;
    }
    for (const QColor& other : others) {
        for (const Sight sight : {Sight::usual, Sight::no_red, Sight::no_green, Sight::no_blue}) {
            if (colour_difference(as_seen(colour, sight), as_seen(other, sight)) < least_difference)
                return ColourFault::like_another;
        }
    }
    return ColourFault::none;
}

QColor nearest_that_works(const QColor& wished, const std::vector<QColor>& others) {
    if (colour_fault(wished, others) == ColourFault::none) return wished;
    float hue = 0, saturation = 0, lightness = 0;
    wished.getHslF(&hue, &saturation, &lightness);
    hue = std::max(0.0F, hue);
    QColor best = wished;
    double nearest = std::numeric_limits<double>::infinity();
    for (int turn = -18; turn <= 18; ++turn) {
        for (int level = 2; level <= 38; ++level) {
            for (const float rich : {saturation, std::max(0.25F, saturation * 0.7F), 0.9F}) {
                const float turned = std::fmod(hue + 1 + static_cast<float>(turn) / 36, 1.0F);
                const QColor tried = QColor::fromHslF(turned, rich, static_cast<float>(level) / 40);
                const double away = colour_difference(tried, wished);
                if (away >= nearest || colour_fault(tried, others) != ColourFault::none) continue;
                nearest = away;
                best = tried;
            }
        }
    }
    return best;
}

}  // namespace rendak::app
