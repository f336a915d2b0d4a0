#pragma once

#include <QWidget>
#include <optional>
#include <vector>

#include "app/plot/scale.h"

namespace rendak::app {

/// A lap to choose stretches on: its speed over the distance, and its corners.
struct RoadShape {
    double length_m = 0;
    std::vector<double> at_m, speed_mps;
    std::vector<std::pair<double, QString>> corners;  ///< where the line is tightest, and what it is called there
};

/// The stretches of the lap that a page is judged on. Drag an end to move it, drag beside them to add one, double-click
/// one (or press Delete on it) to take it out. While it is dragged it is only painted; chosen() comes when it is let
/// go.
class StretchStrip : public QWidget {
    Q_OBJECT
  public:
    explicit StretchStrip(QWidget* parent = nullptr);
    void set_road(RoadShape road);
    void set_stretches(std::vector<Interval> stretches_m);
    [[nodiscard]] const std::vector<Interval>& stretches() const { return stretches_; }
    [[nodiscard]] Scale x_scale() const;
    [[nodiscard]] QSize sizeHint() const override { return {600, strip_px}; }

  Q_SIGNALS:
    void chosen(const std::vector<Interval>& stretches_m);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    static constexpr int strip_px = 44;
    struct End {
        std::size_t stretch;
        bool begin;
    };
    [[nodiscard]] std::optional<End> end_at(double px) const;
    [[nodiscard]] std::optional<std::size_t> stretch_at(double px) const;
    void take_out(std::size_t stretch);
    /// In the order of the road; those that overlap become one.
    void put_in_order();

    RoadShape road_;
    std::vector<Interval> stretches_, before_;
    std::optional<std::size_t> held_;  ///< the one that was clicked
    std::optional<End> dragged_;
    double press_m_ = 0;
    bool fresh_ = false;  ///< a new one begins where it was pressed
};

}  // namespace rendak::app
