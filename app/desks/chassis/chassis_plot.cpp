#include "app/desks/chassis/chassis_plot.h"

#include <QHelpEvent>
#include <QPainter>
#include <QToolTip>
#include <algorithm>
#include <cmath>

#include "app/plot/panel.h"
#include "app/plot/ticks.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr int most_in_legend = 6;

QString number(double value, int decimals) {
    return QString::number(value, 'f', decimals).replace(u'-', u'−');
}

/// Steps of bars that stand beside each other.
double step_of(const ChassisSeries& series) {
    return series.x.size() > 1 ? series.x[1] - series.x[0] : 1;
}

}  // namespace

ChassisPicture::ChassisPicture(QWidget* parent) : QWidget(parent) {
    setMouseTracking(true);
}

void ChassisPicture::set_plot(ChassisPlot plot) {
    plot_ = std::move(plot);
    setAccessibleName(plot_.title);
    setAccessibleDescription(plot_.message.isEmpty() ? plot_.hint : plot_.message);
    setVisible(!plot_.title.isEmpty());
    update();
}

QRectF ChassisPicture::area() const {
    // The unit stands behind the axis.
    const int unit = QFontMetrics(small_font()).horizontalAdvance(plot_.x_unit);
    return QRectF(rect()).adjusted(54, 46, -22 - unit, -22);
}

Scale ChassisPicture::x_scale() const {
    Interval shown{1e300, -1e300};
    if (plot_.x_shown) {
        shown = *plot_.x_shown;
    } else {
        for (const ChassisSeries& it : plot_.series) {
            const double half = it.kind == ChassisSeries::Kind::bars ? step_of(it) / 2 : 0;
            for (const double x : it.x) {
                shown.begin = std::min(shown.begin, x - half);
                shown.end = std::max(shown.end, x + half);
            }
        }
        if (!(shown.end > shown.begin)) shown = {0, 1};
        if (!plot_.series.empty() && plot_.series.front().kind == ChassisSeries::Kind::points)
            shown = with_margin(shown);
    }
    return {shown, area().left(), area().right()};
}

Scale ChassisPicture::y_scale() const {
    Interval shown{1e300, -1e300};
    const Interval seen = x_scale().values;
    const auto take = [&](double y) {
        if (!std::isfinite(y)) return;
        shown.begin = std::min(shown.begin, y);
        shown.end = std::max(shown.end, y);
    };
    for (const ChassisSeries& it : plot_.series) {
        for (std::size_t i = 0; i < it.x.size(); ++i) {
            if (it.x[i] < seen.begin || it.x[i] > seen.end) continue;
            take(it.y[i]);
            if (i < it.low.size()) take(it.low[i]);
            if (i < it.high.size()) take(it.high[i]);
        }
        for (const auto& [x, y] : it.laps) take(y);
    }
    if (!(shown.end >= shown.begin)) shown = {0, 1};
    if (plot_.from_zero) {
        shown.begin = std::min(0.0, shown.begin);
        shown.end += 0.05 * (shown.end - shown.begin);
        if (!(shown.end > shown.begin)) shown.end = shown.begin + 1;
    } else {
        shown = with_margin(shown);
    }
    return {shown, area().bottom(), area().top()};
}

void ChassisPicture::paint_series(QPainter& painter, const ChassisSeries& series, const Scale& x,
                                  const Scale& y) const {
    const QColor colour = theme().lap(series.slot);
    QColor pale = colour;
    pale.setAlphaF(0.18F);
    const auto at = [&](double a, double b) { return QPointF(x.to_pixel(a), y.to_pixel(b)); };
    switch (series.kind) {
        case ChassisSeries::Kind::bars: {
            // Those of several sides stand beside each other within a step.
            const auto sides = static_cast<double>(plot_.series.size());
            const double width = std::max(1.0, std::abs(x.to_pixel(step_of(series)) - x.to_pixel(0)) / sides - 1);
            const auto place = static_cast<double>(&series - plot_.series.data());
            painter.setPen(Qt::NoPen);
            painter.setBrush(colour);
            for (std::size_t i = 0; i < series.x.size(); ++i) {
                const double left = x.to_pixel(series.x[i] - step_of(series) / 2) + place * (width + 1);
                painter.drawRect(QRectF(QPointF(left, y.to_pixel(series.y[i])), QPointF(left + width, y.to_pixel(0))));
            }
            break;
        }
        case ChassisSeries::Kind::line: {
            QPolygonF band, line;
            for (std::size_t i = 0; i < series.x.size(); ++i) line << at(series.x[i], series.y[i]);
            if (series.low.size() == series.x.size() && series.high.size() == series.x.size()) {
                for (std::size_t i = 0; i < series.x.size(); ++i) band << at(series.x[i], series.low[i]);
                for (std::size_t i = series.x.size(); i-- > 0;) band << at(series.x[i], series.high[i]);
            }
            painter.setPen(Qt::NoPen);
            painter.setBrush(pale);
            painter.drawPolygon(band);
            painter.setPen(QPen(colour, lap_trace_width_px));
            painter.setBrush(Qt::NoBrush);
            painter.drawPolyline(line);
            break;
        }
        case ChassisSeries::Kind::points:
            painter.setPen(QPen(theme().mute, 1));
            painter.setBrush(Qt::NoBrush);
            for (const auto& [a, b] : series.laps) painter.drawEllipse(at(a, b), 2.5, 2.5);
            for (std::size_t i = 0; i < series.x.size(); ++i) {
                painter.setPen(QPen(colour, lap_trace_width_px));
                if (i < series.low.size() && std::isfinite(series.low[i])) {
                    const QPointF low = at(series.x[i], series.low[i]), high = at(series.x[i], series.high[i]);
                    painter.drawLine(low, high);
                    painter.drawLine(low - QPointF(4, 0), low + QPointF(4, 0));
                    painter.drawLine(high - QPointF(4, 0), high + QPointF(4, 0));
                }
                painter.setBrush(colour);
                painter.drawEllipse(at(series.x[i], series.y[i]), 4.5, 4.5);
            }
            break;
    }
}

