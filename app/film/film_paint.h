#pragma once

#include <QRectF>
#include <vector>

#include "app/film/film_figures.h"

class QPainter;

namespace rendak::app {

/// Where a figure lies over a picture.
struct FigureBox {
    FilmFigure figure;
    QRectF box;
};
/// Of all that have something to show at this moment; whatever thread.
[[nodiscard]] std::vector<FigureBox> film_figure_boxes(const QRectF& picture, const FilmMoment& moment,
                                                       const FilmStyle& style);
/// Paints figures over a picture; whatever thread.
void paint_film_figures(QPainter& painter, const QRectF& picture, const FilmMoment& moment, const FilmStyle& style);

}  // namespace rendak::app
