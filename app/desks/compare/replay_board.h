#pragma once

#include <QWidget>

#include "app/focus/replay.h"
#include "core/analysis/car_moment.h"

namespace rendak::app {

/// What each car does at the moment of the replay: pedals, steering, gear, revs, speed, g and gap, a row a lap.
class ReplayBoard : public QWidget {
    Q_OBJECT
  public:
    ReplayBoard(Focus& focus, Comparison& comparison, Replay& replay, QWidget* parent = nullptr);
    [[nodiscard]] QSize sizeHint() const override;

    struct Row {
        CarMoment now;
        double gap_s = 0;  ///< NaN: none
    };
    [[nodiscard]] Row row(int slot) const;

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    void want();
    Comparison& comparison_;
    Replay& replay_;
    mutable std::map<int, CarMoments> moments_;  ///< of the laps; made once
};

}  // namespace rendak::app
