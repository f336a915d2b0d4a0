#include "app/desks/chassis/stretch_strip.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/plot/panel.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr double grip_px = 5, least_m = 20;

}  // namespace

StretchStrip::StretchStrip(QWidget* parent) : QWidget(parent) {
    setFixedHeight(strip_px);
    setMouseTracking(true);
    setFocusPolicy(Qt::ClickFocus);
    setAccessibleName(tr("Stretches of the lap that are judged"));
    setToolTip(
        tr("Drag the end of a stretch to move it, drag beside them to add one, double-click one to take it out"));
}

void StretchStrip::set_road(RoadShape road) {
    road_ = std::move(road);
    update();
}

void StretchStrip::set_stretches(std::vector<Interval> stretches_m) {
    // What comes back from a worker does not take the end out of somebody's hand.
    if (dragged_) return;
    stretches_ = std::move(stretches_m);
    held_.reset();
    update();
}

Scale StretchStrip::x_scale() const {
    return {{0, std::max(road_.length_m, 1.0)}, 10, width() - 10.0};
}

void StretchStrip::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    paint_panel(painter, rect(), {}, {});
    const Scale x = x_scale();
    for (std::size_t k = 0; k < stretches_.size(); ++k) {
        const QRectF box(QPointF(x.to_pixel(stretches_[k].begin), 2),
                         QPointF(x.to_pixel(stretches_[k].end), height() - 2));
        painter.setPen(QPen(t.accent, held_ == k ? 2 : 1));
        painter.setBrush(t.range);
        painter.drawRect(box);
    }
    if (!road_.at_m.empty()) {
        const auto [low, high] = std::minmax_element(road_.speed_mps.begin(), road_.speed_mps.end());
        const double span = std::max(*high - *low, 1.0);
        QPolygonF line;
        for (std::size_t i = 0; i < road_.at_m.size(); ++i)
            line << QPointF(x.to_pixel(road_.at_m[i]), height() - 4 - (road_.speed_mps[i] - *low) / span * 22);
        painter.setPen(QPen(t.mute, 1.2));
        painter.setBrush(Qt::NoBrush);
        painter.drawPolyline(line);
    }
    painter.setFont(small_font());
    painter.setPen(t.ink);
    double free_from = 0;
    for (const auto& [at_m, label] : road_.corners) {
        const double px = x.to_pixel(at_m), half = painter.fontMetrics().horizontalAdvance(label) / 2.0 + 2;
        if (px - half < free_from) continue;
        painter.drawText(QRectF(px - half, 2, 2 * half, 13), Qt::AlignCenter, label);
        free_from = px + half;
    }
}

std::optional<StretchStrip::End> StretchStrip::end_at(double px) const {
    const Scale x = x_scale();
    std::optional<End> out;
    double nearest = grip_px;
    for (std::size_t k = 0; k < stretches_.size(); ++k) {
        for (const bool begin : {true, false}) {
            const double away = std::abs(px - x.to_pixel(begin ? stretches_[k].begin : stretches_[k].end));
            if (away > nearest) continue;
            nearest = away;
            out = End{k, begin};
        }
    }
    return out;
}

std::optional<std::size_t> StretchStrip::stretch_at(double px) const {
    const double m = x_scale().to_value(px);
    for (std::size_t k = 0; k < stretches_.size(); ++k)
        if (stretches_[k].contains(m)) return k;
    return std::nullopt;
}

void StretchStrip::mousePressEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton || road_.length_m <= 0) return;
    const double px = event->position().x();
    before_ = stretches_;
    press_m_ = std::clamp(x_scale().to_value(px), 0.0, road_.length_m);
    held_ = stretch_at(px);
    dragged_ = end_at(px);
    fresh_ = !dragged_ && !held_;
    if (dragged_) held_ = dragged_->stretch;
    update();
}

void StretchStrip::mouseMoveEvent(QMouseEvent* event) {
    const double px = event->position().x();
    if (!(event->buttons() & Qt::LeftButton)) {
        setCursor(end_at(px) ? Qt::SizeHorCursor : stretch_at(px) ? Qt::ArrowCursor : Qt::CrossCursor);
        return;
    }
    const double here = std::clamp(x_scale().to_value(px), 0.0, road_.length_m);
    if (fresh_ && std::abs(here - press_m_) >= least_m) {
        stretches_.push_back({std::min(here, press_m_), std::max(here, press_m_)});
        dragged_ = End{stretches_.size() - 1, here < press_m_};
        held_ = dragged_->stretch;
        fresh_ = false;
    }
    if (!dragged_) return;
    Interval& it = stretches_[dragged_->stretch];
    if (dragged_->begin)
        it.begin = std::clamp(here, 0.0, std::max(0.0, it.end - least_m));
    else
        it.end = std::clamp(here, std::min(it.begin + least_m, road_.length_m), road_.length_m);
    update();
}

void StretchStrip::mouseReleaseEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) return;
    fresh_ = false;
    if (!dragged_) return;
    dragged_.reset();
    put_in_order();
    update();
    if (stretches_ != before_) Q_EMIT chosen(stretches_);
}

void StretchStrip::mouseDoubleClickEvent(QMouseEvent* event) {
    if (const auto it = stretch_at(event->position().x())) take_out(*it);
}

void StretchStrip::keyPressEvent(QKeyEvent* event) {
    if ((event->key() == Qt::Key_Delete || event->key() == Qt::Key_Backspace) && held_ && !dragged_)
        return take_out(*held_);
    if (event->key() == Qt::Key_Escape && dragged_) {
        dragged_.reset();
        stretches_ = before_;
        return update();
    }
    QWidget::keyPressEvent(event);
}

void StretchStrip::take_out(std::size_t stretch) {
    // Nothing to judge on is no choice.
    if (stretches_.size() < 2) return;
    stretches_.erase(stretches_.begin() + static_cast<std::ptrdiff_t>(stretch));
    held_.reset();
    update();
    Q_EMIT chosen(stretches_);
}

void StretchStrip::put_in_order() {
    held_.reset();
    std::sort(stretches_.begin(), stretches_.end(),
              [](const Interval& a, const Interval& b) { return a.begin < b.begin; });
    std::vector<Interval> out;
    for (const Interval& it : stretches_) {
        if (!out.empty() && it.begin <= out.back().end)
            out.back().end = std::max(out.back().end, it.end);
        else
            out.push_back(it);
    }
    stretches_ = std::move(out);
}

}  // namespace rendak::app
