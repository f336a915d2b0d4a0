#include "app/desks/guide/guide_booklet.h"

#include <QBuffer>
#include <QCoreApplication>
#include <QPainter>
#include <QPdfWriter>

#include "app/desks/guide/guide_page.h"
#include "app/plot/map_placing.h"
#include "app/plot/road_picture.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/base/file_io.h"

namespace rendak::app {
namespace {

QString tr(const char* text) {
    return QCoreApplication::translate("GuideBooklet", text);
}

void paint_front(QPainter& painter, QRectF area, const GuideData& data) {
    const Theme& t = theme();
    const Track& track = *data.track;
    painter.setPen(t.ink);
    painter.setFont(headline_font());
    painter.drawText(QRectF(area.left(), area.top(), area.width(), 28), Qt::AlignLeft | Qt::AlignVCenter,
                     QString::fromStdString(track.name));
    painter.setFont(small_font());
    painter.setPen(t.mute);
    painter.drawText(QRectF(area.left(), area.top() + 26, area.width(), 18), Qt::AlignLeft | Qt::AlignVCenter,
                     tr("From lap %1 of %2: %3")
                         .arg(data.lap.lap)
                         .arg(QString::fromStdString(data.run.driver.empty() ? data.run.name
                                                                             : data.run.name + ", " + data.run.driver),
                              lap_time(data.lap_s)));
    const QRectF map(area.left(), area.top() + 50, area.width(), 0.38 * area.height());
    Bounds bounds;
    for (const Point p : track.line) bounds.take(p);
    constexpr double edge_px = 40;
    const MapPlacing placed = MapPlacing::fitting(bounds.low, bounds.high, map.size(), edge_px);
    painter.setRenderHint(QPainter::Antialiasing);
    RoadPicture road(
        painter, track, [&](Point p, double) { return map.topLeft() + placed.to_pixel(p, map.size()); },
        placed.px_per_m);
    road.surface(5, false, true);
    road.start_and_finish(7);
    for (const Corner& corner : track.corners) road.corner_label(corner, true);
    double y = map.bottom() + 16;
    const double row = std::min(20.0, (area.bottom() - y) / (1.0 + static_cast<double>(data.guide.corners.size())));
    for (const GuideCorner& it : data.guide.corners) {
        painter.setPen(t.ink);
        painter.setFont(small_font(true));
        const auto cell = [&](double from, double wide, const QString& text) {
            painter.drawText(
                QRectF(area.left() + from * area.width(), y, wide * area.width(), row),
                Qt::AlignLeft | Qt::AlignVCenter,
                painter.fontMetrics().elidedText(text, Qt::ElideRight, static_cast<int>(wide * area.width())));
        };
        cell(0, 0.16, QString::fromStdString(it.corner.title()));
        painter.setFont(small_font());
        cell(0.17, 0.22, QString::fromStdString(guide_kind(it)));
        cell(0.40, 0.36, QString::fromStdString(guide_after(it, track, guide_units())));
        painter.setPen(t.accent);
        cell(0.77, 0.23, QString::fromStdString(guide_matters(it, track)));
        y += row;
    }
}

}  // namespace

Result<void> write_booklet(const GuideData& data, const std::filesystem::path& file, const JobContext& job) {
    const OnWhitePaper printing;
    QByteArray bytes;
    QBuffer buffer(&bytes);
    buffer.open(QIODevice::WriteOnly);
    QPdfWriter writer(&buffer);
    writer.setCreator(QStringLiteral("Rendak"));
    writer.setTitle(QString::fromStdString(data.track->name));
    writer.setPageSize(QPageSize(QPageSize::A4));
    writer.setPageMargins(QMarginsF(14, 14, 14, 14), QPageLayout::Millimeter);
    writer.setResolution(96);
    const QRectF area(0, 0, writer.width(), writer.height());
    QPainter painter(&writer);
    paint_front(painter, area, data);
    for (std::size_t k = 0; k < data.guide.corners.size(); ++k) {
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
        job.report(static_cast<double>(k) / static_cast<double>(data.guide.corners.size()));
        writer.newPage();
        GuidePage::paint_page(painter, area, data, k);
    }
    painter.end();
    return write_file(file, std::string_view(bytes.constData(), static_cast<std::size_t>(bytes.size())));
}

}  // namespace rendak::app
