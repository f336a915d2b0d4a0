#include "app/plot/view_out.h"

#include <QBuffer>
#include <QImage>
#include <QPageSize>
#include <QPdfWriter>
#include <QSvgGenerator>

#include "app/theme/theme.h"
#include "core/base/file_io.h"
#include "core/base/text.h"

namespace rendak::app {
namespace {

constexpr int png_ratio = 2;

Result<void> write_bytes(const std::filesystem::path& file, const QByteArray& bytes) {
    return write_file(file, std::string_view(bytes.constData(), static_cast<std::size_t>(bytes.size())));
}

QByteArray svg_of(const ViewOut& view) {
    QByteArray bytes;
    QBuffer buffer(&bytes);
    QSvgGenerator generator;
    generator.setOutputDevice(&buffer);
    generator.setSize(view.size);
    generator.setViewBox(QRect(QPoint(), view.size));
    generator.setTitle(view.name);
    QPainter painter(&generator);
    view.paint(painter, view.size);
    painter.end();
    return bytes;
}

QByteArray pdf_of(const ViewOut& view) {
    QByteArray bytes;
    QBuffer buffer(&bytes);
    buffer.open(QIODevice::WriteOnly);
    QPdfWriter writer(&buffer);
    writer.setCreator(QStringLiteral("Rendak"));
    writer.setTitle(view.name);
    // A page as large as the picture at 96 pixels an inch, without a margin.
    writer.setPageSize(QPageSize(QSizeF(view.size) * 72 / 96, QPageSize::Point, view.name, QPageSize::ExactMatch));
    writer.setPageMargins(QMarginsF());
    writer.setResolution(96);
    QPainter painter(&writer);
    view.paint(painter, view.size);
    painter.end();
    return bytes;
}

}  // namespace

QImage picture_of(const ViewOut& view) {
    QImage image(view.size * png_ratio, QImage::Format_RGB32);
    image.setDevicePixelRatio(png_ratio);
    image.fill(theme().panel.rgb());
    QPainter painter(&image);
    view.paint(painter, view.size);
    return image;
}

Result<void> write_picture(const ViewOut& view, const std::filesystem::path& file) {
    const std::string ending = lower(file.extension().string());
    if (ending == ".png") return write_png(picture_of(view), file);
    if (ending == ".svg") return write_bytes(file, svg_of(view));
    if (ending == ".pdf") return write_bytes(file, pdf_of(view));
    return fail(ErrorCode::bad_input, "A picture is written as .png, .svg or .pdf. Name one of these.", file.string());
}

Result<void> write_png(const QImage& image, const std::filesystem::path& file) {
    QByteArray bytes;
    QBuffer buffer(&bytes);
    buffer.open(QIODevice::WriteOnly);
    if (!image.save(&buffer, "PNG"))
        return fail(ErrorCode::bad_input, "The picture is too large to be written. Make the window smaller.",
                    file.string());
    return write_bytes(file, bytes);
}

DataWork at_hand(const QString& text) {
    if (text.isEmpty()) return {};
    return [text = text.toStdString()](const JobContext&) -> Result<std::string> { return text; };
}

Result<std::string> data_of(const ViewOut& view) {
    const DataWork work = view.data ? view.data() : DataWork();
    if (!work) return fail(ErrorCode::bad_input, "There is nothing in this view to write.");
    return work({});
}

QString csv_cell(const QString& text) {
    if (!text.contains(u',') && !text.contains(u'"') && !text.contains(u'\n')) return text;
    return u'"' + QString(text).replace(u'"', QStringLiteral("\"\"")) + u'"';
}

}  // namespace rendak::app
