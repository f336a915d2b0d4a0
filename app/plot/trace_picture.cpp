#include "app/plot/trace_picture.h"

#include <QCoreApplication>
#include <QPainter>
#include <cmath>

#include "app/plot/ticks.h"
#include "app/theme/theme.h"
#include "core/signal/overview.h"

namespace rendak::app {
namespace {

/// Paints one picture; painter, sizes and theme are at hand in all its steps.
class LanePainter {
  public:
    LanePainter(const TracePicture& picture, QPainter& painter, QSize size)
        : picture_(picture), painter_(painter), size_(size), x_(picture.x_scale(size)), theme_(theme()) {
        places_ = ticks_for(x_.values, std::max(2, TracePicture::plot_area(size).width() / 90));
    }

    void lane(std::size_t at) {
        const PlottedLane& lane = picture_.lanes[at];
        area_ = picture_.lane_area(size_, at);
        y_ = picture_.y_scale(size_, at);
        heading(lane);
        missing(lane);
        if (!lane.message.isEmpty()) {
            painter_.drawText(area_.adjusted(16, 0, -16, 0), Qt::AlignCenter | Qt::TextWordWrap, lane.message);
            return;
        }
        numbers(lane);
        painter_.setPen(theme_.grid);
        for (const double value : places_.values) {
            const int px = static_cast<int>(std::lround(x_.to_pixel(value)));
            painter_.drawLine(px, area_.top(), px, area_.bottom());
        }
        marks(at == 0);
        if (lane.veil != nullptr && !lane.veil->x.empty()) {
            if (lane.band != nullptr) band(lane);
            veil(lane);
        }
    }

    void axis() {
        const QRect axis(0, size_.height() - TracePicture::axis_height, size_.width(), TracePicture::axis_height);
        painter_.setFont(small_font());
        painter_.setPen(theme_.mute);
        for (const double value : places_.values) {
            const int px = static_cast<int>(std::lround(x_.to_pixel(value)));
            painter_.drawText(QRect(px - 40, axis.top() + 4, 80, 14), Qt::AlignHCenter | Qt::AlignVCenter,
                              QString::number(value, 'f', places_.decimals).replace(u'-', QChar(0x2212)));
        }
        painter_.fillRect(QRect(0, axis.top() + 1, TracePicture::label_width - 4, axis.height()), theme_.paper);
        painter_.setFont(body_font(true));
        painter_.setPen(theme_.ink);
        painter_.drawText(QRect(8, axis.top() + 3, TracePicture::label_width - 10, 16),
                          Qt::AlignLeft | Qt::AlignVCenter, picture_.x_caption);
    }

  private:
    void heading(const PlottedLane& lane) {
        const Shown& how = lane.how;
        painter_.setPen(theme_.rule);
        painter_.drawLine(0, area_.bottom(), size_.width(), area_.bottom());
        painter_.setFont(body_font(true));
        painter_.setPen(theme_.ink);
        // Long names take a second line; the right third belongs to the scale.
        const int text_width = TracePicture::label_width - 48;
        const QString shared = lane.more.empty() ? QString() : shared_words(lane);
        const QString& title = shared.isEmpty() ? how.label : shared;
        const QRect needed = painter_.fontMetrics().boundingRect(QRect(0, 0, text_width, 40), Qt::TextWordWrap, title);
        const int label_height = std::min(needed.height(), 2 * painter_.fontMetrics().height());
        painter_.drawText(QRect(8, area_.top() + 3, text_width, label_height),
                          Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, title);
        painter_.setFont(small_font());
        painter_.setPen(theme_.mute);
        int text_y = area_.top() + 3 + label_height;
        if (!how.unit.isEmpty() && area_.bottom() - text_y > 10) {
            painter_.drawText(QRect(8, text_y, 40, 13), Qt::AlignLeft | Qt::AlignVCenter, how.unit);
            text_y += 13;
        }
        if (!lane.more.empty()) {
            legend(lane, text_y);
            return scale_word(lane, text_y);
        }
        if (!how.up.isEmpty() && area_.bottom() - text_y > 12 && lane.veil == nullptr) {
            painter_.drawText(QRect(8, text_y, text_width + 8, std::min(28, area_.bottom() - text_y)),
                              Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap,
                              QCoreApplication::translate("TracePicture", "up = %1").arg(how.up));
            text_y += 26;
        }
        scale_word(lane, text_y);
    }

