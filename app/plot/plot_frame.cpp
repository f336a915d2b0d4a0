#include "app/plot/plot_frame.h"

#include <QMouseEvent>
#include <QPainter>
#include <cmath>
#include <utility>

#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr int grab_px = 5;

}  // namespace

PlotFrame::PlotFrame(std::unique_ptr<PlotAxis> axis, QWidget* parent) : KeptPicture(parent), axis_(std::move(axis)) {
    setAttribute(Qt::WA_OpaquePaintEvent);
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    connect(axis_.get(), &PlotAxis::view_changed, this, [this] { invalidate(); });
    connect(axis_.get(), &PlotAxis::cursor_changed, this, qOverload<>(&QWidget::update));
    connect(axis_.get(), &PlotAxis::unit_changed, this, [this] {
        earlier_views_.clear();
        later_views_.clear();
    });
}

Scale PlotFrame::x_scale() const {
    const QRect plot = plot_area();
    const Interval view = axis_->view();
    return {{axis_->drawn(view.begin), axis_->drawn(view.end)}, double(plot.left()), double(plot.right() + 1)};
}

double PlotFrame::at_pixel(double pixel) const {
    return axis_->at(x_scale().to_value(pixel));
}

double PlotFrame::cursor_pixel() const {
    return x_scale().to_pixel(axis_->drawn(axis_->cursor()));
}

void PlotFrame::draw_over(QPainter& painter) {
    if (!axis_->active()) return;
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

void PlotFrame::resizeEvent(QResizeEvent*) {
    invalidate();
}

void PlotFrame::mousePressEvent(QMouseEvent* event) {
    if (!axis_->active()) return;
    setFocus();
    press_ = drag_to_ = event->position().toPoint();
    view_at_press_ = axis_->view();
    const bool left = event->button() == Qt::LeftButton;
    const bool both = event->modifiers().testFlags(Qt::ShiftModifier | Qt::ControlModifier);
    if (event->button() == Qt::MiddleButton || (left && !both && event->modifiers().testFlag(Qt::ShiftModifier)))
        drag_ = Drag::pan;
    else if (!left)
        return;
    else if (press_own(event))
        drag_ = Drag::own;
    else if (event->modifiers().testFlag(Qt::ControlModifier)) {
        drag_ = Drag::pin;
        axis_->set_pin(axis_->view().clamp(at_pixel(press_.x())));
    } else
        drag_ = std::abs(press_.x() - cursor_pixel()) <= grab_px || press_.y() > plot_area().bottom() ? Drag::cursor
                                                                                                      : Drag::range;
}

void PlotFrame::mouseMoveEvent(QMouseEvent* event) {
    const QPoint at = event->position().toPoint();
    switch (drag_) {
        case Drag::none: {
            const bool on_cursor = axis_->active() && std::abs(at.x() - cursor_pixel()) <= grab_px;
            setCursor(shape_own(at).value_or(on_cursor ? Qt::SizeHorCursor : Qt::ArrowCursor));
            return;
        }
        case Drag::cursor:
            axis_->set_cursor(axis_->view().clamp(at_pixel(at.x())));
            return;
        case Drag::pin:
            axis_->set_pin(axis_->view().clamp(at_pixel(at.x())));
            return;
        case Drag::range:
            drag_to_ = at;
            update();
            return;
        case Drag::pan: {
            const double by = view_at_press_.length() * (press_.x() - at.x()) / plot_area().width();
            axis_->set_view({view_at_press_.begin + by, view_at_press_.end + by});
            return;
        }
        case Drag::own:
            drag_own(at);
            return;
    }
}

void PlotFrame::mouseReleaseEvent(QMouseEvent* event) {
    const Drag drag = std::exchange(drag_, Drag::none);
    const QPoint at = event->position().toPoint();
    const bool moved = std::abs(at.x() - press_.x()) > grab_px;
    if (drag == Drag::range && moved)
        show_range({at_pixel(std::min(at.x(), press_.x())), at_pixel(std::max(at.x(), press_.x()))});
    else if (drag == Drag::range || (drag == Drag::cursor && press_ == at))
        axis_->set_cursor(axis_->view().clamp(at_pixel(at.x())));
    else if (drag == Drag::own)
        release_own();
    update();
}

void PlotFrame::mouseDoubleClickEvent(QMouseEvent*) {
    show_all();
}

void PlotFrame::wheelEvent(QWheelEvent* event) {
    if (!axis_->active()) return;
    const double steps = event->angleDelta().y() / 120.0 + event->angleDelta().x() / 120.0;
    if (event->modifiers().testFlag(Qt::ShiftModifier))
        pan(-0.1 * steps);
    else
        zoom(at_pixel(event->position().x()), std::pow(0.8, steps));
    event->accept();
}

void PlotFrame::remember_view() {
    if (!earlier_views_.empty() && earlier_views_.back() == axis_->view()) return;
    earlier_views_.push_back(axis_->view());
    later_views_.clear();
    if (earlier_views_.size() > 50) earlier_views_.erase(earlier_views_.begin());
}

void PlotFrame::show_range(Interval range) {
    if (range.length() < axis_->closest()) {
        const double middle = 0.5 * (range.begin + range.end);
        range = {middle - axis_->closest() / 2, middle + axis_->closest() / 2};
    }
    remember_view();
    axis_->set_view(range);
}

void PlotFrame::zoom(double about, double factor) {
    if (!axis_->active()) return;
    const Interval now = axis_->view();
    const double length = std::clamp(now.length() * factor, axis_->closest(), axis_->limits().length());
    const double share = (about - now.begin) / now.length();
    axis_->set_view({about - share * length, about + (1 - share) * length});
}

void PlotFrame::pan(double share) {
    if (!axis_->active()) return;
    const Interval now = axis_->view();
    const double by = share * now.length();
    axis_->set_view({now.begin + by, now.end + by});
}

void PlotFrame::show_all() {
    if (!axis_->active()) return;
    remember_view();
    axis_->set_view(axis_->limits());
}

void PlotFrame::zoom_back() {
    if (earlier_views_.empty()) return show_all();
    const Interval view = earlier_views_.back();
    earlier_views_.pop_back();
    later_views_.push_back(axis_->view());
    axis_->set_view(view);
}

void PlotFrame::zoom_forth() {
    if (later_views_.empty()) return;
    const Interval view = later_views_.back();
    later_views_.pop_back();
    earlier_views_.push_back(axis_->view());
    axis_->set_view(view);
}

void PlotFrame::pin_cursor() {
    if (!axis_->active()) return;
    const auto pin = axis_->pin();
    const double cursor = axis_->cursor();
    const bool there = pin && std::abs(*pin - cursor) < 1e-9;
    axis_->set_pin(there ? std::nullopt : std::optional(cursor));
}

}  // namespace rendak::app
