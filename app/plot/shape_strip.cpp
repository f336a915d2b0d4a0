#include "app/plot/shape_strip.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

#include "app/plot/trace_canvas.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr int badge_px = 8;  // radius
constexpr int grip_px = 5;
/// Curvature as tall as the strip allows: a tight corner must not flatten the fast ones. Radii beyond a kilometre are
/// the receiver's noise and stay flat.
double shape_of(double curvature) {
    constexpr double noise = 1.0 / 1000, tightest = 0.06;
    const double size = std::clamp(std::abs(curvature) - noise, 0.0, tightest - noise);
    return std::copysign(std::pow(size / (tightest - noise), 0.6), curvature);
}

}  // namespace

ShapeStrip::ShapeStrip(Focus& focus, Comparison& comparison, QWidget* parent)
    : QWidget(parent), focus_(focus), comparison_(comparison) {
    setFixedHeight(84);
    setMouseTracking(true);
    setAccessibleName(tr("Shape of the lap; drag to set the range"));
    setToolTip(tr("Drag to set the range, click a number for a corner, double-click for the whole lap"));
    comparison_.want(this, {"altitude"}, Axis::distance);
    connect(&comparison_, &Comparison::changed, this, qOverload<>(&QWidget::update));
    connect(&focus_, &Focus::range_changed, this, qOverload<>(&QWidget::update));
    connect(&focus_, &Focus::cursor_changed, this, qOverload<>(&QWidget::update));
}

Scale ShapeStrip::x_scale() const {
    const double length = !comparison_.laps().on_track() ? 1 : comparison_.laps().length_m();
    return {{0, length}, double(TraceCanvas::label_width), double(width() - 6)};
}

QPoint ShapeStrip::badge(const Corner& of) const {
    const double middle = height() / 2.0;
    QPoint out, before[2] = {{-1000, 0}, {-1000, 0}};  // of the right-handers and the left-handers
    for (const Corner& corner : comparison_.laps().track().corners) {
        const double px = x_scale().to_pixel(corner.apex_m);
        const double shape = shape_of(comparison_.laps().track().curvature_at(corner.apex_m));
        const double y = middle - shape * (middle - 20);
        // At the line, too, all of it is seen; a strip that is too narrow for that keeps its left end.
        const double inside = std::max(std::min(px, width() - 1.0 - badge_px), x_scale().first + badge_px);
        out = {static_cast<int>(std::lround(inside)), static_cast<int>(std::lround(corner.left ? y - 10 : y + 10))};
        QPoint& last = before[corner.left ? 1 : 0];
        // In a crowd every other one moves towards the middle.
        const QPoint apart = out - last;
        if (std::abs(apart.x()) < 2 * badge_px && std::abs(apart.y()) < 2 * badge_px)
            out.ry() = last.y() + (corner.left ? 1 : -1) * (2 * badge_px - 2);
        last = out;
        if (corner.number == of.number) break;
    }
    return out;
}

void ShapeStrip::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setFont(small_font());
    painter.setPen(t.mute);
    painter.drawText(QRect(8, 14, TraceCanvas::label_width - 14, 14), Qt::AlignLeft, tr("up = left"));
    painter.drawText(QRect(8, height() - 30, TraceCanvas::label_width - 14, 14), Qt::AlignLeft, tr("down = right"));
    if (!comparison_.laps().on_track()) return;
    const Track& track = comparison_.laps().track();
    const Scale x = x_scale();
    const double middle = height() / 2.0;

    const Interval range = comparison_.range_m();
    const QRectF box(QPointF(x.to_pixel(range.begin), 2), QPointF(x.to_pixel(range.end), height() - 2));
    painter.setPen(QPen(t.accent, 1.2));
    painter.setBrush(t.range);
    painter.drawRoundedRect(box, 4, 4);

    QPainterPath shape(QPointF(x.first, middle));
    for (double px = x.first; px <= x.last; px += 1) {
        shape.lineTo(px, middle - shape_of(track.curvature_at(x.to_value(px))) * (middle - 20));
    }
    shape.lineTo(x.last, middle);
    shape.closeSubpath();
    QColor fill = t.rail;
    if (is_garage()) fill = t.mute;
    fill.setAlphaF(0.45F);
    painter.setPen(Qt::NoPen);
    painter.setBrush(fill);
    painter.drawPath(shape);
    painter.setPen(QPen(is_garage() ? t.mute : t.rail, 1));
    painter.drawLine(QPointF(x.first, middle), QPointF(x.last, middle));

    // Height of the road along the baseline lap, where it is logged.
    const Trace& height_trace = comparison_.trace(0, "altitude", Axis::distance);
    if (!height_trace.empty()) {
        const Interval limits = height_trace.limits();
        if (limits.length() > 3) {
            QPolygonF line;
            double smooth = std::nan("");
            for (double px = x.first; px <= x.last; px += 3) {
                const std::size_t i = std::min(height_trace.first_at(x.to_value(px)), height_trace.y.size() - 1);
                const double value = height_trace.y[i];
                if (!std::isfinite(value)) continue;
                smooth = std::isnan(smooth) ? value : 0.8 * smooth + 0.2 * value;
                line << QPointF(px, height() - 8 - (smooth - limits.begin) / limits.length() * 22);
            }
            painter.setPen(QPen(t.mute, 1, Qt::DotLine));
            painter.setBrush(Qt::NoBrush);
            painter.drawPolyline(line);
        }
    }
    for (const Corner& corner : track.corners) {
        const QPointF at = badge(corner);
        painter.setPen(QPen(t.rule, 1));
        painter.setBrush(t.panel);
        painter.drawEllipse(at, badge_px, badge_px);
        painter.setPen(t.ink);
        painter.setFont(small_font(true));
        painter.drawText(QRectF(at.x() - 10, at.y() - 8, 20, 16), Qt::AlignCenter, QString::number(corner.number));
    }
    const double cursor = x.to_pixel(focus_.state().cursor_m);
    painter.setPen(QPen(t.accent, 1.5));
    painter.drawLine(QPointF(cursor, 2), QPointF(cursor, height() - 2));
}

