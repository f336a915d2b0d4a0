#include "app/desks/track/track_map.h"

#include <QPainter>
#include <cmath>

#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr double edge_px = 34;

}  // namespace

TrackMap::TrackMap(QWidget* parent) : PannedMap(parent) {
    setMinimumSize(280, 220);
    setAccessibleName(tr("Track from above"));
}

void TrackMap::set_track(std::shared_ptr<const Track> track) {
    if (track == nullptr || track_ == nullptr || track->name != track_->name) show_all();
    track_ = std::move(track);
    bounds_ = {};
    if (track_ != nullptr) {
        for (const Point p : track_->line) bounds_.take(p);
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
    return MapPlacing::fitting(bounds_.low, bounds_.high, size(), edge_px);
}

RoadPicture TrackMap::road(QPainter& painter) const {
    return RoadPicture(
        painter, *track_, [this](Point place, double) { return to_pixel(place); }, placing().px_per_m);
}

void TrackMap::draw_road(QPainter& painter) const {
    const Theme& t = theme();
    const Track& track = *track_;
    const RoadPicture road = this->road(painter);
    road.surface(5, true, false);
    road.edge_lines();
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
    RoadPicture road = this->road(painter);
    road.start_and_finish(12);
    road.label(0, 1, tr("start"), t.ink);
    if (track.open) road.label(track.length_m, 1, tr("finish"), t.ink);
    road.sectors(10);
    for (std::size_t c = 0; c < track.corners.size(); ++c)
        road.corner_label(track.corners[c], static_cast<int>(c) == selected_);
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

void TrackMap::clicked(QPointF place) {
    double best = 1e18, at = 0;
    for (double s = 0; s < track_->length_m; s += 2) {
        const QPointF off = to_pixel(track_->position_at(s)) - place;
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

}  // namespace rendak::app
