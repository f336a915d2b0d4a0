#include "app/plot/panned_map.h"

#include <QMouseEvent>

namespace rendak::app {

void PannedMap::show_all() {
    own_.reset();
    update();
}

void PannedMap::mousePressEvent(QMouseEvent* event) {
    press_ = event->position();
    at_press_ = placing();
    panning_ = false;
}

void PannedMap::mouseMoveEvent(QMouseEvent* event) {
    if (!(event->buttons() & (Qt::LeftButton | Qt::MiddleButton)) || !shows_something()) return;
    const QPointF moved = event->position() - press_;
    if (!panning_ && moved.manhattanLength() < 5) return;
    panning_ = true;
    own_ = at_press_.moved(moved);
    update();
}

void PannedMap::mouseReleaseEvent(QMouseEvent* event) {
    if (!panning_ && event->button() == Qt::LeftButton && shows_something()) clicked(event->position());
}

void PannedMap::mouseDoubleClickEvent(QMouseEvent*) {
    show_all();
}

void PannedMap::wheelEvent(QWheelEvent* event) {
    if (!shows_something()) return;
    own_ = placing().wheeled(event->angleDelta().y(), event->position(), size());
    update();
    event->accept();
}

}  // namespace rendak::app
