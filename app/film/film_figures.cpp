#include "app/film/film_figures.h"

#include <QObject>
#include <QPainter>
#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "app/text/shown.h"
#include "app/theme/film_colours.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr std::array rows{
    FilmFigureRow{FilmFigure::speed, "speed", QT_TRANSLATE_NOOP("Film", "Speed"), 3.6},
    FilmFigureRow{FilmFigure::gear, "gear", QT_TRANSLATE_NOOP("Film", "Gear"), 1.5},
    FilmFigureRow{FilmFigure::revs, "revs", QT_TRANSLATE_NOOP("Film", "Revs"), 4.4},
    FilmFigureRow{FilmFigure::pedals, "pedals", QT_TRANSLATE_NOOP("Film", "Throttle and brake"), 1.5},
    FilmFigureRow{FilmFigure::circle, "circle", QT_TRANSLATE_NOOP("Film", "Friction circle"), 2.4},
    FilmFigureRow{FilmFigure::steering, "steering", QT_TRANSLATE_NOOP("Film", "Steering"), 2.2},
    FilmFigureRow{FilmFigure::lap, "lap", QT_TRANSLATE_NOOP("Film", "Driver, lap and lap time")},
    FilmFigureRow{FilmFigure::gap, "gap", QT_TRANSLATE_NOOP("Film", "Gap")},
    FilmFigureRow{FilmFigure::corner, "corner", QT_TRANSLATE_NOOP("Film", "Corner")},
    FilmFigureRow{FilmFigure::map, "map", QT_TRANSLATE_NOOP("Film", "Map")}};

QString place_words(const Track& track, double at_m) {
    for (const Corner& corner : track.corners)
        if (at_m >= corner.start_m - 30 && at_m <= corner.end_m) return QString::fromStdString(corner.title());
    return {};
}

double wide_in_strip(FilmFigure figure) {
    return std::find_if(rows.begin(), rows.end(), [&](const FilmFigureRow& it) { return it.figure == figure; })->wide;
}
constexpr double between = 0.4;  // two of them

/// Paints one thing after another from the left.
struct Row {
    QPainter& painter;
    double x, y, unit, height;
    const FilmColours& colours = film_colours();

    QRectF next(double wide) {
        const QRectF out(x, y, wide * unit, height);
        x += (wide + between) * unit;
        return out;
    }
    void text(const QRectF& box, const QString& words, double size, int flags, const QColor& colour,
              bool bold = true) const {
        QFont font = bold ? headline_font() : body_font();
        font.setPixelSize(std::max(6, static_cast<int>(std::lround(size * unit))));
        painter.setFont(font);
        painter.setPen(colour);
        painter.drawText(box, flags, words);
    }
    void bar(const QRectF& box, double share, const QColor& colour) const {
        painter.setPen(Qt::NoPen);
        painter.setBrush(colours.line);
        painter.drawRect(box);
        if (!std::isfinite(share)) return;
        const double full = std::clamp(share, 0.0, 1.0);
        painter.setBrush(colour);
        if (box.height() > box.width())
            painter.drawRect(QRectF(box.left(), box.bottom() - full * box.height(), box.width(), full * box.height()));
        else
            painter.drawRect(QRectF(box.left(), box.top(), full * box.width(), box.height()));
    }
};

