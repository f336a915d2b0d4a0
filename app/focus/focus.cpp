#include "app/focus/focus.h"

#include <algorithm>

namespace rendak::app {

int Focus::slot_of(LapRef lap) const {
    const auto found = std::find(state_.laps.begin(), state_.laps.end(), lap);
    return found == state_.laps.end() ? -1 : static_cast<int>(found - state_.laps.begin());
}

void Focus::set_state(const FocusState& state) {
    const FocusState before = state_;
    state_ = state;
    const int last = static_cast<int>(state_.laps.size()) - 1;
    state_.active_slot = std::clamp(state_.active_slot, 0, std::max(0, last));
    // A lap that is taken away, or that the others are measured against, lies where it was driven.
    std::erase_if(state_.slid_m, [this](const auto& it) { return it.second == 0 || slot_of(it.first) <= 0; });
    if (before.laps != state_.laps || before.active_slot != state_.active_slot ||
        before.fastest_is_a != state_.fastest_is_a || before.shifts_s != state_.shifts_s) {
        Q_EMIT laps_changed();
    }
    if (before.range_m != state_.range_m || before.run_range_s != state_.run_range_s) Q_EMIT range_changed();
    if (before.cursor_m != state_.cursor_m || before.run_cursor_s != state_.run_cursor_s) Q_EMIT cursor_changed();
    if (before.pin_m != state_.pin_m || before.run_pin_s != state_.run_pin_s) Q_EMIT pin_changed();
    if (before.axis != state_.axis) Q_EMIT axis_changed();
    if (before.slid_m != state_.slid_m) Q_EMIT slid_changed();
}

bool Focus::add_lap(LapRef lap) {
    FocusState next = state_;
    const int known = slot_of(lap);
    if (known >= 0) {
        next.active_slot = known;
    } else if (next.laps.size() < most_laps) {
        next.laps.push_back(lap);
        next.active_slot = static_cast<int>(next.laps.size()) - 1;
    } else {
        return false;
    }
    set_state(next);
    return true;
}

void Focus::remove_slot(int slot) {
    if (slot < 0 || slot >= static_cast<int>(state_.laps.size())) return;
    FocusState next = state_;
    next.laps.erase(next.laps.begin() + slot);
    if (next.active_slot >= slot && next.active_slot > 0) --next.active_slot;
    if (next.active_slot == 0 && next.laps.size() > 1) next.active_slot = 1;
    set_state(next);
}

void Focus::replace_slot(int slot, LapRef lap) {
    if (slot < 0 || slot >= static_cast<int>(state_.laps.size()) || slot_of(lap) >= 0) return;
    FocusState next = state_;
    next.laps[static_cast<std::size_t>(slot)] = lap;
    next.active_slot = slot;
    set_state(next);
}

void Focus::make_baseline(int slot) {
    if (slot <= 0 || slot >= static_cast<int>(state_.laps.size())) return;
    FocusState next = state_;
    std::swap(next.laps[0], next.laps[static_cast<std::size_t>(slot)]);
    next.active_slot = slot;
    next.fastest_is_a = false;  // chosen by hand: it stays
    set_state(next);
}

void Focus::change(const auto& edit) {
    FocusState next = state_;
    edit(next);
    set_state(next);
}

void Focus::clear_laps() {
    change([](FocusState& next) {
        next.laps.clear();
        next.active_slot = 0;
    });
}

void Focus::set_active_slot(int slot) {
    change([&](FocusState& next) { next.active_slot = slot; });
}

void Focus::set_fastest_is_a(bool on) {
    change([&](FocusState& next) { next.fastest_is_a = on; });
}

void Focus::set_range(Interval range_m) {
    change([&](FocusState& next) { next.range_m = range_m; });
}

void Focus::set_cursor(double cursor_m) {
    change([&](FocusState& next) { next.cursor_m = cursor_m; });
}

void Focus::set_run_range(Interval range_s) {
    change([&](FocusState& next) { next.run_range_s = range_s; });
}

void Focus::set_run_cursor(double cursor_s) {
    change([&](FocusState& next) { next.run_cursor_s = cursor_s; });
}

void Focus::set_shift(RunId run, double shift_s) {
    change([&](FocusState& next) { next.shifts_s[run] = shift_s; });
}

void Focus::slide(LapRef lap, double by_m) {
    change([&](FocusState& next) { next.slid_m[lap] = by_m; });
}

void Focus::set_axis(Axis axis) {
    change([&](FocusState& next) { next.axis = axis; });
}

}  // namespace rendak::app
