#pragma once

#include "app/focus/comparison.h"
#include "app/plot/plot_axis.h"

namespace rendak::app {

/// The axis of the picked laps: range and cursor of the focus, in metres or, on the run axis, in seconds.
class FocusAxis : public PlotAxis {
    Q_OBJECT
  public:
    FocusAxis(Focus& focus, Comparison& comparison, QObject* parent = nullptr);
    [[nodiscard]] bool active() const override { return !comparison_.laps().empty(); }
    [[nodiscard]] Interval view() const override { return comparison_.view(); }
    [[nodiscard]] Interval limits() const override { return comparison_.view_limits(); }
    [[nodiscard]] double closest() const override { return comparison_.axis() == Axis::run ? 0.05 : 2; }
    [[nodiscard]] double cursor() const override { return comparison_.cursor_in_view(); }
    [[nodiscard]] std::optional<double> pin() const override { return comparison_.pin_in_view(); }
    void set_pin(std::optional<double> at) override { comparison_.set_pin_in_view(at); }
    void set_view(Interval view) override { comparison_.set_view(view); }
    void set_cursor(double at) override { comparison_.set_cursor_in_view(at); }
    [[nodiscard]] double drawn(double at) const override { return active() ? comparison_.x_of_view(at) : at; }
    [[nodiscard]] double at(double drawn) const override { return active() ? comparison_.view_of_x(drawn) : drawn; }

  private:
    Comparison& comparison_;
};

}  // namespace rendak::app
