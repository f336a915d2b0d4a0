#pragma once

#include <memory>
#include <optional>

#include "app/plot/panned_map.h"
#include "core/intake/import.h"
#include "core/track/path.h"

namespace rendak::app {

/// A run from above, as it was driven, to place a start line on: a click puts it across the path there, in the
/// direction in which the car went by. Wheel and drag zoom and move.
class RunMap : public PannedMap {
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
    [[nodiscard]] bool shows_something() const override { return !drawn_.empty(); }
    [[nodiscard]] MapPlacing fitted() const override;
    void clicked(QPointF at) override;
    void paintEvent(QPaintEvent* event) override;

  private:
    std::shared_ptr<const Path> path_;
    std::vector<std::size_t> drawn_;  ///< indices of the path a few metres apart
    Point low_, high_;
    QString message_;
    std::optional<StartPlace> line_;
};

}  // namespace rendak::app
