#pragma once

#include <QPointF>
#include <QSizeF>
#include <algorithm>
#include <cmath>

#include "core/track/geometry.h"

namespace rendak::app {

/// Where a plane lies on a widget: north up, metres to pixels.
struct MapPlacing {
    Point middle;  ///< of the widget
    double px_per_m = 1;

    [[nodiscard]] QPointF to_pixel(Point p, QSizeF widget) const {
        return {widget.width() / 2 + (p.x - middle.x) * px_per_m, widget.height() / 2 - (p.y - middle.y) * px_per_m};
    }
    [[nodiscard]] Point to_place(QPointF at, QSizeF widget) const {
        return {middle.x + (at.x() - widget.width() / 2) / px_per_m,
                middle.y - (at.y() - widget.height() / 2) / px_per_m};
    }
    /// Dragged by so many pixels.
    [[nodiscard]] MapPlacing moved(QPointF by) const {
        return {middle - Point{by.x() / px_per_m, -by.y() / px_per_m}, px_per_m};
    }
    /// Closer (> 1) about the widget's middle.
    [[nodiscard]] MapPlacing zoomed(double factor) const { return {middle, std::clamp(px_per_m * factor, 0.02, 60.0)}; }
    /// By turns of the wheel; the place under the pointer stays under it.
    [[nodiscard]] MapPlacing wheeled(double eighths_of_a_degree, QPointF at, QSizeF widget) const {
        MapPlacing next = zoomed(std::pow(1.25, eighths_of_a_degree / 120));
        const Point under = to_place(at, widget), now = next.to_place(at, widget);
        next.middle = next.middle + under - now;
        return next;
    }
    /// The whole of a rectangle inside the widget with a margin.
    [[nodiscard]] static MapPlacing fitting(Point low, Point high, QSizeF widget, double margin_px,
                                            double reserved_px = 0) {
        return {(low + high) * 0.5,
                std::min((widget.width() - 2 * margin_px) / std::max(high.x - low.x, 20.0),
                         (widget.height() - reserved_px - 2 * margin_px) / std::max(high.y - low.y, 20.0))};
    }
};

}  // namespace rendak::app
