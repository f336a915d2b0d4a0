#pragma once

#include <QWidget>

#include "app/focus/comparison.h"

namespace rendak::app {

/// Per quantity and lap: the value at the cursor, the difference to A, and low, mean and high in the range. A click on
/// a low or a high puts the cursor there. While there is a pin: what happens between it and the cursor instead, with
/// the time and the way of each lap on top.
class ValuePanel : public QWidget {
    Q_OBJECT
  public:
    ValuePanel(Focus& focus, Comparison& comparison, QWidget* parent = nullptr);
    void set_quantities(std::vector<std::string> quantities);
    [[nodiscard]] QSize sizeHint() const override;
    [[nodiscard]] QSize minimumSizeHint() const override { return {300, 120}; }

    /// What stands in a cell, for tests and for reading aloud: columns value, difference, low, mean, high.
    enum class Cell { value, difference, low, mean, high };
    [[nodiscard]] QString data_text() const;
    /// The same while there is a pin: value at the cursor, change since the pin, mean, slope a second, area.
    enum class PinCell { value, change, mean, slope, area };
    [[nodiscard]] QString pin_text(const std::string& quantity, int slot, PinCell cell) const;
    /// "2.314 s", "184.2 m" and the change of the gap, of a lap between pin and cursor.
    struct Between {
        double time_s = 0, way_m = 0, gap_s = 0;
    };
    [[nodiscard]] std::optional<Between> between(int slot) const;
    [[nodiscard]] QString text(const std::string& quantity, int slot, Cell cell) const;
    [[nodiscard]] QRect cell_area(const std::string& quantity, int slot, Cell cell) const;

  Q_SIGNALS:
    /// A right click on a lap's row.
    void lap_menu_asked(int slot, QPoint at);

  protected:
    void contextMenuEvent(QContextMenuEvent* event) override;
    void paintEvent(QPaintEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;

  private:
    struct Row {
        std::string quantity;
        int slot;  ///< -1: the quantity's heading
    };
    [[nodiscard]] std::vector<Row> rows() const;
    [[nodiscard]] const RangeFigures& figures(const std::string& quantity, int slot) const;
    [[nodiscard]] bool jump_at(QPoint at, double* place) const;
    [[nodiscard]] QStringList slid() const;
    void forget_figures();
    [[nodiscard]] int head_height() const;
    void paint_between(QPainter& painter) const;
    [[nodiscard]] QString cell_text(const std::string& quantity, int slot, int column) const;

    Focus& focus_;
    Comparison& comparison_;
    std::vector<std::string> quantities_;
    mutable std::map<std::pair<std::string, int>, RangeFigures> figures_;
};

}  // namespace rendak::app
