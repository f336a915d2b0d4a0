#include "app/plot/map_canvas.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>
#include <numbers>

#include "app/plot/road_picture.h"
#include "app/plot/trace_picture.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/base/wide_registers.h"

namespace rendak::app {
namespace {

constexpr double edge_px = 24, legend_px = 16;
constexpr double tilt = 32 * std::numbers::pi / 180;  ///< above the horizon, in the side view

}  // namespace

MapCanvas::MapCanvas(Focus& focus, Comparison& comparison, QWidget* parent)
    : KeptPicture(parent), focus_(focus), comparison_(comparison) {
    setMinimumSize(200, 160);
    setMouseTracking(true);
    setAccessibleName(tr("Track map"));
    connect(&comparison_, &Comparison::changed, this, &MapCanvas::show_anew);
    connect(&focus_, &Focus::range_changed, this, [this] { follows_range_ ? fit_range() : show_anew(); });
    connect(&focus_, &Focus::laps_changed, this, &MapCanvas::show_anew);
    connect(&focus_, &Focus::cursor_changed, this, qOverload<>(&QWidget::update));
}

void MapCanvas::show_anew() {
    fitted_.reset();
    invalidate();
}

void MapCanvas::set_view(View view) {
    view_ = view;
    fit();
}

void MapCanvas::fit() {
    own_.reset();
    show_anew();
}

void MapCanvas::fit_range() {
    own_ = fitted_to(comparison_.range_m());
    show_anew();
}

void MapCanvas::zoom(double factor) {
    own_ = placing().zoomed(factor);
    show_anew();
}

void MapCanvas::set_turned(double degrees) {
    turned_deg_ = std::remainder(degrees, 360);
    own_.reset();
    show_anew();
}

void MapCanvas::follow_range(bool on) {
    follows_range_ = on;
    on ? fit_range() : fit();
}

void MapCanvas::turn(double degrees) {
    set_turned(turned_deg_ + degrees);
    Q_EMIT turned();
}

void MapCanvas::north_up() {
    set_turned(0);
    Q_EMIT turned();
}

void MapCanvas::set_paint(const MapPaint& paint) {
    paint_ = paint;
    comparison_.want(this, paint.quantity.empty() ? std::vector<std::string>{} : std::vector{paint.quantity},
                     Axis::distance);
    show_anew();
}

void MapCanvas::show_events(bool on) {
    events_on_ = on;
    show_anew();
}

Point MapCanvas::seen(Point place, double up_m) const {
    const double angle = turned_deg_ * std::numbers::pi / 180;
    const Point turned{place.x * std::cos(angle) - place.y * std::sin(angle),
                       place.x * std::sin(angle) + place.y * std::cos(angle)};
    if (view_ != View::side) return turned;
    return {turned.x, turned.y * std::sin(tilt) + up_m * stretch_up_ * std::cos(tilt)};
}

double MapCanvas::up_at(double distance_m) const {
    const Track& track = comparison_.laps().track();
    if (view_ != View::side || track.height.value.empty()) return 0;
    return track.value_at(track.height.value, distance_m) - lowest_m_;
}

MapPlacing MapCanvas::fitted_to(Interval range) const {
    if (!comparison_.laps().on_track()) return {};
    const Track& track = comparison_.laps().track();
    Bounds bounds;
    const double step = std::max(2.0, range.length() / 500);
    for (double s = range.begin; s <= range.end; s += step) {
        const double at = std::min(s, track.length_m - 0.01);
        for (const double up : {up_at(at), 0.0}) {
            bounds.take(seen(track.position_at(at), up));
        }
    }
    // The scale of the paint stands above the road, the legend of shapes below it.
    const double above_px = paint_.quantity.empty() ? 0 : 30;
    MapPlacing out = MapPlacing::fitting(bounds.low, bounds.high, size(), edge_px, legend_px + above_px);
    out.middle.y -= (legend_px - above_px) / 2 / out.px_per_m;
    return out;
}

MapPlacing MapCanvas::fitted() const {
    if (fitted_ && fitted_size_ == size()) return *fitted_;
    if (!comparison_.laps().on_track()) return {};
    const Track& track = comparison_.laps().track();
    if (!track.height.value.empty()) {
        const auto [low, high] = std::minmax_element(track.height.value.begin(), track.height.value.end());
        lowest_m_ = *low;
        // Heights are stretched so that they can be seen: the whole climb is about a tenth of the track's length
        // across.
        stretch_up_ = std::clamp(0.03 * track.length_m / std::max(2.0, *high - *low), 1.0, 12.0);
    }
    const Interval range = view_ == View::lines ? comparison_.range_m() : Interval{0, track.length_m};
    fitted_ = fitted_to(range);
    fitted_size_ = size();
    return *fitted_;
}

QPointF MapCanvas::to_pixel(Point place, double up_m) const {
    return placing().to_pixel(seen(place, up_m), size());
}

RoadPicture MapCanvas::road(QPainter& painter) const {
    return RoadPicture(
        painter, comparison_.laps().track(), [this](Point place, double up_m) { return to_pixel(place, up_m); },
        placing().px_per_m, [this](double s) { return up_at(s); });
}

void MapCanvas::draw_road(QPainter& painter) const {
    const Theme& t = theme();
    const Track& track = comparison_.laps().track();
    const RoadPicture road = this->road(painter);
    if (view_ == View::side && !track.height.value.empty()) {
        // Where the road would lie without its height, and posts that hold it up.
        QPolygonF ground;
        for (const Point p : track.line) ground << to_pixel(p, 0);
        if (!track.open) ground << ground.front();
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(t.grid, 2));
        painter.drawPolyline(ground);
        painter.setPen(QPen(t.rule, 1));
        for (double s = 0; s < track.length_m; s += track.length_m / 90)
            painter.drawLine(to_pixel(track.position_at(s), 0), road.at(s));
    }
    const bool lines = view_ == View::lines;
    road.surface(lines ? 0 : 7, lines, true);
    if (lines) road.edge_lines();
}

