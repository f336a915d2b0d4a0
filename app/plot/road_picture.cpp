#include "app/plot/road_picture.h"

#include <QCoreApplication>
#include <algorithm>
#include <cmath>

#include "app/plot/leader_line.h"
#include "app/theme/theme.h"
#include "core/base/wide_registers.h"

namespace rendak::app {

RoadPicture::RoadPicture(QPainter& painter, const Track& track, std::function<QPointF(Point, double)> to_pixel,
                         double px_per_m, std::function<double(double)> up_at)
    : painter_(painter),
      track_(track),
      to_pixel_(std::move(to_pixel)),
      up_at_(std::move(up_at)),
      px_per_m_(px_per_m),
      road_(line(track.step_m())) {}

QPointF RoadPicture::at(double distance_m, double left_m) const {
    return to_pixel_(track_.position_at(distance_m) + left_of(track_.tangent_at(distance_m)) * left_m,
                     up_at_(distance_m));
}

QPolygonF RoadPicture::line(double step_m) const {
    QPolygonF out;
    for (std::size_t i = 0; i < track_.line.size(); ++i) out << at(static_cast<double>(i) * step_m);
    if (!track_.open && !out.isEmpty()) out << out.front();
    return out;
}

void RoadPicture::surface(double least_px, bool with_edges, bool with_border) const {
    clear_wide_registers();
    const Theme& t = theme();
    if (!with_edges || track_.edges.source == Edges::Source::none) {
        const double width = std::max(least_px, usual_width_m * px_per_m_);
        painter_.setBrush(Qt::NoBrush);
        if (with_border) {
            painter_.setPen(QPen(t.rule, width + 2, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
            painter_.drawPolyline(road_);
        }
        painter_.setPen(QPen(t.track, width, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
        painter_.drawPolyline(road_);
        return;
    }
    // Piece by piece: where the road crosses itself nothing is cut out.
    painter_.setPen(Qt::NoPen);
    painter_.setBrush(t.track);
    const double least_m = least_px / 2 / px_per_m_, step = track_.step_m();
    QPolygonF left, right;
    for (std::size_t i = 0; i < track_.line.size(); ++i) {
        left << at(static_cast<double>(i) * step, std::max(least_m, track_.edges.left_m[i]));
        right << at(static_cast<double>(i) * step, -std::max(least_m, track_.edges.right_m[i]));
    }
    if (!track_.open) {
        left << left.front();
        right << right.front();
    }
    for (qsizetype i = 0; i + 1 < left.size(); ++i)
        painter_.drawConvexPolygon(QPolygonF() << left[i] << left[i + 1] << right[i + 1] << right[i]);
}

void RoadPicture::edge_lines() const {
    if (track_.edges.source == Edges::Source::none) return;
    QPolygonF lines[2];
    for (std::size_t i = 0; i < track_.line.size(); ++i) {
        const double s = static_cast<double>(i) * track_.step_m();
        lines[0] << at(s, track_.edges.left_m[i]);
        lines[1] << at(s, -track_.edges.right_m[i]);
    }
    QPen pen(theme().mute, 1.1);
    if (track_.edges.source == Edges::Source::spread) pen.setStyle(Qt::DashLine);
    painter_.setPen(pen);
    painter_.setBrush(Qt::NoBrush);
    for (QPolygonF& line : lines) {
        if (!track_.open) line << line.front();
        painter_.drawPolyline(line);
    }
}

void RoadPicture::across(double distance_m, double half_px, const QPen& pen) const {
    painter_.setPen(pen);
    painter_.drawLine(at(distance_m, half_px / px_per_m_), at(distance_m, -half_px / px_per_m_));
}

void RoadPicture::start_and_finish(double half_px) const {
    const QColor ink = theme().ink;
    across(0, half_px, QPen(ink, 2));
    if (track_.open) across(track_.length_m, half_px, QPen(ink, 2, Qt::DashLine));
    const double offset = (half_px + 5) / px_per_m_;
    const QPointF a = at(12 / px_per_m_, offset), b = at(26 / px_per_m_, offset), way = b - a;
    const double size = std::max(1.0, std::hypot(way.x(), way.y()));
    const QPointF along = way / size, side(-along.y(), along.x());
    painter_.setPen(QPen(ink, 1.6));
    painter_.drawLine(a, b);
    painter_.setBrush(ink);
    painter_.setPen(Qt::NoPen);
    painter_.drawPolygon(QPolygonF() << b << b - along * 6 + side * 4 << b - along * 6 - side * 4);
}

void RoadPicture::sectors(double half_px) {
    for (std::size_t k = 0; k < track_.sector_lines_m.size(); ++k) {
        across(track_.sector_lines_m[k], half_px, QPen(theme().accent, 2));
        label(track_.sector_lines_m[k], 1, QCoreApplication::translate("RoadPicture", "S%1").arg(k + 2),
              theme().accent);
    }
}

void RoadPicture::corner_label(const Corner& corner, bool bold) {
    label(corner.apex_m, corner.left ? -1 : 1, QString::fromStdString(corner.label()), theme().ink, bold);
}

void RoadPicture::label(double distance_m, double outward, const QString& text, const QColor& colour, bool bold) {
    painter_.setFont(small_font(bold));
    const double width = std::max(16.0, painter_.fontMetrics().horizontalAdvance(text) + 4.0);
    const auto box_at = [&](double away) {
        const double road_px = std::copysign(usual_width_m / 2 * px_per_m_, away);
        const QPointF place = at(distance_m, outward * (away + road_px) / px_per_m_);
        return QRectF(place.x() - width / 2, place.y() - 7, width, 14);
    };
    // Where another label or a piece of road is: further out, or inside.
    const QRectF page = painter_.worldTransform().inverted().mapRect(QRectF(painter_.viewport()));
    QRectF chosen = box_at(13);  // every corner has its number, even in a crowd
    constexpr double far_px = 22;
    bool far = false;
    for (const double away : {13.0, 18.0, 24.0, -14.0, -20.0, 32.0, -28.0, 42.0, -40.0}) {
        const QRectF box = box_at(away);
        const auto hits = [&](const QRectF& other) { return other.intersects(box); };
        const auto on_line = [&](const QPointF& p) { return box.adjusted(-2, -2, 2, 2).contains(p); };
        if (std::any_of(taken_.begin(), taken_.end(), hits) || std::any_of(road_.begin(), road_.end(), on_line) ||
            !page.contains(box))
            continue;
        chosen = box;
        far = std::abs(away) > far_px;
        break;
    }
    taken_.push_back(chosen);
    // One that had to go far says whose it is.
    if (far) draw_leader_line(painter_, at(distance_m, 0), chosen.center());
    painter_.setPen(colour);
    painter_.drawText(chosen, Qt::AlignCenter, text);
}

}  // namespace rendak::app
