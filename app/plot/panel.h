#pragma once

#include <QRectF>
#include <QString>

class QPainter;

namespace rendak::app {

/// The panel behind a small picture: ground and frame, its title and beside it what it shows, in a line of 24 px.
void paint_panel(QPainter& painter, const QRectF& panel, const QString& title, const QString& hint);

}  // namespace rendak::app
