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
#include "core/laps/cut.h"

namespace rendak::app {

TraceCanvas::TraceCanvas(Focus& focus, Comparison& comparison, QWidget* parent)
    : PlotFrame(std::make_unique<FocusAxis>(focus, comparison), parent), focus_(focus), comparison_(comparison) {
    setAccessibleName(tr("Traces of the picked laps"));
    setMinimumHeight(160);
    connect(&comparison_, &Comparison::changed, this, &TraceCanvas::forget_picture);
}

void TraceCanvas::set_lanes(std::vector<Lane> lanes) {
    lanes_ = std::move(lanes);
    std::vector<std::string> quantities;
    for (const Lane& lane : lanes_) quantities.push_back(lane.quantity);
    comparison_.want(this, quantities);
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
        for (const Lane& lane : lanes_) picture_->lanes.push_back(plotted(lane));
        if (!comparison_.laps().empty()) {
            const bool on_track = comparison_.laps().on_track();
            const bool open = on_track && comparison_.laps().track().open;
            picture_->x_caption = comparison_.axis() == Axis::distance
                                      ? (open ? tr("m from launch") : tr("m from line"))
                                  : !on_track ? tr("s from A's start")
                                              : (open ? tr("s from launch") : tr("s from line"));
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
    // Scales fit the whole lap: another view leaves them alone.
    picture_->x = x_scale().values;
    return *picture_;
}

PlottedLane TraceCanvas::plotted(const Lane& lane) const {
    const std::string& quantity = lane.quantity;
    const bool is_gap = quantity == "gap";
    PlottedLane out;
    out.weight = lane.weight;
    out.how = shown(quantity);
    out.is_signed = is_gap;
    bool any = false;
    // The baseline is drawn last, on top; in the gap lane it is the zero line.
    for (int slot = static_cast<int>(comparison_.laps().laps.size()) - 1; slot >= 0; --slot) {
        const Trace& trace = comparison_.trace(slot, quantity);
        any = any || !trace.empty();
        if (!is_gap || slot > 0) out.traces.push_back({&trace, theme().lap(slot)});
    }
    if (is_gap && any) add_gap(out);
    out.values = fitted_values(out);
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

void TraceCanvas::add_gap(PlottedLane& lane) const {
    const auto& laps = comparison_.laps().laps;
    if (laps.size() < 2) return;
    const int slot = std::max(1, comparison_.active_slot());
    lane.veil = &comparison_.trace(slot, "gap");
    lane.veil_text = tr("up = slower than A");
    // Where places are poor the gap could as well be anywhere in a band: expected error of both laps over the speed.
    const PreparedLap &a = laps.front().lap, &b = laps[static_cast<std::size_t>(slot)].lap;
    if (std::max(a.trust_m, b.trust_m) <= poor_trust_m || comparison_.axis() == Axis::run) return;
    const double error_m = std::hypot(a.trust_m, b.trust_m);
    trust_ = {};
    const std::size_t stride = std::max<std::size_t>(1, lane.veil->x.size() / 1000);
    for (std::size_t i = 0; i < lane.veil->x.size(); i += stride) {
        const double at = comparison_.view_of_x(lane.veil->x[i]), speed = a.value_at("speed", at);
        trust_.x.push_back(lane.veil->x[i]);
        trust_.y.push_back(static_cast<float>(error_m / std::max(5.0, std::isfinite(speed) ? speed : 30.0)));
    }
    lane.band = &trust_;
    lane.band_text = tr("dotted: places good to %1 m only").arg(error_m, 0, 'f', 1);
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
    if (px < plot.left() - 1 || px > plot.right() + 1) return;
    painter.fillRect(QRectF(std::round(px) - 1, plot.top(), 2, plot.height()), t.accent);
    painter.setRenderHint(QPainter::Antialiasing);
    for (std::size_t lane = 0; lane < lanes_.size(); ++lane) {
        const Scale y = shown_now.y_scale(size(), lane);
        for (std::size_t slot = comparison_.laps().laps.size(); slot-- > 0;) {
            const double value = comparison_.value_at_cursor(static_cast<int>(slot), lanes_[lane].quantity);
            if (!std::isfinite(value)) continue;
            painter.setPen(QPen(t.panel, 1));
            painter.setBrush(t.lap(static_cast<int>(slot)));
            painter.drawEllipse(QPointF(px, y.to_pixel(shown_now.lanes[lane].how.from_si(value))), 3.2, 3.2);
        }
    }
    const QString text = comparison_.axis() == Axis::distance
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

std::optional<RunId> TraceCanvas::movable_run() const {
    const ComparedLaps& laps = comparison_.laps();
    if (laps.laps.size() < 2 || laps.on_track()) return std::nullopt;
    const LapRef ref = laps.laps[static_cast<std::size_t>(std::max(1, comparison_.active_slot()))].lap.ref;
    return ref.lap == whole_run ? std::optional(ref.run) : std::nullopt;
}

bool TraceCanvas::press_own(QMouseEvent* event) {
    const auto run = movable_run();
    if (run && event->modifiers().testFlag(Qt::ControlModifier)) {
        moves_run_ = true;
        press_x_ = event->position().toPoint().x();
        const auto& shifts = focus_.state().shifts_s;
        const auto known = shifts.find(*run);
        press_shift_s_ = known == shifts.end() ? 0 : known->second;
        return true;
    }
    separator_ = picture().separator_at(size(), event->position().toPoint().y());
    return separator_ >= 0;
}

std::optional<Qt::CursorShape> TraceCanvas::shape_own(QPoint at) const {
    return picture().separator_at(size(), at.y()) >= 0 ? std::optional(Qt::SplitVCursor) : std::nullopt;
}

void TraceCanvas::drag_own(QPoint at) {
    if (moves_run_) {
        const double by_s = comparison_.view().length() * (at.x() - press_x_) / std::max(1, plot_area().width());
        if (const auto run = movable_run()) focus_.set_shift(*run, std::round(100 * (press_shift_s_ + by_s)) / 100);
        return;
    }
    auto& above = lanes_[static_cast<std::size_t>(separator_)];
    auto& below = lanes_[static_cast<std::size_t>(separator_) + 1];
    const QRect a = lane_area(static_cast<std::size_t>(separator_)),
                b = lane_area(static_cast<std::size_t>(separator_) + 1);
    const double both = above.weight + below.weight;
    const double share = std::clamp(double(at.y() - a.top()) / (b.bottom() - a.top()), 0.12, 0.88);
    above.weight = both * share;
    below.weight = both - above.weight;
    forget_picture();
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
        if (!shown(quantity).up.isEmpty() && quantity != "gap" && !comparison_.laps().empty())
            flip = menu.addAction(
                tr("Turn the sign round for run %1").arg(QString::fromStdString(comparison_.active().run->row.name)));
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

}  // namespace rendak::app