void ChassisPicture::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    paint_panel(painter, rect(), plot_.title, plot_.hint);
    if (!plot_.message.isEmpty()) {
        painter.setFont(body_font());
        painter.drawText(QRectF(rect()).adjusted(16, 30, -16, -10), Qt::AlignCenter | Qt::TextWordWrap, plot_.message);
        return;
    }
    const QRectF plot = area();
    if (plot.width() < 20 || plot.height() < 20) return;
    const Scale x = x_scale(), y = y_scale();
    // Names of the series in a line of their own.
    double legend = plot.left();
    int named = 0;
    for (const ChassisSeries& it : plot_.series) {
        if (it.name.isEmpty() || ++named > most_in_legend) continue;
        painter.setPen(QPen(t.lap(it.slot), 3));
        painter.drawLine(QPointF(legend, 34), QPointF(legend + 12, 34));
        painter.setPen(t.ink);
        const double width = painter.fontMetrics().horizontalAdvance(it.name);
        painter.drawText(QPointF(legend + 17, 38), it.name);
        legend += width + 34;
    }
    for (const ChassisPlot::Band& it : plot_.bands) {
        const double left = std::clamp(x.to_pixel(it.x.begin), plot.left(), plot.right());
        const double right = std::clamp(x.to_pixel(it.x.end), plot.left(), plot.right());
        QColor fill = t.range;
        fill.setAlphaF(0.35F);
        painter.fillRect(QRectF(QPointF(left, plot.top()), QPointF(right, plot.bottom())), fill);
        painter.setPen(t.mute);
        painter.drawText(QRectF(left, plot.top() + 1, right - left, 14), Qt::AlignCenter, it.label);
    }
    const Ticks rows = ticks_for(y.values, std::max(2, static_cast<int>(plot.height() / 34)));
    for (const double value : rows.values) {
        const double at = y.to_pixel(value);
        painter.setPen(t.grid);
        painter.drawLine(QPointF(plot.left(), at), QPointF(plot.right(), at));
        painter.setPen(t.mute);
        painter.drawText(QRectF(0, at - 8, plot.left() - 6, 16), Qt::AlignRight | Qt::AlignVCenter,
                         number(value, rows.decimals));
    }
    painter.drawText(QRectF(2, 27, plot.left() - 8, 14), Qt::AlignRight | Qt::AlignVCenter, plot_.y_unit);
    const Ticks columns = ticks_for(x.values, std::max(2, static_cast<int>(plot.width() / 56)));
    for (const double value : columns.values)
        painter.drawText(QRectF(x.to_pixel(value) - 30, plot.bottom() + 3, 60, 16), Qt::AlignHCenter | Qt::AlignTop,
                         number(value, columns.decimals));
    painter.drawText(QRectF(plot.right() + 8, plot.bottom() - 8, width() - plot.right() - 12, 16),
                     Qt::AlignLeft | Qt::AlignVCenter, plot_.x_unit);
    painter.save();
    painter.setClipRect(plot.adjusted(-6, -2, 6, 2));
    for (const ChassisSeries& it : plot_.series) paint_series(painter, it, x, y);
    painter.restore();
}

QString ChassisPicture::told_at(QPointF to) const {
    if (!plot_.message.isEmpty() || !area().adjusted(-6, -6, 6, 6).contains(to)) return {};
    const Scale x = x_scale();
    const double at = x.to_value(to.x());
    QStringList out;
    for (const ChassisSeries& it : plot_.series) {
        if (it.x.empty()) continue;
        std::size_t near = 0;
        for (std::size_t i = 1; i < it.x.size(); ++i)
            if (std::abs(it.x[i] - at) < std::abs(it.x[near] - at)) near = i;
        QString line = (it.name.isEmpty() ? QString() : it.name + QStringLiteral(": ")) +
                       QString::number(it.y[near], 'g', 4) + u' ' + plot_.y_unit + tr(" at ") +
                       QString::number(it.x[near], 'g', 4) + u' ' + plot_.x_unit;
        if (near < it.low.size() && std::isfinite(it.low[near]))
            line += tr(" (%1 to %2)").arg(it.low[near], 0, 'g', 4).arg(it.high[near], 0, 'g', 4);
        out << line.replace(u'-', u'−');
    }
    return out.join(u'\n');
}

bool ChassisPicture::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(event);
        if (const QString text = told_at(help->pos()); !text.isEmpty())
            QToolTip::showText(help->globalPos(), text, this);
        else
            QToolTip::hideText();
        return true;
    }
    return QWidget::event(event);
}

}  // namespace rendak::app
