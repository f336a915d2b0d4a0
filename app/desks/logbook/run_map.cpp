#include "app/desks/logbook/run_map.h"

#include <QPainter>
#include <algorithm>

#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr double edge_px = 18;

}  // namespace

RunMap::RunMap(QWidget* parent) : PannedMap(parent) {
    setMinimumSize(420, 260);
    setAccessibleName(tr("The run from above: a click places the start line"));
}

void RunMap::set_path(std::shared_ptr<const Path> path) {
    path_ = std::move(path);
    drawn_.clear();
    show_all();
    constexpr double apart_m = 4;
    double last = -1e9;
    for (std::size_t i = 0; path_ != nullptr && i < path_->size(); ++i) {
        if (path_->distance_m[i] - last < apart_m) continue;
        const Point p = path_->position[i];
        low_ = drawn_.empty() ? p : Point{std::min(low_.x, p.x), std::min(low_.y, p.y)};
        high_ = drawn_.empty() ? p : Point{std::max(high_.x, p.x), std::max(high_.y, p.y)};
        last = path_->distance_m[i];
        drawn_.push_back(i);
    }
    update();
}

void RunMap::set_message(const QString& message) {
    message_ = message;
    update();
}

void RunMap::set_line(const std::optional<StartPlace>& line) {
    line_ = line;
    update();
}

MapPlacing RunMap::fitted() const {
    return MapPlacing::fitting(low_, high_, size(), edge_px);
}

QPointF RunMap::pixel_at(double time_s) const {
    return path_ == nullptr ? QPointF() : to_pixel(path_->position_at(time_s));
}

void RunMap::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    QPainter painter(this);
    painter.fillRect(rect(), t.panel);
    painter.setPen(t.mute);
    painter.setFont(small_font());
    if (path_ == nullptr || drawn_.empty()) {
        painter.drawText(rect().adjusted(12, 0, -12, 0), Qt::AlignCenter | Qt::TextWordWrap, message_);
        return;
    }
    painter.setRenderHint(QPainter::Antialiasing);
    QPolygonF way;
    for (const std::size_t i : drawn_) way << to_pixel(path_->position[i]);
    painter.setPen(QPen(t.mute, 1.4));
    painter.drawPolyline(way);
    painter.drawText(rect().adjusted(8, 0, -8, -4), Qt::AlignLeft | Qt::AlignBottom,
                     tr("A click places the start line; wheel and drag zoom and move; a double click shows all."));
    if (!line_) return;
    const Point at = LocalPlane(path_->origin).to_local(line_->place),
                along = direction_from_heading(line_->heading_deg);
    const QPointF middle = to_pixel(at);
    const QPointF ahead(along.x, -along.y), across(-ahead.y(), ahead.x());
    painter.setPen(QPen(t.accent, 3, Qt::SolidLine, Qt::FlatCap));
    painter.drawLine(middle - across * 12, middle + across * 12);
    painter.setPen(QPen(t.accent, 1.6));
    painter.drawLine(middle, middle + ahead * 22);
    painter.drawLine(middle + ahead * 22, middle + ahead * 15 + across * 5);
    painter.drawLine(middle + ahead * 22, middle + ahead * 15 - across * 5);
}

void RunMap::clicked(QPointF pixel) {
    const Point at = placing().to_place(pixel, size());
    double best = 1e18;
    std::size_t nearest = drawn_.front();
    for (const std::size_t i : drawn_) {
        // A car that stands goes nowhere.
        if (length(path_->velocity[i]) < 3) continue;
        const double away = length(path_->position[i] - at);
        if (away >= best) continue;
        best = away;
        nearest = i;
    }
    if (best > 1e17) return;
    const StartPlace line{LocalPlane(path_->origin).to_geo(path_->position[nearest]),
                          heading_from_direction(path_->velocity[nearest])};
    set_line(line);
    Q_EMIT line_placed(line);
}

}  // namespace rendak::app
