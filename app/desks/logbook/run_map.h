#pragma once

#include <QWidget>
#include <memory>
#include <optional>

#include "app/plot/map_placing.h"
#include "core/intake/import.h"
#include "core/track/path.h"

namespace rendak::app {

/// A run from above, as it was driven, to place a start line on: a click puts it across the path there, in the
/// direction in which the car went by. Wheel and drag zoom and move.
class RunMap : public QWidget {
    Q_OBJECT
  public:
    explicit RunMap(QWidget* parent = nullptr);
    void set_path(std::shared_ptr<const Path> path);
    void set_message(const QString& message);
    /// Shows a line that was typed, or none.
    void set_line(const std::optional<StartPlace>& line);
    /// Where a time of the path lies.
    [[nodiscard]] QPointF pixel_at(double time_s) const;

  Q_SIGNALS:
    void line_placed(const StartPlace& line);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;

  private:
    [[nodiscard]] MapPlacing placing() const;

    std::shared_ptr<const Path> path_;
    std::vector<std::size_t> drawn_;  ///< indices of the path a few metres apart
    Point low_, high_;
    QString message_;
    std::optional<StartPlace> line_;
    std::optional<MapPlacing> own_;
    MapPlacing at_press_;
    QPointF press_;
    bool panning_ = false;
};

}  // namespace rendak::app