void MapCanvas::draw_laps(QPainter& painter) const {
    clear_wide_registers();
    // The lines as driven: the range strongly, the rest of the lap faintly. From the side only the road is shown.
    const Interval range = comparison_.range_m();
    const auto& laps = comparison_.laps().laps;
    for (std::size_t k = laps.size(); k-- > 0;) {
        if (static_cast<int>(k) == comparison_.active_slot() && !paint_.quantity.empty()) continue;
        if (!paint_.quantity.empty() && view_ != View::lines) continue;
        const PreparedLap& lap = laps[k].lap;
        QPolygonF strong;
        for (std::size_t i = 0; i < lap.map.time_s.size(); ++i) {
            const double s = lap.map.distance_m[i];
            if (range.contains(s))
                strong << to_pixel(lap.path->position_at(lap.map.time_s[i]) - lap.map.shift, up_at(s));
        }
        painter.setPen(QPen(theme().lap(static_cast<int>(k)), view_ == View::lines ? 1.6 : 2.0));
        painter.drawPolyline(strong);
    }
    if (!paint_.quantity.empty()) draw_painted(painter, comparison_.active_slot());
}

void MapCanvas::draw_painted(QPainter& painter, int slot) const {
    const PreparedLap& lap = comparison_.laps().laps[static_cast<std::size_t>(slot)].lap;
    const Trace& trace = comparison_.trace(slot, paint_.quantity, Axis::distance);
    if (trace.x.empty()) return;
    const PaintScale scale(paint_, trace);
    const double step = std::clamp(1.5 / placing().px_per_m, 1.0, 12.0);
    const Interval range = view_ == View::lines ? comparison_.range_m() : Interval{0, lap.map.length_m()};
    QPointF before;
    bool first = true;
    std::size_t i = trace.first_at(range.begin);
    for (double s = range.begin; s <= range.end; s += step) {
        const QPointF here = to_pixel(lap.position_at(s), up_at(s));
        while (i + 1 < trace.x.size() && trace.x[i] < s) ++i;
        const double value = trace.y[std::min(i, trace.y.size() - 1)];
        if (!first && std::isfinite(value)) {
            painter.setPen(QPen(scale.colour(value), 4, Qt::SolidLine, Qt::RoundCap));
            painter.drawLine(before, here);
        }
        before = here;
        first = false;
    }
}

