#pragma once

#include <QWidget>

#include "core/laps/prepared_lap.h"

namespace rendak::app {

/// The trace about the moment that the film shows, to put both in step by eye: speed, steering and brake over ten
/// seconds before and behind, the moment in the middle. Drag it, and the film lies earlier or later.
class MomentStrip : public QWidget {
    Q_OBJECT
  public:
    explicit MomentStrip(QWidget* parent = nullptr);
    void set_lap(std::shared_ptr<const Recording> recording);
    void show_moment(double run_s);
    [[nodiscard]] QSize sizeHint() const override { return {400, 74}; }

  Q_SIGNALS:
    /// The data are to lie so many seconds later under the picture.
    void dragged(double by_s);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;

  private:
    static constexpr double half_s = 10;
    std::shared_ptr<const Recording> recording_;
    double run_s_ = 0, press_px_ = 0, moved_s_ = 0;
    bool pressed_ = false;
};

}  // namespace rendak::app
