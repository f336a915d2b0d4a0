#pragma once

#include <memory>
#include <optional>
#include <vector>

#include "app/plot/kept_picture.h"
#include "app/plot/plot_axis.h"
#include "app/plot/scale.h"

namespace rendak::app {

/// What every plot over an x axis has in common: a picture that is kept, the cursor over it; a drag zooms, on the
/// cursor it moves it, with Ctrl it puts the pin, with Shift or the middle button it moves the view; the wheel zooms
/// about the pointer; views of before come back. A kind of plot says where it draws and what.
class PlotFrame : public KeptPicture {
    Q_OBJECT
  public:
    explicit PlotFrame(std::unique_ptr<PlotAxis> axis, QWidget* parent = nullptr);

    /// Where the curves are, in pixels of the widget; the axis's numbers stand below it.
    [[nodiscard]] virtual QRect plot_area() const = 0;
    [[nodiscard]] Scale x_scale() const;

    /// Zooms about a place of the view by a factor (< 1: closer).
    void zoom(double about, double factor);
    void pan(double share);
    void show_all();
    /// Goes back to the view before the last zoom, and forth again.
    void zoom_back();
    void zoom_forth();
    /// Puts the pin where the cursor is, or takes it away when it is there already.
    void pin_cursor();

  protected:
    /// Draws the cursor and what moves with it, over a plot that has something to show.
    virtual void draw_cursor(QPainter& painter) = 0;
    /// A tool of the plot's own takes a press at this place (and the drag that follows); true when it does.
    virtual bool press_own(QMouseEvent* /*event*/) { return false; }
    virtual void drag_own(QPoint /*at*/) {}
    virtual void release_own() {}
    /// The pointer's shape over a tool of the plot's own; none: the frame's.
    [[nodiscard]] virtual std::optional<Qt::CursorShape> shape_own(QPoint /*at*/) const { return std::nullopt; }

    [[nodiscard]] PlotAxis& axis() const { return *axis_; }

    void draw_over(QPainter& painter) final;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;

  private:
    enum class Drag { none, cursor, pin, range, pan, own };
    [[nodiscard]] double at_pixel(double pixel) const;
    [[nodiscard]] double cursor_pixel() const;
    void remember_view();
    void show_range(Interval range);

    std::unique_ptr<PlotAxis> axis_;
    Drag drag_ = Drag::none;
    QPoint press_, drag_to_;
    Interval view_at_press_;
    std::vector<Interval> earlier_views_, later_views_;
};

}  // namespace rendak::app
