#pragma once

#include <QPainter>
#include <QString>
#include <QStringList>
#include <optional>
#include <vector>

#include "app/plot/scale.h"
#include "app/plot/trace_raster.h"
#include "app/text/shown.h"

namespace rendak::app {

/// One curve of a lane, in SI units; drawn in the lane's.
struct PlottedTrace {
    const Trace* trace = nullptr;
    QColor colour;
    std::size_t quantity = 0;  ///< which of the lane's: 0 its own, then `more`
    int slot = 0;              ///< whose it is
    double minus = 0;          ///< taken off every value, in SI units
    double x_shift = 0;        ///< drawn so much further right: slid by hand
};

/// A further quantity in a lane. One in the unit of the lane's own shares its scale; another one has a scale of its
/// own, which its words name.
struct PlottedQuantity {
    Shown how;
    Interval values = {};  ///< in its unit, bottom to top; unused when it shares
    bool shares = true;
};

/// A line across all lanes, with its word in the first one.
struct PlottedMark {
    double x = 0;
    QString text;
};

/// Words with an arrow to a point of a curve.
struct PlottedNote {
    std::size_t lane = 0, quantity = 0;
    int slot = 0;
    double x = 0, value_si = 0;
    QString text;
    QColor colour;
};

/// A band of a picture of traces: one quantity.
struct PlottedLane {
    double weight = 1;  ///< share of the height
    Shown how;
    Interval values;                   ///< in the lane's unit, bottom to top
    std::vector<PlottedTrace> traces;  ///< the last one on top
    QString message;                   ///< instead of curves: why there are none
    std::vector<PlottedQuantity> more = {};
    std::vector<QColor> colours = {};  ///< of the quantities, where channels are told by colour; else by pattern
    QString scale_word = {};           ///< what the height is fitted to
    QString above = {}, below = {};    ///< what would stand there and does not

    // Of a lane that holds the gap:
    const Trace* veil = nullptr;  ///< filled towards zero: lost above, won below
    double veil_minus = 0;        ///< taken off it
    bool veil_is_loss = true;     ///< above is lost and below won; else both sides are filled alike
    const Trace* band =
        nullptr;  ///< half the height of the band about `veil` that it could as well lie in, in SI units
    QString band_text, veil_text;  ///< what the two say
    bool is_signed = false;        ///< numbers of the scale carry their sign
};

/// Lanes over one x axis: all that is to be painted, and nothing of where it came from. Painting needs no widget, so
/// the window, a picture and a report look alike.
struct TracePicture {
    std::vector<PlottedLane> lanes;
    Interval x;                ///< from the left edge of the plot to its right one
    QString x_caption;         ///< "m from line"
    double x_unit = 1;         ///< of the numbers below the axis, in those of `x`
    QStringList remarks = {};  ///< in the upper right corner, in the colours of `remark_colours`
    std::vector<QColor> remark_colours = {};
    std::vector<PlottedMark> marks;
    std::vector<PlottedNote> notes = {};

    /// Left edge of the plotted area: strips above line up with it.
    static constexpr int label_width = 112;
    static constexpr int axis_height = 24;
    [[nodiscard]] static QRect plot_area(QSize size);
    [[nodiscard]] QRect lane_area(QSize size, std::size_t lane) const;
    [[nodiscard]] Scale x_scale(QSize size) const;
    [[nodiscard]] Scale y_scale(QSize size, std::size_t lane) const;
    /// The lane whose lower edge is at a height, or -1.
    [[nodiscard]] int separator_at(QSize size, int y) const;
};

/// The pattern that a lane's quantities are drawn in, in their order.
[[nodiscard]] LinePattern pattern_of(std::size_t quantity);

/// From SI to the lane's unit: y = factor · si + offset.
struct ToLane {
    double factor = 1, offset = 0;
    [[nodiscard]] double operator()(double si) const { return factor * si + offset; }
};
[[nodiscard]] ToLane to_lane(const PlottedLane& lane, std::size_t quantity);

/// What is taken off the values of a slot's curve before it is drawn.
[[nodiscard]] double taken_off(const PlottedLane& lane, int slot, std::size_t quantity);

/// The height range that the curves of a lane's quantity need, in its unit; the one that is set for the quantity when
/// there is one. Of x in `view` only, when that is given.
[[nodiscard]] Interval fitted_values(const PlottedLane& lane, std::size_t quantity = 0,
                                     std::optional<Interval> view = {});

/// One curve with lines that stay lines, cut off at the area.
void paint_curve(QPainter& painter, const PlottedTrace& curve, const Scale& x, const Scale& y, const ToLane& to,
                 LinePattern pattern, QRect area);

/// Words in a box and an arrow to a point, inside an area; wherever something is written onto a picture.
void paint_note(QPainter& painter, QRect area, QPointF at, const QString& text, const QColor& colour);

/// Paints with lines that stay lines, for pictures that are not made of pixels; as many points as half a pixel can
/// show.
void paint_lines(const TracePicture& picture, QPainter& painter, QSize size);

/// Paints onto an opaque image (Format_RGB32) of `size` in the image's pixel ratio, in the theme in force.
void paint(const TracePicture& picture, QImage& image, QSize size);

}  // namespace rendak::app
