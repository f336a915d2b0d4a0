#include "app/shell/rail.h"

#include <QPainter>
#include <QVBoxLayout>

#include "app/theme/icons.h"
#include "app/theme/theme.h"

namespace rendak::app {

RailButton::RailButton(const QString& icon, const QString& label, QWidget* parent)
    : QAbstractButton(parent), icon_(icon) {
    setText(label);
    setAccessibleName(label);
    setToolTip(label);
    setFixedWidth(sizeHint().width());
    setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Maximum);
    setFocusPolicy(Qt::TabFocus);
    setCursor(Qt::PointingHandCursor);
}

void RailButton::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const bool chosen = isChecked();
    if (chosen) {
        painter.fillRect(rect(), t.paper);
        painter.fillRect(QRect(0, 0, 3, height()), t.lap(1));
    }
    const QColor colour = chosen ? t.ink : underMouse() ? t.on_rail : t.on_rail_mute;
    painter.setFont(body_font(chosen));
    painter.setPen(colour);
    if (height() >= 50) {
        const int top = (height() - 44) / 2;
        painter.drawPixmap(QPoint((width() - 24) / 2, top), line_icon(icon_, colour, 24, devicePixelRatioF()));
        painter.drawText(QRect(0, top + 27, width(), 18), Qt::AlignCenter, text());
    } else {
        painter.drawText(rect(), Qt::AlignCenter, text());
    }
    if (hasFocus()) {
        painter.setPen(QPen(t.accent, 1.5));
        painter.drawRoundedRect(rect().adjusted(3, 3, -3, -3), 4, 4);
    }
}

Rail::Rail(QWidget* parent) : QWidget(parent) {
    setFixedWidth(68);
    column_ = new QVBoxLayout(this);
    column_->setContentsMargins(0, 58, 0, 8);
    column_->setSpacing(4);
    column_->addStretch();
}

RailButton* Rail::add_desk(const QString& icon, const QString& label) {
    auto* button = new RailButton(icon, label);
    button->setCheckable(true);
    button->setAutoExclusive(true);
    int at = 0;
    while (at < column_->count() && column_->itemAt(at)->widget() != nullptr) ++at;  // before the stretch
    column_->insertWidget(at, button);
    return button;
}

RailButton* Rail::add_foot(const QString& icon, const QString& label) {
    auto* button = new RailButton(icon, label);
    column_->addWidget(button);
    return button;
}

void Rail::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    QPainter painter(this);
    painter.fillRect(rect(), t.rail);
    QFont font = headline_font();
    font.setPixelSize(24);
    painter.setFont(font);
    painter.setPen(t.on_rail);
    painter.drawText(QRect(0, 6, width(), 32), Qt::AlignCenter, QStringLiteral("R"));
    painter.fillRect(QRect(22, 39, 24, 2), t.lap(1));
}

}  // namespace rendak::app