void paint_strip(Row& row, const FilmMoment& moment, const FilmStyle& style) {
    const FilmColours& c = row.colours;
    const CarMoment& now = moment.now;
    QPainter& painter = row.painter;
    if (style.has(FilmFigure::gear))
        row.text(row.next(wide_in_strip(FilmFigure::gear)),
                 std::isfinite(now.gear) ? QString::number(std::lround(now.gear)) : QStringLiteral("–"), 2.3,
                 Qt::AlignCenter, c.ink);
    if (style.has(FilmFigure::speed)) {
        const Shown how = shown("speed");
        const QRectF box = row.next(wide_in_strip(FilmFigure::speed));
        row.text(QRectF(box.left(), box.top(), box.width(), 0.68 * box.height()),
                 std::isfinite(now.speed_mps) ? QString::number(std::lround(how.from_si(now.speed_mps)))
                                              : QStringLiteral("–"),
                 1.7, Qt::AlignRight | Qt::AlignVCenter, c.ink);
        row.text(QRectF(box.left(), box.top() + 0.62 * box.height(), box.width(), 0.34 * box.height()), how.unit, 0.75,
                 Qt::AlignRight | Qt::AlignVCenter, c.quiet, false);
    }
    if (style.has(FilmFigure::revs)) {
        const QRectF box = row.next(wide_in_strip(FilmFigure::revs));
        row.text(QRectF(box.left(), box.top() + 0.08 * box.height(), box.width(), 0.46 * box.height()),
                 with_unit(shown("engine_speed").text(now.revs), shown("engine_speed").unit), 0.9,
                 Qt::AlignLeft | Qt::AlignVCenter, c.ink);
        row.bar(QRectF(box.left(), box.top() + 0.62 * box.height(), box.width(), 0.2 * box.height()), now.revs_share,
                c.ink);
    }
    if (style.has(FilmFigure::pedals)) {
        const QRectF box = row.next(wide_in_strip(FilmFigure::pedals));
        const double top = box.top() + 0.1 * box.height(), high = 0.8 * box.height(), wide = 0.42 * box.width();
        row.bar(QRectF(box.left(), top, wide, high), now.brake, c.brake);
        row.bar(QRectF(box.right() - wide, top, wide, high), now.throttle, c.throttle);
    }
    if (style.has(FilmFigure::steering)) {
        const QRectF box = row.next(wide_in_strip(FilmFigure::steering));
        const QPointF hub = box.center();
        const double radius = 0.42 * box.height();
        painter.setPen(QPen(c.quiet, 0.16 * row.unit));
        painter.setBrush(Qt::NoBrush);
        painter.drawEllipse(hub, radius, radius);
        if (std::isfinite(now.steering_rad)) {
            // Turned as the driver sees it: to the left is to the left.
            const QPointF way(std::sin(-now.steering_rad), -std::cos(now.steering_rad));
            painter.setPen(QPen(c.ink, 0.3 * row.unit, Qt::SolidLine, Qt::RoundCap));
            painter.drawLine(hub + way * (0.62 * radius), hub + way * radius);
            const QPointF across(way.y(), -way.x());
            painter.setPen(QPen(c.ink, 0.12 * row.unit));
            painter.drawLine(hub - across * radius, hub + across * radius);
        }
    }
    if (style.has(FilmFigure::circle)) {
        const QRectF box = row.next(wide_in_strip(FilmFigure::circle));
        const QPointF middle = box.center();
        const double radius = 0.44 * box.height();
        painter.setPen(QPen(c.line, 0.08 * row.unit));
        painter.setBrush(Qt::NoBrush);
        painter.drawEllipse(middle, radius, radius);
        painter.drawEllipse(middle, radius / 2, radius / 2);
        painter.drawLine(middle - QPointF(radius, 0), middle + QPointF(radius, 0));
        painter.drawLine(middle - QPointF(0, radius), middle + QPointF(0, radius));
        if (std::isfinite(now.lateral_mps2) && std::isfinite(now.along_mps2)) {
            constexpr double ring_mps2 = 2 * 9.80665;
            const double x = -now.lateral_mps2 / ring_mps2, up = now.along_mps2 / ring_mps2;
            const double beyond = std::max(1.0, std::hypot(x, up));
            painter.setPen(Qt::NoPen);
            painter.setBrush(theme().lap(moment.slot));
            painter.drawEllipse(middle + QPointF(x, -up) * (radius / beyond), 0.36 * row.unit, 0.36 * row.unit);
            painter.setBrush(c.ink);
            painter.drawEllipse(middle + QPointF(x, -up) * (radius / beyond), 0.2 * row.unit, 0.2 * row.unit);
        }
    }
}

}  // namespace

std::span<const FilmFigureRow> film_figure_rows() {
    return rows;
}

bool FilmStyle::has(FilmFigure figure) const {
    return std::find(figures.begin(), figures.end(), figure) != figures.end();
}

FilmStyle usual_film_style() {
    FilmStyle out;
    for (const FilmFigureRow& it : rows) out.figures.push_back(it.figure);
    return out;
}

