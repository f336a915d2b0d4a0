#pragma once

#include <QString>
#include <QWidget>
#include <optional>
#include <vector>

#include "app/plot/scale.h"

namespace rendak::app {

/// One series of a picture of the chassis, in the units that are shown; `low` and `high` are what is likely of `y`, or
/// empty.
struct ChassisSeries {
    enum class Kind { line, bars, points };
    int slot = 0;  ///< its colour
    QString name;
    Kind kind = Kind::line;
    std::vector<double> x, y, low, high;
    /// Single laps behind points.
    std::vector<std::pair<double, double>> laps = {};
};

/// A picture of the chassis as a value.
struct ChassisPlot {
    QString title, hint, x_unit, y_unit;
    QString message;  ///< instead of series: why there are none
    std::vector<ChassisSeries> series;
    struct Band {
        Interval x;
        QString label;
    };
    std::vector<Band> bands = {};
    std::optional<Interval> x_shown = {};  ///< none: what the series need
    bool from_zero = true;                 ///< the vertical scale begins at 0
};

/// Paints it; the value under the pointer is told.
class ChassisPicture : public QWidget {
    Q_OBJECT
  public:
    explicit ChassisPicture(QWidget* parent = nullptr);
    void set_plot(ChassisPlot plot);
    [[nodiscard]] const ChassisPlot& plot() const { return plot_; }
    [[nodiscard]] QSize sizeHint() const override { return {420, 220}; }
    [[nodiscard]] QSize minimumSizeHint() const override { return {160, 90}; }

  protected:
    void paintEvent(QPaintEvent* event) override;
    bool event(QEvent* event) override;

  private:
    [[nodiscard]] QRectF area() const;
    [[nodiscard]] Scale x_scale() const;
    [[nodiscard]] Scale y_scale() const;
    void paint_series(QPainter& painter, const ChassisSeries& series, const Scale& x, const Scale& y) const;
    [[nodiscard]] QString told_at(QPointF at) const;

    ChassisPlot plot_;
};

}  // namespace rendak::app
