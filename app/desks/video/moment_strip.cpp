#include "app/desks/video/moment_strip.h"

#include <QMouseEvent>
#include <QPainter>
#include <cmath>

#include "app/plot/panel.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {

MomentStrip::MomentStrip(QWidget* parent) : QWidget(parent) {
    setFixedHeight(74);
    setCursor(Qt::SizeHorCursor);
    setAccessibleName(tr("Traces about the moment of the picture"));
    setToolTip(tr("Drag the traces until they belong to the picture"));
}

void MomentStrip::set_lap(std::shared_ptr<const Recording> recording) {
    recording_ = std::move(recording);
    update();
}

void MomentStrip::show_moment(double run_s) {
    run_s_ = run_s;
    update();
}

void MomentStrip::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    paint_panel(painter, rect(), {}, {});
    if (recording_ == nullptr) return;
    const double px_a_s = width() / (2 * half_s), middle = width() / 2.0 + moved_s_ * px_a_s;
    int row = 0;
    painter.setFont(small_font());
    for (const auto& [quantity, colour] :
         {std::pair{"speed", t.ink}, {"steering", t.accent}, {"brake_front", t.lost}}) {
        const Channel* channel = recording_->find(quantity);
        if (channel == nullptr) continue;
        QPolygonF line;
        double low = 1e300, high = -1e300;
        std::vector<std::pair<double, double>> points;
        for (double px = 0; px <= width(); px += 2) {
            const double value = channel->value_at(run_s_ + (px - middle) / px_a_s);
            if (!std::isfinite(value)) continue;
            points.emplace_back(px, value);
            low = std::min(low, value);
            high = std::max(high, value);
        }
        const double top = 4 + row * 22.0, tall = 18;
        for (const auto& [px, value] : points)
            line << QPointF(px, top + tall - (value - low) / std::max(high - low, 1e-9) * tall);
        // Not wider than a pixel: Qt strokes wider lines as shapes, which took most of a frame's time.
        painter.setPen(QPen(colour, 1));
        painter.setBrush(Qt::NoBrush);
        painter.drawPolyline(line);
        painter.setPen(colour);
        const QString name = shown(quantity).label;
        const QRectF place(6, top, painter.fontMetrics().horizontalAdvance(name) + 4.0, 14);
        painter.fillRect(place, t.panel);  // its curve would strike it through
        painter.drawText(place, Qt::AlignLeft, name);
        ++row;
    }
    painter.setPen(QPen(t.accent, 1.5));
    painter.drawLine(QPointF(width() / 2.0, 2), QPointF(width() / 2.0, height() - 2));
}

void MomentStrip::mousePressEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) return;
    pressed_ = true;
    press_px_ = event->position().x();
}

void MomentStrip::mouseMoveEvent(QMouseEvent* event) {
    if (!pressed_) return;
    moved_s_ = (event->position().x() - press_px_) / (width() / (2 * half_s));
    update();
}

void MomentStrip::mouseReleaseEvent(QMouseEvent*) {
    if (!pressed_) return;
    pressed_ = false;
    const double by_s = std::exchange(moved_s_, 0.0);
    update();
    // What was dragged to the right comes from earlier in the data.
    if (std::abs(by_s) > 1e-3) Q_EMIT dragged(-by_s);
}

}  // namespace rendak::app
