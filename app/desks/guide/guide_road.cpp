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

MapPlacing GuideRoad::placing(QSizeF size) const {
    Bounds bounds;
    const Track& track = *data_->track;
    for (std::size_t i = 0; i < track.line.size(); ++i) {
        bounds.take(seen(track.line[i], up_at(static_cast<double>(i) * track.step_m())));
        if (is_from_side()) bounds.take(seen(track.line[i], 0));
    }
    return MapPlacing::fitting(bounds.low, bounds.high, size, edge_px);
}

RoadPicture GuideRoad::road(QPainter& painter) const {
    const MapPlacing placed = placing(size());
    return RoadPicture(
        painter, *data_->track,
        [this, placed](Point place, double up) { return placed.to_pixel(seen(place, up), size()); }, placed.px_per_m,
        [this](double s) { return up_at(s); });
}

void GuideRoad::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    QPainter painter(this);
    painter.fillRect(rect(), t.panel);
    if (data_ == nullptr) return;
    painter.setRenderHint(QPainter::Antialiasing);
    const Track& track = *data_->track;
    RoadPicture road = this->road(painter);
    if (is_from_side()) {
        const MapPlacing placed = placing(size());
        painter.setPen(QPen(t.rule, 1));
        for (double s = 0; s < track.length_m; s += 60)
            painter.drawLine(placed.to_pixel(seen(track.position_at(s), 0), size()), road.at(s));
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
}

QPointF GuideRoad::place_of(std::size_t corner) const {
    if (data_ == nullptr) return {};
    const double apex = data_->track->corners[corner].apex_m;
    return placing(size()).to_pixel(seen(data_->track->position_at(apex), up_at(apex)), size());
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
