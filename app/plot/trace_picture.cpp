#include "app/plot/trace_picture.h"

#include <QPainter>
#include <cmath>

#include "app/plot/lane_painter.h"
#include "app/plot/ticks.h"
#include "app/theme/theme.h"
#include "core/signal/overview.h"

namespace rendak::app {
namespace {

/// One for each lane; none of the curves of one that says why it has none.
std::vector<DrawnLane> drawn_lanes(const TracePicture& picture, QSize size, double ratio) {
    const Scale x = picture.x_scale(size);
    std::vector<DrawnLane> out;
    for (std::size_t at = 0; at < picture.lanes.size(); ++at) {
        const PlottedLane& lane = picture.lanes[at];
        const QRect area = picture.lane_area(size, at);
        DrawnLane drawn;
        drawn.area = QRect(QPointF(area.left() * ratio, (area.top() + 1) * ratio).toPoint(),
                           QSizeF(area.width() * ratio, (area.height() - 2) * ratio).toSize());
        drawn.x = {x.values, x.first * ratio, x.last * ratio};
        const Scale y = picture.y_scale(size, at);
        drawn.y = {y.values, y.first * ratio, y.last * ratio};
        drawn.width_px = lap_trace_width_px * ratio;
        for (const PlottedTrace& it : lane.traces) {
            if (!lane.message.isEmpty()) break;
            const ToLane to = to_lane(lane, it.quantity);
            const auto pattern = lane.colours.empty() ? pattern_of(it.quantity) : LinePattern::solid;
            drawn.traces.push_back(
                {it.trace, it.colour.rgb(), to.factor, to.offset - to.factor * it.minus, pattern, ratio, it.x_shift});
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

double taken_off(const PlottedLane& lane, int slot, std::size_t quantity) {
    for (const PlottedTrace& it : lane.traces) {
        if (it.slot == slot && it.quantity == quantity) return it.minus;
    }
    return 0;
}

Interval fitted_values(const PlottedLane& lane, std::size_t quantity, std::optional<Interval> view) {
    const Shown& how = quantity == 0 ? lane.how : lane.more[quantity - 1].how;
    if (how.range && !view) return *how.range;
    std::optional<Interval> all;
    for (const PlottedTrace& it : lane.traces) {
        const bool belongs =
            it.quantity == quantity || (quantity == 0 && it.quantity > 0 && lane.more[it.quantity - 1].shares);
        if (!belongs || it.trace->empty()) continue;
        const auto si = view ? it.trace->limits({view->begin - it.x_shift, view->end - it.x_shift})
                             : std::optional(it.trace->limits());
        if (!si) continue;  // nothing of it is in view
        const Interval own{how.from_si(si->begin - it.minus), how.from_si(si->end - it.minus)};
        all = all ? Interval{std::min(all->begin, own.begin), std::max(all->end, own.end)} : own;
    }
    Interval out = all.value_or(Interval{0, 0});
    // A gap of nothing still shows where nothing is.
    if (lane.veil != nullptr) out = {std::min(out.begin, -0.02), std::max(out.end, 0.02)};
    return with_margin(out);
}

namespace {

/// The curve in pixels, with breaks where samples are missing: all its points, or low and high of each half pixel.
std::vector<QPolygonF> lines_of(const Trace& trace, Scale x, const Scale& y, const ToLane& to, double minus,
                                double x_shift, QRect area) {
    x.values = {x.values.begin - x_shift, x.values.end - x_shift};
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

void paint_note(QPainter& painter, QRect area, QPointF at, const QString& text, const QColor& colour) {
    if (!area.contains(at.toPoint())) return;
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setFont(small_font(true));
    const int wide = std::min(painter.fontMetrics().horizontalAdvance(text) + 10, area.width() / 2);
    // Above the point where there is room, else below; never over the edge.
    const bool above = at.y() - area.top() > 40;
    QRectF box(at.x() + 14, above ? at.y() - 36 : at.y() + 20, wide, 16);
    if (box.right() > area.right() - 2) box.moveRight(at.x() - 14);
    box.moveLeft(std::max<double>(box.left(), area.left() + 2));
    box.moveTop(std::clamp<double>(box.top(), area.top() + 1, std::max<double>(area.top() + 1, area.bottom() - 17)));
    const QPointF from(box.center().x() < at.x() ? box.right() : box.left(), box.center().y());
    painter.setPen(QPen(colour, 1.6));
    painter.drawLine(from, at);
    const double angle = std::atan2(at.y() - from.y(), at.x() - from.x());
    const auto head = [&](double turn) { return at - QPointF(std::cos(angle + turn), std::sin(angle + turn)) * 7; };
    painter.setBrush(colour);
    painter.drawPolygon(QPolygonF() << at << head(0.45) << head(-0.45));
    painter.setBrush(theme().panel);
    painter.setPen(QPen(colour, 1));
    painter.drawRoundedRect(box, 3, 3);
    painter.setPen(theme().ink);
    painter.drawText(box.adjusted(5, 0, -4, 0), Qt::AlignLeft | Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(text, Qt::ElideRight, static_cast<int>(box.width()) - 9));
    painter.restore();
}

namespace {

void paint_notes(const TracePicture& picture, QPainter& painter, QSize size) {
    const Scale x = picture.x_scale(size);
    for (const PlottedNote& note : picture.notes) {
        if (note.lane >= picture.lanes.size()) continue;
        const PlottedLane& lane = picture.lanes[note.lane];
        const double value = note.value_si - taken_off(lane, note.slot, note.quantity);
        const double y = picture.y_scale(size, note.lane).to_pixel(to_lane(lane, note.quantity)(value));
        if (!std::isfinite(y)) continue;
        const QRect area = picture.lane_area(size, note.lane);
        const QPointF at(x.to_pixel(note.x), std::clamp<double>(y, area.top() + 1, area.bottom() - 1));
        paint_note(painter, area, at, note.text, note.colour);
    }
}

}  // namespace

void paint_curve(QPainter& painter, const PlottedTrace& curve, const Scale& x, const Scale& y, const ToLane& to,
                 LinePattern pattern, QRect area) {
    if (curve.trace->empty()) return;
    painter.save();
    painter.setClipRect(area);
    painter.setPen(pen_of(curve.colour, pattern));
    for (const QPolygonF& line : lines_of(*curve.trace, x, y, to, curve.minus, curve.x_shift, area))
        painter.drawPolyline(line);
    painter.restore();
}

namespace {

/// The ground of a picture that lanes do not cover.
void paint_ground(QPainter& painter, QSize size) {
    painter.fillRect(QRect(QPoint(), size), theme().panel);
    painter.fillRect(QRect(0, 0, TracePicture::label_width, size.height()), theme().paper);
    painter.fillRect(QRect(0, size.height() - TracePicture::axis_height, size.width(), TracePicture::axis_height),
                     theme().paper);
}

/// Lanes, labels and axis lie beside each other, and nothing is left between them.
bool lanes_cover_all(const TracePicture& picture, QSize size) {
    const QRect plot = TracePicture::plot_area(size);
    return !picture.lanes.empty() && plot.right() < size.width() &&
           plot.height() + TracePicture::axis_height == size.height();
}

}  // namespace

void paint_lines(const TracePicture& picture, QPainter& painter, QSize size) {
    paint_ground(painter, size);
    if (picture.lanes.empty()) return;
    paint_beside(picture, painter, size);
    for (std::size_t at = 0; at < picture.lanes.size(); ++at) paint_beneath(picture, painter, size, at);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setBrush(Qt::NoBrush);
    const Scale x = picture.x_scale(size);
    for (std::size_t at = 0; at < picture.lanes.size(); ++at) {
        const PlottedLane& lane = picture.lanes[at];
        if (!lane.message.isEmpty()) continue;
        const QRect area = picture.lane_area(size, at);
        for (const PlottedTrace& it : lane.traces) {
            paint_curve(painter, it, x, picture.y_scale(size, at), to_lane(lane, it.quantity),
                        lane.colours.empty() ? pattern_of(it.quantity) : LinePattern::solid, area);
        }
    }
    paint_over(picture, painter, size);
    paint_notes(picture, painter, size);
}

void paint(const TracePicture& picture, QImage& image, QSize size) {
    if (!lanes_cover_all(picture, size)) {
        QPainter painter(&image);
        paint_ground(painter, size);
        if (picture.lanes.empty()) return;
    }
    const double ratio = image.devicePixelRatio();
    uchar* const bits = image.bits();
    const auto beneath = [&](std::size_t at) {
        // A picture of these rows alone: each thread paints into one of its own.
        const QRect area = picture.lane_area(size, at);
        const int top = qRound(area.top() * ratio),
                  bottom = std::min(image.height(), qRound((area.bottom() + 1) * ratio));
        if (bottom <= top) return;
        QImage rows(bits + top * image.bytesPerLine(), image.width(), bottom - top, image.bytesPerLine(),
                    image.format());
        rows.setDevicePixelRatio(ratio);
        QPainter painter(&rows);
        painter.translate(0, -top / ratio);
        paint_beneath(picture, painter, size, at);
    };
    const auto beside = [&] {
        QPainter painter(&image);
        paint_beside(picture, painter, size);
    };
    draw_lanes(image, drawn_lanes(picture, size, ratio), 0, {beside, beneath});
    QPainter painter(&image);
    paint_over(picture, painter, size);
    if (!picture.notes.empty()) paint_notes(picture, painter, size);
}

}  // namespace rendak::app
