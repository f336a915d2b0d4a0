#pragma once

#include <QColor>
#include <QPixmap>

namespace rendak::app {

/// One of the shipped line icons (assets/icons) in a colour, sharp at any scale.
[[nodiscard]] QPixmap line_icon(const QString& name, const QColor& colour, int size_px, double scale);

}  // namespace rendak::app
