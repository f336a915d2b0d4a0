#pragma once

#include <QImage>
#include <cstddef>
#include <functional>
#include <span>
#include <vector>

#include "app/plot/scale.h"
#include "core/laps/trace.h"

namespace rendak::app {

/// Tells channels of one lane apart without a colour. Gaps are counted along x.
enum class LinePattern { solid, dashed, dotted, dash_dot };
/// Whether a pattern has ink at a pixel, counted from the left edge of the plot.
[[nodiscard]] bool has_ink(LinePattern pattern, int pixel);

/// A trace to draw and how. Values are taken as factor · y + offset.
struct DrawnTrace {
    const Trace* trace = nullptr;
    QRgb colour = 0;
    double factor = 1, offset = 0;
    LinePattern pattern = LinePattern::solid;
    double pattern_scale = 1;  ///< pixels of the image per pixel of the pattern
    double x_shift = 0;        ///< by which it is drawn further right, in values of the axis; of curves with own points
};

/// The traces of one lane, the last one on top, in pixels of the image.
struct DrawnLane {
    QRect area;  ///< part of the image; nothing is drawn outside
    Scale x, y;
    double width_px = 1.6;
    std::vector<DrawnTrace> traces;
};

/// What else is painted into the image.
struct AroundLanes {
    std::function<void()> beside;  ///< by the caller's thread, while others look at the samples: no lane is drawn yet
    std::function<void(std::size_t lane)> beneath;  ///< by the thread that draws the lane next, its pixels at hand
};

/// Draws lanes that do not overlap, on all cores. The image must be opaque (Format_RGB32 or ARGB32_Premultiplied).
void draw_lanes(QImage& image, std::span<const DrawnLane> lanes, unsigned threads = 0, const AroundLanes& around = {});

/// Draws traces column by column: all samples of a pixel column become their lowest and highest value, joined to the
/// neighbours, with coverage for soft edges. Cost: one pass over the samples in view and a few pixels a column.
/// NaN breaks the line.
class TraceRaster {
  public:
    /// Where pixels go: the first row's first byte, and bytes from row to row.
    struct Pixels {
        uchar* bits;
        qsizetype stride;
        QRect area;
    };
    /// Looks at the samples of a lane in an image of this extent; touches no pixel.
    void gather(const DrawnLane& lane, const QRect& image);
    /// Draws what was gathered.
    void draw(Pixels pixels, const DrawnLane& lane) const;

  private:
    /// Lowest and highest of a pixel column; empty when low > high.
    struct Column {
        float low, high;
        [[nodiscard]] bool empty() const { return low > high; }
    };
    /// Position on the image's axes: pixel = value · scale + zero.
    struct Mapping {
        float x_scale, x_zero, y_scale, y_zero;
    };
    void gather(const DrawnLane& lane, const DrawnTrace& drawn, const QRect& area);
    void gather_whole(const DrawnLane& lane, const DrawnTrace& drawn, const QRect& area);
    void gather_dense(const Trace& trace, const Mapping& to, std::size_t begin, std::size_t end);
    void gather_sparse(const Trace& trace, const Mapping& to, std::size_t begin, std::size_t end);
    void join(float xa, float ya, float xb, float yb);
    void include(int column, float value) {
        Column& c = columns_[column];
        c.low = value < c.low ? value : c.low;
        c.high = value > c.high ? value : c.high;
    }
    int width_ = 0;
    Column* columns_ = nullptr;        // of the trace that is being gathered
    std::vector<Column> all_columns_;  // of all traces of the lane; reused from picture to picture
};

}  // namespace rendak::app
