#pragma once

#include <QWidget>
#include <optional>

#include "app/text/shown.h"
#include "core/laps/trace.h"

namespace rendak::app {

/// One curve over a lap: what a formula makes of it. A click or drag moves the shared cursor.
class PreviewPlot : public QWidget {
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

  Q_SIGNALS:
    void cursor_asked(double at_m);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;

  private:
    [[nodiscard]] QRect plot_area() const;
    [[nodiscard]] double end_m() const;

    Trace trace_;
    Shown how_;
    int slot_ = 0;
    QString text_;
    double cursor_m_ = 0;
};

}  // namespace rendak::app
