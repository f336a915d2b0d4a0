#pragma once

#include <QPainter>

#include "app/text/plain_text.h"

namespace rendak::app {

/// A one-line label that ends in "…" instead of being cut, and shows the whole text as its tooltip.
class ElidedLabel : public PlainLabel {
  public:
    using PlainLabel::PlainLabel;
    [[nodiscard]] QSize minimumSizeHint() const override { return {40, QLabel::minimumSizeHint().height()}; }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        painter.setFont(font());
        painter.setPen(palette().color(QPalette::WindowText));
        const QString shown = fontMetrics().elidedText(text(), Qt::ElideRight, width());
        painter.drawText(rect(), Qt::AlignLeft | Qt::AlignVCenter, shown);
        setToolTip(shown == text() ? QString() : text());
    }
};

}  // namespace rendak::app
