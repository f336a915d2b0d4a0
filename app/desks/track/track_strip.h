#pragma once

#include <QWidget>
#include <memory>

#include "core/track/track.h"

namespace rendak::app {

/// The track stretched out: curvature up (left) and down (right) with the corners as bands whose limits and apex can be
/// dragged, the sector lines, and under it the height of the road. A drag on free road chooses a stretch.
class TrackStrip : public QWidget {
    Q_OBJECT
  public:
    explicit TrackStrip(QWidget* parent = nullptr);
    void set_track(std::shared_ptr<const Track> track);
    void set_place(double distance_m);
    void set_selected(int corner);
    void set_range(Interval range_m);
    [[nodiscard]] double pixel_of(double distance_m) const;

  Q_SIGNALS:
    void place_chosen(double distance_m);
    void corner_chosen(int corner);
    void range_chosen(rendak::Interval range_m);
    void limits_dragged(int corner, rendak::Interval range_m);
    void apex_dragged(int corner, double apex_m);
    void sector_dragged(int line, double distance_m);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;

  private:
    enum class Grab { none, start, end, apex, sector, range };
    struct Hold {
        Grab grab = Grab::none;
        int index = -1;
    };
    [[nodiscard]] Hold hold_at(QPointF at) const;
    [[nodiscard]] double distance_at(double pixel) const;
    [[nodiscard]] QRectF curve_area() const;
    [[nodiscard]] QRectF height_area() const;

    std::shared_ptr<const Track> track_;
    double place_m_ = 0;
    int selected_ = -1;
    Interval range_m_;
    Hold held_;
    double press_m_ = 0, drag_m_ = 0;
    bool moved_ = false;
};

}  // namespace rendak::app