QString to_text(const FilmStyle& style) {
    QStringList words;
    for (const FilmFigureRow& it : rows)
        if (style.has(it.figure)) words << QLatin1String(it.id);
    return words.join(u' ') + QStringLiteral("; ") + (style.on_top ? QStringLiteral("top") : QStringLiteral("bottom")) +
           QStringLiteral("; ") + QString::number(style.size);
}

FilmStyle film_style_from(const QString& text) {
    const QStringList parts = text.split(u';');
    if (parts.size() != 3) return usual_film_style();
    FilmStyle out;
    for (const QString& word : parts[0].split(u' ', Qt::SkipEmptyParts))
        for (const FilmFigureRow& it : rows)
            if (word == QLatin1String(it.id)) out.figures.push_back(it.figure);
    out.on_top = parts[1].trimmed() == QStringLiteral("top");
    const double size = parts[2].toDouble();
    out.size = size >= 0.4 && size <= 2.5 ? size : 1;
    return out;
}

FilmMoments::FilmMoments(std::shared_ptr<const RunData> run, const PreparedLap& lap, int slot,
                         const PreparedLap* baseline)
    : run_(std::move(run)), lap_(lap), moments_(lap_), slot_(slot) {
    if (baseline != nullptr && lap_.track != nullptr && baseline->track != nullptr && baseline->ref != lap.ref)
        gap_ = gap_between(baseline->map, lap_.map);
    if (lap_.track == nullptr) return;
    for (const Point& it : lap_.track->line) map_ << QPointF(it.x, -it.y);
    map_of_ = map_.boundingRect();
    const double size = std::max({map_of_.width(), map_of_.height(), 1.0});
    map_of_ = QRectF(map_of_.center() - QPointF(size / 2, size / 2), QSizeF(size, size));
    for (QPointF& it : map_) it = (it - map_of_.topLeft()) / size;
}

FilmMoment FilmMoments::at(double run_s) const {
    FilmMoment out;
    out.now = moments_.at(run_s);
    out.slot = slot_;
    out.who = QString::fromStdString(run_->row.driver);
    out.lap = lap_.track == nullptr ? QString() : QObject::tr("lap %1").arg(lap_.ref.lap);
    out.lap_time_s = run_s - lap_.map.start_s();
    out.gap_s = std::nan("");
    const bool inside = run_s >= lap_.map.start_s() && run_s <= lap_.map.end_s();
    if (lap_.track == nullptr || !inside) return out;
    const double at_m = lap_.map.distance_at(run_s);
    out.corner = place_words(*lap_.track, at_m);
    if (gap_) out.gap_s = gap_->at(at_m);
    out.map = &map_;
    const Point here = lap_.track->position_at(at_m);
    out.place = (QPointF(here.x, -here.y) - map_of_.topLeft()) / map_of_.width();
    return out;
}

