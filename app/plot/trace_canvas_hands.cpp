// What hands do on the canvas beside zooming and the cursor: lanes, their scales, a whole run over another.
#include <QAction>
#include <QContextMenuEvent>
#include <QDragEnterEvent>
#include <QDragLeaveEvent>
#include <QDragMoveEvent>
#include <QDropEvent>
#include <QMenu>
#include <QMimeData>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/plot/trace_canvas.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/laps/cut.h"

namespace rendak::app {
namespace {

/// The numbers of a lane's scale stand here, left of the plot.
constexpr int scale_width = 46;

bool on_scale(QPoint at) {
    return at.x() >= TracePicture::label_width - scale_width && at.x() < TracePicture::label_width;
}

bool on_label(QPoint at) {
    return at.x() >= 0 && at.x() < TracePicture::label_width - scale_width;
}

}  // namespace

std::optional<RunId> TraceCanvas::movable_run() const {
    const ComparedLaps& laps = comparison_.laps();
    if (laps.laps.size() < 2 || laps.on_track()) return std::nullopt;
    const LapRef ref = laps.laps[static_cast<std::size_t>(std::max(1, comparison_.active_slot()))].lap.ref;
    return ref.lap == whole_run ? std::optional(ref.run) : std::nullopt;
}

std::optional<int> TraceCanvas::slidable_slot() const {
    const ComparedLaps& laps = comparison_.laps();
    if (laps.laps.size() < 2 || !laps.on_track() || comparison_.axis() != Axis::distance) return std::nullopt;
    return std::max(1, comparison_.active_slot());
}

std::optional<std::size_t> TraceCanvas::lane_under(QPoint at) const {
    for (std::size_t i = 0; i < picture().lanes.size(); ++i) {
        const QRect area = lane_area(i);
        if (at.y() >= area.top() && at.y() <= area.bottom()) return only_ ? *only_ : i;
    }
    return std::nullopt;
}

std::size_t TraceCanvas::lane_at_hand() const {
    const QPoint at = mapFromGlobal(QCursor::pos());
    if (underMouse() && rect().contains(at)) {
        if (const auto lane = lane_under(at)) return *lane;
    }
    return std::min(at_hand_, lanes_.empty() ? 0 : lanes_.size() - 1);
}

void TraceCanvas::show_only(bool on) {
    if (on && lanes_.empty()) return;
    only_ = on ? std::optional(lane_at_hand()) : std::nullopt;
    forget_picture();
}

void TraceCanvas::colour_by_channel(bool on) {
    by_channel_ = on;
    forget_picture();
}

void TraceCanvas::scale_lane(std::size_t lane, LaneScale scale) {
    if (lane >= lanes_.size()) return;
    Lane& it = lanes_[lane];
    const std::size_t place = only_ ? 0 : lane;
    if (scale == LaneScale::fixed && !fixed_scale(it.quantity) && place < picture().lanes.size()) {
        // What is shown now becomes what is normal.
        const PlottedLane& now = picture().lanes[place];
        const auto si = [&](double value) { return value * now.how.factor + now.how.offset; };
        set_fixed_scale(it.quantity, Interval{si(now.values.begin), si(now.values.end)});
    }
    it.scale = scale;
    forget_picture();
    Q_EMIT lanes_changed();
}

void TraceCanvas::move_values(std::size_t lane, Interval values) {
    if (!(values.length() > 0) || lane >= lanes_.size()) return;
    const Shown how = shown(lanes_[lane].quantity);
    lanes_[lane].scale = LaneScale::hand;
    lanes_[lane].by_hand = Interval{values.begin * how.factor + how.offset, values.end * how.factor + how.offset};
    forget_picture();
}

bool TraceCanvas::press_own(QMouseEvent* event) {
    press_at_ = event->position().toPoint();
    if (const auto lane = lane_under(press_at_)) at_hand_ = *lane;
    const auto run = movable_run();
    if (run && event->modifiers().testFlag(Qt::ControlModifier)) {
        held_ = Held::run;
        const auto& shifts = focus_.state().shifts_s;
        const auto known = shifts.find(*run);
        press_shift_s_ = known == shifts.end() ? 0 : known->second;
        return true;
    }
    const auto slot = slidable_slot();
    if (slot && event->modifiers() == (Qt::ControlModifier | Qt::ShiftModifier)) {
        held_ = Held::lap;
        press_slid_m_ = comparison_.slid_m(*slot);
        return true;
    }
    if (const auto moment = moment_under(press_at_)) {
        Q_EMIT moment_asked(moment->slot, moment->event);
        return true;
    }
    if (const int edge = picture().separator_at(size(), press_at_.y()); edge >= 0) {
        held_ = Held::edge;
        held_lane_ = static_cast<std::size_t>(edge);
        return true;
    }
    const auto lane = lane_under(press_at_);
    if (!lane || press_at_.x() >= label_width) return false;
    held_lane_ = *lane;
    held_ = on_scale(press_at_) ? Held::scale : Held::label;
    press_values_ = lane_values(only_ ? 0 : *lane);
    return true;
}

std::optional<TraceCanvas::Moment> TraceCanvas::moment_under(QPoint at) const {
    if (at.y() <= plot_area().bottom() || at.y() > plot_area().bottom() + 8) return std::nullopt;
    std::optional<Moment> best;
    for (const Moment& it : moments_in_view()) {
        const double away = std::abs(it.pixel - at.x());
        if (away <= 4 && (!best || away < std::abs(best->pixel - at.x()))) best = it;
    }
    return best;
}

std::optional<Qt::CursorShape> TraceCanvas::shape_own(QPoint at) const {
    if (moment_under(at)) return Qt::PointingHandCursor;
    if (picture().separator_at(size(), at.y()) >= 0) return Qt::SplitVCursor;
    if (!lane_under(at)) return std::nullopt;
    if (on_scale(at)) return Qt::SizeVerCursor;
    return on_label(at) ? std::optional(Qt::OpenHandCursor) : std::nullopt;
}

void TraceCanvas::mouseMoveEvent(QMouseEvent* event) {
    PlotFrame::mouseMoveEvent(event);
    if (event->buttons() != Qt::NoButton) return;
    if (const auto lane = lane_under(event->position().toPoint())) at_hand_ = *lane;
    const auto moment = moment_under(event->position().toPoint());
    setToolTip(moment ? slot_letter(moment->slot) + u' ' + QString::fromStdString(event_words(moment->event))
                      : QString());
}

void TraceCanvas::drag_own(QPoint at) {
    switch (held_) {
        case Held::nothing:
            return;
        case Held::run: {
            const double by_s =
                comparison_.view().length() * (at.x() - press_at_.x()) / std::max(1, plot_area().width());
            if (const auto run = movable_run()) focus_.set_shift(*run, std::round(100 * (press_shift_s_ + by_s)) / 100);
            return;
        }
        case Held::lap: {
            const double by_m =
                comparison_.view().length() * (at.x() - press_at_.x()) / std::max(1, plot_area().width());
            if (const auto slot = slidable_slot())
                focus_.slide(comparison_.laps().laps[static_cast<std::size_t>(*slot)].lap.ref,
                             std::round(10 * (press_slid_m_ + by_m)) / 10);
            return;
        }
        case Held::edge: {
            auto &above = lanes_[held_lane_], &below = lanes_[held_lane_ + 1];
            const QRect a = lane_area(held_lane_), b = lane_area(held_lane_ + 1);
            const double both = above.weight + below.weight;
            const double share = std::clamp(double(at.y() - a.top()) / (b.bottom() - a.top()), 0.12, 0.88);
            above.weight = both * share;
            below.weight = both - above.weight;
            return forget_picture();
        }
        case Held::label:
            if (only_ || std::abs(at.y() - press_at_.y()) < 6) {
                target_.reset();
            } else {
                target_ = target_at(at);
            }
            return update();
        case Held::scale: {
            const QRect area = lane_area(only_ ? 0 : held_lane_);
            const double by = press_values_.length() * (at.y() - press_at_.y()) / std::max(1, area.height());
            return move_values(held_lane_, {press_values_.begin + by, press_values_.end + by});
        }
    }
}

void TraceCanvas::release_own() {
    const Held held = std::exchange(held_, Held::nothing);
    if (held == Held::label && target_) {
        const Target target = *std::exchange(target_, std::nullopt);
        auto lanes = lanes_;
        if (target.joins)
            join_lane(lanes, held_lane_, target.lane);
        else
            move_lane(lanes, held_lane_, target.lane);
        if (!(lanes == lanes_)) set_lanes(std::move(lanes));
        return;
    }
    if (held == Held::edge || held == Held::scale) Q_EMIT lanes_changed();
}

TraceCanvas::Target TraceCanvas::target_at(QPoint at) const {
    const std::size_t count = picture().lanes.size();
    for (std::size_t i = 0; i < count; ++i) {
        const QRect area = lane_area(i);
        if (at.y() > area.bottom()) continue;
        const int edge = std::max(6, area.height() / 4);
        if (at.y() < area.top() + edge) return {i, false};
        if (at.y() > area.bottom() - edge) return {i + 1, false};
        return {i, true};
    }
    return {count, false};
}

void TraceCanvas::draw_target(QPainter& painter) const {
    if (!target_ || picture().lanes.empty()) return;
    QColor tone = theme().accent;
    if (target_->joins) {
        tone.setAlphaF(0.16F);
        const QRect area = lane_area(target_->lane);
        painter.fillRect(QRect(0, area.top(), width(), area.height()), tone);
        return;
    }
    const bool behind = target_->lane >= picture().lanes.size();
    const int y = behind ? lane_area(picture().lanes.size() - 1).bottom() : lane_area(target_->lane).top();
    painter.fillRect(QRect(0, y - 1, width(), 3), tone);
}

void TraceCanvas::land(const std::string& quantity, Target target) {
    auto lanes = lanes_;
    if (target.joins)
        join_channel(lanes, quantity, target.lane);
    else
        move_channel(lanes, quantity, target.lane);
    if (!(lanes == lanes_)) set_lanes(std::move(lanes));
}

void TraceCanvas::dragEnterEvent(QDragEnterEvent* event) {
    if (event->mimeData()->hasFormat(QLatin1String(channel_mime))) event->acceptProposedAction();
}

void TraceCanvas::dragMoveEvent(QDragMoveEvent* event) {
    target_ = target_at(event->position().toPoint());
    event->acceptProposedAction();
    update();
}

void TraceCanvas::dragLeaveEvent(QDragLeaveEvent*) {
    target_.reset();
    update();
}

void TraceCanvas::dropEvent(QDropEvent* event) {
    target_.reset();
    if (!event->mimeData()->hasFormat(QLatin1String(channel_mime))) return;
    const std::string id = event->mimeData()->data(QLatin1String(channel_mime)).toStdString();
    event->acceptProposedAction();
    // Onto a lane that is shown alone there is no place to see.
    const Target target = only_ ? Target{lanes_.size(), false} : target_at(event->position().toPoint());
    if (only_) show_only(false);
    land(id, target);
    update();
}

void TraceCanvas::wheelEvent(QWheelEvent* event) {
    const QPoint at = event->position().toPoint();
    const auto lane = lane_under(at);
    if (!lane || !on_scale(at) || comparison_.laps().empty()) return PlotFrame::wheelEvent(event);
    const std::size_t place = only_ ? 0 : *lane;
    const Interval values = lane_values(place);
    const double about = picture().y_scale(size(), place).to_value(at.y());
    const double factor = std::pow(0.8, event->angleDelta().y() / 120.0);
    move_values(*lane, {about + (values.begin - about) * factor, about + (values.end - about) * factor});
    event->accept();
    Q_EMIT lanes_changed();
}

void TraceCanvas::mouseDoubleClickEvent(QMouseEvent* event) {
    const QPoint at = event->position().toPoint();
    const auto lane = lane_under(at);
    if (lane && on_scale(at)) return scale_lane(*lane, LaneScale::lap);
    if (lane && on_label(at)) {
        at_hand_ = *lane;
        return show_only(!shows_only_one());
    }
    PlotFrame::mouseDoubleClickEvent(event);
}

void TraceCanvas::fill_lane_menu(QMenu& menu, std::size_t at) {
    const Lane lane = lanes_[at];
    at_hand_ = at;
    const auto edit = [this](auto change) {
        auto lanes = lanes_;
        change(lanes);
        if (!(lanes == lanes_)) set_lanes(std::move(lanes));
    };
    if (lane.more.empty()) {
        QAction* remove = menu.addAction(tr("Remove this lane"));
        remove->setEnabled(lanes_.size() > 1);
        connect(remove, &QAction::triggered, this,
                [=] { edit([&](auto& lanes) { (void)remove_channel(lanes, lane.quantity); }); });
    } else {
        connect(menu.addAction(tr("A lane for each channel")), &QAction::triggered, this,
                [=] { edit([&](auto& lanes) { split_lane(lanes, at); }); });
        auto* out = menu.addMenu(tr("Take out"));
        for (const std::string& id : lane.quantities())
            connect(out->addAction(shown(id).label), &QAction::triggered, this,
                    [=] { edit([&](auto& lanes) { (void)remove_channel(lanes, id); }); });
    }
    if (at + 1 < lanes_.size() && !is_between_laps(lane.quantity) && !is_between_laps(lanes_[at + 1].quantity))
        connect(menu.addAction(tr("Join with the lane below")), &QAction::triggered, this,
                [=] { edit([&](auto& lanes) { join_lane(lanes, at + 1, at); }); });
    connect(menu.addAction(shows_only_one() ? tr("All lanes") : tr("Only this lane")), &QAction::triggered, this,
            [=, this] { show_only(!shows_only_one()); });
    auto* scale = menu.addMenu(tr("Scale"));
    for (const auto& [kind, text] : {std::pair{LaneScale::lap, tr("Fits the lap")},
                                     {LaneScale::view, tr("Fits the view")},
                                     {LaneScale::fixed, tr("Fixed, the same for all runs")},
                                     {LaneScale::hand, tr("By hand: wheel and drag on the numbers")}}) {
        QAction* action = scale->addAction(text);
        action->setCheckable(true);
        action->setChecked(lane.scale == kind);
        if (kind == LaneScale::hand && !lane.by_hand) action->setEnabled(false);
        connect(action, &QAction::triggered, this, [=, this, kind = kind] { scale_lane(at, kind); });
    }
    scale->addSeparator();
    QAction* anew = scale->addAction(tr("What is shown now is the fixed scale"));
    connect(anew, &QAction::triggered, this, [=, this] {
        set_fixed_scale(lane.quantity, std::nullopt);
        scale_lane(at, LaneScale::fixed);
    });
    auto* own_colours = menu.addMenu(tr("Colour of"));
    for (const std::string& id : lane.quantities())
        connect(own_colours->addAction(shown(id).label), &QAction::triggered, this,
                [=, this] { Q_EMIT channel_colour_asked(id); });
    QAction* colours = menu.addAction(tr("Colour by channel (a lap alone)"));
    colours->setCheckable(true);
    colours->setChecked(by_channel_);
    connect(colours, &QAction::triggered, this, [this](bool on) {
        colour_by_channel(on);
        Q_EMIT lanes_changed();
    });
    if (!shown(lane.quantity).up.isEmpty() && !is_between_laps(lane.quantity) && !comparison_.laps().empty())
        connect(
            menu.addAction(
                tr("Turn the sign round for run %1").arg(QString::fromStdString(comparison_.active().run->row.name))),
            &QAction::triggered, this, [=, this] { Q_EMIT flip_sign_asked(lane.quantity); });
}

void TraceCanvas::contextMenuEvent(QContextMenuEvent* event) {
    const auto lane = lane_under(event->pos());
    if (event->pos().x() > label_width || !lane) return;
    QMenu menu(this);
    fill_lane_menu(menu, *lane);
    menu.exec(event->globalPos());
}

}  // namespace rendak::app
