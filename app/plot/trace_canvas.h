#pragma once

#include <vector>

#include "app/focus/comparison.h"
#include "app/plot/plot_frame.h"
#include "app/plot/trace_picture.h"

namespace rendak::app {

/// A horizontal band of the canvas that shows one quantity of all picked laps.
struct Lane {
    std::string quantity;
    double weight = 1;  ///< share of the canvas's height
};

/// The traces of the picked laps: lanes over a common axis, with the cursor on top. Edges between lanes are dragged; a
/// lane's label has a menu.
class TraceCanvas : public PlotFrame {
    Q_OBJECT
  public:
    TraceCanvas(Focus& focus, Comparison& comparison, QWidget* parent = nullptr);

    void set_lanes(std::vector<Lane> lanes);
    [[nodiscard]] const std::vector<Lane>& lanes() const { return lanes_; }
    static constexpr int label_width = TracePicture::label_width;
    static constexpr int axis_height = TracePicture::axis_height;

    // What a test (and a tooltip) can ask.
    [[nodiscard]] QRect plot_area() const override { return TracePicture::plot_area(size()); }
    [[nodiscard]] QRect lane_area(std::size_t lane) const { return picture().lane_area(size(), lane); }
    [[nodiscard]] Interval lane_values(std::size_t lane) const { return picture().lanes[lane].values; }

  Q_SIGNALS:
    void lanes_changed();
    /// Asked for by the menu on a lane's label.
    void flip_sign_asked(const std::string& quantity);

  protected:
    void draw_picture(QImage& image) override;
    void draw_cursor(QPainter& painter) override;
    bool press_own(QMouseEvent* event) override;
    void drag_own(QPoint at) override;
    void release_own() override {
        if (!moves_run_) Q_EMIT lanes_changed();
        moves_run_ = false;
    }
    [[nodiscard]] std::optional<Qt::CursorShape> shape_own(QPoint at) const override;
    void contextMenuEvent(QContextMenuEvent* event) override;

  private:
    /// What is to be painted, with the view in force.
    [[nodiscard]] const TracePicture& picture() const;
    [[nodiscard]] PlottedLane plotted(const Lane& lane) const;
    void add_gap(PlottedLane& lane) const;
    void forget_picture();

    /// The whole run that a drag with Ctrl moves; none where there is none.
    [[nodiscard]] std::optional<RunId> movable_run() const;

    Focus& focus_;
    Comparison& comparison_;
    std::vector<Lane> lanes_;
    mutable std::optional<TracePicture> picture_;  ///< fitted once a change: that is a pass over all samples
    mutable Trace trust_;                          ///< of the gap's band
    int separator_ = -1;
    bool moves_run_ = false;  ///< the drag moves a whole run over A
    double press_shift_s_ = 0;
    int press_x_ = 0;
};

}  // namespace rendak::app
