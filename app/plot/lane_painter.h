#pragma once

#include "app/plot/trace_picture.h"

namespace rendak::app {

/// All of a picture of traces but its curves: labels, legends, scales, grids, marks, the veil of a gap, the axis.
void paint_words(const TracePicture& picture, QPainter& painter, QSize size);

}  // namespace rendak::app
