#include "app/plot/pair_plot.h"

#include <QCoreApplication>
#include <QPainter>
#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "app/plot/ticks.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr int left_px = 46, foot_px = 32, rim_px = 8;

QString words(const char* text) {
    return QCoreApplication::translate("PairPlot", text);
}

QString number(double value, int decimals) {
    return QString::number(value, 'f', decimals).replace(u'-', QChar(0x2212));
}

void grid(QPainter& painter, QRect area, const Scale& x, const Scale& y) {
    const Theme& t = theme();
    painter.setFont(small_font());
    const Ticks across = ticks_for(x.values, std::max(2, area.width() / 56)),
                up = ticks_for(y.values, std::max(2, area.height() / 26));
    for (const double value : across.values) {
        const int px = static_cast<int>(std::lround(x.to_pixel(value)));
        painter.setPen(value == 0 ? t.rule.darker(115) : t.grid);
        painter.drawLine(px, area.top(), px, area.bottom());
        painter.setPen(t.mute);
        painter.drawText(QRect(px - 30, area.bottom() + 2, 60, 13), Qt::AlignCenter, number(value, across.decimals));
    }
    for (const double value : up.values) {
        const int py = static_cast<int>(std::lround(y.to_pixel(value)));
        painter.setPen(value == 0 ? t.rule.darker(115) : t.grid);
        painter.drawLine(area.left(), py, area.right(), py);
        painter.setPen(t.mute);
        painter.drawText(QRect(area.left() - left_px, py - 7, left_px - 4, 14), Qt::AlignRight | Qt::AlignVCenter,
                         number(value, up.decimals));
    }
}

void captions(QPainter& painter, QRect area, QSize size, QString across, const QString& up, std::size_t every) {
    if (every > 1) across += words("   (one sample of %1)").arg(every);
    painter.setFont(small_font(true));
    painter.setPen(theme().ink);
    painter.drawText(QRect(area.left(), area.bottom() + 17, area.width(), 14), Qt::AlignCenter,
                     painter.fontMetrics().elidedText(across, Qt::ElideRight, area.width()));
    painter.drawText(QRect(4, 2, size.width() - 8, 14), Qt::AlignLeft | Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(up, Qt::ElideRight, size.width() - 8));
}

QString named(const Shown& how) {
    return how.unit.isEmpty() ? how.label : how.label + QStringLiteral(", ") + how.unit;
}

/// Calls put(x, y, colour) for each point inside the area, in pixels of `ratio` to one of the widget; the last series
/// first, so that the first one lies on top.
void each_point(const PairPlot& plot, QSize size, double ratio, const auto& put) {
    const Scale x = plot.x_scale(size), y = plot.y_scale(size);
    const QRect area = PairPlot::plot_area(size, plot.circle);
    const int left = static_cast<int>(area.left() * ratio), right = static_cast<int>((area.right() - 1) * ratio),
              top = static_cast<int>(area.top() * ratio), bottom = static_cast<int>((area.bottom() - 1) * ratio);
    const auto per_x = static_cast<float>((x.last - x.first) / x.values.length() * ratio),
               per_y = static_cast<float>((y.last - y.first) / y.values.length() * ratio);
    const auto zero_x = static_cast<float>(x.to_pixel(0) * ratio), zero_y = static_cast<float>(y.to_pixel(0) * ratio);
    const auto x_factor = static_cast<float>(1 / plot.x.factor), y_factor = static_cast<float>(1 / plot.y.factor);
    const auto x_offset = static_cast<float>(plot.x.offset), y_offset = static_cast<float>(plot.y.offset);
    const Interval limits = plot.z_limits();
    std::array<QRgb, 256> tones{};
    for (std::size_t i = 0; i < tones.size(); ++i) tones[i] = one_sided_scale(static_cast<double>(i) / 255).rgb();
    for (std::size_t s = plot.series.size(); s-- > 0;) {
        const PairSeries& series = plot.series[s];
        const QRgb own = series.colour.rgb();
        const bool painted = plot.z && series.z.size() == series.x.size();
        const auto z_scale = static_cast<float>(255 / std::max(1e-30, limits.length()));
        for (std::size_t i = 0; i < series.x.size(); ++i) {
            const int px = static_cast<int>(zero_x + (series.x[i] - x_offset) * x_factor * per_x),
                      py = static_cast<int>(zero_y + (series.y[i] - y_offset) * y_factor * per_y);
            if (px < left || px > right || py < top || py > bottom) continue;
            const float share = painted ? (series.z[i] - static_cast<float>(limits.begin)) * z_scale : 0;
            put(px, py, painted ? tones[static_cast<std::size_t>(std::clamp(share, 0.0F, 255.0F))] : own);
        }
    }
}

