#pragma once

#include <QObject>

#include "app/focus/focus_state.h"

namespace rendak::app {

/// The one shared selection. It compares first, stores the whole state, then tells who listens. Given to desks by
/// their constructors.
class Focus : public QObject {
    Q_OBJECT
  public:
    using QObject::QObject;
    [[nodiscard]] const FocusState& state() const { return state_; }
    [[nodiscard]] int slot_of(LapRef lap) const;

    void set_state(const FocusState& state);
    /// Puts a lap into the next free slot; false when all are taken. A lap that is in already becomes the active one.
    bool add_lap(LapRef lap);
    void remove_slot(int slot);
    void replace_slot(int slot, LapRef lap);
    /// Makes a slot's lap the baseline; the former baseline takes its slot.
    void make_baseline(int slot);
    void clear_laps();
    void set_active_slot(int slot);
    void set_fastest_is_a(bool on);

    void set_range(Interval range_m);
    void set_cursor(double cursor_m);
    void set_axis(Axis axis);
    void set_run_range(Interval range_s);
    void set_run_cursor(double cursor_s);
    /// Moves a whole run to the right, to lie over A's.
    void set_shift(RunId run, double shift_s);
    /// Slides a lap's curves along the road, to compare shapes: gap, figures and map stay as they are. 0 puts it back.
    void slide(LapRef lap, double by_m);

  Q_SIGNALS:
    void laps_changed();
    void range_changed();
    void cursor_changed();
    void pin_changed();
    void axis_changed();
    void slid_changed();

  private:
    void change(const auto& edit);
    FocusState state_;
};

}  // namespace rendak::app
