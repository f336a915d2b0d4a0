#pragma once

#include <QImage>
#include <QWidget>
#include <memory>
#include <optional>
#include <vector>

#include "app/plot/plot_axis.h"
#include "app/plot/scale.h"

namespace rendak::app {

/// What every plot over an x axis has in common: the picture is drawn once into an image and kept, the cursor is drawn
/// over it; a drag zooms, on the cursor it moves it, with Shift or the middle button it moves the view; the wheel zooms
/// about the pointer; views of before come back. A kind of plot says where it draws and what.
class PlotFrame : public QWidget {
    Q_OBJECT
  public:
    explicit PlotFrame(std::unique_ptr<PlotAxis> axis, QWidget* parent = nullptr);

    /// Where the curves are, in pixels of the widget; the axis's numbers stand below it.
    [[nodiscard]] virtual QRect plot_area() const = 0;
    [[nodiscard]] Scale x_scale() const;
    /// How often the picture was drawn: a cursor move draws none.
    [[nodiscard]] int redraws() const { return redraws_; }

    /// Zooms about a place of the view by a factor (< 1: closer).
    void zoom(double about, double factor);
    void pan(double share);
    void show_all();
    /// Goes back to the view before the last zoom.
    void zoom_back();

  protected:
    /// Draws all but the cursor; the image is as large as the widget, in its pixel ratio.
    virtual void draw_picture(QImage& image) = 0;
    /// Draws cursor and what moves with it.
    virtual void draw_over(QPainter& painter) = 0;
    /// A tool of the plot's own takes a press at this place (and the drag that follows); true when it does.
    virtual bool press_own(QMouseEvent* /*event*/) { return false; }
    virtual void drag_own(QPoint /*at*/) {}
    virtual void release_own() {}
    /// The pointer's shape over a tool of the plot's own; none: the frame's.
    [[nodiscard]] virtual std::optional<Qt::CursorShape> shape_own(QPoint /*at*/) const { return std::nullopt; }

    /// What is plotted changed: the picture is drawn anew.
    void invalidate();
    [[nodiscard]] PlotAxis& axis() const { return *axis_; }

    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;

  private:
    enum class Drag { none, cursor, range, pan, own };
    [[nodiscard]] double at_pixel(double pixel) const;
    [[nodiscard]] double cursor_pixel() const;
    void remember_view();
    void show_range(Interval range);

    std::unique_ptr<PlotAxis> axis_;
    QImage image_;
    bool dirty_ = true;
    int redraws_ = 0;
    Drag drag_ = Drag::none;
    QPoint press_, drag_to_;
    Interval view_at_press_;
    std::vector<Interval> earlier_views_;
};

}  // namespace rendak::app
