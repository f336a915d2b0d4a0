#pragma once

#include <span>

#include "core/analysis/better.h"
#include "core/analysis/corner_events.h"
#include "core/analysis/corner_peaks.h"
#include "core/analysis/road_use.h"
#include "core/analysis/technique.h"

namespace rendak {

/// What a figure of a corner is worked out from.
struct InCorner {
    const PreparedLap& lap;
    const Corner& corner;
    const CornerPeak& peak;
    const CornerEvents& events;
    const Technique& technique;
    const CornerLine& line;
};

/// One figure that a lap has in a corner. All that shows, prints or compares figures of corners goes by the table of
/// these: a new one is a row there.
struct CornerFigure {
    const char* id;        ///< in files and on the command line, with its SI unit
    const char* label;     ///< to be translated
    const char* help;      ///< one sentence
    const char* quantity;  ///< how values are shown; empty: in `unit` with `decimals`
    const char* unit;
    int decimals;
    Better better;
    double (*of)(const InCorner& it);  ///< SI; NaN where it cannot be told
};
[[nodiscard]] std::span<const CornerFigure> all_corner_figures();

/// Laps × corners × figures, in the order of the laps, of their track's corners and of the table.
using CornerFigureTable = std::vector<std::vector<std::vector<double>>>;
[[nodiscard]] CornerFigureTable corner_figure_table(std::span<const PreparedLap> laps, const CornerPeaks& peaks);

}  // namespace rendak
