#include "app/desks/track/track_strip.h"

#include <QMouseEvent>
#include <QPainter>
#include <cmath>

#include "app/plot/ticks.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr double left_px = 44, right_px = 10, grab_px = 5;

}  // namespace

TrackStrip::TrackStrip(QWidget* parent) : QWidget(parent) {
    setFixedHeight(176);
    setMouseTracking(true);
    setAccessibleName(tr("Track stretched out: corners and height"));
}

void TrackStrip::set_track(std::shared_ptr<const Track> track) {
    track_ = std::move(track);
    held_ = {};
    update();
}

void TrackStrip::set_place(double distance_m) {
    place_m_ = distance_m;
    update();
}

void TrackStrip::set_selected(int corner) {
    selected_ = corner;
    update();
}

void TrackStrip::set_range(Interval range_m) {
    range_m_ = range_m;
    update();
}

QRectF TrackStrip::curve_area() const {
    return QRectF(left_px, 18, width() - left_px - right_px, 88);
}

QRectF TrackStrip::height_area() const {
    return QRectF(left_px, 114, width() - left_px - right_px, 42);
}

double TrackStrip::pixel_of(double distance_m) const {
    const QRectF area = curve_area();
    return track_ == nullptr ? area.left() : area.left() + distance_m / track_->length_m * area.width();
}

double TrackStrip::distance_at(double pixel) const {
    const QRectF area = curve_area();
    return std::clamp((pixel - area.left()) / area.width(), 0.0, 1.0) * track_->length_m;
}

void TrackStrip::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    QPainter painter(this);
    painter.fillRect(rect(), t.panel);
    if (track_ == nullptr) return;
    const Track& track = *track_;
    const QRectF area = curve_area();
    painter.setRenderHint(QPainter::Antialiasing);
    if (!range_m_.empty())
        painter.fillRect(
            QRectF(QPointF(pixel_of(range_m_.begin), area.top()), QPointF(pixel_of(range_m_.end), area.bottom())),
            t.range);
    painter.setFont(small_font());
    // Bands of the corners, with what is being dragged as it will be.
    for (std::size_t c = 0; c < track.corners.size(); ++c) {
        Corner corner = track.corners[c];
        if (static_cast<int>(c) == held_.index && moved_) {
            if (held_.grab == Grab::start) corner.start_m = std::min(drag_m_, corner.end_m);
            if (held_.grab == Grab::end) corner.end_m = std::max(drag_m_, corner.start_m);
            if (held_.grab == Grab::apex) corner.apex_m = std::clamp(drag_m_, corner.start_m, corner.end_m);
        }
        const bool chosen = static_cast<int>(c) == selected_;
        QColor band = corner.left ? t.won : t.lost;
        band.setAlphaF(chosen ? 0.30F : 0.13F);
        const QRectF box(QPointF(pixel_of(corner.start_m), area.top()), QPointF(pixel_of(corner.end_m), area.bottom()));
        painter.fillRect(box, band);
        if (chosen) {
            painter.setPen(QPen(corner.left ? t.won : t.lost, 2));
            painter.drawLine(box.topLeft(), box.bottomLeft());
            painter.drawLine(box.topRight(), box.bottomRight());
        }
        const double apex = pixel_of(corner.apex_m);
        painter.setPen(QPen(t.ink, 1));
        painter.drawLine(QPointF(apex, area.bottom() - 6), QPointF(apex, area.bottom()));
        painter.setFont(small_font(chosen));
        painter.drawText(QRectF(apex - 20, 2, 40, 14), Qt::AlignCenter, QString::fromStdString(corner.label()));
    }
    double peak = 1.0 / 60;
    for (const double k : track.curvature) peak = std::max(peak, std::abs(k));
    const double middle = area.center().y();
    // The square root keeps fast corners visible beside hairpins.
    const auto y_of = [&](double k) {
        return middle - std::copysign(std::sqrt(std::abs(k) / peak), k) * (area.height() / 2 - 2);
    };
    painter.setPen(QPen(t.rule, 1));
    painter.drawLine(QPointF(area.left(), middle), QPointF(area.right(), middle));
    QPolygonF curve;
    for (double px = area.left(); px <= area.right(); px += 1)
        curve << QPointF(px, y_of(track.curvature_at(distance_at(px))));
    painter.setPen(QPen(t.ink, 1.4));
    painter.drawPolyline(curve);
    painter.setFont(small_font());
    painter.setPen(t.mute);
    painter.drawText(QRectF(2, area.top(), left_px - 6, 14), Qt::AlignRight, tr("left"));
    painter.drawText(QRectF(2, area.bottom() - 14, left_px - 6, 14), Qt::AlignRight, tr("right"));

    const QRectF hills = height_area();
    if (track.height.value.empty()) {
        painter.drawText(hills, Qt::AlignLeft | Qt::AlignVCenter, tr("Height is not known yet: learn it from laps."));
    } else {
        const auto [low, high] = std::minmax_element(track.height.value.begin(), track.height.value.end());
        const double span = std::max(5.0, *high - *low);
        QPolygonF line;
        for (double px = hills.left(); px <= hills.right(); px += 1)
            line << QPointF(
                px, hills.bottom() -
                        (track.value_at(track.height.value, std::min(distance_at(px), track.length_m - 0.01)) - *low) /
                            span * hills.height());
        QPolygonF filled = line;
        filled << hills.bottomRight() << hills.bottomLeft();
        painter.setPen(Qt::NoPen);
        painter.setBrush(t.grid);
        painter.drawPolygon(filled);
        painter.setPen(QPen(t.mute, 1.2));
        painter.drawPolyline(line);
        painter.drawText(QRectF(2, hills.top(), left_px - 6, 14), Qt::AlignRight, distance_text(*high - *low));
        painter.drawText(QRectF(2, hills.bottom() - 14, left_px - 6, 14), Qt::AlignRight, distance_text(0));
    }
    painter.setPen(t.mute);
    const Shown how = distance_shown();
    for (const double at : ticks_for({0, how.from_si(track.length_m)}, 14).values)
        painter.drawText(QRectF(pixel_of(at * how.factor) - 30, height() - 17, 60, 14), Qt::AlignCenter,
                         QString::number(at, 'f', 0));
    painter.drawText(QRectF(2, height() - 17, left_px - 16, 14), Qt::AlignLeft, how.unit);
    for (std::size_t k = 0; k < track.sector_lines_m.size(); ++k) {
        const bool held = held_.grab == Grab::sector && held_.index == static_cast<int>(k) && moved_;
        const double px = pixel_of(held ? drag_m_ : track.sector_lines_m[k]);
        painter.setPen(QPen(t.accent, 2, Qt::DashLine));
        painter.drawLine(QPointF(px, area.top()), QPointF(px, hills.bottom()));
    }
    if (held_.grab == Grab::range && moved_) {
        QColor veil = t.range;
        veil.setAlphaF(0.6F);
        painter.fillRect(
            QRectF(QPointF(pixel_of(press_m_), area.top()), QPointF(pixel_of(drag_m_), area.bottom())).normalized(),
            veil);
    }
    painter.setPen(QPen(t.accent, 2));
    painter.drawLine(QPointF(pixel_of(place_m_), area.top()), QPointF(pixel_of(place_m_), hills.bottom()));
}

