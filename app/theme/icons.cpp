#include "app/theme/icons.h"

#include <QFile>
#include <QPainter>
#include <QSvgRenderer>

namespace rendak::app {

QPixmap line_icon(const QString& name, const QColor& colour, int size_px, double scale) {
    QFile file(QStringLiteral(":/icons/%1.svg").arg(name));
    QPixmap pixmap(QSize(size_px, size_px) * scale);
    pixmap.setDevicePixelRatio(scale);
    pixmap.fill(Qt::transparent);
    if (!file.open(QIODevice::ReadOnly)) return pixmap;
    QByteArray text = file.readAll();
    text.replace("currentColor", colour.name().toLatin1());
    QSvgRenderer renderer(text);
    QPainter painter(&pixmap);
    renderer.render(&painter, QRectF(0, 0, size_px, size_px));
    return pixmap;
}

}  // namespace rendak::app
