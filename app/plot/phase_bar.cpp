#include "app/plot/phase_bar.h"

#include <QHelpEvent>
#include <QPainter>
#include <QToolTip>

#include "app/plot/trace_canvas.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

QString phase_name(Phase phase) {
    switch (phase) {
        case Phase::braking:
            return PhaseBar::tr("A brakes (hatched)");
        case Phase::turning:
            return PhaseBar::tr("A turns, neither braking nor on full throttle (dots)");
        case Phase::full_throttle:
            return PhaseBar::tr("A is on full throttle (solid)");
        case Phase::straight:
            return PhaseBar::tr("A does neither (empty)");
    }
    return {};
}

}  // namespace

PhaseBar::PhaseBar(Focus& focus, Comparison& comparison, const TraceCanvas& canvas, QWidget* parent)
    : QWidget(parent), comparison_(comparison), canvas_(canvas) {
    setFixedHeight(14);
    setAccessibleName(tr("Phases of the baseline lap"));
    connect(&comparison, &Comparison::changed, this, qOverload<>(&QWidget::update));
    connect(&focus, &Focus::range_changed, this, qOverload<>(&QWidget::update));
}

void PhaseBar::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    QPainter painter(this);
    painter.setFont(small_font());
    painter.setPen(t.mute);
    painter.drawText(QRect(8, 0, TraceCanvas::label_width - 12, height()), Qt::AlignLeft | Qt::AlignVCenter,
                     tr("A phases"));
    if (!comparison_.laps().on_track()) return;
    const Scale x = canvas_.x_scale();
    const QRect area = canvas_.plot_area();
    painter.setClipRect(QRect(area.left(), 0, area.width(), height()));
    for (const PhaseSpan& span : comparison_.laps().phases) {
        const double from = x.to_pixel(comparison_.x_of(0, span.range_m.begin)),
                     to = x.to_pixel(comparison_.x_of(0, span.range_m.end));
        if (to < area.left() || from > area.right()) continue;
        const QRectF box(QPointF(from, 2), QPointF(to, height() - 2));
        QBrush brush(t.mute);
        if (span.phase == Phase::braking)
            brush.setStyle(Qt::BDiagPattern);
        else if (span.phase == Phase::turning)
            brush.setStyle(Qt::Dense6Pattern);
        else if (span.phase == Phase::full_throttle)
            brush = QBrush(is_garage() ? t.rule : t.rule.darker(108));
        if (span.phase != Phase::straight) painter.fillRect(box, brush);
    }
    painter.setPen(t.rule);
    painter.drawRect(QRectF(area.left() + 0.5, 1.5, area.width() - 1, height() - 4));
}

bool PhaseBar::event(QEvent* event) {
    if (event->type() != QEvent::ToolTip || !comparison_.laps().on_track()) return QWidget::event(event);
    const auto* help = static_cast<QHelpEvent*>(event);
    const double place = comparison_.distance_of(0, canvas_.x_scale().to_value(help->pos().x()));
    for (const PhaseSpan& span : comparison_.laps().phases) {
        if (span.range_m.contains(place)) QToolTip::showText(help->globalPos(), phase_name(span.phase), this);
    }
    return true;
}

}  // namespace rendak::app
