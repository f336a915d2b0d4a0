#pragma once

#include <QWidget>

#include "app/desks/guide/guide_data.h"
#include "app/plot/map_placing.h"
#include "app/plot/road_picture.h"

namespace rendak::app {

/// The whole road, from above or from the side with its heights drawn larger; a drag turns it. The chosen corner is
/// marked with the place where the lap brakes for it; a click chooses another.
class GuideRoad : public QWidget {
    Q_OBJECT
  public:
    explicit GuideRoad(QWidget* parent = nullptr);
    void set_data(std::shared_ptr<const GuideData> guide);
    void set_corner(std::size_t corner);
    /// From the side, where the track's heights are known; else from above.
    void set_from_side(bool on);
    /// Where a corner's apex is drawn.
    [[nodiscard]] QPointF place_of(std::size_t corner) const;

  Q_SIGNALS:
    void corner_picked(std::size_t corner);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;

  private:
    [[nodiscard]] bool is_from_side() const { return from_side_ && data_ != nullptr && data_->guide.height_known; }
    /// Turned and tilted, before it is fitted; metres.
    [[nodiscard]] Point seen(Point place, double up_m) const;
    /// All of it in an area as large as that.
    [[nodiscard]] MapPlacing placing(QSizeF size) const;
    [[nodiscard]] RoadPicture road(QPainter& painter) const;
    [[nodiscard]] double up_at(double distance_m) const;

    std::shared_ptr<const GuideData> data_;
    std::size_t corner_ = 0;
    bool from_side_ = true, dragged_ = false;
    double turned_rad_ = 0;
    QPoint press_;
    double turned_at_press_rad_ = 0;
};

}  // namespace rendak::app
