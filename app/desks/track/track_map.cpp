#include "app/desks/track/track_map.h"

#include <QMouseEvent>
#include <QPainter>
#include <cmath>

#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr double edge_px = 34;
constexpr double usual_half_width_m = 6;

}  // namespace

TrackMap::TrackMap(QWidget* parent) : QWidget(parent) {
    setMinimumSize(280, 220);
    setAccessibleName(tr("Track from above"));
}

void TrackMap::set_track(std::shared_ptr<const Track> track) {
    if (track == nullptr || track_ == nullptr || track->name != track_->name) own_.reset();
    track_ = std::move(track);
    low_ = {1e18, 1e18};
    high_ = {-1e18, -1e18};
    if (track_ != nullptr) {
        for (const Point p : track_->line) {
            low_ = {std::min(low_.x, p.x), std::min(low_.y, p.y)};
            high_ = {std::max(high_.x, p.x), std::max(high_.y, p.y)};
        }
    }
    update();
}

void TrackMap::set_place(double distance_m) {
    place_m_ = distance_m;
    update();
}

void TrackMap::set_selected(int corner) {
    selected_ = corner;
    update();
}

MapPlacing TrackMap::fitted() const {
    if (track_ == nullptr) return {};
    return MapPlacing::fitting(low_, high_, size(), edge_px);
}

QPointF TrackMap::to_pixel(Point place) const {
    return placing().to_pixel(place, size());
}

void TrackMap::draw_road(QPainter& painter) const {
    const Theme& t = theme();
    const Track& track = *track_;
    const bool edges = track.edges.source != Edges::Source::none;
    QPolygonF road;
    const auto n = track.line.size();
    const auto side = [&](std::size_t i, double away) {
        return to_pixel(track.line[i] + left_of(track.tangent[i]) * away);
    };
    painter.setPen(Qt::NoPen);
    painter.setBrush(t.track);
    // Piece by piece: a road that crosses itself must not be filled even-odd.
    const std::size_t last = track.open ? n - 1 : n;
    for (std::size_t i = 0; i < last; i += 2) {
        const std::size_t k = std::min(i + 2, track.open ? n - 1 : i + 2) % n;
        const double least = 2.5 / placing().px_per_m;
        const auto left = [&](std::size_t j) {
            return std::max(least, edges ? track.edges.left_m[j] : usual_half_width_m);
        };
        const auto right = [&](std::size_t j) {
            return std::max(least, edges ? track.edges.right_m[j] : usual_half_width_m);
        };
        road.clear();
        road << side(i, left(i)) << side(k, left(k)) << side(k, -right(k)) << side(i, -right(i));
        painter.drawConvexPolygon(road);
    }
    if (edges) {
        QPolygonF lines[2];
        for (std::size_t i = 0; i < n; ++i) {
            lines[0] << side(i, track.edges.left_m[i]);
            lines[1] << side(i, -track.edges.right_m[i]);
        }
        QPen pen(t.mute, 1);
        // What is only inferred is dashed.
        if (track.edges.source == Edges::Source::spread) pen.setStyle(Qt::DashLine);
        painter.setPen(pen);
        for (QPolygonF& line : lines) {
            if (!track.open) line << line.front();
            painter.drawPolyline(line);
        }
    }
    if (!track.pit_lane.empty()) {
        QPolygonF lane;
        for (const Point p : track.pit_lane) lane << to_pixel(p);
        painter.setPen(QPen(t.mute, 3, Qt::DotLine));
        painter.drawPolyline(lane);
        painter.setFont(small_font());
        painter.setPen(t.mute);
        painter.drawText(lane[lane.size() / 2] + QPointF(8, 14), tr("pits"));
    }
    for (std::size_t c = 0; c < track.corners.size(); ++c) {
        const Corner& corner = track.corners[c];
        QPolygonF line;
        for (double s = corner.start_m; s <= corner.end_m; s += 2) line << to_pixel(track.position_at(s));
        const bool chosen = static_cast<int>(c) == selected_;
        // Left, right and straight are told apart by tone and by the side of the number.
        painter.setPen(QPen(corner.left ? t.won : t.lost, chosen ? 5 : 2.2, Qt::SolidLine, Qt::FlatCap));
        painter.drawPolyline(line);
    }
}