    /// A row for each quantity of a lane: a piece of its line, its name, and its scale where that is its own.
    void legend(const PlottedLane& lane, int& text_y) {
        for (std::size_t q = 0; q <= lane.more.size(); ++q) {
            if (area_.bottom() - text_y < 12) return;
            // Numbers of the scale stand at the right end of some rows.
            const QRect row(8, text_y, TracePicture::label_width - 34, 12);
            sample_line(lane, q, QRect(row.topLeft(), QSize(16, row.height())));
            painter_.setPen(theme_.mute);
            QString words = how_of(lane, q).label;
            if (const QString shared = shared_words(lane); !shared.isEmpty())
                words = words.mid(shared.size()).trimmed();
            const QRect text = row.adjusted(20, 0, 0, 0);
            painter_.drawText(text, Qt::AlignLeft | Qt::AlignVCenter,
                              painter_.fontMetrics().elidedText(words, Qt::ElideRight, text.width()));
            text_y += 12;
            if (q == 0 || lane.more[q - 1].shares || area_.bottom() - text_y < 12) continue;
            // A scale of its own has no numbers beside the plot.
            const PlottedQuantity& own = lane.more[q - 1];
            const int decimals = own.values.length() < 10 ? std::min(own.how.decimals, 1) : 0;
            const QString range = QStringLiteral("%1 to %2 %3")
                                      .arg(own.values.begin, 0, 'f', decimals)
                                      .arg(own.values.end, 0, 'f', decimals)
                                      .arg(own.how.unit)
                                      .replace(u'-', QChar(0x2212));
            painter_.drawText(text.translated(0, 12), Qt::AlignLeft | Qt::AlignVCenter,
                              painter_.fontMetrics().elidedText(range, Qt::ElideRight, text.width()));
            text_y += 12;
        }
    }

    static const Shown& how_of(const PlottedLane& lane, std::size_t quantity) {
        return quantity == 0 ? lane.how : lane.more[quantity - 1].how;
    }

    /// The words that all names of a lane begin with: "Wheel speed" of FL, FR, RL, RR.
    static QString shared_words(const PlottedLane& lane) {
        QStringList shared = lane.how.label.split(u' ');
        for (const PlottedQuantity& other : lane.more) {
            const QStringList words = other.how.label.split(u' ');
            qsizetype same = 0;
            while (same < shared.size() && same + 1 < words.size() && shared[same] == words[same]) ++same;
            shared = shared.mid(0, same);
        }
        return shared.join(u' ');
    }

    void sample_line(const PlottedLane& lane, std::size_t quantity, QRect area) {
        const QColor colour = quantity < lane.colours.size() ? lane.colours[quantity] : theme_.ink;
        const auto pattern = lane.colours.empty() ? pattern_of(quantity) : LinePattern::solid;
        for (int x = 0; x < area.width(); ++x) {
            if (has_ink(pattern, x)) painter_.fillRect(QRect(area.left() + x, area.center().y(), 1, 2), colour);
        }
    }

    /// What would stand above or below is named there.
    void missing(const PlottedLane& lane) {
        if (area_.height() < 34) return;
        painter_.setFont(small_font());
        painter_.setPen(theme_.mute);
        for (const auto& [words, y] : {std::pair{&lane.above, area_.top() + 2}, {&lane.below, area_.bottom() - 14}}) {
            if (words->isEmpty()) continue;
            painter_.drawText(QRect(area_.left() + 8, y, area_.width() - 16, 13), Qt::AlignRight | Qt::AlignVCenter,
                              painter_.fontMetrics().elidedText(*words, Qt::ElideRight, area_.width() - 16));
        }
    }