ShapeStrip::Drag ShapeStrip::grip_at(double px) const {
    const Interval range = comparison_.range_m();
    const Scale x = x_scale();
    const double begin = x.to_pixel(range.begin), end = x.to_pixel(range.end);
    if (std::abs(px - begin) <= grip_px) return Drag::begin;
    if (std::abs(px - end) <= grip_px) return Drag::end;
    const bool whole = range.length() > comparison_.laps().length_m() - 1;
    return px > begin && px < end && !whole ? Drag::move : Drag::fresh;
}

void ShapeStrip::mousePressEvent(QMouseEvent* event) {
    if (!comparison_.laps().on_track() || event->button() != Qt::LeftButton) return;
    press_ = event->position().toPoint();
    for (const Corner& corner : comparison_.laps().track().corners) {
        const QPoint away = press_ - badge(corner);
        if (away.x() * away.x() + away.y() * away.y() > (badge_px + 2) * (badge_px + 2)) continue;
        focus_.set_range(view_of_corner(comparison_.laps().track(), corner));
        focus_.set_cursor(corner.apex_m);
        return;
    }
    range_at_press_ = comparison_.range_m();
    press_m_ = x_scale().to_value(press_.x());
    drag_ = grip_at(press_.x());
}

void ShapeStrip::mouseMoveEvent(QMouseEvent* event) {
    if (!comparison_.laps().on_track()) return;
    const QPoint at = event->position().toPoint();
    const double here = std::clamp(x_scale().to_value(at.x()), 0.0, comparison_.laps().length_m());
    const Interval whole{0, comparison_.laps().length_m()};
    switch (drag_) {
        case Drag::none: {
            const Drag grip = grip_at(at.x());
            setCursor(grip == Drag::begin || grip == Drag::end ? Qt::SizeHorCursor
                      : grip == Drag::move                     ? Qt::OpenHandCursor
                                                               : Qt::CrossCursor);
            return;
        }
        case Drag::fresh:
            if (std::abs(at.x() - press_.x()) > 4)
                focus_.set_range({std::min(press_m_, here), std::max({press_m_, here, std::min(press_m_, here) + 20})});
            return;
        case Drag::move:
            focus_.set_range(
                moved_inside({range_at_press_.begin + here - press_m_, range_at_press_.end + here - press_m_}, whole));
            return;
        case Drag::begin:
            focus_.set_range({std::min(here, range_at_press_.end - 20), range_at_press_.end});
            return;
        case Drag::end:
            focus_.set_range({range_at_press_.begin, std::max(here, range_at_press_.begin + 20)});
            return;
    }
}

void ShapeStrip::mouseReleaseEvent(QMouseEvent* event) {
    const Drag drag = std::exchange(drag_, Drag::none);
    if (drag == Drag::none || !comparison_.laps().on_track()) return;
    const QPoint at = event->position().toPoint();
    if (std::abs(at.x() - press_.x()) <= 4)
        focus_.set_cursor(std::clamp(x_scale().to_value(at.x()), 0.0, comparison_.laps().length_m()));
}

void ShapeStrip::mouseDoubleClickEvent(QMouseEvent*) {
    if (comparison_.laps().on_track()) focus_.set_range({0, comparison_.laps().length_m()});
}

}  // namespace rendak::app
