#include "app/desks/formulas/preview_plot.h"

#include <QLocale>
#include <QPainter>
#include <cmath>

#include "app/plot/ticks.h"
#include "app/plot/trace_raster.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {

PreviewPlot::PreviewPlot(QWidget* parent) : PlotFrame(std::make_unique<OwnAxis>(), parent) {
    setMinimumHeight(140);
    setAccessibleName(tr("Result on the picked lap"));
    connect(&axis(), &PlotAxis::cursor_changed, this, [this] {
        if (!told_) Q_EMIT cursor_asked(axis().cursor());
    });
}

void PreviewPlot::show_trace(Trace trace, Shown how, int slot) {
    trace_ = std::move(trace);
    how_ = std::move(how);
    slot_ = slot;
    text_.clear();
    // Another formula on the same lap keeps the stretch that is looked at.
    const Interval lap{0, trace_.x.empty() ? 0.0 : std::max(1.0, double(trace_.x.back()))};
    if (!(lap == own().limits())) own().set_limits(lap, 20);
    invalidate();
}

void PreviewPlot::show_text(const QString& text) {
    trace_ = {};
    text_ = text;
    own().set_limits({}, 20);
    invalidate();
}

void PreviewPlot::set_cursor(double at_m) {
    told_ = true;
    own().set_cursor(at_m);
    told_ = false;
}

QRect PreviewPlot::plot_area() const {
    return rect().adjusted(56, 6, -10, -20);
}

Interval PreviewPlot::values() const {
    if (how_.range) return *how_.range;
    const Interval si = trace_.limits();
    return with_margin({how_.from_si(si.begin), how_.from_si(si.end)});
}

void PreviewPlot::draw_picture(QImage& image) {
    const Theme& t = theme();
    const QRect area = plot_area();
    if (trace_.x.empty()) {
        QPainter painter(&image);
        painter.setFont(body_font());
        painter.setPen(t.mute);
        painter.drawText(area, Qt::AlignCenter | Qt::TextWordWrap, text_);
        return;
    }
    const double ratio = image.devicePixelRatio();
    const Interval shown = values(), view = axis().view();
    const Scale x{view, area.left() * ratio, area.right() * ratio};
    const Scale y{shown, area.bottom() * ratio, area.top() * ratio};
    const QRect inside(QPoint(static_cast<int>(area.left() * ratio), static_cast<int>(area.top() * ratio)),
                       area.size() * ratio);
    const Ticks values = ticks_for(shown, std::max(2, area.height() / 26));
    const auto pixel_of = [&](double value) { return static_cast<int>(std::lround(y.to_pixel(value) / ratio)); };
    {
        QPainter below(&image);
        below.setPen(QPen(t.grid, 1));
        for (const double value : values.values)
            below.drawLine(area.left(), pixel_of(value), area.right(), pixel_of(value));
    }
    const DrawnLane lane{inside,
                         x,
                         y,
                         lap_trace_width_px * ratio,
                         {{&trace_, t.lap(slot_).rgb(), 1 / how_.factor, -how_.offset / how_.factor}}};
    draw_lanes(image, std::span(&lane, 1), 1);
    QPainter painter(&image);
    painter.setPen(t.rule);
    painter.drawRect(area);
    painter.setFont(small_font());
    painter.setPen(t.mute);
    for (const double value : values.values)
        painter.drawText(QRect(0, pixel_of(value) - 7, area.left() - 6, 14), Qt::AlignRight | Qt::AlignVCenter,
                         QLocale::c().toString(value, 'f', values.decimals).replace(u'-', u'−'));
    const Shown far = distance_shown();
    for (const double value :
         ticks_for({far.from_si(view.begin), far.from_si(view.end)}, std::max(2, area.width() / 110)).values) {
        const int px = static_cast<int>(std::lround(x.to_pixel(value * far.factor) / ratio));
        painter.drawText(QRect(px - 40, area.bottom() + 3, 80, 14), Qt::AlignHCenter, QString::number(value, 'f', 0));
    }
    painter.drawText(QRect(area.right() - 20, area.bottom() + 3, 28, 14), Qt::AlignRight, far.unit);
}

void PreviewPlot::draw_cursor(QPainter& painter) {
    const QRect area = plot_area();
    const double px = x_scale().to_pixel(axis().cursor());
    if (px < area.left() || px > area.right() + 1) return;
    painter.setPen(QPen(theme().ink, 1));
    painter.drawLine(QPointF(px, area.top()), QPointF(px, area.bottom()));
}

}  // namespace rendak::app
