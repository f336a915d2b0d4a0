#pragma once

#include "app/desks/stint/lap_figure_model.h"
#include "app/desks/stint/over_laps_picture.h"
#include "app/desks/stint/stint_data.h"

namespace rendak::app {

/// The lap times with the weight of the fuel taken out, by lap of the stint.
[[nodiscard]] OverLapsPlot pace_plot(const StintData& stints);
/// A figure of the pair, both by lap of the stint.
[[nodiscard]] OverLapsPlot plot_of(const StintData& stints, const StintFigure& figure);
/// A column of the table, of the runs on the tray.
[[nodiscard]] OverLapsPlot plot_of(const LapFigureModel& figures, std::size_t column);

}  // namespace rendak::app
