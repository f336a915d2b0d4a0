#pragma once

#include <QWidget>
#include <optional>
#include <vector>

#include "app/plot/scale.h"
#include "app/text/shown.h"
#include "core/analysis/lap_figures.h"
#include "core/base/ids.h"

namespace rendak::app {

/// A figure over the laps of one run.
struct OverLapsSeries {
    int slot = 0;
    std::vector<LapRef> laps = {};
    std::vector<double> x = {};       ///< where each stands: its number, or lap of the stint
    std::vector<double> values = {};  ///< SI; NaN where it has none
    std::vector<char> tells = {};     ///< filled; else hollow: it sets nothing
    std::optional<LapTrend> line = {};
    double line_from = 0;                  ///< what is added to x before the line is asked
    std::optional<double> breaks_at = {};  ///< x
};
struct OverLapsPlot {
    QString title, hint;
    Shown how;
    bool is_time = false;
    QString message = {};  ///< in place of points: why there are none
    std::vector<OverLapsSeries> series = {};
};

/// A figure over laps: points, the line through those that tell with what is likely of it, and what it says.
class OverLapsPicture : public QWidget {
    Q_OBJECT
  public:
    explicit OverLapsPicture(QWidget* parent = nullptr);
    void set_plot(OverLapsPlot plot);
    [[nodiscard]] const OverLapsPlot& plot() const { return plot_; }
    /// Where a lap's point stands; none where it has none.
    [[nodiscard]] std::optional<QPointF> place_of(LapRef lap) const;
    [[nodiscard]] QSize minimumSizeHint() const override { return {200, 84}; }

  Q_SIGNALS:
    void lap_clicked(LapRef lap);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    bool event(QEvent* event) override;

  private:
    struct Point {
        LapRef lap;
        QPointF at;
        QString text;
    };
    [[nodiscard]] QRectF area() const;
    [[nodiscard]] Scale x_scale() const;
    [[nodiscard]] Scale y_scale() const;
    [[nodiscard]] std::vector<Point> points() const;
    [[nodiscard]] const Point* nearest(const std::vector<Point>& points, QPointF to) const;
    [[nodiscard]] QString value_text(double si) const;
    [[nodiscard]] QString line_text(const LapTrend& line) const;

    OverLapsPlot plot_;
};

}  // namespace rendak::app