void paint_film_figures(QPainter& painter, const QRectF& picture, const FilmMoment& moment, const FilmStyle& style) {
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setClipRect(picture);
    const FilmColours& c = film_colours();
    // As large as the shorter side allows, so that a portrait film has room for its strip.
    const double unit = std::min(picture.height() / 18, picture.width() / 24) * style.size;
    const double margin = 0.5 * unit, high = 2.7 * unit;
    const auto ground = [&](const QRectF& box) {
        painter.setPen(Qt::NoPen);
        painter.setBrush(c.ground);
        painter.drawRoundedRect(box, 0.35 * unit, 0.35 * unit);
    };
    double wide = 0;
    for (const FilmFigureRow& it : rows)
        if (it.wide > 0 && style.has(it.figure)) wide += (it.wide + between) * unit;
    const double strip_y = style.on_top ? picture.top() + margin : picture.bottom() - margin - high;
    if (wide > 0) {
        ground(QRectF(picture.left() + margin, strip_y, wide + 0.4 * unit, high));
        Row row{painter, picture.left() + margin + 0.4 * unit, strip_y, unit, high};
        paint_strip(row, moment, style);
    }
    // The words lie along the other edge.
    const double words_y = style.on_top ? picture.bottom() - margin - 1.6 * unit : picture.top() + margin;
    Row words{painter, picture.left() + margin, words_y, unit, 1.6 * unit};
    if (style.has(FilmFigure::lap)) {
        const QString text = QStringList{moment.who, moment.lap}.join(
            moment.who.isEmpty() || moment.lap.isEmpty() ? QString() : QStringLiteral(" · "));
        QFont font = headline_font();
        font.setPixelSize(std::max(6, static_cast<int>(std::lround(0.95 * unit))));
        const double needed =
            std::min(QFontMetricsF(font).horizontalAdvance(text) / unit + 7.2, 0.62 * picture.width() / unit);
        const QRectF box(words.x, words_y, needed * unit, 1.6 * unit);
        ground(box);
        painter.setBrush(theme().lap(moment.slot));
        painter.setPen(Qt::NoPen);
        const QRectF letter(box.left() + 0.25 * unit, box.top() + 0.25 * unit, 1.1 * unit, 1.1 * unit);
        painter.drawRoundedRect(letter, 0.2 * unit, 0.2 * unit);
        words.text(letter, slot_letter(moment.slot), 0.85, Qt::AlignCenter, theme().on_lap);
        const double time_wide = 4.6 * unit;
        const QRectF name(box.left() + 1.6 * unit, box.top(), box.width() - 1.8 * unit - time_wide, box.height());
        words.text(name, QFontMetricsF(font).elidedText(text, Qt::ElideRight, name.width()), 0.95,
                   Qt::AlignLeft | Qt::AlignVCenter, c.ink);
        words.text(QRectF(box.right() - time_wide - 0.3 * unit, box.top(), time_wide, box.height()),
                   moment.lap_time_s >= 0 ? lap_time(moment.lap_time_s) : QStringLiteral("–"), 0.95,
                   Qt::AlignRight | Qt::AlignVCenter, c.ink);
        words.x += box.width() + 0.4 * unit;
    }
    if (style.has(FilmFigure::gap) && std::isfinite(moment.gap_s)) {
        const QRectF box(words.x, words_y, 4 * unit, 1.6 * unit);
        ground(box);
        words.text(box, signed_number(moment.gap_s, 2) + QStringLiteral(" s"), 0.95, Qt::AlignCenter,
                   moment.gap_s > 0 ? c.brake : c.throttle);
        words.x += box.width() + 0.4 * unit;
    }
    if (style.has(FilmFigure::corner) && !moment.corner.isEmpty()) {
        const QRectF box(words.x, words_y, std::min(6.5 * unit, picture.right() - margin - words.x), 1.6 * unit);
        if (box.width() > 2 * unit) {
            ground(box);
            QFont font = headline_font();
            font.setPixelSize(std::max(6, static_cast<int>(std::lround(0.95 * unit))));
            words.text(box, QFontMetricsF(font).elidedText(moment.corner, Qt::ElideRight, box.width() - 0.5 * unit),
                       0.95, Qt::AlignCenter, c.ink);
        }
    }
    if (style.has(FilmFigure::map) && moment.map != nullptr) {
        const double size = 5 * unit;
        const QRectF box(picture.right() - margin - size, picture.bottom() - margin - size, size, size);
        ground(box);
        const QRectF inner = box.adjusted(0.5 * unit, 0.5 * unit, -0.5 * unit, -0.5 * unit);
        QPolygonF line;
        for (std::size_t k = 0; k < static_cast<std::size_t>(moment.map->size()); k += 4) {
            const QPointF it = (*moment.map)[static_cast<qsizetype>(k)];
            line << inner.topLeft() + QPointF(it.x() * inner.width(), it.y() * inner.height());
        }
        painter.setPen(QPen(c.quiet, 0.18 * unit));
        painter.setBrush(Qt::NoBrush);
        painter.drawPolyline(line);
        painter.setPen(QPen(c.ink, 0.1 * unit));
        painter.setBrush(theme().lap(moment.slot));
        painter.drawEllipse(
            inner.topLeft() + QPointF(moment.place.x() * inner.width(), moment.place.y() * inner.height()), 0.36 * unit,
            0.36 * unit);
    }
    painter.restore();
}

}  // namespace rendak::app
