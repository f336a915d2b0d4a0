#pragma once

#include <QPainter>
#include <QSize>
#include <QString>
#include <filesystem>
#include <functional>
#include <vector>

#include "core/base/result.h"

namespace rendak::app {

/// A view that can be given out: as a picture, and its data as a table.
struct ViewOut {
    QString name;  ///< "Traces": proposed as a file's name too
    QSize size;    ///< of the picture, in the window's pixels
    /// Paints it so large. Lines stay lines in SVG and PDF where the view can (traces); else it is a picture in them.
    std::function<void(QPainter&, QSize)> paint;
    /// Comma-separated, with a head; empty when there is nothing. Null: it has no data of its own.
    std::function<QString()> csv = {};
};

/// By the file's ending: .png (two pixels for each of the window's), .svg, .pdf (one page of the picture's shape).
[[nodiscard]] Result<void> write_picture(const ViewOut& view, const std::filesystem::path& file);
[[nodiscard]] Result<void> write_data(const ViewOut& view, const std::filesystem::path& file);
[[nodiscard]] QImage picture_of(const ViewOut& view);

/// A view that can only be drawn as pixels, three for each of the window's.
[[nodiscard]] std::function<void(QPainter&, QSize)> as_pixels(std::function<void(QImage&, QSize)> draw);

/// A cell as it stands in the table: quoted where it must be.
[[nodiscard]] QString csv_cell(const QString& text);

}  // namespace rendak::app
