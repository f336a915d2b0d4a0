#pragma once

#include <QImage>
#include <QWidget>
#include <optional>

#include "app/focus/comparison.h"

namespace rendak::app {

/// The track seen from above: the plan of the circuit or the lines as driven, corner numbers, direction, and the
/// picked cars at the cursor. Click moves the cursor; wheel and drag zoom and pan.
class MapCanvas : public QWidget {
    Q_OBJECT
  public:
    enum class View { plan, lines };  ///< where am I, and: which line was driven

    MapCanvas(Focus& focus, Comparison& comparison, QWidget* parent = nullptr);
    void set_view(View view);
    [[nodiscard]] View view() const { return view_; }
    void zoom(double factor);
    /// Shows the whole track (plan) or the range (lines) again.
    void fit();
    [[nodiscard]] QPointF to_pixel(Point place) const;

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;

  private:
    struct Placing {
        Point middle;  ///< of the widget, in the track's plane
        double px_per_m = 1;
    };
    [[nodiscard]] Placing fitted() const;
    [[nodiscard]] Placing placing() const { return own_.value_or(fitted()); }
    [[nodiscard]] Point to_place(QPointF pixel) const;
    void invalidate();
    void redraw();
    void draw_track(QPainter& painter) const;
    void draw_labels(QPainter& painter) const;
    void draw_cars(QPainter& painter) const;

    Focus& focus_;
    Comparison& comparison_;
    View view_ = View::plan;
    mutable std::optional<Placing> fitted_;  ///< worked out once a change: every point on the map asks for it
    mutable QSize fitted_size_;
    std::optional<Placing> own_;  ///< set once the user has zoomed or panned
    QImage image_;
    bool dirty_ = true;
    QPointF press_;
    Placing at_press_;
    bool panning_ = false;
};

}  // namespace rendak::app
