#include "app/plot/trace_raster.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace rendak::app {
namespace {

constexpr float none_low = std::numeric_limits<float>::infinity();

/// dst + (colour − dst) · alpha, alpha 0 … 256.
inline QRgb blended(QRgb under, QRgb colour, unsigned alpha) {
    const unsigned keep = 256 - alpha;
    const unsigned rb = (((under & 0xff00ffU) * keep + (colour & 0xff00ffU) * alpha) >> 8) & 0xff00ffU;
    const unsigned g = (((under & 0x00ff00U) * keep + (colour & 0x00ff00U) * alpha) >> 8) & 0x00ff00U;
    return 0xff000000U | rb | g;
}

}  // namespace

void TraceRaster::draw(QImage& image, const Trace& trace, const Scale& x, const Scale& y, const TraceStyle& style) {
    const QRect area = style.area.intersected(image.rect());
    const int width = area.width();
    if (width <= 0 || area.height() <= 0 || trace.x.size() < 2) return;
    const float left = static_cast<float>(area.left());
    const auto x_scale = static_cast<float>((x.last - x.first) / x.values.length());
    const auto x_zero = static_cast<float>(x.first - x.values.begin * (x.last - x.first) / x.values.length()) - left;
    const double y_per_value = (y.last - y.first) / y.values.length();
    const auto y_scale = static_cast<float>(style.factor * y_per_value);
    const auto y_zero = static_cast<float>(y.first + (style.offset - y.values.begin) * y_per_value);

    // ---- lowest and highest pixel of every column -------------------------------------------------
    columns_.assign(static_cast<std::size_t>(width), {none_low, -none_low});
    const auto include = [this](int column, float value) {
        Column& c = columns_[static_cast<std::size_t>(column)];
        c.low = value < c.low ? value : c.low;
        c.high = value > c.high ? value : c.high;
    };
    // A straight piece from (xa, ya) to (xb, yb): every column it passes gets its entry and its exit.
    const auto join = [&](float xa, float ya, float xb, float yb) {
        int ca = static_cast<int>(std::floor(xa));
        const int cb = static_cast<int>(std::floor(xb));
        if (ca == cb) return;
        if (cb < 0 || ca >= width) return;
        const float slope = (yb - ya) / (xb - xa);
        ca = std::max(ca, -1);
        for (int c = ca; c < std::min(cb, width); ++c) {
            const float border = ya + slope * (static_cast<float>(c + 1) - xa);
            if (c >= 0) include(c, border);
            if (c + 1 < width) include(c + 1, border);
        }
    };
    const std::size_t begin = trace.first_at(x.values.begin);
    const std::size_t end = std::min(trace.first_at(x.values.end) + 1, trace.x.size());
    std::size_t i = begin > 0 ? begin - 1 : 0;
    const float* const xs = trace.x.data();
    const float* const ys = trace.y.data();
    bool has_last = false;
    float last_x = 0, last_y = 0;
    while (i < end) {
        const float value = ys[i];
        if (std::isnan(value)) {
            has_last = false;
            ++i;
            continue;
        }
        const float px = xs[i] * x_scale + x_zero;
        const float py = value * y_scale + y_zero;
        const int column = static_cast<int>(std::floor(px));
        if (has_last) {
            if (trace.is_state && last_y != py) {
                join(last_x, last_y, px, last_y);
                if (column >= 0 && column < width) include(column, last_y);
            } else {
                join(last_x, last_y, px, py);
            }
        }
        if (column < 0 || column >= width) {
            last_x = px;
            last_y = py;
            has_last = true;
            ++i;
            continue;
        }
        // All samples of this column in one tight loop, without touching memory for each.
        float low = py, high = py, y_here = py, x_here = px;
        const float column_end = (static_cast<float>(column + 1) - x_zero) / x_scale;
        for (++i; i < end && xs[i] < column_end; ++i) {
            const float v = ys[i];
            if (!(v == v)) break;
            y_here = v * y_scale + y_zero;
            x_here = xs[i] * x_scale + x_zero;
            low = y_here < low ? y_here : low;
            high = y_here > high ? y_here : high;
        }
        Column& c = columns_[static_cast<std::size_t>(column)];
        c.low = low < c.low ? low : c.low;
        c.high = high > c.high ? high : c.high;
        last_x = std::max(x_here, static_cast<float>(column));
        last_y = y_here;
        has_last = true;
    }

    // ---- coverage ---------------------------------------------------------------------------------
    const QRgb colour = style.colour;
    const auto half = static_cast<float>(style.width_px / 2);
    const auto top = static_cast<float>(area.top()), bottom = static_cast<float>(area.bottom() + 1);
    uchar* const bits = image.bits();
    const auto stride = image.bytesPerLine();
    const auto paint = [&](int column, float from, float to, float strength) {
        from = std::max(from, top);
        to = std::min(to, bottom);
        if (!(to > from)) return;
        int row = static_cast<int>(from);
        const int last_row = std::min(static_cast<int>(to), area.bottom());
        auto* pixel = reinterpret_cast<QRgb*>(bits + row * stride) + area.left() + column;
        for (; row <= last_row; ++row) {
            const float covered = std::min(to, static_cast<float>(row + 1)) - std::max(from, static_cast<float>(row));
            const auto alpha = static_cast<unsigned>(covered * strength * 256.0F);
            if (alpha >= 250)
                *pixel = colour;
            else if (alpha > 0)
                *pixel = blended(*pixel, colour, alpha);
            pixel = reinterpret_cast<QRgb*>(reinterpret_cast<uchar*>(pixel) + stride);
        }
    };
    for (int column = 0; column < width; ++column) {
        const Column& c = columns_[static_cast<std::size_t>(column)];
        if (c.low > c.high) continue;
        // A sloping line of width w covers w·√(1 + m²) of a column; m of it lies between its two ends already.
        const float rise = c.high - c.low;
        const float covered = 2 * half * std::sqrt(1 + std::min(rise * rise, 9.0F));
        const float extra = std::max(half * 0.9F, (covered - std::min(rise, 3.0F)) / 2);
        paint(column, c.low - extra, c.high + extra, 1);
        // A steep line is as wide as a flat one: its sides reach into the neighbouring columns.
        if (rise > 2.5F) {
            const float side = std::clamp(half - 0.5F, 0.0F, 1.0F);
            const auto beside = [&](int n) {
                if (n < 0 || n >= width) return;
                const Column& other = columns_[static_cast<std::size_t>(n)];
                // Only where the neighbour's own line is not.
                if (other.low > other.high) {
                    paint(n, c.low, c.high, side);
                    return;
                }
                paint(n, c.low, std::min(c.high, other.low - half), side);
                paint(n, std::max(c.low, other.high + half), c.high, side);
            };
            beside(column - 1);
            beside(column + 1);
        }
    }
}

}  // namespace rendak::app
