#include "app/plot/trace_raster.h"

#include <algorithm>
#include <atomic>
#include <barrier>
#include <cmath>
#include <limits>
#include <thread>

#include "core/base/wide_registers.h"
#include "core/signal/low_high.h"
#include "core/signal/overview.h"

namespace rendak::app {
namespace {

constexpr float nothing = std::numeric_limits<float>::infinity();

/// under + (colour − under) · alpha, alpha 0 … 256.
inline QRgb blended(QRgb under, QRgb colour, unsigned alpha) {
    const unsigned keep = 256 - alpha;
    const unsigned rb = (((under & 0xff00ffU) * keep + (colour & 0xff00ffU) * alpha) >> 8) & 0xff00ffU;
    const unsigned g = (((under & 0x00ff00U) * keep + (colour & 0x00ff00U) * alpha) >> 8) & 0x00ff00U;
    return 0xff000000U | rb | g;
}

/// One pixel column of the image between two fractional rows: soft ends, solid middle.
class ColumnPainter {
  public:
    ColumnPainter(const TraceRaster::Pixels& pixels, QRgb colour)
        : bits_(pixels.bits + pixels.area.left() * 4),
          stride_(pixels.stride),
          top_(static_cast<float>(pixels.area.top())),
          bottom_(static_cast<float>(pixels.area.bottom() + 1)),
          colour_(colour) {}

    void line(int column, float from, float to) const {
        from = std::max(from, top_);
        to = std::min(to, bottom_);
        if (!(to > from)) return;
        const int first = static_cast<int>(from), last = static_cast<int>(to);
        uchar* at = bits_ + first * stride_ + column * 4;
        if (first == last) {
            blend(at, to - from);
            return;
        }
        blend(at, static_cast<float>(first + 1) - from);
        at += stride_;
        for (int row = first + 1; row < last; ++row, at += stride_) *reinterpret_cast<QRgb*>(at) = colour_;
        const float rest = to - static_cast<float>(last);
        if (rest > 0) blend(at, rest);
    }

    /// The same everywhere: for the sides of steep lines.
    void veil(int column, float from, float to, unsigned alpha) const {
        const int first = static_cast<int>(std::max(from, top_) + 0.5F),
                  last = static_cast<int>(std::min(to, bottom_) + 0.5F);
        uchar* at = bits_ + first * stride_ + column * 4;
        for (int row = first; row < last; ++row, at += stride_) {
            auto& pixel = *reinterpret_cast<QRgb*>(at);
            pixel = blended(pixel, colour_, alpha);
        }
    }