/// Points go straight into the image: a million of them must not wait for a painter.
void points(QImage& image, const PairPlot& plot, QSize size) {
    const double ratio = image.devicePixelRatio();
    const int dot = std::max(2, static_cast<int>(std::lround(1.6 * ratio)));
    uchar* const bits = image.bits();
    const qsizetype stride = image.bytesPerLine();
    each_point(plot, size, ratio, [=](int px, int py, QRgb colour) {
        for (int row = 0; row < dot; ++row) {
            auto* at = reinterpret_cast<QRgb*>(bits + (py + row) * stride) + px;
            for (int column = 0; column < dot; ++column) at[column] = colour;
        }
    });
}

bool said(const QString& message, QPainter& painter, QSize size) {
    if (message.isEmpty()) return false;
    painter.setFont(body_font());
    painter.setPen(theme().mute);
    painter.drawText(QRect(QPoint(12, 12), size - QSize(24, 24)), Qt::AlignCenter | Qt::TextWordWrap, message);
    return true;
}

/// What lies over the points.
void over_points(const PairPlot& plot, QPainter& painter, QSize size);

void rings(QPainter& painter, const PairPlot& plot, QSize size) {
    const Scale x = plot.x_scale(size), y = plot.y_scale(size);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme().rule, 1, Qt::DotLine));
    for (const double radius : ticks_for({0, x.values.end}, 4).values) {
        if (radius <= 0) continue;
        const double rx = std::abs(x.to_pixel(radius) - x.to_pixel(0)),
                     ry = std::abs(y.to_pixel(radius) - y.to_pixel(0));
        painter.drawEllipse(QPointF(x.to_pixel(0), y.to_pixel(0)), rx, ry);
    }
    const QRect area = PairPlot::plot_area(size, true);
    painter.setFont(small_font());
    painter.setPen(theme().mute);
    painter.drawText(area.adjusted(4, 2, -4, -2), Qt::AlignTop | Qt::AlignHCenter, words("gaining speed"));
    painter.drawText(area.adjusted(4, 2, -4, -2), Qt::AlignBottom | Qt::AlignHCenter, words("braking"));
    painter.drawText(area.adjusted(4, 2, -4, -2), Qt::AlignVCenter | Qt::AlignLeft, words("left"));
    painter.drawText(area.adjusted(4, 2, -4, -2), Qt::AlignVCenter | Qt::AlignRight, words("right"));
}

void outlines(QPainter& painter, const PairPlot& plot, QSize size) {
    const Scale x = plot.x_scale(size), y = plot.y_scale(size);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setBrush(Qt::NoBrush);
    for (std::size_t s = plot.series.size(); s-- > 0;) {
        const PairSeries& series = plot.series[s];
        if (series.reach.empty()) continue;
        painter.setPen(QPen(series.colour, 2));
        const std::size_t count = series.reach.size();
        const auto place = [&](std::size_t k) {
            const double angle = 2 * std::numbers::pi * static_cast<double>(k % count) / static_cast<double>(count);
            const double radius = series.reach[k % count];
            return QPointF(x.to_pixel(plot.x.from_si(radius * std::cos(angle))),
                           y.to_pixel(plot.y.from_si(radius * std::sin(angle))));
        };
        for (std::size_t k = 0; k < count; ++k) {
            if (std::isfinite(series.reach[k]) && std::isfinite(series.reach[(k + 1) % count]))
                painter.drawLine(place(k), place(k + 1));
        }
    }
}

void fits(QPainter& painter, const PairPlot& plot, QSize size) {
    const Scale x = plot.x_scale(size), y = plot.y_scale(size);
    const QRect area = PairPlot::plot_area(size, plot.circle);
    painter.setRenderHint(QPainter::Antialiasing);
    int row = 0;
    for (const PairSeries& series : plot.series) {
        if (!series.fit || !series.fit->known()) continue;
        const auto [low, high] = std::minmax_element(series.x.begin(), series.x.end());
        const auto at = [&](double si) {
            return QPointF(x.to_pixel(plot.x.from_si(si)),
                           y.to_pixel(plot.y.from_si(series.fit->offset + series.fit->slope * si)));
        };
        painter.save();
        painter.setClipRect(area);
        painter.setPen(QPen(theme().panel, 4));
        painter.drawLine(at(*low), at(*high));
        painter.setPen(QPen(series.colour, 2));
        painter.drawLine(at(*low), at(*high));
        painter.restore();
        const double slope = series.fit->slope * plot.x.factor / plot.y.factor;
        const QString unit = (plot.y.unit.isEmpty() ? QStringLiteral("1") : plot.y.unit) +
                             (plot.x.unit.isEmpty() ? QString() : QStringLiteral(" per ") + plot.x.unit);
        const QString text = words("%1: %2 %3, ± %4 about the line, explains %5 %")
                                 .arg(series.letter, QString::number(slope, 'g', 3).replace(u'-', QChar(0x2212)), unit,
                                      QString::number(series.fit->sd / plot.y.factor, 'g', 2),
                                      QString::number(100 * series.fit->explained, 'f', 0));
        painter.setFont(small_font());
        const QRect line(area.left() + 4, area.top() + 3 + 13 * row++, area.width() - 8, 13);
        QColor under = theme().panel;
        under.setAlphaF(0.8F);
        painter.fillRect(
            QRect(line.topLeft(), QSize(std::min(line.width(), painter.fontMetrics().horizontalAdvance(text)), 13)),
            under);
        painter.setPen(series.colour);
        painter.drawText(line, Qt::AlignLeft | Qt::AlignVCenter,
                         painter.fontMetrics().elidedText(text, Qt::ElideRight, line.width()));
    }
}

