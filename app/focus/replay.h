#pragma once

#include <QElapsedTimer>
#include <QObject>
#include <QTimer>

#include "app/focus/comparison.h"

namespace rendak::app {

/// Runs the cursor along the laps as time goes by: cars on the map, traces and pictures follow. Over the range again
/// and again, or over the lap.
class Replay : public QObject {
    Q_OBJECT
  public:
    Replay(Focus& focus, Comparison& comparison, QObject* parent = nullptr);

    void start();
    void stop();
    [[nodiscard]] bool running() const { return timer_.isActive(); }
    /// 0.1 to 4 times as quick as it was driven.
    void set_speed(double times);
    [[nodiscard]] double speed() const { return speed_; }
    /// One step of the usual speeds up or down.
    void step_speed(int step);
    /// By time: every lap as far as it is after the same time. By place: every lap where A is.
    void set_by_time(bool on);
    [[nodiscard]] bool by_time() const { return by_time_; }
    /// So many seconds go by, whatever the clock says; for tests and for the timer.
    void advance(double seconds);

    /// Recording time of a slot at this moment.
    [[nodiscard]] double time_of(int slot) const;

  Q_SIGNALS:
    /// It was started, stopped, or goes on otherwise.
    void changed();

  private:
    Focus& focus_;
    Comparison& comparison_;
    QTimer timer_;
    QElapsedTimer clock_;
    double clock_s_ = 0;  // what of it has gone by at the last tick
    double speed_ = 1;
    bool by_time_ = false;
};

}  // namespace rendak::app
