#pragma once

#include <QWidget>

#include "app/focus/comparison.h"

namespace rendak::app {

class TraceCanvas;

/// The thin band above the traces that tells by texture what the baseline does: hatch = braking, dots = turning, solid
/// = full throttle, empty = neither.
class PhaseBar : public QWidget {
    Q_OBJECT
  public:
    PhaseBar(Focus& focus, Comparison& comparison, const TraceCanvas& canvas, QWidget* parent = nullptr);

  protected:
    void paintEvent(QPaintEvent* event) override;
    bool event(QEvent* event) override;

  private:
    Comparison& comparison_;
    const TraceCanvas& canvas_;
};

}  // namespace rendak::app
