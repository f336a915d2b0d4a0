#pragma once

#include "app/focus/comparison.h"
#include "app/plot/kept_picture.h"
#include "app/plot/trace_picture.h"
#include "app/plot/view_out.h"

namespace rendak::app {

/// Lap after lap: the same range of every complete lap of the active lap's run as small pictures in a row, A's behind
/// each. A click puts the lap into the active slot.
class LapsPicture : public KeptPicture {
    Q_OBJECT
  public:
    LapsPicture(Focus& focus, Comparison& comparison, Jobs& jobs, QWidget* parent = nullptr);
    void show_quantity(const std::string& quantity);
    [[nodiscard]] QSize sizeHint() const override;

    struct Small {
        LapRef ref;
        double time_s = 0;
        bool included = false;
        Trace trace;  ///< against the distance
    };
    [[nodiscard]] const std::vector<Small>& laps() const { return laps_; }
    [[nodiscard]] QRect area_of(std::size_t lap) const;
    [[nodiscard]] ViewOut out(const QString& name);

  protected:
    void draw_picture(QImage& image) override;
    void draw_over(QPainter& painter) override;
    void mousePressEvent(QMouseEvent* event) override;
    void showEvent(QShowEvent* event) override;

  private:
    struct Cell {
        QRect inside;
        std::vector<PlottedTrace> curves;
    };
    [[nodiscard]] std::vector<Cell> paint_frames(QPainter& painter) const;
    /// From the lowest to the highest of all laps in the range.
    [[nodiscard]] Interval values_si() const;
    void read();
    [[nodiscard]] std::shared_ptr<const RunData> run() const;

    Focus& focus_;
    Comparison& comparison_;
    Latest reading_;
    std::string quantity_ = "speed";
    std::vector<Small> laps_;
    std::pair<std::shared_ptr<const RunData>, std::string> read_;  ///< what `laps_` are of
    QString message_;
};

}  // namespace rendak::app
