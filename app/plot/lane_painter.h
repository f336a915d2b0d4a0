#pragma once

#include "app/plot/trace_picture.h"

namespace rendak::app {

/// Of a picture of traces all but its curves, in three steps. Together with the lanes beneath them they cover every
/// pixel.
/// Beside the plot: labels, legends, numbers of the scales, the axis.
void paint_beside(const TracePicture& picture, QPainter& painter, QSize size);
/// What lies beneath the curves of a lane: its ground, grid, marks, the veil of a gap. No word is among it and no font
/// is asked for: any thread may paint it.
void paint_beneath(const TracePicture& picture, QPainter& painter, QSize size, std::size_t lane);
/// Words over the curves.
void paint_over(const TracePicture& picture, QPainter& painter, QSize size);

}  // namespace rendak::app
