#include "app/plot/focus_axis.h"

#include <utility>

namespace rendak::app {

FocusAxis::FocusAxis(Focus& focus, Comparison& comparison, QObject* parent)
    : PlotAxis(parent), comparison_(comparison) {
    connect(&focus, &Focus::range_changed, this, &PlotAxis::view_changed);
    connect(&focus, &Focus::cursor_changed, this, &PlotAxis::cursor_changed);
    connect(&focus, &Focus::pin_changed, this, &PlotAxis::cursor_changed);
    connect(&focus, &Focus::axis_changed, this, &PlotAxis::unit_changed);
    // Laps without places are drawn over time, whatever the focus says.
    connect(&comparison, &Comparison::changed, this, [this, last = comparison.axis()]() mutable {
        if (std::exchange(last, comparison_.axis()) != comparison_.axis()) Q_EMIT unit_changed();
    });
}

}  // namespace rendak::app
