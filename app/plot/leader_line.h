#pragma once

#include <QLineF>
#include <QPainter>

#include "app/theme/theme.h"

namespace rendak::app {

/// A thin line that says whose label it is, from a place to a label that had to go far from it.
inline void draw_leader_line(QPainter& painter, QPointF place, QPointF label) {
    const QLineF line(place, label);
    painter.setPen(QPen(theme().mute, 0.8));
    painter.drawLine(line.pointAt(4 / line.length()), line.pointAt(1 - 8 / line.length()));
}

}  // namespace rendak::app
