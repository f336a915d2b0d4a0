#pragma once

#include <QImage>

#include "app/plot/scale.h"
#include "core/laps/trace.h"

namespace rendak::app {

/// How a trace is drawn into an image, in pixels of the image. Values are taken as factor · y + offset.
struct TraceStyle {
    QRgb colour = 0;
    double width_px = 1.6;
    double factor = 1, offset = 0;
    QRect area;  ///< part of the image; nothing is drawn outside
};

/// Draws traces column by column: all samples of a pixel column become their lowest and highest value, joined to the
/// neighbours, with coverage for soft edges. Cost: one pass over the samples in view and a few pixels a column.
/// NaN breaks the line. The image must be opaque (Format_RGB32 or ARGB32_Premultiplied).
class TraceRaster {
  public:
    void draw(QImage& image, const Trace& trace, const Scale& x, const Scale& y, const TraceStyle& style);

  private:
    struct Column {
        float low, high;
    };
    std::vector<Column> columns_;  // reused from trace to trace
};

}  // namespace rendak::app
