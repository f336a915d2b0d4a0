#pragma once

#include <QString>

#include "core/analysis/corner_figure.h"

namespace rendak::app {

[[nodiscard]] QString figure_label(const CornerFigure& figure);
/// In the unit that people read it in, without it; a dash where it cannot be told.
[[nodiscard]] QString figure_text(const CornerFigure& figure, double si);
/// Empty for a plain number.
[[nodiscard]] QString figure_unit(const CornerFigure& figure);
/// A difference of two, with its sign.
[[nodiscard]] QString figure_difference_text(const CornerFigure& figure, double si);

}  // namespace rendak::app
