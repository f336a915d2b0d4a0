#include "app/desks/stint/over_laps_picture.h"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QToolTip>
#include <algorithm>
#include <cmath>

#include "app/plot/panel.h"
#include "app/plot/ticks.h"
#include "app/theme/theme.h"

namespace rendak::app {

OverLapsPicture::OverLapsPicture(QWidget* parent) : QWidget(parent) {
    setMouseTracking(true);
    setAccessibleName(tr("A figure over the laps"));
}

void OverLapsPicture::set_plot(OverLapsPlot plot) {
    plot_ = std::move(plot);
    QStringList said;
    for (const OverLapsSeries& it : plot_.series) {
        if (it.line) said << slot_letter(it.slot) + u' ' + line_text(*it.line);
    }
    setAccessibleDescription(plot_.title + QStringLiteral(": ") + said.join(QStringLiteral(", ")));
    update();
}

QRectF OverLapsPicture::area() const {
    return QRectF(rect()).adjusted(62, 30, -14, -22);
}

QString OverLapsPicture::value_text(double si) const {
    return plot_.is_time ? lap_time(si) : with_unit(plot_.how.text(si), plot_.how.unit);
}

QString OverLapsPicture::line_text(const LapTrend& line) const {
    const double half = plot_.how.difference_from_si(line.likely.length() / 2);
    const int decimals = std::clamp(static_cast<int>(std::ceil(-std::log10(std::max(std::abs(half), 1e-9)))), 0, 5);
    const QString words = tr("%1 %2 a lap ± %3")
                              .arg(signed_number(plot_.how.difference_from_si(line.per_lap), decimals), plot_.how.unit)
                              .arg(std::abs(half), 0, 'f', decimals);
    return line.sure() ? words : words + tr(", may be nothing");
}

Scale OverLapsPicture::x_scale() const {
    double low = 1e300, high = -1e300;
    for (const OverLapsSeries& it : plot_.series) {
        for (const double x : it.x) {
            low = std::min(low, x);
            high = std::max(high, x);
        }
    }
    if (!(high >= low)) low = high = 1;
    return {{low - 0.5, high + 0.5}, area().left(), area().right()};
}

/// What tells has its place; a lap far off from it (a stop, a slow one) stands at the edge.
Scale OverLapsPicture::y_scale() const {
    double low = 1e300, high = -1e300;
    const auto take = [&](bool all) {
        for (const OverLapsSeries& it : plot_.series) {
            for (std::size_t k = 0; k < it.values.size(); ++k) {
                if (!std::isfinite(it.values[k]) || (!all && it.tells[k] == 0)) continue;
                low = std::min(low, it.values[k]);
                high = std::max(high, it.values[k]);
            }
        }
    };
    take(false);
    if (!(high >= low)) take(true);
    if (!(high >= low)) low = high = 0;
    const double span = std::max(high - low, 1e-9 + 1e-6 * std::abs(high));
    double first = low, last = high;
    for (const OverLapsSeries& it : plot_.series) {
        for (const double value : it.values) {
            if (value > last && value <= high + span) last = value;
            if (value < first && value >= low - span) first = value;
        }
    }
    Interval shown{plot_.how.from_si(first), plot_.how.from_si(last)};
    if (shown.begin > shown.end) std::swap(shown.begin, shown.end);
    return {with_margin(shown), area().bottom(), area().top()};
}

std::vector<OverLapsPicture::Point> OverLapsPicture::points() const {
    std::vector<Point> out;
    const Scale x = x_scale(), y = y_scale();
    for (const OverLapsSeries& it : plot_.series) {
        for (std::size_t k = 0; k < it.values.size(); ++k) {
            if (!std::isfinite(it.values[k])) continue;
            const double at = std::clamp(y.to_pixel(plot_.how.from_si(it.values[k])), area().top(), area().bottom());
            out.push_back(
                {it.laps[k],
                 {x.to_pixel(it.x[k]), at},
                 tr("%1 lap %2: %3").arg(slot_letter(it.slot)).arg(it.laps[k].lap).arg(value_text(it.values[k])) +
                     (it.tells[k] != 0 ? QString() : tr(" (not counted)"))});
        }
    }
    return out;
}

std::optional<QPointF> OverLapsPicture::place_of(LapRef lap) const {
    for (const Point& it : points()) {
        if (it.lap == lap) return it.at;
    }
    return std::nullopt;
}

const OverLapsPicture::Point* OverLapsPicture::nearest(const std::vector<Point>& points, QPointF to) const {
    constexpr double reach = 12;
    const Point* out = nullptr;
    double best = reach;
    for (const Point& it : points) {
        const double away = std::hypot(it.at.x() - to.x(), it.at.y() - to.y());
        if (away >= best) continue;
        best = away;
        out = &it;
    }
    return out;
}

void OverLapsPicture::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    paint_panel(painter, rect(), plot_.title, plot_.hint);
    if (!plot_.message.isEmpty()) {
        painter.setFont(body_font());
        painter.drawText(area(), Qt::AlignCenter | Qt::TextWordWrap, plot_.message);
        return;
    }
    const QRectF plot = area();
    const Scale x = x_scale(), y = y_scale();
    const Ticks rows = ticks_for(y.values, std::max(2, static_cast<int>(plot.height() / 34)));
    for (const double value : rows.values) {
        const double at = y.to_pixel(value);
        painter.setPen(t.grid);
        painter.drawLine(QPointF(plot.left(), at), QPointF(plot.right(), at));
        painter.setPen(t.mute);
        const QString label = plot_.is_time ? lap_time(value).chopped(rows.decimals >= 3 ? 0 : 2)
                                            : QString::number(value, 'f', rows.decimals).replace(u'-', u'−');
        painter.drawText(QRectF(0, at - 8, plot.left() - 6, 16), Qt::AlignRight | Qt::AlignVCenter, label);
    }
    const Ticks columns = ticks_for(x.values, std::max(2, static_cast<int>(plot.width() / 46)));
    for (const double lap : columns.values) {
        if (lap != std::round(lap)) continue;
        painter.drawText(QRectF(x.to_pixel(lap) - 30, plot.bottom() + 3, 60, 16), Qt::AlignHCenter | Qt::AlignTop,
                         QString::number(lap, 'f', 0));
    }
    painter.drawText(QRectF(2, plot.bottom() + 3, plot.left() - 8, 16), Qt::AlignRight | Qt::AlignTop, tr("lap"));
    painter.save();
    painter.setClipRect(plot.adjusted(-6, -6, 6, 6));
    const auto at = [&](const OverLapsSeries& it, double lap, double by) {
        return QPointF(x.to_pixel(lap), y.to_pixel(plot_.how.from_si(it.line->at(lap + it.line_from) + by)));
    };
    for (const OverLapsSeries& it : plot_.series) {
        if (!it.line || it.x.empty()) continue;
        double first = 1e300, last = -1e300;
        for (std::size_t k = 0; k < it.x.size(); ++k) {
            if (it.tells[k] == 0) continue;
            first = std::min(first, it.x[k]);
            last = std::max(last, it.x[k]);
        }
        QPolygonF band;
        constexpr int steps = 16;
        for (const double side : {1.0, -1.0}) {
            for (int k = 0; k <= steps; ++k) {
                const double share = static_cast<double>(side > 0 ? k : steps - k) / steps;
                const double lap = first + share * (last - first);
                band << at(it, lap, side * it.line->doubt_at(lap + it.line_from));
            }
        }
        QColor fill = t.lap(it.slot);
        fill.setAlphaF(0.14F);
        painter.setPen(Qt::NoPen);
        painter.setBrush(fill);
        painter.drawPolygon(band);
        painter.setPen(QPen(t.lap(it.slot), lap_trace_width_px));
        painter.drawLine(at(it, first, 0), at(it, last, 0));
        if (it.breaks_at) {
            painter.setPen(QPen(t.lap(it.slot), 1, Qt::DashLine));
            painter.drawLine(QPointF(x.to_pixel(*it.breaks_at), plot.top()),
                             QPointF(x.to_pixel(*it.breaks_at), plot.bottom()));
        }
    }
    painter.restore();
    std::size_t place = 0;
    const auto all = points();
    for (const OverLapsSeries& it : plot_.series) {
        for (std::size_t k = 0; k < it.values.size(); ++k) {
            if (!std::isfinite(it.values[k])) continue;
            painter.setPen(QPen(t.lap(it.slot), 1.4));
            painter.setBrush(it.tells[k] != 0 ? t.lap(it.slot) : t.panel);
            painter.drawEllipse(all[place++].at, 3.2, 3.2);
        }
    }
    // What each line says, where it ends; the second one gives way.
    painter.setFont(body_font(true));
    std::vector<QRectF> taken;
    std::vector<QPointF> on_lines;
    for (const OverLapsSeries& it : plot_.series) {
        if (!it.line || it.x.empty()) continue;
        const auto [first, last] = std::minmax_element(it.x.begin(), it.x.end());
        for (double lap = *first; lap <= *last; lap += 0.25) on_lines.push_back(at(it, lap, 0));
    }
    for (const OverLapsSeries& it : plot_.series) {
        if (!it.line || it.x.empty()) continue;
        const double last = *std::max_element(it.x.begin(), it.x.end());
        const QString text = slot_letter(it.slot) + u' ' + line_text(*it.line);
        const double wide = painter.fontMetrics().horizontalAdvance(text) + 8;
        const double level = at(it, last, 0).y();
        QRectF box(plot.right() - wide, 0, wide, 16);
        const auto free = [&](double top) {
            const QRectF there = box.translated(0, top);
            return there.top() >= plot.top() - 4 && there.bottom() <= plot.bottom() + 2 &&
                   std::none_of(taken.begin(), taken.end(),
                                [&](const QRectF& other) { return other.intersects(there); }) &&
                   std::none_of(on_lines.begin(), on_lines.end(),
                                [&](const QPointF& point) { return there.contains(point); }) &&
                   std::none_of(all.begin(), all.end(),
                                [&](const Point& point) { return there.adjusted(-2, -3, 2, 3).contains(point.at); });
        };
        // Beside the end of its line, else farther to the left.
        double top = std::clamp(level + 6, plot.top(), plot.bottom() - 16);
        bool placed = false;
        for (int left = 0; left < 4 && !placed; ++left) {
            for (int k = 0; k < 24 && !placed; ++k) {
                const double tried = level - 8 + (k % 2 == 0 ? 1 : -1) * (14 + 5.0 * std::floor(k / 2.0));
                if (!free(tried)) continue;
                top = tried;
                placed = true;
            }
            if (!placed && left < 3) box.translate(-0.18 * plot.width(), 0);
        }
        box.translate(0, top);
        taken.push_back(box);
        painter.setPen(Qt::NoPen);
        QColor ground = t.panel;
        ground.setAlphaF(0.8F);
        painter.setBrush(ground);
        painter.drawRect(box);
        painter.setPen(t.lap(it.slot));
        painter.drawText(box, Qt::AlignCenter, text);
    }
}

void OverLapsPicture::mouseReleaseEvent(QMouseEvent* event) {
    const auto all = points();
    if (const Point* it = nearest(all, event->position())) Q_EMIT lap_clicked(it->lap);
}

bool OverLapsPicture::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(event);
        const auto all = points();
        if (const Point* it = nearest(all, help->pos()))
            QToolTip::showText(help->globalPos(), it->text + tr("\nClick: that lap on Compare."), this);
        else
            QToolTip::hideText();
        return true;
    }
    if (event->type() == QEvent::MouseMove) {
        const auto all = points();
        setCursor(nearest(all, static_cast<QMouseEvent*>(event)->position()) != nullptr ? Qt::PointingHandCursor
                                                                                        : Qt::ArrowCursor);
    }
    return QWidget::event(event);
}

}  // namespace rendak::app