void MapCanvas::draw_events(QPainter& painter) const {
    if (!events_on_) return;
    const auto& laps = comparison_.laps().laps;
    const Interval range = comparison_.range_m();
    for (std::size_t k = laps.size(); k-- > 0;) {
        const PreparedLap& lap = laps[k].lap;
        const QColor colour = theme().lap(static_cast<int>(k));
        const auto at = [&](double s) { return to_pixel(lap.position_at(s), up_at(s)); };
        for (const CornerEvents& it : laps[k].events) {
            painter.setPen(QPen(colour, 2));
            painter.setBrush(Qt::NoBrush);
            // A bar across the line where braking begins, a half one where it ends, a ring where the throttle is
            // lifted.
            const auto side_at = [&](double s) {
                const QPointF on = at(s + 2) - at(s);
                const double size = std::hypot(on.x(), on.y());
                return size > 0 ? QPointF(-on.y(), on.x()) * (7 / size) : QPointF(0, 7);
            };
            if (it.lift_m && range.contains(*it.lift_m)) painter.drawEllipse(at(*it.lift_m), 4, 4);
            if (it.brake_on_m && range.contains(*it.brake_on_m))
                painter.drawLine(at(*it.brake_on_m) - side_at(*it.brake_on_m),
                                 at(*it.brake_on_m) + side_at(*it.brake_on_m));
            if (it.brake_off_m && range.contains(*it.brake_off_m))
                painter.drawLine(at(*it.brake_off_m), at(*it.brake_off_m) + side_at(*it.brake_off_m));
            painter.setPen(QPen(theme().panel, 1));
            painter.setBrush(colour);
            if (it.turn_in_m && range.contains(*it.turn_in_m)) {
                const QPointF here = at(*it.turn_in_m);
                painter.drawPolygon(QPolygonF()
                                    << here + QPointF(0, -6) << here + QPointF(5.5, 4.5) << here + QPointF(-5.5, 4.5));
            }
            if (it.slowest_m && range.contains(*it.slowest_m))
                painter.drawRect(QRectF(at(*it.slowest_m) - QPointF(4, 4), QSizeF(8, 8)));
            if (it.throttle_on_m && range.contains(*it.throttle_on_m)) {
                const QPointF here = at(*it.throttle_on_m);
                painter.drawPolygon(QPolygonF() << here + QPointF(0, -6) << here + QPointF(6, 0) << here + QPointF(0, 6)
                                                << here + QPointF(-6, 0));
            }
            if (it.full_throttle_m && range.contains(*it.full_throttle_m)) {
                const QPointF here = at(*it.full_throttle_m);
                painter.drawPolygon(QPolygonF()
                                    << here + QPointF(-5, -5) << here + QPointF(6, 0) << here + QPointF(-5, 5));
            }
        }
    }
}

void MapCanvas::draw_labels(QPainter& painter) const {
    RoadPicture road = this->road(painter);
    const double half_px = std::max(8.0, RoadPicture::usual_width_m * placing().px_per_m);
    road.start_and_finish(half_px);
    for (const Corner& corner : comparison_.laps().track().corners) road.corner_label(corner, true);
    road.sectors(half_px);
}

