#include "app/plot/kept_picture.h"

#include <QPainter>

#include "app/theme/theme.h"

namespace rendak::app {

void KeptPicture::invalidate() {
    dirty_ = true;
    update();
}

void KeptPicture::paintEvent(QPaintEvent*) {
    const QSize wanted = (QSizeF(size()) * devicePixelRatioF()).toSize();
    if (dirty_ || image_.size() != wanted) {
        if (image_.size() != wanted) image_ = QImage(wanted, QImage::Format_RGB32);
        image_.setDevicePixelRatio(devicePixelRatioF());
        if (!covers_all()) image_.fill(theme().panel.rgb());
        draw_picture(image_);
        dirty_ = false;
        ++redraws_;
    }
    QPainter painter(this);
    painter.drawImage(0, 0, image_);
    draw_over(painter);
}

}  // namespace rendak::app
