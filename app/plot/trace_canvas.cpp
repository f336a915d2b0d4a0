#include "app/plot/trace_canvas.h"

#include <QAction>
#include <QContextMenuEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/plot/focus_axis.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/analysis/gap_stretches.h"
#include "core/laps/cut.h"
#include "core/laps/trace_table.h"

namespace rendak::app {

TraceCanvas::TraceCanvas(Focus& focus, Comparison& comparison, QWidget* parent)
    : PlotFrame(std::make_unique<FocusAxis>(focus, comparison), parent), focus_(focus), comparison_(comparison) {
    setAccessibleName(tr("Traces of the picked laps"));
    setMinimumHeight(160);
    setAcceptDrops(true);
    connect(&comparison_, &Comparison::changed, this, &TraceCanvas::forget_picture);
    connect(&focus_, &Focus::slid_changed, this, &TraceCanvas::forget_picture);
}

void TraceCanvas::set_lanes(std::vector<Lane> lanes) {
    lanes_ = std::move(lanes);
    if (only_ && *only_ >= lanes_.size()) only_.reset();
    at_hand_ = std::min(at_hand_, lanes_.empty() ? 0 : lanes_.size() - 1);
    comparison_.want(this, quantities_of(lanes_));
    forget_picture();
    Q_EMIT lanes_changed();
}

void TraceCanvas::forget_picture() {
    picture_.reset();
    invalidate();
}

const TracePicture& TraceCanvas::picture() const {
    if (!picture_) {
        picture_.emplace();
        for (const Lane& lane : shown_lanes()) picture_->lanes.push_back(plotted(lane));
        if (!only_) {
            for (const auto& [lane, words] : missing_) {
                const auto at = static_cast<std::size_t>(std::max(0, lane));
                if (at < picture_->lanes.size())
                    (lane < 0 ? picture_->lanes[at].above : picture_->lanes[at].below) = words;
            }
        }
        if (!comparison_.laps().empty()) {
            const bool on_track = comparison_.laps().on_track();
            const bool open = on_track && comparison_.laps().track().open;
            picture_->x_caption = comparison_.axis() == Axis::distance
                                      ? (open ? tr("%1 from launch") : tr("%1 from line")).arg(distance_shown().unit)
                                  : !on_track ? tr("s from A's start")
                                              : (open ? tr("s from launch") : tr("s from line"));
            if (comparison_.axis() == Axis::distance) picture_->x_unit = distance_shown().factor;
            for (int slot = 0; slot < static_cast<int>(comparison_.laps().laps.size()); ++slot) {
                if (comparison_.slid_m(slot) == 0) continue;
                picture_->remarks << slot_letter(slot) + u' ' + comparison_.slid_words(slot);
                picture_->remark_colours.push_back(theme().lap(slot));
            }
            add_notes(*picture_);
            if (comparison_.axis() == Axis::run) {
                // Where the laps of A's run begin.
                const ComparedLap& a = comparison_.laps().baseline();
                for (const Lap& lap : a.run->laps)
                    picture_->marks.push_back({lap.start_s - a.lap.map.start_s(), tr("lap %1").arg(lap.number)});
                for (const Stop& stop : a.stops)
                    picture_->marks.push_back(
                        {stop.standing_s.end - a.lap.map.start_s(),
                         stop.is_start ? tr("start") : tr("stop %1 s").arg(stop.standing_s.length(), 0, 'f', 1)});
            }
        }
    }
    // Scales that fit the whole lap are left alone by another view.
    const Interval view = x_scale().values;
    if (!(picture_->x == view)) {
        const std::vector<Lane> lanes = shown_lanes();
        for (std::size_t i = 0; i < lanes.size(); ++i) {
            const bool from_here = lanes[i].quantity == "gap" && counts_gap_from_view();
            if (from_here) count_gap_from_view(picture_->lanes[i]);
            if (lanes[i].scale == LaneScale::view || from_here)
                picture_->lanes[i].values = values_of(lanes[i], picture_->lanes[i], view);
        }
    }
    picture_->x = view;
    return *picture_;
}

/// The gap of each lap as if the lap began where the view does.
void TraceCanvas::count_gap_from_view(PlottedLane& lane) const {
    const auto& laps = comparison_.laps().laps;
    const double begin = comparison_.view().begin;
    for (PlottedTrace& it : lane.traces)
        it.minus = laps[static_cast<std::size_t>(it.slot)].gap.at(
            comparison_.distance_of(it.slot, comparison_.x_of(0, begin)) + comparison_.slid_m(it.slot));
    if (lane.veil != nullptr)
        lane.veil_minus = laps[static_cast<std::size_t>(std::max(1, comparison_.active_slot()))].gap.at(begin);
}

void TraceCanvas::count_gap_from_view(bool on) {
    gap_from_view_ = on;
    forget_picture();
}

/// What was written onto the traces of these laps, wherever their lap and their channel are on screen.
void TraceCanvas::add_notes(TracePicture& picture) const {
    const std::vector<Lane> lanes = shown_lanes();
    const auto& laps = comparison_.laps().laps;
    for (std::size_t k = 0; k < laps.size(); ++k) {
        const int slot = static_cast<int>(k);
        const LapMap& map = laps[k].lap.map;
        for (const PictureNote& note : laps[k].run->picture_notes) {
            const bool everything = comparison_.axis() == Axis::run;
            if (!everything && (note.at_s < map.start_s() || note.at_s > map.end_s())) continue;
            for (std::size_t at = 0; at < lanes.size(); ++at) {
                const auto ids = lanes[at].quantities();
                const auto found = std::find(ids.begin(), ids.end(), note.quantity);
                if (found == ids.end()) continue;
                const double place = map.distance_at(note.at_s);
                const double x = everything ? note.at_s - map.start_s() : comparison_.x_of(slot, place);
                double value = std::nan("");
                if (note.quantity == "gap")
                    value = laps[k].gap.at(place);
                else if (note.quantity == "line_offset")
                    value = laps[k].offset.at(place);
                else if (const Channel* channel =
                             comparison_.ready(note.quantity) ? laps[k].lap.recording->find(note.quantity) : nullptr)
                    value = channel->value_at(note.at_s);
                picture.notes.push_back({at, static_cast<std::size_t>(found - ids.begin()), slot, x, value,
                                         QString::fromStdString(note.text), theme().lap(slot)});
            }
        }
    }
}

std::vector<Lane> TraceCanvas::shown_lanes() const {
    return only_ && *only_ < lanes_.size() ? std::vector<Lane>{lanes_[*only_]} : lanes_;
}

PlottedLane TraceCanvas::plotted(const Lane& lane) const {
    const std::string& quantity = lane.quantity;
    const bool is_gap = is_between_laps(quantity);
    PlottedLane out;
    out.weight = lane.weight;
    out.how = shown(quantity);
    out.is_signed = is_gap;
    for (const std::string& other : lane.more) {
        PlottedQuantity more{shown(other)};
        more.shares = more.how.unit == out.how.unit && !more.how.range == !out.how.range;
        out.more.push_back(std::move(more));
    }
    const std::vector<std::string> quantities = lane.quantities();
    std::size_t before = 0;  // colours go on from lane to lane
    for (const Lane& above : lanes_) {
        if (&above == &lane || above == lane) break;
        before += 1 + above.more.size();
    }
    const int laps = static_cast<int>(comparison_.laps().laps.size());
    if (by_channel_ && laps == 1) {
        for (std::size_t q = 0; q < quantities.size(); ++q)
            out.colours.push_back(channel_colour(quantities[q]).value_or(colour_of(0, q, before)));
    }
    bool any = false;
    // The baseline is drawn last, on top; in the gap lane it is the zero line.
    for (int slot = laps - 1; slot >= 0; --slot) {
        for (std::size_t q = quantities.size(); q-- > 0;) {
            const Trace& trace = comparison_.trace(slot, quantities[q]);
            any = any || !trace.empty();
            const QColor colour = q < out.colours.size() ? out.colours[q] : colour_of(slot, q, before);
            if (!is_gap || slot > 0)
                out.traces.push_back({&trace, colour, q, slot, 0, is_gap ? 0 : comparison_.slid_m(slot)});
        }
    }
    if (quantity == "gap" && any) add_gap(out);
    if (quantity == "line_offset" && any) add_offset_band(out);
    for (std::size_t q = 1; q < quantities.size(); ++q) {
        if (!out.more[q - 1].shares) out.more[q - 1].values = fitted_values(out, q);
    }
    out.values = values_of(lane, out, x_scale().values);
    out.scale_word = lane.scale == LaneScale::view    ? tr("fits the view")
                     : lane.scale == LaneScale::fixed ? tr("fixed")
                     : lane.scale == LaneScale::hand  ? tr("by hand")
                     : out.how.range                  ? tr("usual scale")
                                                      : tr("fits the lap");
    if (any || comparison_.laps().empty()) return out;
    const QString why = comparison_.why_not(quantity);
    if (is_gap && !comparison_.laps().on_track()) {
        out.message = tr("There is no gap over time: it needs laps from line to line of one track");
        return out;
    }
    out.message = comparison_.was_cancelled(quantity)
                      ? tr("%1 was cancelled; another choice of laps begins it anew").arg(out.how.label)
                  : comparison_.busy() || !comparison_.ready(quantity) ? tr("Computing %1 …").arg(out.how.label)
                  : why.isEmpty() ? tr("%1 is not logged in these runs").arg(out.how.label)
                                  : why;
    return out;
}

/// The pin, and what lies between it and the cursor.
void TraceCanvas::draw_pin(QPainter& painter, double cursor_px) {
    const auto pin = comparison_.pin_in_view();
    if (!pin) return;
    const QRect plot = plot_area();
    const double px = x_scale().to_pixel(comparison_.x_of_view(*pin));
    const double inside = std::clamp(px, double(plot.left()), double(plot.right()));
    QColor tone = theme().accent;
    tone.setAlphaF(0.07F);
    painter.fillRect(
        QRectF(QPointF(std::min(inside, cursor_px), plot.top()), QPointF(std::max(inside, cursor_px), plot.bottom())),
        tone);
    if (px < plot.left() || px > plot.right()) return;
    painter.setPen(QPen(theme().accent, 1.5, Qt::DashLine));
    painter.drawLine(QPointF(px, plot.top()), QPointF(px, plot.bottom()));
    painter.setFont(small_font(true));
    painter.drawText(QRectF(px + 3, plot.top() + 18, 40, 13), Qt::AlignLeft | Qt::AlignVCenter, tr("pin"));
}

/// Marks of what A and the active lap do, at the edge of the axis: a click goes there.
void TraceCanvas::draw_moments(QPainter& painter) {
    const ComparedLaps& laps = comparison_.laps();
    if (!laps.on_track() || comparison_.axis() == Axis::run) return;
    const QRect plot = plot_area();
    painter.setPen(Qt::NoPen);
    for (const Moment& it : moments_in_view()) {
        painter.setBrush(theme().lap(it.slot));
        painter.drawPolygon(QPolygonF() << QPointF(it.pixel, plot.bottom() + 1)
                                        << QPointF(it.pixel - 3, plot.bottom() + 6)
                                        << QPointF(it.pixel + 3, plot.bottom() + 6));
    }
}

std::vector<TraceCanvas::Moment> TraceCanvas::moments_in_view() const {
    std::vector<Moment> out;
    const ComparedLaps& laps = comparison_.laps();
    if (!laps.on_track() || comparison_.axis() == Axis::run) return out;
    const QRect plot = plot_area();
    const int active = comparison_.active_slot();
    for (const int slot : active == 0 ? std::vector<int>{0} : std::vector<int>{0, active}) {
        for (const LapEvent& event : laps.laps[static_cast<std::size_t>(slot)].moments) {
            const double px = x_scale().to_pixel(comparison_.x_of(slot, event.place_m));
            if (px >= plot.left() && px <= plot.right()) out.push_back({slot, event, px});
        }
    }
    // Closer than this they cannot be told apart: zooming brings them.
    if (static_cast<int>(out.size()) * 9 > plot.width()) out.clear();
    return out;
}

QColor TraceCanvas::colour_of(int slot, std::size_t quantity, std::size_t before) const {
    const bool alone = comparison_.laps().laps.size() == 1;
    return by_channel_ && alone ? theme().channel(before + quantity) : theme().lap(slot);
}

Interval TraceCanvas::values_of(const Lane& lane, const PlottedLane& plotted, Interval view) const {
    const auto in_unit = [&](Interval si) {
        return Interval{plotted.how.from_si(si.begin), plotted.how.from_si(si.end)};
    };
    switch (lane.scale) {
        case LaneScale::lap:
            if (lane.quantity == "gap" && counts_gap_from_view()) return fitted_values(plotted, 0, view);
            break;
        case LaneScale::view:
            return fitted_values(plotted, 0, view);
        case LaneScale::fixed:
            if (const auto kept = fixed_scale(lane.quantity)) return in_unit(*kept);
            break;
        case LaneScale::hand:
            if (lane.by_hand && lane.by_hand->length() > 0) return in_unit(*lane.by_hand);
            break;
    }
    return fitted_values(plotted);
}

void TraceCanvas::add_gap(PlottedLane& lane) const {
    const auto& laps = comparison_.laps().laps;
    if (laps.size() < 2) return;
    const int slot = std::max(1, comparison_.active_slot());
    lane.veil = &comparison_.trace(slot, "gap");
    lane.veil_text =
        counts_gap_from_view() ? tr("up = slower than A, from the left edge on") : tr("up = slower than A");
    // Where places are poor the gap could as well be anywhere in a band: expected error of both laps over the speed.
    const PreparedLap &a = laps.front().lap, &b = laps[static_cast<std::size_t>(slot)].lap;
    if (std::max(a.trust_m, b.trust_m) <= poor_trust_m || comparison_.axis() == Axis::run) return;
    const double error_m = std::hypot(a.trust_m, b.trust_m);
    trust_ = {};
    const std::size_t stride = std::max<std::size_t>(1, lane.veil->x.size() / 1000);
    for (std::size_t i = 0; i < lane.veil->x.size(); i += stride) {
        trust_.x.push_back(lane.veil->x[i]);
        trust_.y.push_back(static_cast<float>(gap_error_s(a, b, comparison_.view_of_x(lane.veil->x[i]))));
    }
    lane.band = &trust_;
    lane.band_text = tr("dotted: places good to %1 only").arg(distance_text(error_m, 1));
}

/// Dotted where the lines are closer to each other than their positions can tell.
void TraceCanvas::add_offset_band(PlottedLane& lane) const {
    const auto& laps = comparison_.laps().laps;
    if (laps.size() < 2) return;
    const int slot = std::max(1, comparison_.active_slot());
    lane.veil = &comparison_.trace(slot, "line_offset");
    lane.veil_text = tr("up = left of A");
    lane.veil_is_loss = false;
    const double error_m = laps[static_cast<std::size_t>(slot)].offset.error_m;
    if (!(error_m > 0) || comparison_.axis() == Axis::run) return;
    offset_trust_ = {};
    for (std::size_t i = 0; i < lane.veil->x.size(); ++i) {
        offset_trust_.x.push_back(lane.veil->x[i]);
        const bool told = std::abs(lane.veil->y[i]) > error_m;
        offset_trust_.y.push_back(told ? 0.0F : static_cast<float>(error_m));
    }
    lane.band = &offset_trust_;
    lane.band_text = tr("dotted: less apart than positions can tell (± %1)").arg(distance_text(error_m, 1));
}

void TraceCanvas::set_missing(std::map<int, QString> words) {
    if (words == missing_) return;
    missing_ = std::move(words);
    forget_picture();
}

void TraceCanvas::draw_picture(QImage& image) {
    if (comparison_.laps().empty())
        paint(TracePicture{}, image, size());
    else
        paint(picture(), image, size());
}

void TraceCanvas::draw_cursor(QPainter& painter) {
    const Theme& t = theme();
    const TracePicture& shown_now = picture();
    const QRect plot = plot_area();
    const double place = comparison_.x_of_view(comparison_.cursor_in_view());
    const double px = x_scale().to_pixel(place);
    if (px < plot.left() - 1 || px > plot.right() + 1) {
        draw_pin(painter, std::clamp(px, double(plot.left()), double(plot.right())));
        return draw_target(painter);
    }
    draw_pin(painter, px);
    painter.fillRect(QRectF(std::round(px) - 1, plot.top(), 2, plot.height()), t.accent);
    painter.setRenderHint(QPainter::Antialiasing);
    const std::vector<Lane> lanes = shown_lanes();
    for (std::size_t lane = 0; lane < lanes.size(); ++lane) {
        const Scale y = shown_now.y_scale(size(), lane);
        const std::vector<std::string> quantities = lanes[lane].quantities();
        const PlottedLane& plotted_lane = shown_now.lanes[lane];
        for (std::size_t slot = comparison_.laps().laps.size(); slot-- > 0;) {
            for (std::size_t q = 0; q < quantities.size(); ++q) {
                double value = comparison_.value_at_cursor(static_cast<int>(slot), quantities[q]);
                if (!std::isfinite(value)) continue;
                value -= taken_off(plotted_lane, static_cast<int>(slot), q);
                painter.setPen(QPen(t.panel, 1));
                painter.setBrush(q < plotted_lane.colours.size() ? plotted_lane.colours[q]
                                                                 : t.lap(static_cast<int>(slot)));
                painter.drawEllipse(QPointF(px, y.to_pixel(to_lane(plotted_lane, q)(value))), 3.2, 3.2);
            }
        }
    }
    draw_moments(painter);
    draw_target(painter);
    const QString text = comparison_.axis() == Axis::distance
                             ? distance_text(place, 1)
                             : with_unit(QString::number(place, 'f', 3), QStringLiteral("s"));
    const double left = std::clamp(px - 40, double(plot.left()), double(plot.right() - 80));
    painter.setPen(Qt::NoPen);
    painter.setBrush(t.accent);
    painter.drawRoundedRect(QRectF(left, height() - axis_height + 3, 80, 17), 4, 4);
    painter.setPen(t.on_accent);
    painter.setFont(body_font(true));
    painter.drawText(QRectF(left, height() - axis_height + 3, 80, 17), Qt::AlignCenter, text);
}

ViewOut TraceCanvas::out(const QString& name) {
    constexpr int head_px = 24;
    const auto paint = [this](QPainter& painter, QSize size) {
        const QSize plot(size.width(), size.height() - head_px);
        painter.fillRect(QRect(0, 0, size.width(), head_px), theme().paper);
        int x = 8;
        const ComparedLaps& laps = comparison_.laps();
        for (std::size_t k = 0; k < laps.laps.size(); ++k) {
            const int slot = static_cast<int>(k);
            const RunRow& run = laps.laps[k].run->row;
            painter.fillRect(QRect(x, 5, 14, 14), theme().lap(slot));
            painter.setFont(small_font(true));
            painter.setPen(theme().on_lap);
            painter.drawText(QRect(x, 5, 14, 14), Qt::AlignCenter, slot_letter(slot));
            painter.setFont(body_font());
            painter.setPen(theme().ink);
            const int number = laps.laps[k].lap.ref.lap;
            const QString words = QStringList{QString::fromStdString(run.driver), QString::fromStdString(run.name),
                                              number == whole_run ? tr("whole run") : tr("lap %1").arg(number),
                                              lap_time(laps.laps[k].lap.time_s()), comparison_.slid_words(slot)}
                                      .join(QStringLiteral("  "));
            painter.drawText(QRect(x + 18, 5, size.width() - x - 18, 14), Qt::AlignLeft | Qt::AlignVCenter, words);
            x += 36 + painter.fontMetrics().horizontalAdvance(words);
        }
        painter.save();
        painter.translate(0, head_px);
        paint_lines(comparison_.laps().empty() ? TracePicture{} : picture(), painter, plot);
        painter.restore();
    };
    return {name, size() + QSize(0, head_px), paint, [this] { return data(); }};
}

DataWork TraceCanvas::data() const {
    constexpr std::size_t most_rows = 200'000;
    const auto shared = comparison_.shared_laps();
    const auto& laps = shared->laps;
    if (laps.empty()) return {};
    std::vector<TracedColumn> columns;
    for (const std::string& id : quantities_of(shown_lanes())) {
        const Shown how = shown(id);
        const bool between = is_between_laps(id);
        if (between ? !shared->on_track() : !comparison_.ready(id)) continue;
        for (std::size_t k = between ? 1 : 0; k < laps.size(); ++k) {
            const QString head = slot_letter(static_cast<int>(k)) + u' ' + how.label +
                                 (how.unit.isEmpty() ? QString() : QStringLiteral(" [%1]").arg(how.unit));
            const int slot = static_cast<int>(k);
            const QString slid = between || comparison_.slid_m(slot) == 0
                                     ? QString()
                                     : QStringLiteral(" (%1)").arg(comparison_.slid_words(slot));
            columns.push_back({csv_cell(head + slid).toStdString(), laps[k].lap, id, laps[k].gap, laps[k].offset,
                               how.factor, how.offset, how.decimals + 2, between ? 0 : comparison_.slid_m(slot)});
        }
    }
    const Interval view = comparison_.view();
    const Interval x{comparison_.x_of_view(view.begin), comparison_.x_of_view(view.end)};
    // The laps are kept until it is done.
    return [shared, columns = std::move(columns), axis = comparison_.axis(), x](const JobContext& job) {
        return trace_table(columns, axis, x, most_rows, job);
    };
}

}  // namespace rendak::app
