#pragma once

#include <optional>

#include "app/focus/comparison.h"
#include "app/plot/kept_picture.h"
#include "app/plot/map_paint.h"
#include "app/plot/map_placing.h"
#include "app/plot/road_picture.h"
#include "app/plot/view_out.h"

namespace rendak::app {

/// The track seen from above: the plan of the circuit or the lines as driven, or from the side with its height. Start
/// line, direction, corner numbers, sector lines, edges; the picked cars at the cursor; a lap's line painted by a
/// channel; what each lap does at the corners as shapes. Click moves the cursor; wheel and drag zoom and move, Shift
/// and wheel turn.
class MapCanvas : public KeptPicture {
    Q_OBJECT
  public:
    enum class View {
        plan,   ///< where am I
        lines,  ///< which line was driven
        side    ///< how the road climbs and falls
    };

    MapCanvas(Focus& focus, Comparison& comparison, QWidget* parent = nullptr);
    void set_view(View view);
    [[nodiscard]] View view() const { return view_; }
    void zoom(double factor);
    /// Shows the whole track (plan, side) or the range (lines) again.
    void fit();
    void fit_range();
    /// Every new range is what is seen of the map.
    void follow_range(bool on);
    [[nodiscard]] bool follows_range() const { return follows_range_; }
    void turn(double degrees);
    void north_up();
    [[nodiscard]] double turned_deg() const { return turned_deg_; }
    void set_turned(double degrees);
    void set_paint(const MapPaint& paint);
    [[nodiscard]] const MapPaint& paint() const { return paint_; }
    void show_events(bool on);
    [[nodiscard]] bool shows_events() const { return events_on_; }
    /// Of a place on the ground.
    [[nodiscard]] QPointF to_pixel(Point place) const { return to_pixel(place, 0); }
    /// What stands beside the pointer; empty off the road.
    [[nodiscard]] QString hover_text() const;
    /// As it is on the screen, without the cars, to be given out.
    [[nodiscard]] ViewOut out(const QString& name);

  Q_SIGNALS:
    void turned();

  protected:
    void draw_picture(QImage& image) override;
    void draw_over(QPainter& painter) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void leaveEvent(QEvent* event) override;

  private:
    /// In the turned (and in the side view tilted) plane; `up_m` above the lowest point of the road.
    [[nodiscard]] Point seen(Point place, double up_m) const;
    [[nodiscard]] QPointF to_pixel(Point place, double up_m) const;
    [[nodiscard]] RoadPicture road(QPainter& painter) const;
    [[nodiscard]] double up_at(double distance_m) const;
    [[nodiscard]] MapPlacing fitted_to(Interval range_m) const;
    [[nodiscard]] MapPlacing fitted() const;
    [[nodiscard]] MapPlacing placing() const { return own_.value_or(fitted()); }
    [[nodiscard]] std::optional<double> place_under(QPointF pixel, double reach_px) const;
    void show_anew();
    void paint_map(QPainter& painter) const;
    void draw_road(QPainter& painter) const;
    void draw_laps(QPainter& painter) const;
    void draw_painted(QPainter& painter, int slot) const;
    void draw_events(QPainter& painter) const;
    void draw_notes(QPainter& painter) const;
    void draw_labels(QPainter& painter) const;
    void draw_legend(QPainter& painter) const;
    void draw_cars(QPainter& painter) const;

    Focus& focus_;
    Comparison& comparison_;
    View view_ = View::plan;
    MapPaint paint_;
    bool events_on_ = false, follows_range_ = false;
    double turned_deg_ = 0;
    mutable std::optional<MapPlacing> fitted_;  ///< worked out once a change: every point on the map asks for it
    mutable QSize fitted_size_;
    mutable double lowest_m_ = 0, stretch_up_ = 1;
    std::optional<MapPlacing> own_;  ///< set once the user has zoomed or moved
    std::optional<double> hover_m_;
    QPointF hover_at_;
    QPointF press_;
    MapPlacing at_press_;
    bool panning_ = false;
};

}  // namespace rendak::app