    void scale_word(const PlottedLane& lane, int text_y) {
        if (lane.scale_word.isEmpty() || area_.bottom() - text_y < 26) return;
        painter_.setFont(small_font());
        painter_.setPen(theme_.mute);
        painter_.drawText(QRect(8, area_.bottom() - 14, TracePicture::label_width - 52, 13),
                          Qt::AlignLeft | Qt::AlignVCenter, lane.scale_word);
    }

    void numbers(const PlottedLane& lane) {
        const Ticks ticks = ticks_for(y_.values, std::max(2, area_.height() / 26));
        const int decimals = lane.how.decimals == 0 ? 0 : ticks.decimals;
        for (const double value : ticks.values) {
            const int py = static_cast<int>(std::lround(y_.to_pixel(value)));
            const bool zero = value == 0 && y_.values.begin < 0;
            painter_.setPen(zero ? theme_.rule.darker(115) : theme_.grid);
            painter_.drawLine(area_.left(), py, area_.right(), py);
            const int text_top = std::clamp(py - 7, area_.top(), area_.bottom() - 13);
            painter_.setPen(theme_.mute);
            const QString text = lane.is_signed ? signed_number(value, std::max(1, decimals))
                                                : QString::number(value, 'f', decimals).replace(u'-', QChar(0x2212));
            painter_.drawText(QRect(area_.left() - 44, text_top, 39, 14), Qt::AlignRight | Qt::AlignVCenter, text);
        }
    }

    void marks(bool with_words) {
        painter_.setFont(small_font());
        for (const PlottedMark& mark : picture_.marks) {
            const double px = x_.to_pixel(mark.x);
            if (px < area_.left() || px > area_.right()) continue;
            painter_.setPen(QPen(theme_.mute, 1, Qt::DashLine));
            painter_.drawLine(QPointF(px, area_.top()), QPointF(px, area_.bottom()));
            if (with_words) painter_.drawText(QRectF(px + 3, area_.top() + 16, 90, 13), Qt::AlignLeft, mark.text);
        }
    }

    /// Lost time in one tone, won time in another, each with its word.
    void veil(const PlottedLane& lane) {
        const Trace& curve = *lane.veil;
        const double zero = y_.to_pixel(0);
        QPolygonF behind, ahead;
        // Beyond the lap there is no gap.
        const int begin = std::max(area_.left(), static_cast<int>(x_.to_pixel(curve.x.front()))),
                  end = std::min(area_.right(), static_cast<int>(x_.to_pixel(curve.x.back())));
        for (int px = begin; px <= end; px += 2) {
            const std::size_t at = std::min(curve.first_at(x_.to_value(px + 0.5)), curve.y.size() - 1);
            const double py = y_.to_pixel(lane.how.from_si(curve.y[at] - lane.veil_minus));
            behind << QPointF(px, std::min(py, zero));
            ahead << QPointF(px, std::max(py, zero));
        }
        for (auto& [polygon, tone] : {std::pair{&behind, theme_.lost}, std::pair{&ahead, theme_.won}}) {
            *polygon << QPointF(end, zero) << QPointF(begin, zero);
            QColor colour = tone;
            colour.setAlphaF(0.16F);
            painter_.setPen(Qt::NoPen);
            painter_.setBrush(colour);
            painter_.drawPolygon(*polygon);
        }
        painter_.setPen(theme_.lap(0));
        painter_.drawLine(QPointF(area_.left(), zero), QPointF(area_.right(), zero));
        painter_.setFont(small_font());
        painter_.setPen(theme_.lost);
        // Off the zero line, wherever that lies.
        const int words_y = zero < area_.top() + 18 ? area_.bottom() - 16 : area_.top() + 3;
        painter_.drawText(QRect(area_.left() + 6, words_y, 200, 14), Qt::AlignLeft, lane.veil_text);
    }

