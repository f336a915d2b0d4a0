#include "app/film/film_paint.h"

#include <QLineF>
#include <QObject>
#include <QPainter>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "app/text/shown.h"
#include "app/theme/film_colours.h"
#include "app/theme/theme.h"
#include "core/units/gravity.h"

namespace rendak::app {
namespace {

constexpr double between = 0.4;  ///< two figures of the strip, in units
constexpr double words_size = 0.95;

/// As large as the shorter side allows, so that a portrait film has room for its strip.
double unit_of(const QRectF& picture, const FilmStyle& style) {
    return std::min(picture.height() / 18, picture.width() / 24) * style.size;
}

QFont words_font(double unit) {
    QFont font = headline_font();
    font.setPixelSize(std::max(6, static_cast<int>(std::lround(words_size * unit))));
    return font;
}

QString lap_words(const FilmMoment& moment) {
    return QStringList{moment.who, moment.lap}.join(
        moment.who.isEmpty() || moment.lap.isEmpty() ? QString() : QStringLiteral(" · "));
}

/// One figure in its box.
struct Brush {
    QPainter& painter;
    double unit;
    const FilmMoment& moment;
    const FilmColours& colours = film_colours();

    void ground(const QRectF& box) const {
        painter.setPen(Qt::NoPen);
        painter.setBrush(colours.ground);
        painter.drawRoundedRect(box, 0.35 * unit, 0.35 * unit);
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

    void gear(const QRectF& box) const {
        text(box, std::isfinite(moment.now.gear) ? QString::number(std::lround(moment.now.gear)) : QStringLiteral("–"),
             2.3, Qt::AlignCenter, colours.ink);
    }
    void speed(const QRectF& box) const {
        const Shown how = shown("speed");
        text(QRectF(box.left(), box.top(), box.width(), 0.68 * box.height()),
             std::isfinite(moment.now.speed_mps) ? QString::number(std::lround(how.from_si(moment.now.speed_mps)))
                                                 : QStringLiteral("–"),
             1.7, Qt::AlignRight | Qt::AlignVCenter, colours.ink);
        text(QRectF(box.left(), box.top() + 0.62 * box.height(), box.width(), 0.34 * box.height()), how.unit, 0.75,
             Qt::AlignRight | Qt::AlignVCenter, colours.quiet, false);
    }
    void revs(const QRectF& box) const {
        text(QRectF(box.left(), box.top() + 0.08 * box.height(), box.width(), 0.46 * box.height()),
             with_unit(shown("engine_speed").text(moment.now.revs), shown("engine_speed").unit), 0.9,
             Qt::AlignLeft | Qt::AlignVCenter, colours.ink);
        bar(QRectF(box.left(), box.top() + 0.62 * box.height(), box.width(), 0.2 * box.height()), moment.now.revs_share,
            colours.ink);
    }
    void pedals(const QRectF& box) const {
        const double top = box.top() + 0.1 * box.height(), high = 0.8 * box.height(), wide = 0.42 * box.width();
        bar(QRectF(box.left(), top, wide, high), moment.now.brake, colours.brake);
        bar(QRectF(box.right() - wide, top, wide, high), moment.now.throttle, colours.throttle);
    }
    void steering(const QRectF& box) const {
        const QPointF hub = box.center();
        const double radius = 0.42 * box.height();
        painter.setPen(QPen(colours.quiet, 0.16 * unit));
        painter.setBrush(Qt::NoBrush);
        painter.drawEllipse(hub, radius, radius);
        if (!std::isfinite(moment.now.steering_rad)) return;
        // Turned as the driver sees it: to the left is to the left.
        const QPointF way(std::sin(-moment.now.steering_rad), -std::cos(moment.now.steering_rad));
        painter.setPen(QPen(colours.ink, 0.3 * unit, Qt::SolidLine, Qt::RoundCap));
        painter.drawLine(hub + way * (0.62 * radius), hub + way * radius);
        const QPointF across(way.y(), -way.x());
        painter.setPen(QPen(colours.ink, 0.12 * unit));
        painter.drawLine(hub - across * radius, hub + across * radius);
    }
    void circle(const QRectF& box) const {
        const QPointF middle = box.center();
        const double radius = 0.44 * box.height();
        painter.setPen(QPen(colours.line, 0.08 * unit));
        painter.setBrush(Qt::NoBrush);
        painter.drawEllipse(middle, radius, radius);
        painter.drawEllipse(middle, radius / 2, radius / 2);
        painter.drawLine(middle - QPointF(radius, 0), middle + QPointF(radius, 0));
        painter.drawLine(middle - QPointF(0, radius), middle + QPointF(0, radius));
        if (!std::isfinite(moment.now.lateral_mps2) || !std::isfinite(moment.now.along_mps2)) return;
        constexpr double ring_mps2 = 2 * standard_gravity_mps2;
        const double x = -moment.now.lateral_mps2 / ring_mps2, up = moment.now.along_mps2 / ring_mps2;
        const double beyond = std::max(1.0, std::hypot(x, up));
        const QPointF dot = middle + QPointF(x, -up) * (radius / beyond);
        painter.setPen(Qt::NoPen);
        painter.setBrush(theme().lap(moment.slot));
        painter.drawEllipse(dot, 0.36 * unit, 0.36 * unit);
        painter.setBrush(colours.ink);
        painter.drawEllipse(dot, 0.2 * unit, 0.2 * unit);
    }
    void lap(const QRectF& box) const {
        painter.setBrush(theme().lap(moment.slot));
        painter.setPen(Qt::NoPen);
        const QRectF letter(box.left() + 0.25 * unit, box.top() + 0.25 * unit, 1.1 * unit, 1.1 * unit);
        painter.drawRoundedRect(letter, 0.2 * unit, 0.2 * unit);
        text(letter, slot_letter(moment.slot), 0.85, Qt::AlignCenter, theme().on_lap);
        const double time_wide = 4.6 * unit;
        const QRectF name(box.left() + 1.6 * unit, box.top(), box.width() - 1.8 * unit - time_wide, box.height());
        text(name, QFontMetricsF(words_font(unit)).elidedText(lap_words(moment), Qt::ElideRight, name.width()),
             words_size, Qt::AlignLeft | Qt::AlignVCenter, colours.ink);
        text(QRectF(box.right() - time_wide - 0.3 * unit, box.top(), time_wide, box.height()),
             moment.lap_time_s >= 0 ? lap_time(moment.lap_time_s) : QStringLiteral("–"), words_size,
             Qt::AlignRight | Qt::AlignVCenter, colours.ink);
    }
    void gap(const QRectF& box) const {
        text(box, signed_number(moment.gap_s, 2) + QStringLiteral(" s"), words_size, Qt::AlignCenter,
             moment.gap_s > 0 ? colours.brake : colours.throttle);
    }
    void corner(const QRectF& box) const {
        text(box, QFontMetricsF(words_font(unit)).elidedText(moment.corner, Qt::ElideRight, box.width() - 0.5 * unit),
             words_size, Qt::AlignCenter, colours.ink);
    }
    void map(const QRectF& box) const {
        const QRectF inner = box.adjusted(0.5 * unit, 0.5 * unit, -0.5 * unit, -0.5 * unit);
        const auto at = [&](const QPointF& it) {
            return inner.topLeft() + QPointF(it.x() * inner.width(), it.y() * inner.height());
        };
        QPolygonF line;
        // A line of a thousand points that lie closer than its own width took most of a frame's time.
        const double apart_px = std::max(1.5, 0.12 * unit);
        for (const QPointF& it : *moment.map)
            if (line.isEmpty() || QLineF(line.back(), at(it)).length() >= apart_px) line << at(it);
        if (!line.isEmpty()) line << at(moment.map->back());
        painter.setPen(QPen(colours.quiet, 0.18 * unit));
        painter.setBrush(Qt::NoBrush);
        painter.drawPolyline(line);
        painter.setPen(QPen(colours.ink, 0.1 * unit));
        painter.setBrush(theme().lap(moment.slot));
        painter.drawEllipse(at(moment.place), 0.36 * unit, 0.36 * unit);
    }
    void paint(const FigureBox& it) const {
        switch (it.figure) {
            case FilmFigure::speed:
                return speed(it.box);
            case FilmFigure::gear:
                return gear(it.box);
            case FilmFigure::revs:
                return revs(it.box);
            case FilmFigure::pedals:
                return pedals(it.box);
            case FilmFigure::circle:
                return circle(it.box);
            case FilmFigure::steering:
                return steering(it.box);
            case FilmFigure::lap:
                return lap(it.box);
            case FilmFigure::gap:
                return gap(it.box);
            case FilmFigure::corner:
                return corner(it.box);
            case FilmFigure::map:
                return map(it.box);
        }
    }
};

bool in_strip(FilmFigure figure) {
    return film_figure_row(figure).wide > 0;
}

}  // namespace

std::vector<FigureBox> film_figure_boxes(const QRectF& picture, const FilmMoment& moment, const FilmStyle& style) {
    std::vector<FigureBox> out;
    const double unit = unit_of(picture, style), margin = 0.5 * unit, high = 2.7 * unit, line_high = 1.6 * unit;
    // Along one edge the strip, along the other one the words; what was moved stands where it was put.
    const double strip_y = style.on_top ? picture.top() + margin : picture.bottom() - margin - high;
    const double words_y = style.on_top ? picture.bottom() - margin - line_high : picture.top() + margin;
    double strip_x = picture.left() + margin + 0.4 * unit, words_x = picture.left() + margin;
    const auto put = [&](FilmFigure figure, QRectF box, double* x, double then) {
        const auto moved = style.moved.find(figure);
        if (moved == style.moved.end()) {
            if (x != nullptr) *x += box.width() + then;
        } else {
            box.moveCenter(picture.topLeft() +
                           QPointF(moved->second.x() * picture.width(), moved->second.y() * picture.height()));
            // Whole within the picture, whatever shape it has.
            box.moveLeft(
                std::clamp(box.left(), picture.left(), std::max(picture.left(), picture.right() - box.width())));
            box.moveTop(std::clamp(box.top(), picture.top(), std::max(picture.top(), picture.bottom() - box.height())));
        }
        out.push_back({figure, box});
    };
    for (const FilmFigure figure : {FilmFigure::gear, FilmFigure::speed, FilmFigure::revs, FilmFigure::pedals,
                                    FilmFigure::steering, FilmFigure::circle})
        if (style.has(figure))
            put(figure, {strip_x, strip_y, film_figure_row(figure).wide * unit, high}, &strip_x, between * unit);
    if (style.has(FilmFigure::lap)) {
        const double wide = std::min(QFontMetricsF(words_font(unit)).horizontalAdvance(lap_words(moment)) + 7.2 * unit,
                                     0.62 * picture.width());
        put(FilmFigure::lap, {words_x, words_y, wide, line_high}, &words_x, between * unit);
    }
    if (style.has(FilmFigure::gap) && std::isfinite(moment.gap_s))
        put(FilmFigure::gap, {words_x, words_y, 4 * unit, line_high}, &words_x, between * unit);
    if (style.has(FilmFigure::corner) && !moment.corner.isEmpty()) {
        const bool moved = style.moved.contains(FilmFigure::corner);
        const double wide = moved ? 6.5 * unit : std::min(6.5 * unit, picture.right() - margin - words_x);
        if (wide > 2 * unit) put(FilmFigure::corner, {words_x, words_y, wide, line_high}, &words_x, between * unit);
    }
    if (style.has(FilmFigure::map) && moment.map != nullptr) {
        const double size = 5 * unit;
        put(FilmFigure::map, {picture.right() - margin - size, picture.bottom() - margin - size, size, size}, nullptr,
            0);
    }
    return out;
}

void paint_film_figures(QPainter& painter, const QRectF& picture, const FilmMoment& moment, const FilmStyle& style) {
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setClipRect(picture);
    const Brush brush{painter, unit_of(picture, style), moment};
    const std::vector<FigureBox> boxes = film_figure_boxes(picture, moment, style);
    // Figures of the strip lie on one ground, all others each on its own.
    QRectF strip;
    for (const FigureBox& it : boxes)
        if (in_strip(it.figure) && !style.moved.contains(it.figure)) strip |= it.box;
    if (!strip.isEmpty()) brush.ground(strip.adjusted(-0.4 * brush.unit, 0, 0.4 * brush.unit, 0));
    for (const FigureBox& it : boxes) {
        if (!in_strip(it.figure))
            brush.ground(it.box);
        else if (style.moved.contains(it.figure))
            brush.ground(it.box.adjusted(-0.3 * brush.unit, 0, 0.3 * brush.unit, 0));
        brush.paint(it);
    }
    painter.restore();
}

}  // namespace rendak::app
