#include "app/desks/formulas/preview_plot.h"

#include <QLocale>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

#include "app/plot/ticks.h"
#include "app/plot/trace_raster.h"
#include "app/theme/theme.h"

namespace rendak::app {

PreviewPlot::PreviewPlot(QWidget* parent) : QWidget(parent) {
    setMinimumHeight(140);
    setAccessibleName(tr("Result on the picked lap"));
}

void PreviewPlot::show_trace(Trace trace, Shown how, int slot) {
    trace_ = std::move(trace);
    how_ = std::move(how);
    slot_ = slot;
    text_.clear();
    update();
}

void PreviewPlot::show_text(const QString& text) {
    trace_ = {};
    text_ = text;
    update();
}

void PreviewPlot::set_cursor(double at_m) {
    cursor_m_ = at_m;
    update();
}

QRect PreviewPlot::plot_area() const {
    return rect().adjusted(56, 6, -10, -20);
}

double PreviewPlot::end_m() const {
    return trace_.x.empty() ? 1 : std::max(1.0F, trace_.x.back());
}

Interval PreviewPlot::values() const {
    if (how_.range) return *how_.range;
    const Interval si = trace_.limits();
    return with_margin({how_.from_si(si.begin), how_.from_si(si.end)});
}

void PreviewPlot::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    QPainter painter(this);
    painter.fillRect(rect(), t.panel);
    painter.setFont(body_font());
    const QRect area = plot_area();
    if (trace_.x.empty()) {
        painter.setPen(t.mute);
        painter.drawText(area, Qt::AlignCenter | Qt::TextWordWrap, text_);
        return;
    }
    const double ratio = devicePixelRatioF();
    const Interval shown = values();
    QImage image((QSizeF(size()) * ratio).toSize(), QImage::Format_RGB32);
    image.fill(t.panel.rgb());
    const Scale x{{0, end_m()}, area.left() * ratio, area.right() * ratio};
    const Scale y{shown, area.bottom() * ratio, area.top() * ratio};
    const QRect inside(QPoint(static_cast<int>(area.left() * ratio), static_cast<int>(area.top() * ratio)),
                       area.size() * ratio);
    {
        QPainter below(&image);
        below.setPen(QPen(t.grid, 1));
        for (const double value : ticks_for(shown, std::max(2, area.height() / 26)).values) {
            const int py = static_cast<int>(std::lround(y.to_pixel(value)));
            below.drawLine(inside.left(), py, inside.right(), py);
        }
    }
    const DrawnLane lane{inside,
                         x,
                         y,
                         lap_trace_width_px * ratio,
                         {{&trace_, t.lap(slot_).rgb(), 1 / how_.factor, -how_.offset / how_.factor}}};
    draw_lanes(image, std::span(&lane, 1), 1);
    image.setDevicePixelRatio(ratio);
    painter.drawImage(0, 0, image);
    painter.setPen(t.rule);
    painter.drawRect(area);
    painter.setFont(small_font());
    painter.setPen(t.mute);
    const Ticks values = ticks_for(shown, std::max(2, area.height() / 26));
    for (const double value : values.values) {
        const int py = static_cast<int>(std::lround(y.to_pixel(value) / ratio));
        painter.drawText(QRect(0, py - 7, area.left() - 6, 14), Qt::AlignRight | Qt::AlignVCenter,
                         QLocale::c().toString(value, 'f', values.decimals).replace(u'-', u'−'));
    }
    for (const double value : ticks_for({0, end_m()}, std::max(2, area.width() / 110)).values) {
        const int px = static_cast<int>(std::lround(x.to_pixel(value) / ratio));
        painter.drawText(QRect(px - 40, area.bottom() + 3, 80, 14), Qt::AlignHCenter, QString::number(value, 'f', 0));
    }
    painter.drawText(QRect(area.right() - 20, area.bottom() + 3, 28, 14), Qt::AlignRight, QStringLiteral("m"));
    const double px = x.to_pixel(cursor_m_) / ratio;
    painter.setPen(QPen(t.ink, 1));
    painter.drawLine(QPointF(px, area.top()), QPointF(px, area.bottom()));
}

void PreviewPlot::mousePressEvent(QMouseEvent* event) {
    const QRect area = plot_area();
    if (trace_.x.empty() || area.width() < 10) return;
    const double share = (event->position().x() - area.left()) / area.width();
    Q_EMIT cursor_asked(std::clamp(share, 0.0, 1.0) * end_m());
}

void PreviewPlot::mouseMoveEvent(QMouseEvent* event) {
    if (event->buttons() & Qt::LeftButton) mousePressEvent(event);
}

}  // namespace rendak::app