void TrackMap::draw_marks(QPainter& painter) const {
    const Theme& t = theme();
    const Track& track = *track_;
    const double px_per_m = placing().px_per_m;
    const auto across = [&](double s, double half_px, const QPen& pen) {
        const Point at = track.position_at(s), side = left_of(track.tangent_at(s)) * (half_px / px_per_m);
        painter.setPen(pen);
        painter.drawLine(to_pixel(at + side), to_pixel(at - side));
    };
    std::vector<QRectF> taken;
    const auto label = [&](double s, bool to_left, const QString& text, const QColor& colour, bool bold) {
        painter.setFont(small_font(bold));
        const Point normal = left_of(track.tangent_at(s)) * (to_left ? 1.0 : -1.0);
        const double width = painter.fontMetrics().horizontalAdvance(text) + 4;
        QRectF box;
        for (const double away : {16.0, 24.0, 34.0, -16.0, -26.0, 46.0, -38.0}) {
            const QPointF at =
                to_pixel(track.position_at(s) + normal * ((away + (away > 0 ? 6 : -6) * px_per_m) / px_per_m));
            box = QRectF(at.x() - width / 2, at.y() - 7, width, 14);
            if (std::none_of(taken.begin(), taken.end(), [&](const QRectF& other) { return other.intersects(box); }))
                break;
        }
        taken.push_back(box);
        painter.setPen(colour);
        painter.drawText(box, Qt::AlignCenter, text);
    };
    across(0, 12, QPen(t.ink, 2.4));
    if (track.open) across(track.length_m, 12, QPen(t.ink, 2.4));
    const Point tip = track.position_at(28 / px_per_m), root = track.position_at(10 / px_per_m);
    const Point side = left_of(track.tangent_at(0)) * (14 / px_per_m);
    painter.setPen(QPen(t.ink, 1.6));
    painter.drawLine(to_pixel(root + side), to_pixel(tip + side));
    const Point along = unit(tip - root);
    QPolygonF head;
    head << to_pixel(tip + side) << to_pixel(tip + side - along * (7 / px_per_m) + left_of(along) * (4 / px_per_m))
         << to_pixel(tip + side - along * (7 / px_per_m) - left_of(along) * (4 / px_per_m));
    painter.setBrush(t.ink);
    painter.drawPolygon(head);
    label(0, false, tr("start"), t.ink, true);
    if (track.open) label(track.length_m, false, tr("finish"), t.ink, true);
    for (std::size_t k = 0; k < track.sector_lines_m.size(); ++k) {
        across(track.sector_lines_m[k], 10, QPen(t.accent, 2));
        label(track.sector_lines_m[k], false, tr("S%1").arg(k + 2), t.accent, true);
    }
    for (std::size_t c = 0; c < track.corners.size(); ++c) {
        const Corner& corner = track.corners[c];
        label(corner.apex_m, !corner.left, QString::fromStdString(corner.label()), t.ink,
              static_cast<int>(c) == selected_);
    }
    painter.setPen(QPen(t.panel, 1.5));
    painter.setBrush(t.accent);
    painter.drawEllipse(to_pixel(track.position_at(place_m_)), 6, 6);
}

void TrackMap::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), theme().panel);
    if (track_ == nullptr) return;
    painter.setRenderHint(QPainter::Antialiasing);
    draw_road(painter);
    draw_marks(painter);
    painter.setFont(small_font());
    painter.setPen(theme().mute);
    QString note = tr("green: left-handers   amber: right-handers");
    if (track_->shape_only) note = tr("Shape only: made without positions, so place and direction are not known.");
    if (track_->edges.source == Edges::Source::spread) note += tr("   dashed edges: only where laps went");
    painter.drawText(rect().adjusted(8, 0, -8, -5), Qt::AlignLeft | Qt::AlignBottom, note);
}

void TrackMap::mousePressEvent(QMouseEvent* event) {
    press_ = event->position();
    at_press_ = placing();
    panning_ = false;
}

void TrackMap::mouseMoveEvent(QMouseEvent* event) {
    if (!(event->buttons() & (Qt::LeftButton | Qt::MiddleButton)) || track_ == nullptr) return;
    const QPointF moved = event->position() - press_;
    if (!panning_ && moved.manhattanLength() < 5) return;
    panning_ = true;
    own_ = at_press_.moved(moved);
    update();
}

void TrackMap::mouseReleaseEvent(QMouseEvent* event) {
    if (panning_ || event->button() != Qt::LeftButton || track_ == nullptr) return;
    double best = 1e18, at = 0;
    for (double s = 0; s < track_->length_m; s += 2) {
        const QPointF off = to_pixel(track_->position_at(s)) - event->position();
        const double d = QPointF::dotProduct(off, off);
        if (d >= best) continue;
        best = d;
        at = s;
    }
    Q_EMIT place_chosen(at);
    for (std::size_t c = 0; c < track_->corners.size(); ++c) {
        if (at >= track_->corners[c].start_m && at <= track_->corners[c].end_m)
            Q_EMIT corner_chosen(static_cast<int>(c));
    }
}

void TrackMap::mouseDoubleClickEvent(QMouseEvent*) {
    own_.reset();
    update();
}

void TrackMap::wheelEvent(QWheelEvent* event) {
    if (track_ == nullptr) return;
    own_ = placing().wheeled(event->angleDelta().y(), event->position(), size());
    update();
    event->accept();
}

}  // namespace rendak::app
