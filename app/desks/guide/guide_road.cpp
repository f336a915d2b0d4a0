#include "app/desks/guide/guide_road.h"

#include <QMouseEvent>
#include <QPainter>
#include <cmath>
#include <numbers>

#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr double tilt = 34 * std::numbers::pi / 180;  ///< above the horizon, from the side
constexpr double stretch_up = 4;
constexpr double edge_px = 30;

}  // namespace

GuideRoad::GuideRoad(QWidget* parent) : QWidget(parent) {
    setMinimumSize(240, 180);
    setAccessibleName(tr("The road with its corners; drag to turn it"));
    setToolTip(tr("Drag to turn the road, click a corner to read about it"));
}

void GuideRoad::set_data(std::shared_ptr<const GuideData> guide) {
    data_ = std::move(guide);
    if (data_ != nullptr && !data_->guide.height_known) from_side_ = false;
    corner_ = 0;
    update();
}

void GuideRoad::set_corner(std::size_t corner) {
    corner_ = corner;
    update();
}

void GuideRoad::set_from_side(bool on) {
    from_side_ = on;
    update();
}

double GuideRoad::up_at(double distance_m) const {
    if (!is_from_side()) return 0;
    const Track& track = *data_->track;
    const double up = track.value_at(track.height.value, distance_m);
    return std::isfinite(up) ? up : 0;
}

Point GuideRoad::seen(Point place, double up_m) const {
    const double c = std::cos(turned_rad_), s = std::sin(turned_rad_);
    const Point turned{c * place.x - s * place.y, s * place.x + c * place.y};
    if (!is_from_side()) return turned;
    return {turned.x, turned.y * std::sin(tilt) + up_m * stretch_up * std::cos(tilt)};
}

GuideRoad::Fit GuideRoad::fit(QRectF area) const {
    Bounds bounds;
    const Track& track = *data_->track;
    for (std::size_t i = 0; i < track.line.size(); i += 4) {
        bounds.take(seen(track.line[i], up_at(static_cast<double>(i) * track.step_m())));
        if (is_from_side()) bounds.take(seen(track.line[i], 0));
    }
    const double wide = std::max(1.0, bounds.high.x - bounds.low.x), high = std::max(1.0, bounds.high.y - bounds.low.y);
    Fit out;
    out.px_per_m = std::min((area.width() - 2 * edge_px) / wide, (area.height() - 2 * edge_px) / high);
    out.middle = area.center();
    out.centre = {0.5 * (bounds.low.x + bounds.high.x), 0.5 * (bounds.low.y + bounds.high.y)};
    return out;
}

void GuideRoad::paint(QPainter& painter, QRectF area) const {
    const Theme& t = theme();
    painter.fillRect(area, t.panel);
    if (data_ == nullptr) return;
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    const Track& track = *data_->track;
    const Fit placed = fit(area);
    const auto to_pixel = [&](Point place, double up) {
        const Point at = seen(place, up);
        return placed.middle +
               QPointF((at.x - placed.centre.x) * placed.px_per_m, -(at.y - placed.centre.y) * placed.px_per_m);
    };
    const auto up = [this](double s) { return up_at(s); };
    RoadPicture road(painter, track, to_pixel, placed.px_per_m, up);
    if (is_from_side()) {
        painter.setPen(QPen(t.rule, 1));
        for (double s = 0; s < track.length_m; s += 60) painter.drawLine(to_pixel(track.position_at(s), 0), road.at(s));
    }
    road.surface(5, false, true);
    if (corner_ < data_->guide.corners.size()) {
        const GuideCorner& it = data_->guide.corners[corner_];
        QPolygonF chosen;
        for (double s = it.range_m.begin; s <= std::max(it.corner.end_m, it.range_m.begin); s += 4)
            chosen << road.at(s);
        painter.setPen(QPen(t.accent, 4, Qt::SolidLine, Qt::RoundCap));
        painter.setBrush(Qt::NoBrush);
        painter.drawPolyline(chosen);
        if (it.events.brake_on_m) {
            painter.setPen(QPen(t.panel, 1));
            painter.setBrush(t.lap(0));
            painter.drawEllipse(road.at(*it.events.brake_on_m), 4.5, 4.5);
        }
    }
    road.start_and_finish(7);
    for (std::size_t k = 0; k < track.corners.size(); ++k) road.corner_label(track.corners[k], k == corner_);
    if (corner_ < data_->guide.corners.size()) {
        painter.setPen(QPen(t.accent, 1.6));
        painter.setBrush(Qt::NoBrush);
        painter.drawEllipse(road.at(track.corners[corner_].apex_m), 7, 7);
    }
    painter.restore();
}

QPointF GuideRoad::place_of(std::size_t corner) const {
    if (data_ == nullptr) return {};
    const Fit placed = fit(rect());
    const Track& track = *data_->track;
    const double apex = track.corners[corner].apex_m;
    const Point at = seen(track.position_at(apex), up_at(apex));
    return placed.middle +
           QPointF((at.x - placed.centre.x) * placed.px_per_m, -(at.y - placed.centre.y) * placed.px_per_m);
}

void GuideRoad::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    paint(painter, rect());
}

void GuideRoad::mousePressEvent(QMouseEvent* event) {
    press_ = event->position().toPoint();
    turned_at_press_rad_ = turned_rad_;
    dragged_ = false;
}

void GuideRoad::mouseMoveEvent(QMouseEvent* event) {
    const QPoint by = event->position().toPoint() - press_;
    constexpr int least_px = 4;
    if (!dragged_ && by.manhattanLength() < least_px) return;
    dragged_ = true;
    constexpr double rad_per_px = 0.008;
    turned_rad_ = turned_at_press_rad_ + by.x() * rad_per_px;
    update();
}

void GuideRoad::mouseReleaseEvent(QMouseEvent* event) {
    if (dragged_ || data_ == nullptr || data_->track->corners.empty()) return;
    const QPointF at = event->position();
    std::size_t nearest = 0;
    double least = 1e9;
    for (std::size_t k = 0; k < data_->track->corners.size(); ++k) {
        const QPointF away = place_of(k) - at;
        const double far = std::hypot(away.x(), away.y());
        if (far >= least) continue;
        least = far;
        nearest = k;
    }
    constexpr double near_px = 30;
    if (least < near_px) Q_EMIT corner_picked(nearest);
}

}  // namespace rendak::app
