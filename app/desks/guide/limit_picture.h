#pragma once

#include <QWidget>

#include "app/desks/guide/guide_data.h"

namespace rendak::app {

/// What the car was seen to reach, by speed: each corner with its hand, the limit above them, braking and driving; what
/// somebody calculated beside it. A click on a corner that was left out lets it count, and back.
class LimitPicture : public QWidget {
    Q_OBJECT
  public:
    explicit LimitPicture(QWidget* parent = nullptr);
    void set_data(std::shared_ptr<const GuideData> guide);
    /// Where a corner's point is; null for one that is not in it.
    [[nodiscard]] QPointF place_of(int corner) const;
    [[nodiscard]] QString words() const;

  Q_SIGNALS:
    void corner_clicked(int corner);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    bool event(QEvent* event) override;

  private:
    void paint(QPainter& painter, QRectF area) const;
    [[nodiscard]] QRectF plot_in(QRectF area) const;
    [[nodiscard]] QPointF at(QRectF plot, double speed_mps, double mps2) const;
    [[nodiscard]] double most_mps() const;
    [[nodiscard]] double most_mps2() const;
    [[nodiscard]] int corner_at(QPointF at) const;

    std::shared_ptr<const GuideData> data_;
};

}  // namespace rendak::app