  private:
    void blend(uchar* at, float covered) const {
        auto& pixel = *reinterpret_cast<QRgb*>(at);
        pixel = blended(pixel, colour_, static_cast<unsigned>(covered * 256.0F));
    }
    uchar* bits_;
    qsizetype stride_;
    float top_, bottom_;
    QRgb colour_;
};

}  // namespace

bool has_ink(LinePattern pattern, int pixel) {
    switch (pattern) {
        case LinePattern::solid:
            return true;
        case LinePattern::dashed:
            return pixel % 13 < 9;
        case LinePattern::dotted:
            return pixel % 6 < 3;
        case LinePattern::dash_dot:
            return pixel % 18 < 9 || (pixel % 18 >= 12 && pixel % 18 < 15);
    }
    return true;
}

void TraceRaster::join(float xa, float ya, float xb, float yb) {
    // A straight piece from (xa, ya) to (xb, yb): every column it passes gets its entry and its exit.
    const int width = width_;
    const int first = static_cast<int>(std::floor(xa)), last = static_cast<int>(std::floor(xb));
    if (first == last || last < 0 || first >= width) return;
    const float slope = (yb - ya) / (xb - xa);
    for (int c = std::max(first, -1); c < std::min(last, width); ++c) {
        const float border = ya + slope * (static_cast<float>(c + 1) - xa);
        if (c >= 0) include(c, border);
        if (c + 1 < width) include(c + 1, border);
    }
}

void TraceRaster::gather_dense(const Trace& trace, const Mapping& to, std::size_t begin, std::size_t end) {
    const float* const xs = trace.x.data();
    const float* const ys = trace.y.data();
    const auto width = static_cast<std::size_t>(width_);
    const float column_m = 1 / to.x_scale;
    const std::size_t usual = std::max<std::size_t>(1, (end - begin) / width);
    std::size_t i = begin;
    for (std::size_t c = 0; c < width && i < end; ++c) {
        // The first sample behind this column: near the usual number of samples further on.
        const float column_end = (static_cast<float>(c + 1) - to.x_zero) * column_m;
        std::size_t j = std::min(i + usual, end);
        while (j > i && xs[j - 1] >= column_end) --j;
        while (j < end && xs[j] < column_end) ++j;
        if (j == i) continue;
        float low = nothing, high = -nothing;
        low_high(ys + i, ys + j, low, high);
        Column& column = columns_[c];
        if (low <= high) {
            const float a = low * to.y_scale + to.y_zero, b = high * to.y_scale + to.y_zero;
            column.low = std::min(column.low, std::min(a, b));
            column.high = std::max(column.high, std::max(a, b));
        }
        if (j < end) {
            const float ya = ys[j - 1] * to.y_scale + to.y_zero, yb = ys[j] * to.y_scale + to.y_zero;
            if (ya == ya && yb == yb) {
                if (trace.is_state) {
                    if (c + 1 < width) include(static_cast<int>(c) + 1, ya);
                } else {
                    const float xa = xs[j - 1] * to.x_scale + to.x_zero, xb = xs[j] * to.x_scale + to.x_zero;
                    const auto border_x = static_cast<float>(c + 1);
                    if (xb < border_x + 1 && c + 1 < width) {  // the usual case: the very next column
                        const float border = ya + (yb - ya) * (border_x - xa) / (xb - xa);
                        column.low = std::min(column.low, border);
                        column.high = std::max(column.high, border);
                        columns_[c + 1] = {border, border};
                    } else {
                        join(std::max(xa, static_cast<float>(c)), ya, xb, yb);
                    }
                }
            }
        }
        i = j;
    }
}

void TraceRaster::gather_sparse(const Trace& trace, const Mapping& to, std::size_t begin, std::size_t end) {
    const int width = width_;
    bool has_last = false;
    float last_x = 0, last_y = 0;
    for (std::size_t i = begin > 0 ? begin - 1 : 0; i < end; ++i) {
        const float y = trace.y[i] * to.y_scale + to.y_zero, x = trace.x[i] * to.x_scale + to.x_zero;
        if (y != y) {
            has_last = false;
            continue;
        }
        const int column = static_cast<int>(std::floor(std::clamp(x, -2.0F, static_cast<float>(width + 1))));
        if (has_last) {
            const bool steps = trace.is_state && last_y != y;
            join(last_x, last_y, x, steps ? last_y : y);
            if (steps && column >= 0 && column < width) include(column, last_y);
        }
        if (column >= 0 && column < width) include(column, y);
        last_x = x;
        last_y = y;
        has_last = true;
    }
}

/// A whole recording: column by column from the stored overview, the samples themselves only where few are in view.
/// Times stay double: at 24 h a float's seconds step by 8 ms.
void TraceRaster::gather_whole(const DrawnLane& lane, const DrawnTrace& drawn, const QRect& area) {
    const Trace& trace = *drawn.trace;
    const Channel& channel = *trace.whole;
    const double x_per_value = (lane.x.last - lane.x.first) / lane.x.values.length();
    const double y_per_value = (lane.y.last - lane.y.first) / lane.y.values.length();
    const auto y_scale = static_cast<float>(drawn.factor * y_per_value),
               y_zero = static_cast<float>(lane.y.first + (drawn.offset - lane.y.values.begin) * y_per_value);
    const auto time_of = [&](double column) {
        return trace.whole_start_s + lane.x.values.begin + (area.left() + column - lane.x.first) / x_per_value;
    };
    const std::size_t begin = channel.clock.first_at_or_after(time_of(0)),
                      end = std::min(channel.clock.first_at_or_after(time_of(width_)) + 1, channel.size());
    if (begin >= end) return;
    if (end - begin < 3 * static_cast<std::size_t>(width_)) {
        Trace near;
        near.is_state = trace.is_state;
        const double origin = time_of(0);
        for (std::size_t i = begin > 0 ? begin - 1 : 0; i < end; ++i) {
            near.x.push_back(static_cast<float>(channel.clock.time_at(i) - origin));
            near.y.push_back(static_cast<float>(channel.at(i)));
        }
        return gather_sparse(near, {static_cast<float>(x_per_value), 0, y_scale, y_zero}, 0, near.x.size());
    }
    std::size_t i = begin;
    for (int c = 0; c < width_ && i < end; ++c) {
        const std::size_t j = std::clamp(channel.clock.first_at_or_after(time_of(c + 1)), i, end);
        if (j == i) continue;
        const MinMax samples = min_max(channel, i, j);
        if (!samples.empty()) {
            const float a = samples.low * y_scale + y_zero, b = samples.high * y_scale + y_zero;
            include(c, std::min(a, b));
            include(c, std::max(a, b));
        }
        if (j < end) {
            const float ya = static_cast<float>(channel.at(j - 1)) * y_scale + y_zero,
                        yb = static_cast<float>(channel.at(j)) * y_scale + y_zero;
            const double xa = (channel.clock.time_at(j - 1) - time_of(0)) * x_per_value,
                         xb = (channel.clock.time_at(j) - time_of(0)) * x_per_value;
            if (ya == ya && yb == yb)
                join(static_cast<float>(xa), ya, static_cast<float>(xb), trace.is_state ? ya : yb);
        }
        i = j;
    }
}

void TraceRaster::gather(const DrawnLane& lane, const DrawnTrace& drawn, const QRect& area) {
    const Trace& trace = *drawn.trace;
    if (trace.whole != nullptr) return gather_whole(lane, drawn, area);
    if (trace.x.size() < 2) return;
    const double x_per_value = (lane.x.last - lane.x.first) / lane.x.values.length();
    const double y_per_value = (lane.y.last - lane.y.first) / lane.y.values.length();
    const Mapping to{
        static_cast<float>(x_per_value),
        static_cast<float>(lane.x.first - (lane.x.values.begin - drawn.x_shift) * x_per_value - area.left()),
        static_cast<float>(drawn.factor * y_per_value),
        static_cast<float>(lane.y.first + (drawn.offset - lane.y.values.begin) * y_per_value)};
    const std::size_t begin = trace.first_at(lane.x.values.begin - drawn.x_shift);
    const std::size_t end = std::min(trace.first_at(lane.x.values.end - drawn.x_shift) + 1, trace.x.size());
    if (end > begin && end - begin >= 3 * static_cast<std::size_t>(width_))
        gather_dense(trace, to, begin, end);
    else
        gather_sparse(trace, to, begin, end);
}

void TraceRaster::gather(const DrawnLane& lane, const QRect& image) {
    const QRect area = lane.area.intersected(image);
    width_ = std::max(0, area.width());
    const auto width = static_cast<std::size_t>(width_);
    all_columns_.assign(width * lane.traces.size(), {nothing, -nothing});
    if (area.isEmpty()) return;
    for (std::size_t k = 0; k < lane.traces.size(); ++k) {
        columns_ = all_columns_.data() + k * width;
        gather(lane, lane.traces[k], area);
    }
}

void TraceRaster::draw(Pixels pixels, const DrawnLane& lane) const {
    pixels.area = lane.area.intersected(pixels.area);
    if (pixels.area.isEmpty() || lane.traces.empty()) return;
    const auto width = static_cast<std::size_t>(width_);
    // Sixteen columns are a cache line wide: all traces are painted there before moving on.
    constexpr int tile = 16;
    const auto half = static_cast<float>(lane.width_px / 2);
    const auto side_alpha = static_cast<unsigned>(256 * std::clamp(half - 0.5F, 0.0F, 1.0F));
    for (int from = 0; from < width_; from += tile) {
        // Pixels lie a row apart, a pattern that the processor does not foresee: ask for the next tile now.
        if (from + tile < width_) {
            const uchar* ahead =
                pixels.bits + pixels.area.top() * pixels.stride + (pixels.area.left() + from + tile) * 4;
            for (int row = 0; row < pixels.area.height(); ++row, ahead += pixels.stride) __builtin_prefetch(ahead, 1);
        }
        for (std::size_t k = 0; k < lane.traces.size(); ++k) {
            const Column* const columns = all_columns_.data() + k * width;
            const ColumnPainter painter(pixels, lane.traces[k].colour);
            for (int column = from; column < std::min(from + tile, width_); ++column) {
                const Column& c = columns[column];
                if (c.empty()) continue;
                const DrawnTrace& drawn = lane.traces[k];
                // A piece that rises over many rows in one column has no gaps: it would be gone as a whole.
                if (drawn.pattern != LinePattern::solid && c.high - c.low < 6 * half &&
                    !has_ink(drawn.pattern, static_cast<int>(column / drawn.pattern_scale)))
                    continue;
                // A sloping line of width w covers w·√(1 + m²) of a column; m of it lies between its two ends already.
                const float rise = c.high - c.low, m = std::min(rise, 4.0F);
                const float extra = std::max(half * 0.9F, half * std::sqrt(1 + m * m) - m / 2);
                painter.line(column, c.low - extra, c.high + extra);
                if (rise < 12 || side_alpha == 0) continue;
                // An upright line is as wide as a flat one: its sides reach into the neighbours, where these leave
                // room.
                for (const int n : {column - 1, column + 1}) {
                    if (n < 0 || n >= width_) continue;
                    const Column& other = columns[n];
                    if (other.empty()) {
                        painter.veil(n, c.low, c.high, side_alpha);
                        continue;
                    }
                    if (other.low - half > c.low)
                        painter.veil(n, c.low, std::min(c.high, other.low - half), side_alpha);
                    if (other.high + half < c.high)
                        painter.veil(n, std::max(c.low, other.high + half), c.high, side_alpha);
                }
            }
        }
    }
}

void draw_lanes(QImage& image, std::span<const DrawnLane> lanes, unsigned threads, const AroundLanes& around) {
    const TraceRaster::Pixels pixels{image.bits(), image.bytesPerLine(), image.rect()};
    std::size_t points = 0;
    for (const DrawnLane& lane : lanes) {
        for (const DrawnTrace& drawn : lane.traces) points += drawn.trace->x.size();
    }
    if (threads == 0) threads = std::clamp(std::thread::hardware_concurrency(), 1U, 4U);
    // A thread is worth its start only for a good deal of points.
    threads = std::min<unsigned>(threads, 1 + static_cast<unsigned>(points / 60'000));
    // The columns of a large picture are megabytes: fresh memory for them costs more than to fill it.
    static thread_local std::vector<TraceRaster> kept;
    if (kept.size() < lanes.size()) kept.resize(lanes.size());
    const std::span<TraceRaster> rasters = kept;
    std::atomic<std::size_t> next_gathered{0}, next_drawn{0};
    std::barrier all_gathered(static_cast<std::ptrdiff_t>(threads));
    // A lane's pixels stay beside the processor from its ground to its last curve.
    const auto work = [&] {
        clear_wide_registers();
        for (std::size_t i = next_gathered++; i < lanes.size(); i = next_gathered++)
            rasters[i].gather(lanes[i], pixels.area);
        all_gathered.arrive_and_wait();
        for (std::size_t i = next_drawn++; i < lanes.size(); i = next_drawn++) {
            if (around.beneath) around.beneath(i);
            clear_wide_registers();
            rasters[i].draw(pixels, lanes[i]);
        }
    };
    std::vector<std::jthread> helpers;
    for (unsigned k = 1; k < threads; ++k) helpers.emplace_back(work);
    try {
        if (around.beside) around.beside();
    } catch (...) {
        all_gathered.arrive_and_drop();  // nobody waits for this thread
        throw;
    }
    work();
}

}  // namespace rendak::app
