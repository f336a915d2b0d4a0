#pragma once

#include "app/plot/plot_frame.h"
#include "app/text/shown.h"
#include "core/laps/trace.h"

namespace rendak::app {

/// One curve over a lap: what a formula makes of it. It zooms like every plot; its cursor is the shared one, the view
/// its own.
class PreviewPlot : public PlotFrame {
    Q_OBJECT
  public:
    explicit PreviewPlot(QWidget* parent = nullptr);

    void show_trace(Trace trace, Shown how, int slot);
    /// Instead of a curve: why there is none.
    void show_text(const QString& text);
    /// Place of the shared cursor, metres.
    void set_cursor(double at_m);
    [[nodiscard]] const Trace& trace() const { return trace_; }
    [[nodiscard]] Interval values() const;
    [[nodiscard]] QRect plot_area() const override;

  Q_SIGNALS:
    void cursor_asked(double at_m);

  protected:
    void draw_picture(QImage& image) override;
    void draw_cursor(QPainter& painter) override;

  private:
    [[nodiscard]] OwnAxis& own() const { return static_cast<OwnAxis&>(axis()); }

    Trace trace_;
    Shown how_;
    int slot_ = 0;
    QString text_;
    bool told_ = false;  ///< the cursor was set from outside
};

}  // namespace rendak::app
