#include "app/plot/panel.h"

#include <QPainter>

#include "app/theme/theme.h"

namespace rendak::app {

void paint_panel(QPainter& painter, const QRectF& panel, const QString& title, const QString& hint) {
    const Theme& t = theme();
    painter.setPen(t.rule);
    painter.setBrush(t.panel);
    painter.drawRoundedRect(panel.adjusted(0.5, 0.5, -0.5, -0.5), 4, 4);
    const QRectF head(panel.left() + 10, panel.top() + 6, panel.width() - 20, 18);
    const auto put = [&](const QRectF& into, const QString& text) {
        if (into.width() < 20) return;
        painter.drawText(into, Qt::AlignLeft | Qt::AlignVCenter,
                         painter.fontMetrics().elidedText(text, Qt::ElideRight, static_cast<int>(into.width())));
    };
    painter.setPen(t.ink);
    painter.setFont(body_font(true));
    put(head, title);
    const double title_width = painter.fontMetrics().horizontalAdvance(title);
    painter.setFont(small_font());
    painter.setPen(t.mute);
    put(head.adjusted(title_width + 12, 0, 0, 0), hint);
}

}  // namespace rendak::app
