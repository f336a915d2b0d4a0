#pragma once

#include <QColor>
#include <QImage>
#include <QString>
#include <optional>
#include <span>
#include <vector>

#include "app/plot/scale.h"
#include "app/text/shown.h"
#include "core/analysis/pairs.h"

namespace rendak::app {

/// One lap's points in a picture of two quantities against each other, in SI units.
struct PairSeries {
    std::span<const float> x, y, z;  ///< z colours the points when it is filled
    QColor colour;
    QString letter;
    std::vector<double> reach = {};  ///< outline() of the points; empty: none is drawn
    std::optional<LineFit> fit = {};
    std::optional<QPointF> now = {};  ///< where the cursor stands
};

/// A scatter of two quantities, or the friction circle: one of them with equal axes about zero, rings, and outlines.
/// All that is to be painted; painting needs no widget.
struct PairPlot {
    Shown x, y;
    std::optional<Shown> z = {};
    bool circle = false;
    std::vector<PairSeries> series;
    QString message = {};   ///< instead of points: why there are none
    std::size_t every = 1;  ///< 2: every second sample is shown, which is said

    [[nodiscard]] static QRect plot_area(QSize size, bool circle);
    [[nodiscard]] Interval z_limits() const;
    /// In shown units; of a circle x grows to the left, as a car turns left.
    [[nodiscard]] Scale x_scale(QSize size) const;
    [[nodiscard]] Scale y_scale(QSize size) const;
    /// Worked out once for all points.
    void fit_axes();

  private:
    Interval x_values_{0, 1}, y_values_{0, 1};
};

void paint(const PairPlot& plot, QImage& image, QSize size);
/// With lines that stay lines; points as well, as long as there are not too many for a file.
void paint_lines(const PairPlot& plot, QPainter& painter, QSize size);
/// The marks of the cursor, over a picture that is kept.
void paint_now(const PairPlot& plot, QPainter& painter, QSize size);

/// The shares of laps in steps of a quantity, as lines of steps.
struct ShareSeries {
    Shares shares;
    QColor colour;
    QString letter;
};
struct SharePlot {
    Shown how;
    bool of_distance = false;
    std::vector<ShareSeries> series;
    QString message = {};
    std::size_t every = 1;

    [[nodiscard]] static QRect plot_area(QSize size);
    [[nodiscard]] Scale x_scale(QSize size) const;  ///< SI to pixels
    [[nodiscard]] double highest() const;
};
void paint(const SharePlot& plot, QPainter& painter, QSize size);

}  // namespace rendak::app
