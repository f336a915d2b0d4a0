#include "app/plot/focus_axis.h"

namespace rendak::app {

FocusAxis::FocusAxis(Focus& focus, Comparison& comparison, QObject* parent)
    : PlotAxis(parent), comparison_(comparison) {
    connect(&focus, &Focus::range_changed, this, &PlotAxis::view_changed);
    connect(&focus, &Focus::cursor_changed, this, &PlotAxis::cursor_changed);
    connect(&focus, &Focus::axis_changed, this, &PlotAxis::unit_changed);
}

}  // namespace rendak::app
