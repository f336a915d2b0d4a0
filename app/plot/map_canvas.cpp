#include "app/plot/map_canvas.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>

#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr double edge_px = 24, legend_px = 16;
constexpr double road_width_m = 12;

}  // namespace

MapCanvas::MapCanvas(Focus& focus, Comparison& comparison, QWidget* parent)
    : QWidget(parent), focus_(focus), comparison_(comparison) {
    setMinimumSize(200, 160);
    setAccessibleName(tr("Track map"));
    connect(&comparison_, &Comparison::changed, this, &MapCanvas::invalidate);
    connect(&focus_, &Focus::range_changed, this, &MapCanvas::invalidate);
    connect(&focus_, &Focus::cursor_changed, this, qOverload<>(&QWidget::update));
}

void MapCanvas::invalidate() {
    fitted_.reset();
    dirty_ = true;
    update();
}

void MapCanvas::set_view(View view) {
    view_ = view;
    fit();
}

void MapCanvas::fit() {
    own_.reset();
    invalidate();
}

void MapCanvas::zoom(double factor) {
    Placing next = placing();
    next.px_per_m = std::clamp(next.px_per_m * factor, 0.02, 60.0);
    own_ = next;
    invalidate();
}

MapCanvas::Placing MapCanvas::fitted() const {
    if (fitted_ && fitted_size_ == size()) return *fitted_;
    Placing out;
    if (comparison_.laps().empty()) return out;
    const Track& track = comparison_.laps().track();
    double left = 1e18, right = -1e18, bottom = 1e18, top = -1e18;
    const Interval range = view_ == View::lines ? comparison_.range_m() : Interval{0, track.length_m};
    const double step = std::max(2.0, range.length() / 500);
    for (double s = range.begin; s <= range.end; s += step) {
        const Point p = track.position_at(std::min(s, track.length_m - 0.01));
        left = std::min(left, p.x);
        right = std::max(right, p.x);
        bottom = std::min(bottom, p.y);
        top = std::max(top, p.y);
    }
    out.middle = {(left + right) / 2, (bottom + top) / 2};
    out.px_per_m = std::min((width() - 2 * edge_px) / std::max(right - left, 20.0),
                            (height() - legend_px - 2 * edge_px) / std::max(top - bottom, 20.0));
    out.middle.y -= legend_px / 2 / out.px_per_m;
    fitted_ = out;
    fitted_size_ = size();
    return out;
}

QPointF MapCanvas::to_pixel(Point place) const {
    const Placing now = placing();
    return {width() / 2.0 + (place.x - now.middle.x) * now.px_per_m,
            height() / 2.0 - (place.y - now.middle.y) * now.px_per_m};
}

Point MapCanvas::to_place(QPointF pixel) const {
    const Placing now = placing();
    return {now.middle.x + (pixel.x() - width() / 2.0) / now.px_per_m,
            now.middle.y - (pixel.y() - height() / 2.0) / now.px_per_m};
}

