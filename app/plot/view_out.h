#pragma once

#include <QImage>
#include <QPainter>
#include <QSize>
#include <QString>
#include <filesystem>
#include <functional>
#include <string>
#include <vector>

#include "core/base/job.h"
#include "core/base/result.h"

namespace rendak::app {

/// Makes a view's data as comma-separated text with a head; on a worker, from what it was given when it was made. Null:
/// there is nothing.
using DataWork = std::function<Result<std::string>(const JobContext&)>;
/// Data that are at hand already.
[[nodiscard]] DataWork at_hand(const QString& text);

/// A view that can be given out: as a picture, and its data as a table.
struct ViewOut {
    QString name;  ///< "Traces": proposed as a file's name too
    QSize size;    ///< of the picture, in the window's pixels
    /// Paints it so large, without the cursor; lines stay lines in SVG and PDF.
    std::function<void(QPainter&, QSize)> paint;
    /// Takes along what its data are made from. Null: it has no data of its own.
    std::function<DataWork()> data = {};
};

/// By the file's ending: .png (two pixels for each of the window's), .svg, .pdf (one page of the picture's shape).
[[nodiscard]] Result<void> write_picture(const ViewOut& view, const std::filesystem::path& file);
[[nodiscard]] Result<std::string> data_of(const ViewOut& view);
[[nodiscard]] QImage picture_of(const ViewOut& view);
/// The bytes of a picture, which takes a while for a large one: for a worker.
[[nodiscard]] Result<void> write_png(const QImage& image, const std::filesystem::path& file);

/// A cell as it stands in the table: quoted where it must be.
[[nodiscard]] QString csv_cell(const QString& text);

}  // namespace rendak::app
