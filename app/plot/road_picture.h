#pragma once

#include <QPainter>
#include <functional>
#include <vector>

#include "core/track/track.h"

namespace rendak::app {

/// Draws a track from above or from the side, wherever one is shown: the road, its edges, lines across it, words beside
/// it. Needs no widget: who draws says where places lie.
class RoadPicture {
  public:
    /// `to_pixel` of a place on the plane and a height above it; `up_at` the height of the road at a distance.
    RoadPicture(
        QPainter& painter, const Track& track, std::function<QPointF(Point, double)> to_pixel, double px_per_m,
        std::function<double(double)> up_at = [](double) { return 0.0; });

    [[nodiscard]] QPointF at(double distance_m, double left_m = 0) const;
    /// The road between its edges where they are known (and wanted), else as wide as roads are; at least so wide.
    void surface(double least_px, bool with_edges, bool with_border) const;
    /// Dashed where they are only inferred; nothing when they are not known.
    void edge_lines() const;
    /// Start line with the direction of travel, the finish of an open road.
    void start_and_finish(double half_px) const;
    void across(double distance_m, double half_px, const QPen& pen) const;
    /// Sector lines with their names.
    void sectors(double half_px);
    /// A corner's number outside its bend.
    void corner_label(const Corner& corner, bool bold);
    /// A word beside the road, `outward` -1 on its left side, 1 on its right; further out where something is in the
    /// way.
    void label(double distance_m, double outward, const QString& text, const QColor& colour, bool bold = true);

    static constexpr double usual_width_m = 12;

  private:
    [[nodiscard]] QPolygonF line(double step_m) const;
    QPainter& painter_;
    const Track& track_;
    std::function<QPointF(Point, double)> to_pixel_;
    std::function<double(double)> up_at_;
    double px_per_m_;
    QPolygonF road_;
    std::vector<QRectF> taken_;  ///< by words
};

/// What a line covers in its plane.
struct Bounds {
    Point low{1e18, 1e18}, high{-1e18, -1e18};
    void take(Point p) {
        low = {std::min(low.x, p.x), std::min(low.y, p.y)};
        high = {std::max(high.x, p.x), std::max(high.y, p.y)};
    }
};

}  // namespace rendak::app