void colour_key(QPainter& painter, const PairPlot& plot, QSize size) {
    if (!plot.z) return;
    const QRect bar(size.width() - 108, 4, 60, 8);
    for (int i = 0; i < bar.width(); ++i)
        painter.fillRect(QRect(bar.left() + i, bar.top(), 1, bar.height()), one_sided_scale(double(i) / bar.width()));
    painter.setFont(small_font());
    painter.setPen(theme().mute);
    const Interval limits = plot.z_limits();
    painter.drawText(QRect(bar.left() - 104, 1, 100, 14), Qt::AlignRight | Qt::AlignVCenter,
                     plot.z->label + u' ' + plot.z->text(limits.begin));
    painter.drawText(QRect(bar.right() + 4, 1, 44, 14), Qt::AlignLeft | Qt::AlignVCenter, plot.z->text(limits.end));
}

void over_points(const PairPlot& plot, QPainter& painter, QSize size) {
    captions(painter, PairPlot::plot_area(size, plot.circle), size, named(plot.x), named(plot.y), plot.every);
    if (plot.circle) rings(painter, plot, size);
    outlines(painter, plot, size);
    fits(painter, plot, size);
    colour_key(painter, plot, size);
}

}  // namespace

QRect PairPlot::plot_area(QSize size, bool circle) {
    QRect area(left_px, 18, std::max(20, size.width() - left_px - rim_px), std::max(20, size.height() - 18 - foot_px));
    if (circle) {
        const int side = std::min(area.width(), area.height());
        area = QRect(area.left() + (area.width() - side) / 2, area.top(), side, side);
    }
    return area;
}

Interval PairPlot::z_limits() const {
    float low = std::numeric_limits<float>::infinity(), high = -low;
    for (const PairSeries& it : series) {
        for (const float value : it.z) {
            low = value < low ? value : low;
            high = value > high ? value : high;
        }
    }
    return low < high ? Interval{low, high} : Interval{0, 1};
}

void PairPlot::fit_axes() {
    float low_x = std::numeric_limits<float>::infinity(), high_x = -low_x, low_y = low_x, high_y = -low_x;
    for (const PairSeries& it : series) {
        for (std::size_t i = 0; i < it.x.size(); ++i) {
            low_x = std::min(low_x, it.x[i]);
            high_x = std::max(high_x, it.x[i]);
            low_y = std::min(low_y, it.y[i]);
            high_y = std::max(high_y, it.y[i]);
        }
    }
    if (low_x > high_x) return;
    x_values_ = with_margin({x.from_si(low_x), x.from_si(high_x)});
    y_values_ = with_margin({y.from_si(low_y), y.from_si(high_y)});
    if (!circle) return;
    const double most = std::max(
        {std::abs(x_values_.begin), std::abs(x_values_.end), std::abs(y_values_.begin), std::abs(y_values_.end)});
    x_values_ = y_values_ = {-most, most};
}

Scale PairPlot::x_scale(QSize size) const {
    const QRect area = plot_area(size, circle);
    return circle ? Scale{x_values_, double(area.right()), double(area.left())}
                  : Scale{x_values_, double(area.left()), double(area.right())};
}

Scale PairPlot::y_scale(QSize size) const {
    const QRect area = plot_area(size, circle);
    return {y_values_, double(area.bottom()), double(area.top())};
}

void paint(const PairPlot& plot, QImage& image, QSize size) {
    {
        QPainter painter(&image);
        if (said(plot.message, painter, size)) return;
        grid(painter, PairPlot::plot_area(size, plot.circle), plot.x_scale(size), plot.y_scale(size));
    }
    points(image, plot, size);
    QPainter painter(&image);
    over_points(plot, painter, size);
}

