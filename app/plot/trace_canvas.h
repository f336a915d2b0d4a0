#pragma once

#include <QImage>
#include <QWidget>
#include <optional>
#include <vector>

#include "app/focus/comparison.h"
#include "app/plot/scale.h"
#include "app/plot/trace_raster.h"

namespace rendak::app {

/// A horizontal band of the canvas that shows one quantity of all picked laps.
struct Lane {
    std::string quantity;
    double weight = 1;  ///< share of the canvas's height
};

/// The traces: lanes over a common axis, with the cursor on top. The traces are drawn once into an image and kept; a
/// cursor move copies the image and draws the cursor over it.
class TraceCanvas : public QWidget {
    Q_OBJECT
  public:
    TraceCanvas(Focus& focus, Comparison& comparison, QWidget* parent = nullptr);

    void set_lanes(std::vector<Lane> lanes);
    [[nodiscard]] const std::vector<Lane>& lanes() const { return lanes_; }
    /// Left edge of the plotted area: the phase bar and others line up with it.
    static constexpr int label_width = 112;
    static constexpr int axis_height = 24;

    // What a test (and a tooltip) can ask.
    [[nodiscard]] QRect plot_area() const;
    [[nodiscard]] QRect lane_area(std::size_t lane) const;
    [[nodiscard]] Scale x_scale() const;
    [[nodiscard]] Interval lane_values(std::size_t lane) const;
    [[nodiscard]] int redraws() const { return redraws_; }
    /// Zooms the view (metres; seconds on the run axis) about a place in it by a factor (< 1: closer).
    void zoom(double about, double factor);
    void pan(double share);
    void show_whole_lap();
    /// Goes back to the range before the last zoom.
    void zoom_back();

  Q_SIGNALS:
    void lanes_changed();
    /// Asked for by the menu on a lane's label.
    void flip_sign_asked(const std::string& quantity);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;

  private:
    enum class Drag { none, cursor, range, pan, separator };
    void invalidate();          ///< laps, lanes or units changed
    void invalidate_picture();  ///< only what is in view changed
    void redraw();
    [[nodiscard]] Interval fitted_values(std::size_t lane) const;
    void draw_lane(QPainter& painter, std::size_t lane) const;
    [[nodiscard]] std::vector<DrawnLane> drawn_lanes() const;
    void draw_lap_lines(QPainter& painter, std::size_t lane, const Scale& x) const;
    void draw_trust_band(QPainter& painter, const QRect& area, const Scale& x, const Scale& y) const;
    void draw_cursor(QPainter& painter) const;
    void remember_view();
    void commit_range(Interval range);
    [[nodiscard]] int separator_at(QPoint at) const;
    [[nodiscard]] double distance_at(double pixel) const;

    Focus& focus_;
    Comparison& comparison_;
    std::vector<Lane> lanes_;
    mutable std::vector<std::optional<Interval>> values_;
    QImage image_;
    bool dirty_ = true;
    int redraws_ = 0;
    Drag drag_ = Drag::none;
    QPoint press_, drag_to_;
    Interval range_at_press_;
    int separator_ = -1;
    std::vector<Interval> earlier_ranges_;
};

}  // namespace rendak::app