void MapCanvas::draw_track(QPainter& painter) const {
    const Theme& t = theme();
    const Track& track = comparison_.laps().track();
    QPolygonF line;
    for (const Point p : track.line) line << to_pixel(p);
    line << line.front();
    const double road_px =
        view_ == View::plan ? std::max(7.0, road_width_m * placing().px_per_m) : road_width_m * placing().px_per_m;
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(t.rule, road_px + 2, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    painter.drawPolyline(line);
    painter.setPen(QPen(t.track, road_px, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    painter.drawPolyline(line);

    // The lines as driven: the range strongly, the rest of the lap faintly.
    const Interval range = comparison_.range_m();
    const auto& laps = comparison_.laps().laps;
    for (std::size_t k = laps.size(); k-- > 0;) {
        const PreparedLap& lap = laps[k].lap;
        QPolygonF faint, strong;
        for (std::size_t i = 0; i < lap.map.time_s.size(); ++i) {
            const QPointF at = to_pixel(lap.path->position_at(lap.map.time_s[i]) - lap.map.shift);
            if (range.contains(lap.map.distance_m[i]))
                strong << at;
            else if (view_ == View::lines)
                faint << at;
        }
        QColor colour = t.lap(static_cast<int>(k));
        painter.setPen(QPen(colour, view_ == View::plan ? 2.0 : 1.6));
        painter.drawPolyline(strong);
    }
}

void MapCanvas::draw_labels(QPainter& painter) const {
    const Theme& t = theme();
    const Track& track = comparison_.laps().track();
    // Start line across the road, and an arrow for the direction.
    const Point start = track.line.front(), along = track.tangent.front(), side = left_of(along);
    const double px_per_m = placing().px_per_m, half = std::max(8.0, road_width_m * px_per_m) / px_per_m;
    painter.setPen(QPen(t.ink, 2));
    painter.drawLine(to_pixel(start + side * half), to_pixel(start - side * half));
    const Point tip = start + along * (26 / px_per_m), root = start + along * (12 / px_per_m);
    const double offset = half + 5 / px_per_m;
    const QPointF a = to_pixel(root + side * offset), b = to_pixel(tip + side * offset);
    painter.setPen(QPen(t.ink, 1.6));
    painter.drawLine(a, b);
    QPolygonF head;
    head << b << to_pixel(tip - along * (6 / px_per_m) + side * (offset + 4 / px_per_m))
         << to_pixel(tip - along * (6 / px_per_m) + side * (offset - 4 / px_per_m));
    painter.setBrush(t.ink);
    painter.setPen(Qt::NoPen);
    painter.drawPolygon(head);

    painter.setFont(small_font(true));
    std::vector<QRectF> taken;
    QPolygonF road;
    for (const Point p : track.line) road << to_pixel(p);
    for (const Corner& corner : track.corners) {
        // Numbers stand outside their corner; where another number or a piece of road is, further out or inside.
        const Point normal = left_of(track.tangent_at(corner.apex_m)) * (corner.left ? -1.0 : 1.0);
        const auto box_at = [&](double away) {
            const double road_px = std::copysign(road_width_m / 2 * px_per_m, away);
            const QPointF at = to_pixel(track.position_at(corner.apex_m) + normal * ((away + road_px) / px_per_m));
            return QRectF(at.x() - 8, at.y() - 7, 16, 14);
        };
        QRectF chosen = box_at(13);  // every corner has its number, even in a crowd
        for (const double away : {13.0, 18.0, 24.0, -14.0, -20.0, 32.0, -28.0, 42.0, -40.0}) {
            const QRectF box = box_at(away);
            const auto hits = [&](const QRectF& other) { return other.intersects(box); };
            const auto on_road = [&](const QPointF& p) { return box.adjusted(-2, -2, 2, 2).contains(p); };
            if (std::any_of(taken.begin(), taken.end(), hits) || std::any_of(road.begin(), road.end(), on_road))
                continue;
            chosen = box;
            break;
        }
        taken.push_back(chosen);
        painter.setPen(t.ink);
        painter.drawText(chosen, Qt::AlignCenter, QString::number(corner.number));
    }
}

void MapCanvas::draw_cars(QPainter& painter) const {
    const Theme& t = theme();
    const auto& laps = comparison_.laps().laps;
    const double cursor = focus_.state().cursor_m;
    const double elapsed = laps.front().lap.map.time_at(cursor) - laps.front().lap.map.start_s();
    for (std::size_t k = laps.size(); k-- > 0;) {
        const PreparedLap& lap = laps[k].lap;
        if (k > 0) {
            // Where this car is when A passes the cursor.
            const double t_s = std::min(lap.map.start_s() + elapsed, lap.map.end_s());
            painter.setPen(QPen(t.lap(static_cast<int>(k)), 2));
            painter.setBrush(t.panel);
            painter.drawEllipse(to_pixel(lap.path->position_at(t_s) - lap.map.shift), 5, 5);
        }
        painter.setPen(QPen(t.panel, 1.2));
        painter.setBrush(t.lap(static_cast<int>(k)));
        painter.drawEllipse(to_pixel(lap.position_at(cursor)), 5, 5);
    }
}

void MapCanvas::redraw() {
    const double ratio = devicePixelRatioF();
    image_ = QImage((QSizeF(size()) * ratio).toSize(), QImage::Format_RGB32);
    image_.setDevicePixelRatio(ratio);
    image_.fill(theme().panel.rgb());
    QPainter painter(&image_);
    painter.setRenderHint(QPainter::Antialiasing);
    if (!comparison_.laps().empty()) {
        draw_track(painter);
        draw_labels(painter);
    }
    dirty_ = false;
}

void MapCanvas::paintEvent(QPaintEvent*) {
    if (dirty_ || image_.size() != (QSizeF(size()) * devicePixelRatioF()).toSize()) redraw();
    QPainter painter(this);
    painter.drawImage(0, 0, image_);
    if (comparison_.laps().empty()) return;
    painter.setRenderHint(QPainter::Antialiasing);
    draw_cars(painter);
    painter.setFont(small_font());
    painter.setPen(theme().mute);
    if (comparison_.laps().laps.size() > 1) {
        painter.drawText(rect().adjusted(8, 0, -8, -4), Qt::AlignLeft | Qt::AlignBottom,
                         tr("● same place   ○ same moment as A"));
    }
}

void MapCanvas::mousePressEvent(QMouseEvent* event) {
    press_ = event->position();
    at_press_ = placing();
    panning_ = false;
}

void MapCanvas::mouseMoveEvent(QMouseEvent* event) {
    if (!(event->buttons() & (Qt::LeftButton | Qt::MiddleButton))) return;
    const QPointF moved = event->position() - press_;
    if (!panning_ && moved.manhattanLength() < 5) return;
    panning_ = true;
    Placing next = at_press_;
    next.middle = at_press_.middle - Point{moved.x() / next.px_per_m, -moved.y() / next.px_per_m};
    own_ = next;
    invalidate();
}

void MapCanvas::mouseReleaseEvent(QMouseEvent* event) {
    if (panning_ || event->button() != Qt::LeftButton || comparison_.laps().empty()) return;
    // The nearest place of the baseline's line.
    const PreparedLap& lap = comparison_.laps().baseline().lap;
    const Point place = to_place(event->position());
    double best = 1e18, at = focus_.state().cursor_m;
    for (std::size_t i = 0; i < lap.map.time_s.size(); ++i) {
        const double d = length(lap.path->position_at(lap.map.time_s[i]) - lap.map.shift - place);
        if (d < best) {
            best = d;
            at = lap.map.distance_m[i];
        }
    }
    focus_.set_cursor(at);
}

void MapCanvas::mouseDoubleClickEvent(QMouseEvent*) {
    fit();
}

void MapCanvas::wheelEvent(QWheelEvent* event) {
    if (comparison_.laps().empty()) return;
    const Point under = to_place(event->position());
    Placing next = placing();
    next.px_per_m = std::clamp(next.px_per_m * std::pow(1.25, event->angleDelta().y() / 120.0), 0.02, 60.0);
    // The place under the pointer stays under it.
    next.middle = {under.x - (event->position().x() - width() / 2.0) / next.px_per_m,
                   under.y + (event->position().y() - height() / 2.0) / next.px_per_m};
    own_ = next;
    invalidate();
    event->accept();
}

}  // namespace rendak::app
