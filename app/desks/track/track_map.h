#pragma once

#include <memory>

#include "app/plot/panned_map.h"
#include "app/plot/road_picture.h"
#include "core/track/track.h"

namespace rendak::app {

/// A track from above for the editor: road or edges, start line and finish, sector lines, pit lane, corners with their
/// numbers, and the place that the desk points at. Click chooses a place; wheel and drag zoom and move.
class TrackMap : public PannedMap {
    Q_OBJECT
  public:
    explicit TrackMap(QWidget* parent = nullptr);
    void set_track(std::shared_ptr<const Track> track);
    void set_place(double distance_m);
    void set_selected(int corner);

  Q_SIGNALS:
    void place_chosen(double distance_m);
    void corner_chosen(int corner);

  protected:
    [[nodiscard]] bool shows_something() const override { return track_ != nullptr; }
    [[nodiscard]] MapPlacing fitted() const override;
    void clicked(QPointF at) override;
    void paintEvent(QPaintEvent* event) override;

  private:
    [[nodiscard]] RoadPicture road(QPainter& painter) const;
    void draw_road(QPainter& painter) const;
    void draw_marks(QPainter& painter) const;

    std::shared_ptr<const Track> track_;
    Bounds bounds_;
    double place_m_ = 0;
    int selected_ = -1;
};

}  // namespace rendak::app
