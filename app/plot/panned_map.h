#pragma once

#include <QWidget>
#include <optional>

#include "app/plot/map_placing.h"

namespace rendak::app {

/// A small map in a desk or a dialog: wheel and drag zoom and move it, a double click shows all again. A kind of map
/// says how large what it shows is, paints it, and hears where it was clicked.
class PannedMap : public QWidget {
    Q_OBJECT
  public:
    using QWidget::QWidget;
    [[nodiscard]] QPointF to_pixel(Point place) const { return placing().to_pixel(place, size()); }

  protected:
    /// Whether there is anything to be moved.
    [[nodiscard]] virtual bool shows_something() const = 0;
    /// All of it on the widget.
    [[nodiscard]] virtual MapPlacing fitted() const = 0;
    virtual void clicked(QPointF at) = 0;

    [[nodiscard]] MapPlacing placing() const { return own_ ? *own_ : fitted(); }
    void show_all();

    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;

  private:
    std::optional<MapPlacing> own_;
    QPointF press_;
    MapPlacing at_press_;
    bool panning_ = false;
};

}  // namespace rendak::app
