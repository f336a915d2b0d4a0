#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/analysis/corner_events.h"

namespace rendak {

/// What a driver does at a moment of a lap, so that the same moment of two laps can be measured against each other.
enum class EventKind { lift, brake_on, turn_in, slowest, brake_off, throttle_on, full_throttle, shift_up, shift_down };

struct LapEvent {
    EventKind kind = EventKind::slowest;
    int corner = 0;  ///< 0: of no corner (shifts)
    double place_m = 0;
    int gear = 0;  ///< of shifts: the gear that is taken
    bool operator==(const LapEvent&) const = default;
};

/// "brakes", "turns in", "is slowest" … as a sentence of the lap goes on.
[[nodiscard]] std::string event_words(const LapEvent& event);

/// All events of a lap in the order of their places; `corners` are the lap's own corner_events(). A shift is a change
/// of the logged gear that stays for 0.1 s at least; neutral in between is part of it.
[[nodiscard]] std::vector<LapEvent> lap_events(const PreparedLap& lap, const std::vector<CornerEvents>& corners);

/// The same event among another lap's: of the same kind at the same corner, or the nearest shift into the same gear
/// within 150 m. nullopt: the other lap does not do it.
[[nodiscard]] std::optional<LapEvent> same_event(const LapEvent& event, const std::vector<LapEvent>& others);

}  // namespace rendak