TrackStrip::Hold TrackStrip::hold_at(QPointF at) const {
    if (track_ == nullptr) return {};
    const auto near = [&](double distance_m) { return std::abs(pixel_of(distance_m) - at.x()) <= grab_px; };
    const auto corner = [&](int c) -> Hold {
        const Corner& it = track_->corners[static_cast<std::size_t>(c)];
        // The apex is taken at its tick below, the limits anywhere along their height.
        if (near(it.apex_m) && at.y() > curve_area().bottom() - 10 && at.y() < curve_area().bottom() + 4)
            return {Grab::apex, c};
        if (near(it.start_m)) return {Grab::start, c};
        if (near(it.end_m)) return {Grab::end, c};
        return {};
    };
    if (selected_ >= 0 && selected_ < static_cast<int>(track_->corners.size())) {
        if (const Hold hold = corner(selected_); hold.grab != Grab::none) return hold;
    }
    for (std::size_t k = 0; k < track_->sector_lines_m.size(); ++k) {
        if (near(track_->sector_lines_m[k])) return {Grab::sector, static_cast<int>(k)};
    }
    return {Grab::range, -1};
}

void TrackStrip::mousePressEvent(QMouseEvent* event) {
    if (track_ == nullptr || event->button() != Qt::LeftButton) return;
    held_ = hold_at(event->position());
    press_m_ = drag_m_ = distance_at(event->position().x());
    moved_ = false;
}

void TrackStrip::mouseMoveEvent(QMouseEvent* event) {
    if (track_ == nullptr) return;
    if (!(event->buttons() & Qt::LeftButton)) {
        const Grab grab = hold_at(event->position()).grab;
        setCursor(grab == Grab::range || grab == Grab::none ? Qt::ArrowCursor : Qt::SizeHorCursor);
        return;
    }
    drag_m_ = distance_at(event->position().x());
    moved_ = moved_ || std::abs(pixel_of(drag_m_) - pixel_of(press_m_)) > 3;
    update();
}

void TrackStrip::mouseReleaseEvent(QMouseEvent* event) {
    if (track_ == nullptr || event->button() != Qt::LeftButton) return;
    const Hold hold = std::exchange(held_, {});
    const auto corner = static_cast<std::size_t>(std::max(0, hold.index));
    if (!moved_) {
        for (std::size_t c = 0; c < track_->corners.size(); ++c) {
            if (press_m_ >= track_->corners[c].start_m && press_m_ <= track_->corners[c].end_m)
                Q_EMIT corner_chosen(static_cast<int>(c));
        }
        Q_EMIT place_chosen(press_m_);
    } else if (hold.grab == Grab::start) {
        Q_EMIT limits_dragged(hold.index, {drag_m_, track_->corners[corner].end_m});
    } else if (hold.grab == Grab::end) {
        Q_EMIT limits_dragged(hold.index, {track_->corners[corner].start_m, drag_m_});
    } else if (hold.grab == Grab::apex) {
        Q_EMIT apex_dragged(hold.index, drag_m_);
    } else if (hold.grab == Grab::sector) {
        Q_EMIT sector_dragged(hold.index, drag_m_);
    } else if (hold.grab == Grab::range) {
        Q_EMIT range_chosen({std::min(press_m_, drag_m_), std::max(press_m_, drag_m_)});
    }
    moved_ = false;
    update();
}

}  // namespace rendak::app
