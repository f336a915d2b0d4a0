#pragma once

#include <QWidget>
#include <memory>
#include <optional>

#include "app/plot/map_placing.h"
#include "app/plot/road_picture.h"
#include "core/track/track.h"

namespace rendak::app {

/// A track from above for the editor: road or edges, start line and finish, sector lines, pit lane, corners with their
/// numbers, and the place that the desk points at. Click chooses a place; wheel and drag zoom and move.
class TrackMap : public QWidget {
    Q_OBJECT
  public:
    explicit TrackMap(QWidget* parent = nullptr);
    void set_track(std::shared_ptr<const Track> track);
    void set_place(double distance_m);
    void set_selected(int corner);
    [[nodiscard]] QPointF to_pixel(Point place) const;

  Q_SIGNALS:
    void place_chosen(double distance_m);
    void corner_chosen(int corner);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;

  private:
    [[nodiscard]] MapPlacing fitted() const;
    [[nodiscard]] MapPlacing placing() const { return own_ ? *own_ : fitted(); }
    [[nodiscard]] RoadPicture road(QPainter& painter) const;
    void draw_road(QPainter& painter) const;
    void draw_marks(QPainter& painter) const;

    std::shared_ptr<const Track> track_;
    Bounds bounds_;
    double place_m_ = 0;
    int selected_ = -1;
    std::optional<MapPlacing> own_;
    QPointF press_;
    MapPlacing at_press_;
    bool panning_ = false;
};

}  // namespace rendak::app