void paint_lines(const PairPlot& plot, QPainter& painter, QSize size) {
    constexpr std::size_t most_points = 60'000;
    constexpr double finer = 4;
    painter.fillRect(QRect(QPoint(), size), theme().panel);
    if (said(plot.message, painter, size)) return;
    grid(painter, PairPlot::plot_area(size, plot.circle), plot.x_scale(size), plot.y_scale(size));
    std::size_t count = 0;
    for (const PairSeries& it : plot.series) count += it.x.size();
    if (count > most_points) {
        QImage image(size * static_cast<int>(finer), QImage::Format_ARGB32_Premultiplied);
        image.setDevicePixelRatio(finer);
        image.fill(Qt::transparent);
        points(image, plot, size);
        painter.drawImage(QRect(QPoint(), size), image);
    } else {
        each_point(plot, size, finer, [&](int px, int py, QRgb colour) {
            painter.fillRect(QRectF(px / finer, py / finer, 1.6, 1.6), QColor(colour));
        });
    }
    over_points(plot, painter, size);
}

void paint_now(const PairPlot& plot, QPainter& painter, QSize size) {
    if (!plot.message.isEmpty()) return;
    const Scale x = plot.x_scale(size), y = plot.y_scale(size);
    painter.setRenderHint(QPainter::Antialiasing);
    for (std::size_t s = plot.series.size(); s-- > 0;) {
        const PairSeries& series = plot.series[s];
        if (!series.now) continue;
        const QPointF at(x.to_pixel(plot.x.from_si(series.now->x())), y.to_pixel(plot.y.from_si(series.now->y())));
        painter.setPen(QPen(theme().panel, 2));
        painter.setBrush(series.colour);
        painter.drawEllipse(at, 6, 6);
        painter.setFont(small_font(true));
        painter.setPen(theme().on_lap);
        painter.drawText(QRectF(at - QPointF(6, 6), QSizeF(12, 12)), Qt::AlignCenter, series.letter);
    }
}

QRect SharePlot::plot_area(QSize size) {
    return {left_px, 18, std::max(20, size.width() - left_px - rim_px), std::max(20, size.height() - 18 - foot_px)};
}

Scale SharePlot::x_scale(QSize size) const {
    std::optional<Interval> all;
    for (const ShareSeries& it : series) {
        if (it.shares.share.empty()) continue;
        const Interval own{it.shares.begin,
                           it.shares.begin + it.shares.step * static_cast<double>(it.shares.share.size())};
        all = all ? Interval{std::min(all->begin, own.begin), std::max(all->end, own.end)} : own;
    }
    const QRect area = plot_area(size);
    return {all.value_or(Interval{0, 1}), double(area.left()), double(area.right())};
}

double SharePlot::highest() const {
    double out = 0;
    for (const ShareSeries& it : series) {
        for (const double share : it.shares.share) out = std::max(out, share);
    }
    return out > 0 ? out : 1;
}

void paint(const SharePlot& plot, QPainter& painter, QSize size) {
    painter.fillRect(QRect(QPoint(), size), theme().panel);
    if (said(plot.message, painter, size)) return;
    const QRect area = SharePlot::plot_area(size);
    const Scale x = plot.x_scale(size);
    const Scale shown_x{{plot.how.from_si(x.values.begin), plot.how.from_si(x.values.end)}, x.first, x.last};
    const Scale y{{0, 105 * plot.highest()}, double(area.bottom()), double(area.top())};
    grid(painter, area, shown_x, y);
    captions(painter, area, size, named(plot.how),
             plot.of_distance ? words("Share of the way, %") : words("Share of the time, %"), plot.every);
    painter.setRenderHint(QPainter::Antialiasing);
    for (std::size_t s = plot.series.size(); s-- > 0;) {
        const Shares& shares = plot.series[s].shares;
        if (shares.share.empty()) continue;
        QPolygonF steps;
        steps << QPointF(x.to_pixel(shares.begin), y.to_pixel(0));
        for (std::size_t k = 0; k < shares.share.size(); ++k) {
            const double from = shares.begin + shares.step * static_cast<double>(k),
                         high = y.to_pixel(100 * shares.share[k]);
            steps << QPointF(x.to_pixel(from), high) << QPointF(x.to_pixel(from + shares.step), high);
        }
        steps << QPointF(x.to_pixel(shares.begin + shares.step * static_cast<double>(shares.share.size())),
                         y.to_pixel(0));
        QColor tone = plot.series[s].colour;
        painter.setPen(QPen(tone, 1.6));
        tone.setAlphaF(s == 0 ? 0.18F : 0.0F);
        painter.setBrush(tone);
        painter.drawPolygon(steps);
    }
}

}  // namespace rendak::app