void MapCanvas::draw_legend(QPainter& painter) const {
    const Theme& t = theme();
    painter.setFont(small_font());
    if (!paint_.quantity.empty() && comparison_.ready(paint_.quantity) && !comparison_.busy()) {
        const Trace& trace = comparison_.trace(comparison_.active_slot(), paint_.quantity, Axis::distance);
        const Shown how = shown(paint_.quantity);
        if (trace.x.empty()) {
            painter.setPen(t.mute);
            const QString why = comparison_.why_not(paint_.quantity);
            painter.drawText(
                QRect(8, 4, width() - 16, 14), Qt::AlignLeft,
                why.isEmpty() ? tr("%1 is not logged in lap %2").arg(how.label, slot_letter(comparison_.active_slot()))
                              : why);
            return;
        }
        const PaintScale scale(paint_, trace);
        const QRectF bar(8, 20, 110, 8);
        for (int px = 0; px < 110; ++px) {
            const double value = scale.limits().begin + (px + 0.5) / 110 * scale.limits().length();
            painter.fillRect(QRectF(bar.left() + px, bar.top(), 1.2, bar.height()), scale.colour(value));
        }
        painter.setPen(t.ink);
        painter.drawText(QRectF(8, 4, width() - 16, 14), Qt::AlignLeft,
                         tr("%1: %2, %3").arg(slot_letter(comparison_.active_slot()), how.label, how.unit));
        painter.setPen(t.mute);
        painter.drawText(QRectF(8, 29, 60, 13), Qt::AlignLeft, how.text(scale.limits().begin));
        painter.drawText(QRectF(58, 29, 60, 13), Qt::AlignRight, how.text(scale.limits().end));
        if (scale.two_sided()) painter.drawText(QRectF(33, 29, 60, 13), Qt::AlignCenter, QStringLiteral("0"));
    }
    painter.setPen(t.mute);
    QString foot;
    const Track& track = comparison_.laps().track();
    if (view_ == View::side && track.height.value.empty())
        foot = tr("Height is not known: learn it on the Track desk");
    else if (view_ == View::side)
        foot = tr("heights × %1").arg(stretch_up_, 0, 'f', 0);
    else if (events_on_)
        foot = tr("○ lift │ brake ╵ off ▲ turn-in ■ slowest ◆ throttle ▶ full");
    else if (comparison_.laps().laps.size() > 1)
        foot = tr("● same place   ○ same moment as A");
    if (track.shape_only) foot = tr("shape only");
    painter.drawText(rect().adjusted(8, 0, -8, -4), Qt::AlignLeft | Qt::AlignBottom, foot);
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
            painter.drawEllipse(to_pixel(lap.path->position_at(t_s) - lap.map.shift, up_at(lap.map.distance_at(t_s))),
                                5, 5);
        }
        painter.setPen(QPen(t.panel, 1.2));
        painter.setBrush(t.lap(static_cast<int>(k)));
        painter.drawEllipse(to_pixel(lap.position_at(cursor), up_at(cursor)), 5, 5);
    }
}

void MapCanvas::draw_picture(QImage& image) {
    QPainter painter(&image);
    paint_map(painter);
}

ViewOut MapCanvas::out(const QString& name) {
    return {name, size(), [this](QPainter& painter, QSize size) {
                painter.fillRect(QRect(QPoint(), size), theme().panel);
                painter.setClipRect(QRect(QPoint(), size));
                paint_map(painter);
            }};
}

void MapCanvas::paint_map(QPainter& painter) const {
    painter.setRenderHint(QPainter::Antialiasing);
    if (!comparison_.laps().on_track()) return;
    draw_road(painter);
    draw_laps(painter);
    draw_events(painter);
    draw_labels(painter);
    draw_notes(painter);
    draw_legend(painter);
}

/// What was written onto the map at a place of one of these laps.
void MapCanvas::draw_notes(QPainter& painter) const {
    const auto& laps = comparison_.laps().laps;
    for (std::size_t k = laps.size(); k-- > 0;) {
        const PreparedLap& lap = laps[k].lap;
        for (const PictureNote& note : laps[k].run->picture_notes) {
            if (!note.quantity.empty() || note.at_s < lap.map.start_s() || note.at_s > lap.map.end_s()) continue;
            const QPointF at =
                to_pixel(lap.path->position_at(note.at_s) - lap.map.shift, up_at(lap.map.distance_at(note.at_s)));
            paint_note(painter, rect(), at, QString::fromStdString(note.text), theme().lap(static_cast<int>(k)));
        }
    }
}

