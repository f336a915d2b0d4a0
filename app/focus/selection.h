#pragma once

#include <QTimer>

#include "app/focus/comparison.h"
#include "app/focus/focus.h"
#include "app/session/session.h"

namespace rendak::app {

/// What is looked at in a library: the focus, and the picked laps aligned. A window has one, its own or one that it
/// shares with another window.
class Selection : public QObject {
    Q_OBJECT
  public:
    explicit Selection(Session& session, QObject* parent = nullptr);
    ~Selection() override { keep_now(); }

    Focus& focus() { return focus_; }
    Comparison& comparison() { return comparison_; }

    /// Picks a lap; false when the tray is full, which is told.
    bool pick(LapRef lap);
    /// Picks the best lap of a run; false when it has none.
    bool pick_best(RunId run);
    /// The previous or next complete lap of the same run, for the active slot.
    void step_lap(int step);
    /// Back to the best lap of the active slot's run.
    void best_of_active();

    /// Writes down at once what a moment later would be written down anyway.
    void keep_now();
    /// The focus as it was when the library was last looked at by this person.
    void restore();

  private:
    void keep();
    Session& session_;
    Focus focus_;
    Comparison comparison_;
    QTimer keep_soon_;  ///< kept a moment after it changed, so that a crash loses nothing
};

}  // namespace rendak::app
