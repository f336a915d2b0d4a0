#include "app/plot/trace_canvas.h"

#include <QAction>
#include <QContextMenuEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

#include "app/plot/ticks.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/laps/cut.h"

namespace rendak::app {
namespace {

constexpr int grab_px = 5;
constexpr double closest_m = 20, closest_s = 2;

}  // namespace

TraceCanvas::TraceCanvas(Focus& focus, Comparison& comparison, QWidget* parent)
    : QWidget(parent), focus_(focus), comparison_(comparison) {
    setAttribute(Qt::WA_OpaquePaintEvent);
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Traces of the picked laps"));
    setMinimumHeight(160);
    connect(&comparison_, &Comparison::changed, this, &TraceCanvas::invalidate);
    connect(&focus_, &Focus::range_changed, this, &TraceCanvas::invalidate_picture);
    // Ranges of another axis are in another unit.
    connect(&focus_, &Focus::axis_changed, this, [this] { earlier_ranges_.clear(); });
    connect(&focus_, &Focus::cursor_changed, this, qOverload<>(&QWidget::update));
}

void TraceCanvas::set_lanes(std::vector<Lane> lanes) {
    lanes_ = std::move(lanes);
    invalidate();
    Q_EMIT lanes_changed();
}

void TraceCanvas::invalidate() {
    values_.clear();
    invalidate_picture();
}

void TraceCanvas::invalidate_picture() {
    // Scales fit the whole lap: another range leaves them alone.
    dirty_ = true;
    update();
}

QRect TraceCanvas::plot_area() const {
    return QRect(label_width, 0, std::max(10, width() - label_width - 6), std::max(10, height() - axis_height));
}

QRect TraceCanvas::lane_area(std::size_t lane) const {
    const QRect plot = plot_area();
    double total = 0, before = 0;
    for (std::size_t i = 0; i < lanes_.size(); ++i) {
        if (i < lane) before += lanes_[i].weight;
        total += lanes_[i].weight;
    }
    const int top = plot.top() + static_cast<int>(std::lround(plot.height() * before / total));
    const int bottom =
        plot.top() + static_cast<int>(std::lround(plot.height() * (before + lanes_[lane].weight) / total));
    return QRect(plot.left(), top, plot.width(), bottom - top);
}

Scale TraceCanvas::x_scale() const {
    const QRect plot = plot_area();
    const Interval range = comparison_.view();
    if (comparison_.laps().empty()) return {range, double(plot.left()), double(plot.right() + 1)};
    return {{comparison_.x_of_view(range.begin), comparison_.x_of_view(range.end)},
            double(plot.left()),
            double(plot.right() + 1)};
}

Interval TraceCanvas::lane_values(std::size_t lane) const {
    // A pass over all samples: done once a change, not once a cursor move.
    values_.resize(lanes_.size());
    if (!values_[lane]) values_[lane] = fitted_values(lane);
    return *values_[lane];
}

Interval TraceCanvas::fitted_values(std::size_t lane) const {
    const Shown how = shown(lanes_[lane].quantity);
    if (how.range) return *how.range;
    Interval all{0, 0};
    bool first = true;
    for (std::size_t slot = 0; slot < comparison_.laps().laps.size(); ++slot) {
        const Trace& trace = comparison_.trace(static_cast<int>(slot), lanes_[lane].quantity);
        if (trace.x.empty()) continue;
        const Interval si = trace.limits();
        Interval own{how.from_si(si.begin), how.from_si(si.end)};
        all = first ? own : Interval{std::min(all.begin, own.begin), std::max(all.end, own.end)};
        first = false;
    }
    if (lanes_[lane].quantity == "gap") all = {std::min(all.begin, -0.02), std::max(all.end, 0.02)};
    return with_margin(all);
}

void TraceCanvas::redraw() {
    const double ratio = devicePixelRatioF();
    const QSize size = (QSizeF(this->size()) * ratio).toSize();
    if (image_.size() != size) image_ = QImage(size, QImage::Format_RGB32);
    image_.setDevicePixelRatio(ratio);
    image_.fill(theme().panel.rgb());
    {
        QPainter painter(&image_);
        painter.fillRect(QRect(0, 0, label_width, height()), theme().paper);
        painter.fillRect(QRect(0, height() - axis_height, width(), axis_height), theme().paper);
        if (!comparison_.laps().empty()) {
            for (std::size_t lane = 0; lane < lanes_.size(); ++lane) draw_lane(painter, lane);
        }
    }
    if (!comparison_.laps().empty()) draw_lanes(image_, drawn_lanes());
    dirty_ = false;
    ++redraws_;
}

std::vector<DrawnLane> TraceCanvas::drawn_lanes() const {
    const double ratio = devicePixelRatioF();
    const Scale x = x_scale();
    std::vector<DrawnLane> out;
    for (std::size_t lane = 0; lane < lanes_.size(); ++lane) {
        const QRect area = lane_area(lane);
        const Shown how = shown(lanes_[lane].quantity);
        DrawnLane drawn;
        drawn.area = QRect(QPointF(area.left() * ratio, (area.top() + 1) * ratio).toPoint(),
                           QSizeF(area.width() * ratio, (area.height() - 2) * ratio).toSize());
        drawn.x = {x.values, x.first * ratio, x.last * ratio};
        drawn.y = {lane_values(lane), (area.bottom() - 1) * ratio, (area.top() + 2) * ratio};
        drawn.width_px = lap_trace_width_px * ratio;
        // The baseline is drawn last, on top; in the gap lane it is the zero line.
        for (std::size_t k = comparison_.laps().laps.size(); k-- > 0;) {
            if (lanes_[lane].quantity == "gap" && k == 0) continue;
            drawn.traces.push_back({&comparison_.trace(static_cast<int>(k), lanes_[lane].quantity),
                                    theme().lap(static_cast<int>(k)).rgb(), 1 / how.factor, -how.offset / how.factor});
        }
        out.push_back(std::move(drawn));
    }
    return out;
}

void TraceCanvas::draw_lane(QPainter& painter, std::size_t lane) const {
    const Theme& t = theme();
    const QRect area = lane_area(lane);
    const Shown how = shown(lanes_[lane].quantity);
    const Scale y{lane_values(lane), double(area.bottom() - 1), double(area.top() + 2)};
    const bool logged = std::any_of(
        comparison_.laps().laps.begin(), comparison_.laps().laps.end(),
        [&, slot = 0](const auto&) mutable { return !comparison_.trace(slot++, lanes_[lane].quantity).x.empty(); });

    painter.setPen(t.rule);
    painter.drawLine(0, area.bottom(), width(), area.bottom());
    painter.setFont(body_font(true));
    painter.setPen(t.ink);
    // Long names take a second line; the right third belongs to the scale.
    const int text_width = label_width - 48;
    const QRect needed = painter.fontMetrics().boundingRect(QRect(0, 0, text_width, 40), Qt::TextWordWrap, how.label);
    const int label_height = std::min(needed.height(), 28);
    painter.drawText(QRect(8, area.top() + 4, text_width, label_height),
                     Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, how.label);
    painter.setFont(small_font());
    painter.setPen(t.mute);
    int text_y = area.top() + 5 + label_height;
    if (!how.unit.isEmpty()) {
        painter.drawText(QRect(8, text_y, 40, 13), Qt::AlignLeft | Qt::AlignVCenter, how.unit);
        text_y += 14;
    }
    if (!how.up.isEmpty() && area.bottom() - text_y > 12 && lanes_[lane].quantity != "gap") {
        painter.drawText(QRect(8, text_y, text_width + 8, std::min(28, area.bottom() - text_y)),
                         Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, tr("up = %1").arg(how.up));
    }
    if (!logged) {
        const QString why = comparison_.why_not(lanes_[lane].quantity);
        painter.drawText(area.adjusted(16, 0, -16, 0), Qt::AlignCenter | Qt::TextWordWrap,
                         comparison_.was_cancelled(lanes_[lane].quantity)
                             ? tr("%1 was cancelled; another choice of laps begins it anew").arg(how.label)
                         : !comparison_.ready(lanes_[lane].quantity) ? tr("Computing %1 …").arg(how.label)
                         : why.isEmpty() ? tr("%1 is not logged in these runs").arg(how.label)
                                         : why);
        return;
    }

    const Ticks ticks = ticks_for(y.values, std::max(2, area.height() / 26));
    const int decimals = how.decimals == 0 ? 0 : ticks.decimals;
    for (const double value : ticks.values) {
        const int py = static_cast<int>(std::lround(y.to_pixel(value)));
        const bool zero = value == 0 && y.values.begin < 0;
        painter.setPen(zero ? t.rule.darker(115) : t.grid);
        painter.drawLine(area.left(), py, area.right(), py);
        const int text_top = std::clamp(py - 7, area.top(), area.bottom() - 13);
        painter.setPen(t.mute);
        const QString text = lanes_[lane].quantity == "gap"
                                 ? signed_number(value, std::max(1, decimals))
                                 : QString::number(value, 'f', decimals).replace(u'-', QChar(0x2212));
        painter.drawText(QRect(area.left() - 44, text_top, 39, 14), Qt::AlignRight | Qt::AlignVCenter, text);
    }

    const Scale x = x_scale();
    const Ticks places = ticks_for(x.values, std::max(2, area.width() / 90));
    painter.setPen(t.grid);
    for (const double value : places.values) {
        const int px = static_cast<int>(std::lround(x.to_pixel(value)));
        painter.drawLine(px, area.top(), px, area.bottom());
    }
    if (comparison_.axis() == Axis::run) draw_lap_lines(painter, lane, x);
    if (lanes_[lane].quantity == "gap" && comparison_.laps().laps.size() > 1) {
        draw_trust_band(painter, area, x, y);
        // The area under the active lap's gap: lost time in one tone, won time in another, each with its word.
        const int slot = std::max(1, focus_.state().active_slot);
        const Trace& gap =
            comparison_.trace(std::min(slot, static_cast<int>(comparison_.laps().laps.size()) - 1), "gap");
        const double zero = y.to_pixel(0);
        QPolygonF behind, ahead;
        // Beyond the lap there is no gap.
        const int gap_begin = std::max(area.left(), static_cast<int>(x.to_pixel(gap.x.front()))),
                  gap_end = std::min(area.right(), static_cast<int>(x.to_pixel(gap.x.back())));
        for (int px = gap_begin; px <= gap_end; px += 2) {
            const std::size_t at = std::min(gap.first_at(x.to_value(px + 0.5)), gap.y.size() - 1);
            const double py = y.to_pixel(gap.y[at]);
            behind << QPointF(px, std::min(py, zero));
            ahead << QPointF(px, std::max(py, zero));
        }
        for (auto& [polygon, tone] : {std::pair{&behind, t.lost}, std::pair{&ahead, t.won}}) {
            *polygon << QPointF(gap_end, zero) << QPointF(gap_begin, zero);
            QColor veil = tone;
            veil.setAlphaF(0.16F);
            painter.setPen(Qt::NoPen);
            painter.setBrush(veil);
            painter.drawPolygon(*polygon);
        }
        painter.setPen(theme().lap(0));
        painter.drawLine(QPointF(area.left(), zero), QPointF(area.right(), zero));
        painter.setFont(small_font());
        painter.setPen(t.lost);
        // Off the zero line, wherever that lies.
        const int words_y = zero < area.top() + 18 ? area.bottom() - 16 : area.top() + 3;
        painter.drawText(QRect(area.left() + 6, words_y, 200, 13), Qt::AlignLeft, tr("up = slower than A"));
    }

    if (lane + 1 == lanes_.size()) {
        const QRect axis(0, height() - axis_height, width(), axis_height);
        painter.setFont(small_font());
        painter.setPen(t.mute);
        for (const double value : places.values) {
            const int px = static_cast<int>(std::lround(x.to_pixel(value)));
            painter.drawText(QRect(px - 40, axis.top() + 4, 80, 14), Qt::AlignHCenter | Qt::AlignVCenter,
                             QString::number(value, 'f', places.decimals).replace(u'-', QChar(0x2212)));
        }
        painter.fillRect(QRect(0, axis.top() + 1, label_width - 4, axis.height()), t.paper);
        painter.setFont(body_font(true));
        painter.setPen(t.ink);
        const bool distance = focus_.state().axis == Axis::distance;
        const bool open = comparison_.laps().track().open;
        painter.drawText(QRect(8, axis.top() + 3, label_width - 10, 16), Qt::AlignLeft | Qt::AlignVCenter,
                         distance ? (open ? tr("m from launch") : tr("m from line"))
                                  : (open ? tr("s from launch") : tr("s from line")));
    }
}

void TraceCanvas::draw_lap_lines(QPainter& painter, std::size_t lane, const Scale& x) const {
    // Where the laps of A's run begin, with their numbers in the first lane.
    const QRect area = lane_area(lane);
    const ComparedLap& a = comparison_.laps().baseline();
    painter.setFont(small_font());
    for (const Lap& lap : a.run->laps) {
        const double px = x.to_pixel(lap.start_s - a.lap.map.start_s());
        if (px < area.left() || px > area.right()) continue;
        painter.setPen(QPen(theme().mute, 1, Qt::DashLine));
        painter.drawLine(QPointF(px, area.top()), QPointF(px, area.bottom()));
        if (lane > 0) continue;
        painter.drawText(QRectF(px + 3, area.top() + 16, 60, 13), Qt::AlignLeft, tr("lap %1").arg(lap.number));
    }
}

void TraceCanvas::draw_trust_band(QPainter& painter, const QRect& area, const Scale& x, const Scale& y) const {
    // Where places are poor the gap could as well be anywhere in this band: expected error of both laps over the speed.
    const auto& laps = comparison_.laps().laps;
    const int slot = std::clamp(focus_.state().active_slot, 1, static_cast<int>(laps.size()) - 1);
    const PreparedLap &a = laps.front().lap, &b = laps[static_cast<std::size_t>(slot)].lap;
    const double error_m = std::hypot(a.trust_m, b.trust_m);
    if (std::max(a.trust_m, b.trust_m) <= poor_trust_m || comparison_.axis() == Axis::run) return;
    const Trace& gap = comparison_.trace(slot, "gap");
    QPolygonF upper, lower;
    for (int px = area.left(); px <= area.right(); px += 4) {
        const double at = comparison_.view_of_x(x.to_value(px));
        const std::size_t i = std::min(gap.first_at(x.to_value(px)), gap.y.size() - 1);
        const double speed = a.value_at("speed", at);
        const double error_s = error_m / std::max(5.0, std::isfinite(speed) ? speed : 30.0);
        upper << QPointF(px, std::clamp(y.to_pixel(gap.y[i] + error_s), double(area.top()), double(area.bottom())));
        lower << QPointF(px, std::clamp(y.to_pixel(gap.y[i] - error_s), double(area.top()), double(area.bottom())));
    }
    std::reverse(lower.begin(), lower.end());
    painter.setPen(Qt::NoPen);
    painter.setBrush(QBrush(theme().mute, Qt::Dense6Pattern));
    painter.drawPolygon(upper + lower);
    painter.setFont(small_font());
    painter.setPen(theme().mute);
    painter.drawText(QRect(area.left() + 120, area.top() + 3, 300, 13), Qt::AlignLeft,
                     tr("dotted: places good to %1 m only").arg(error_m, 0, 'f', 1));
}

void TraceCanvas::draw_cursor(QPainter& painter) const {
    const Theme& t = theme();
    const QRect plot = plot_area();
    const Scale x = x_scale();
    const double place = comparison_.x_of_view(comparison_.cursor_in_view());
    const double px = x.to_pixel(place);
    if (px < plot.left() - 1 || px > plot.right() + 1) return;
    painter.fillRect(QRectF(std::round(px) - 1, plot.top(), 2, plot.height()), t.accent);
    painter.setRenderHint(QPainter::Antialiasing);
    for (std::size_t lane = 0; lane < lanes_.size(); ++lane) {
        const QRect area = lane_area(lane);
        const Shown how = shown(lanes_[lane].quantity);
        const Scale y{lane_values(lane), double(area.bottom() - 1), double(area.top() + 2)};
        for (std::size_t slot = comparison_.laps().laps.size(); slot-- > 0;) {
            const double value = comparison_.value_at_cursor(static_cast<int>(slot), lanes_[lane].quantity);
            if (!std::isfinite(value)) continue;
            painter.setPen(QPen(t.panel, 1));
            painter.setBrush(t.lap(static_cast<int>(slot)));
            painter.drawEllipse(QPointF(px, y.to_pixel(how.from_si(value))), 3.2, 3.2);
        }
    }
    const QString text = focus_.state().axis == Axis::distance
                             ? with_unit(QString::number(place, 'f', 1), QStringLiteral("m"))
                             : with_unit(QString::number(place, 'f', 3), QStringLiteral("s"));
    const double left = std::clamp(px - 40, double(plot.left()), double(plot.right() - 80));
    painter.setPen(Qt::NoPen);
    painter.setBrush(t.accent);
    painter.drawRoundedRect(QRectF(left, height() - axis_height + 3, 80, 17), 4, 4);
    painter.setPen(t.on_accent);
    painter.setFont(body_font(true));
    painter.drawText(QRectF(left, height() - axis_height + 3, 80, 17), Qt::AlignCenter, text);
}

void TraceCanvas::paintEvent(QPaintEvent*) {
    if (dirty_ || image_.size() != (QSizeF(size()) * devicePixelRatioF()).toSize()) redraw();
    QPainter painter(this);
    painter.drawImage(0, 0, image_);
    if (comparison_.laps().empty()) return;
    draw_cursor(painter);
    if (drag_ == Drag::range && std::abs(drag_to_.x() - press_.x()) > grab_px) {
        QColor tone = theme().accent;
        tone.setAlphaF(0.18F);
        const QRect plot = plot_area();
        painter.fillRect(QRect(QPoint(std::min(press_.x(), drag_to_.x()), plot.top()),
                               QPoint(std::max(press_.x(), drag_to_.x()), plot.bottom())),
                         tone);
    }
}

void TraceCanvas::resizeEvent(QResizeEvent*) {
    invalidate_picture();
}

double TraceCanvas::distance_at(double pixel) const {
    return comparison_.view_of_x(x_scale().to_value(pixel));
}

int TraceCanvas::separator_at(QPoint at) const {
    for (std::size_t lane = 0; lane + 1 < lanes_.size(); ++lane) {
        if (std::abs(at.y() - lane_area(lane).bottom()) <= 3) return static_cast<int>(lane);
    }
    return -1;
}

void TraceCanvas::mousePressEvent(QMouseEvent* event) {
    if (comparison_.laps().empty()) return;
    setFocus();
    press_ = drag_to_ = event->position().toPoint();
    range_at_press_ = comparison_.view();
    const double cursor_px = x_scale().to_pixel(comparison_.x_of_view(comparison_.cursor_in_view()));
    separator_ = separator_at(press_);
    if (event->button() == Qt::MiddleButton ||
        (event->button() == Qt::LeftButton && event->modifiers().testFlag(Qt::ShiftModifier))) {
        drag_ = Drag::pan;
    } else if (event->button() != Qt::LeftButton) {
        return;
    } else if (separator_ >= 0) {
        drag_ = Drag::separator;
    } else if (std::abs(press_.x() - cursor_px) <= grab_px || press_.y() > plot_area().bottom()) {
        drag_ = Drag::cursor;
    } else {
        drag_ = Drag::range;
    }
}

void TraceCanvas::mouseMoveEvent(QMouseEvent* event) {
    const QPoint at = event->position().toPoint();
    switch (drag_) {
        case Drag::none: {
            const bool on_cursor =
                !comparison_.laps().empty() &&
                std::abs(at.x() - x_scale().to_pixel(comparison_.x_of_view(comparison_.cursor_in_view()))) <= grab_px;
            setCursor(separator_at(at) >= 0 ? Qt::SplitVCursor : on_cursor ? Qt::SizeHorCursor : Qt::ArrowCursor);
            return;
        }
        case Drag::cursor:
            comparison_.set_cursor_in_view(comparison_.view().clamp(distance_at(at.x())));
            return;
        case Drag::range:
            drag_to_ = at;
            update();
            return;
        case Drag::pan: {
            const double metres = range_at_press_.length() * (press_.x() - at.x()) / plot_area().width();
            comparison_.set_view({range_at_press_.begin + metres, range_at_press_.end + metres});
            return;
        }
        case Drag::separator: {
            auto& above = lanes_[static_cast<std::size_t>(separator_)];
            auto& below = lanes_[static_cast<std::size_t>(separator_) + 1];
            const QRect a = lane_area(static_cast<std::size_t>(separator_)),
                        b = lane_area(static_cast<std::size_t>(separator_) + 1);
            const double both = above.weight + below.weight;
            const double share = std::clamp(double(at.y() - a.top()) / (b.bottom() - a.top()), 0.12, 0.88);
            above.weight = both * share;
            below.weight = both - above.weight;
            invalidate();
            return;
        }
    }
}

void TraceCanvas::mouseReleaseEvent(QMouseEvent* event) {
    const Drag drag = std::exchange(drag_, Drag::none);
    const QPoint at = event->position().toPoint();
    if (drag == Drag::range) {
        if (std::abs(at.x() - press_.x()) > grab_px) {
            const double a = distance_at(std::min(at.x(), press_.x())), b = distance_at(std::max(at.x(), press_.x()));
            commit_range({a, b});
        } else {
            comparison_.set_cursor_in_view(comparison_.view().clamp(distance_at(at.x())));
        }
    } else if (drag == Drag::separator) {
        Q_EMIT lanes_changed();
    } else if (drag == Drag::cursor && press_ == at) {
        comparison_.set_cursor_in_view(comparison_.view().clamp(distance_at(at.x())));
    }
    update();
}

void TraceCanvas::mouseDoubleClickEvent(QMouseEvent*) {
    show_whole_lap();
}

void TraceCanvas::wheelEvent(QWheelEvent* event) {
    if (comparison_.laps().empty()) return;
    const double steps = event->angleDelta().y() / 120.0 + event->angleDelta().x() / 120.0;
    if (event->modifiers().testFlag(Qt::ShiftModifier))
        pan(-0.1 * steps);
    else
        zoom(distance_at(event->position().x()), std::pow(0.8, steps));
    event->accept();
}

void TraceCanvas::contextMenuEvent(QContextMenuEvent* event) {
    if (event->pos().x() > label_width) return;
    for (std::size_t lane = 0; lane < lanes_.size(); ++lane) {
        const QRect area = lane_area(lane);
        if (event->pos().y() < area.top() || event->pos().y() > area.bottom()) continue;
        const std::string quantity = lanes_[lane].quantity;
        QMenu menu(this);
        QAction* remove = menu.addAction(tr("Remove this lane"));
        remove->setEnabled(lanes_.size() > 1);
        QAction* flip = nullptr;
        if (!shown(quantity).up.isEmpty() && quantity != "gap") {
            flip = menu.addAction(
                tr("Turn the sign round for run %1")
                    .arg(comparison_.laps().laps.empty()
                             ? QString()
                             : QString::fromStdString(comparison_.laps()
                                                          .laps[static_cast<std::size_t>(focus_.state().active_slot)]
                                                          .run->row.name)));
        }
        const QAction* chosen = menu.exec(event->globalPos());
        if (chosen == nullptr) return;
        if (chosen == remove) {
            auto rest = lanes_;
            rest.erase(rest.begin() + static_cast<std::ptrdiff_t>(lane));
            set_lanes(std::move(rest));
        } else if (chosen == flip) {
            Q_EMIT flip_sign_asked(quantity);
        }
        return;
    }
}

void TraceCanvas::remember_view() {
    earlier_ranges_.push_back(comparison_.view());
    if (earlier_ranges_.size() > 50) earlier_ranges_.erase(earlier_ranges_.begin());
}

void TraceCanvas::commit_range(Interval range) {
    const double closest = comparison_.axis() == Axis::run ? closest_s : closest_m;
    if (range.length() < closest) {
        const double middle = 0.5 * (range.begin + range.end);
        range = {middle - closest / 2, middle + closest / 2};
    }
    remember_view();
    comparison_.set_view(range);
}

void TraceCanvas::zoom(double about, double factor) {
    if (comparison_.laps().empty()) return;
    const Interval now = comparison_.view();
    const double closest = comparison_.axis() == Axis::run ? closest_s : closest_m;
    const double length = std::clamp(now.length() * factor, closest, comparison_.view_limits().length());
    const double share = (about - now.begin) / now.length();
    comparison_.set_view({about - share * length, about + (1 - share) * length});
}

void TraceCanvas::pan(double share) {
    if (comparison_.laps().empty()) return;
    const Interval now = comparison_.view();
    const double by = share * now.length();
    comparison_.set_view({now.begin + by, now.end + by});
}

void TraceCanvas::show_whole_lap() {
    if (comparison_.laps().empty()) return;
    remember_view();
    comparison_.set_view(comparison_.view_limits());
}

void TraceCanvas::zoom_back() {
    if (earlier_ranges_.empty()) return show_whole_lap();
    const Interval range = earlier_ranges_.back();
    earlier_ranges_.pop_back();
    comparison_.set_view(range);
}

}  // namespace rendak::app
