#pragma once

#include <QWidget>

#include "app/focus/comparison.h"
#include "app/plot/scale.h"

namespace rendak::app {

/// The lap drawn by its curvature: up = left, down = right, with the corner numbers and the height of the road. Drag to
/// set the range, drag the range to move it or its ends, click a number for a corner.
class ShapeStrip : public QWidget {
    Q_OBJECT
  public:
    ShapeStrip(Focus& focus, Comparison& comparison, QWidget* parent = nullptr);
    [[nodiscard]] QSize sizeHint() const override { return {600, 84}; }
    /// Middle of a corner's number badge, for clicks.
    [[nodiscard]] QPoint badge(const Corner& corner) const;
    [[nodiscard]] Scale x_scale() const;

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;

  private:
    enum class Drag { none, fresh, move, begin, end };
    [[nodiscard]] Drag grip_at(double px) const;
    Focus& focus_;
    Comparison& comparison_;
    Drag drag_ = Drag::none;
    double press_m_ = 0;
    QPoint press_;
    Interval range_at_press_;
};

}  // namespace rendak::app