QString MapCanvas::hover_text() const {
    if (!hover_m_ || !comparison_.laps().on_track()) return {};
    const PreparedLap& lap = comparison_.active().lap;
    const std::string quantity = paint_.quantity.empty() ? "speed" : paint_.quantity;
    const Shown how = shown(quantity);
    QString text = distance_text(*hover_m_);
    for (const Corner& corner : comparison_.laps().track().corners) {
        if (*hover_m_ >= corner.start_m && *hover_m_ <= corner.end_m)
            text = QString::fromStdString(corner.title()) + QStringLiteral(", ") + text;
    }
    // A formula that is still being computed has no value to show; asking for it here would compute it here.
    const double value = comparison_.ready(quantity) ? lap.value_at(quantity, *hover_m_) : std::nan("");
    if (std::isfinite(value))
        text += tr("   %1 %2").arg(slot_letter(comparison_.active_slot()), with_unit(how.text(value), how.unit));
    return text;
}

void MapCanvas::draw_over(QPainter& painter) {
    if (!comparison_.laps().on_track()) return;
    painter.setRenderHint(QPainter::Antialiasing);
    draw_cars(painter);
    const QString text = hover_text();
    if (text.isEmpty()) return;
    painter.setFont(small_font(true));
    const double text_width = painter.fontMetrics().horizontalAdvance(text) + 12;
    QRectF box(hover_at_ + QPointF(12, 12), QSizeF(text_width, 18));
    box.moveLeft(std::clamp(box.left(), 2.0, std::max(2.0, width() - text_width - 2)));
    box.moveTop(std::min(box.top(), height() - 22.0));
    painter.setPen(theme().rule);
    painter.setBrush(theme().panel);
    painter.drawRoundedRect(box, 4, 4);
    painter.setPen(theme().ink);
    painter.drawText(box, Qt::AlignCenter, text);
}

std::optional<double> MapCanvas::place_under(QPointF pixel, double reach_px) const {
    if (!comparison_.laps().on_track()) return std::nullopt;
    // The nearest place of the lap that is looked at.
    const PreparedLap& lap = comparison_.active().lap;
    double best = reach_px * reach_px;
    std::optional<double> at;
    for (std::size_t i = 0; i < lap.map.time_s.size(); ++i) {
        const double s = lap.map.distance_m[i];
        const QPointF off = to_pixel(lap.path->position_at(lap.map.time_s[i]) - lap.map.shift, up_at(s)) - pixel;
        const double d = QPointF::dotProduct(off, off);
        if (d >= best) continue;
        best = d;
        at = s;
    }
    return at;
}

void MapCanvas::mousePressEvent(QMouseEvent* event) {
    press_ = event->position();
    at_press_ = placing();
    panning_ = false;
}

void MapCanvas::mouseMoveEvent(QMouseEvent* event) {
    if (!(event->buttons() & (Qt::LeftButton | Qt::MiddleButton))) {
        hover_m_ = place_under(event->position(), 18);
        hover_at_ = event->position();
        update();
        return;
    }
    const QPointF moved = event->position() - press_;
    if (!panning_ && moved.manhattanLength() < 5) return;
    panning_ = true;
    hover_m_.reset();
    own_ = at_press_.moved(moved);
    show_anew();
}

void MapCanvas::mouseReleaseEvent(QMouseEvent* event) {
    if (panning_ || event->button() != Qt::LeftButton) return;
    if (const auto at = place_under(event->position(), 1e6)) focus_.set_cursor(*at);
}

void MapCanvas::mouseDoubleClickEvent(QMouseEvent*) {
    fit();
}

void MapCanvas::leaveEvent(QEvent*) {
    hover_m_.reset();
    update();
}

void MapCanvas::wheelEvent(QWheelEvent* event) {
    if (!comparison_.laps().on_track()) return;
    event->accept();
    if (event->modifiers() & Qt::ShiftModifier)
        return turn(event->angleDelta().y() + event->angleDelta().x() > 0 ? 5 : -5);
    own_ = placing().wheeled(event->angleDelta().y(), event->position(), size());
    show_anew();
}

}  // namespace rendak::app