    void band(const PlottedLane& lane) {
        const Trace &curve = *lane.veil, &half = *lane.band;
        const auto inside = [&](double value) {
            return std::clamp(y_.to_pixel(lane.how.from_si(value)), double(area_.top()), double(area_.bottom()));
        };
        QPolygonF upper, lower;
        for (int px = area_.left(); px <= area_.right(); px += 4) {
            const double x = x_.to_value(px);
            const double value = curve.y[std::min(curve.first_at(x), curve.y.size() - 1)] - lane.veil_minus,
                         error = half.y[std::min(half.first_at(x), half.y.size() - 1)];
            upper << QPointF(px, inside(value + error));
            lower << QPointF(px, inside(value - error));
        }
        std::reverse(lower.begin(), lower.end());
        painter_.setPen(Qt::NoPen);
        painter_.setBrush(QBrush(theme_.mute, Qt::Dense6Pattern));
        painter_.drawPolygon(upper + lower);
        painter_.setFont(small_font());
        painter_.setPen(theme_.mute);
        painter_.drawText(QRect(area_.left() + 120, area_.top() + 3, 300, 14), Qt::AlignLeft, lane.band_text);
    }

    const TracePicture& picture_;
    QPainter& painter_;
    QSize size_;
    Scale x_, y_;
    const Theme& theme_;
    Ticks places_;
    QRect area_;
};

std::vector<DrawnLane> drawn_lanes(const TracePicture& picture, QSize size, double ratio) {
    const Scale x = picture.x_scale(size);
    std::vector<DrawnLane> out;
    for (std::size_t at = 0; at < picture.lanes.size(); ++at) {
        const PlottedLane& lane = picture.lanes[at];
        if (!lane.message.isEmpty()) continue;
        const QRect area = picture.lane_area(size, at);
        DrawnLane drawn;
        drawn.area = QRect(QPointF(area.left() * ratio, (area.top() + 1) * ratio).toPoint(),
                           QSizeF(area.width() * ratio, (area.height() - 2) * ratio).toSize());
        drawn.x = {x.values, x.first * ratio, x.last * ratio};
        const Scale y = picture.y_scale(size, at);
        drawn.y = {y.values, y.first * ratio, y.last * ratio};
        drawn.width_px = lap_trace_width_px * ratio;
        for (const PlottedTrace& it : lane.traces) {
            const ToLane to = to_lane(lane, it.quantity);
            const auto pattern = lane.colours.empty() ? pattern_of(it.quantity) : LinePattern::solid;
            drawn.traces.push_back(
                {it.trace, it.colour.rgb(), to.factor, to.offset - to.factor * it.minus, pattern, ratio});
        }
        out.push_back(std::move(drawn));
    }
    return out;
}

}  // namespace

QRect TracePicture::plot_area(QSize size) {
    return {label_width, 0, std::max(10, size.width() - label_width - 6), std::max(10, size.height() - axis_height)};
}

QRect TracePicture::lane_area(QSize size, std::size_t lane) const {
    const QRect plot = plot_area(size);
    double total = 0, before = 0;
    for (std::size_t i = 0; i < lanes.size(); ++i) {
        if (i < lane) before += lanes[i].weight;
        total += lanes[i].weight;
    }
    const auto edge = [&](double sum) {
        return plot.top() + static_cast<int>(std::lround(plot.height() * sum / total));
    };
    const int top = edge(before);
    return {plot.left(), top, plot.width(), edge(before + lanes[lane].weight) - top};
}

Scale TracePicture::x_scale(QSize size) const {
    const QRect plot = plot_area(size);
    return {x, double(plot.left()), double(plot.right() + 1)};
}

Scale TracePicture::y_scale(QSize size, std::size_t lane) const {
    const QRect area = lane_area(size, lane);
    return {lanes[lane].values, double(area.bottom() - 1), double(area.top() + 2)};
}

int TracePicture::separator_at(QSize size, int y) const {
    for (std::size_t lane = 0; lane + 1 < lanes.size(); ++lane) {
        if (std::abs(y - lane_area(size, lane).bottom()) <= 3) return static_cast<int>(lane);
    }
    return -1;
}

LinePattern pattern_of(std::size_t quantity) {
    constexpr LinePattern all[] = {LinePattern::solid, LinePattern::dashed, LinePattern::dotted, LinePattern::dash_dot};
    return all[quantity % std::size(all)];
}

ToLane to_lane(const PlottedLane& lane, std::size_t quantity) {
    if (quantity == 0) return {1 / lane.how.factor, -lane.how.offset / lane.how.factor};
    const PlottedQuantity& own = lane.more[quantity - 1];
    const ToLane plain{1 / own.how.factor, -own.how.offset / own.how.factor};
    if (own.shares || !(own.values.length() > 0)) return plain;
    const double stretch = lane.values.length() / own.values.length();
    return {plain.factor * stretch, lane.values.begin + (plain.offset - own.values.begin) * stretch};
}

Interval fitted_values(const PlottedLane& lane, std::size_t quantity, std::optional<Interval> view) {
    const Shown& how = quantity == 0 ? lane.how : lane.more[quantity - 1].how;
    if (how.range && !view) return *how.range;
    std::optional<Interval> all;
    for (const PlottedTrace& it : lane.traces) {
        const bool belongs =
            it.quantity == quantity || (quantity == 0 && it.quantity > 0 && lane.more[it.quantity - 1].shares);
        if (!belongs || it.trace->empty()) continue;
        const Interval si = view ? it.trace->limits(*view) : it.trace->limits();
        if (view && si.begin == 0 && si.end == 0) continue;  // nothing of it is in view
        const Interval own{how.from_si(si.begin - it.minus), how.from_si(si.end - it.minus)};
        all = all ? Interval{std::min(all->begin, own.begin), std::max(all->end, own.end)} : own;
    }
    Interval out = all.value_or(Interval{0, 0});
    // A gap of nothing still shows where nothing is.
    if (lane.veil != nullptr) out = {std::min(out.begin, -0.02), std::max(out.end, 0.02)};
    return with_margin(out);
}

namespace {

/// The curve in pixels, with breaks where samples are missing: all its points, or low and high of each half pixel.
std::vector<QPolygonF> lines_of(const Trace& trace, const Scale& x, const Scale& y, const ToLane& to, double minus,
                                QRect area) {
    std::vector<QPolygonF> out(1);
    const auto add = [&](double at, double value) {
        if (!std::isfinite(value)) {
            if (!out.back().isEmpty()) out.emplace_back();
            return;
        }
        const QPointF point(x.to_pixel(at), y.to_pixel(to(value - minus)));
        if (trace.is_state && !out.back().isEmpty()) out.back() << QPointF(point.x(), out.back().last().y());
        out.back() << point;
    };
    const double step = std::abs(0.5 * x.values.length() / std::max(1, area.width()));
    if (trace.whole != nullptr) {
        const Channel& channel = *trace.whole;
        const std::size_t begin = channel.clock.first_at_or_after(trace.whole_start_s + x.values.begin),
                          end = channel.clock.first_at_or_after(trace.whole_start_s + x.values.end);
        if (end - begin < 4 * static_cast<std::size_t>(area.width())) {
            for (std::size_t i = begin; i < end; ++i)
                add(channel.clock.time_at(i) - trace.whole_start_s, channel.at(i));
            return out;
        }
        for (double at = x.values.begin; at < x.values.end; at += step) {
            const MinMax part = min_max(channel, channel.clock.first_at_or_after(trace.whole_start_s + at),
                                        channel.clock.first_at_or_after(trace.whole_start_s + at + step));
            if (part.empty()) continue;
            add(at, part.low);
            if (part.high > part.low) add(at, part.high);
        }
        return out;
    }
    const std::size_t begin = trace.first_at(x.values.begin),
                      end = std::min(trace.first_at(x.values.end) + 1, trace.x.size());
    if (end - begin < 4 * static_cast<std::size_t>(area.width())) {
        for (std::size_t i = begin > 0 ? begin - 1 : 0; i < end; ++i) add(trace.x[i], trace.y[i]);
        return out;
    }
    for (std::size_t i = begin; i < end;) {
        std::size_t j = i;
        float low = std::numeric_limits<float>::infinity(), high = -low;
        for (; j < end && trace.x[j] < trace.x[i] + step; ++j) {
            low = std::min(low, trace.y[j]);
            high = std::max(high, trace.y[j]);
        }
        if (low <= high) {
            add(trace.x[i], low);
            if (high > low) add(trace.x[i], high);
        } else {
            add(trace.x[i], std::nan(""));
        }
        i = std::max(j, i + 1);
    }
    return out;
}

QPen pen_of(const QColor& colour, LinePattern pattern) {
    QPen pen(colour, lap_trace_width_px);
    switch (pattern) {
        case LinePattern::solid:
            break;
        case LinePattern::dashed:
            pen.setDashPattern({5.6, 2.5});
            break;
        case LinePattern::dotted:
            pen.setDashPattern({1.9, 1.9});
            break;
        case LinePattern::dash_dot:
            pen.setDashPattern({5.6, 1.9, 1.9, 1.9});
            break;
    }
    return pen;
}

}  // namespace

void paint_lines(const TracePicture& picture, QPainter& painter, QSize size) {
    painter.fillRect(QRect(QPoint(), size), theme().panel);
    painter.fillRect(QRect(0, 0, TracePicture::label_width, size.height()), theme().paper);
    painter.fillRect(QRect(0, size.height() - TracePicture::axis_height, size.width(), TracePicture::axis_height),
                     theme().paper);
    if (picture.lanes.empty()) return;
    LanePainter words(picture, painter, size);
    for (std::size_t lane = 0; lane < picture.lanes.size(); ++lane) words.lane(lane);
    words.axis();
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setBrush(Qt::NoBrush);
    const Scale x = picture.x_scale(size);
    for (std::size_t at = 0; at < picture.lanes.size(); ++at) {
        const PlottedLane& lane = picture.lanes[at];
        if (!lane.message.isEmpty()) continue;
        const QRect area = picture.lane_area(size, at);
        painter.save();
        painter.setClipRect(area);
        for (const PlottedTrace& it : lane.traces) {
            if (it.trace->empty()) continue;
            painter.setPen(pen_of(it.colour, lane.colours.empty() ? pattern_of(it.quantity) : LinePattern::solid));
            for (const QPolygonF& line :
                 lines_of(*it.trace, x, picture.y_scale(size, at), to_lane(lane, it.quantity), it.minus, area))
                painter.drawPolyline(line);
        }
        painter.restore();
    }
}

void paint(const TracePicture& picture, QImage& image, QSize size) {
    {
        QPainter painter(&image);
        painter.fillRect(QRect(0, 0, TracePicture::label_width, size.height()), theme().paper);
        painter.fillRect(QRect(0, size.height() - TracePicture::axis_height, size.width(), TracePicture::axis_height),
                         theme().paper);
        if (picture.lanes.empty()) return;
        LanePainter lanes(picture, painter, size);
        for (std::size_t lane = 0; lane < picture.lanes.size(); ++lane) lanes.lane(lane);
        lanes.axis();
    }
    draw_lanes(image, drawn_lanes(picture, size, image.devicePixelRatio()));
}

}  // namespace rendak::app
