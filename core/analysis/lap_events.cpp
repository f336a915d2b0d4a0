#include "core/analysis/lap_events.h"

#include <algorithm>
#include <cmath>

namespace rendak {
namespace {

constexpr double least_gear_s = 0.1, nearest_shift_m = 150;

void add_shifts(const PreparedLap& lap, std::vector<LapEvent>& out) {
    const Channel* gear = lap.recording->find("gear");
    if (gear == nullptr) return;
    const double begin = lap.map.start_s(), end = lap.map.end_s();
    int now = 0;  // the last gear that was held; 0: none yet
    for (std::size_t i = gear->clock.first_at_or_after(begin); i < gear->size() && gear->clock.time_at(i) < end;) {
        const double t = gear->clock.time_at(i), value = gear->at(i);
        std::size_t next = i + 1;
        while (next < gear->size() && gear->at(next) == value) ++next;
        const double held_s = (next < gear->size() ? gear->clock.time_at(next) : end) - t;
        i = std::isfinite(value) ? next : i + 1;
        if (!std::isfinite(value) || value < 0.5 || held_s < least_gear_s) continue;
        const int taken = static_cast<int>(std::lround(value));
        if (now != 0 && taken != now)
            out.push_back(
                {taken > now ? EventKind::shift_up : EventKind::shift_down, 0, lap.map.distance_at(t), taken});
        now = taken;
    }
}

}  // namespace

std::string event_words(const LapEvent& event) {
    switch (event.kind) {
        case EventKind::lift:
            return "lifts";
        case EventKind::brake_on:
            return "brakes";
        case EventKind::turn_in:
            return "turns in";
        case EventKind::slowest:
            return "is slowest";
        case EventKind::brake_off:
            return "is off the brake";
        case EventKind::throttle_on:
            return "is back on the throttle";
        case EventKind::full_throttle:
            return "is at full throttle";
        case EventKind::shift_up:
            return "shifts up to gear " + std::to_string(event.gear);
        case EventKind::shift_down:
            return "shifts down to gear " + std::to_string(event.gear);
    }
    return {};
}

std::vector<LapEvent> lap_events(const PreparedLap& lap, const std::vector<CornerEvents>& corners) {
    std::vector<LapEvent> out;
    for (const CornerEvents& at : corners) {
        const auto add = [&](EventKind kind, const std::optional<double>& place) {
            if (place) out.push_back({kind, at.corner, *place});
        };
        add(EventKind::lift, at.lift_m);
        add(EventKind::brake_on, at.brake_on_m);
        add(EventKind::turn_in, at.turn_in_m);
        add(EventKind::slowest, at.slowest_m);
        add(EventKind::brake_off, at.brake_off_m);
        add(EventKind::throttle_on, at.throttle_on_m);
        add(EventKind::full_throttle, at.full_throttle_m);
    }
    add_shifts(lap, out);
    std::stable_sort(out.begin(), out.end(),
                     [](const LapEvent& a, const LapEvent& b) { return a.place_m < b.place_m; });
    return out;
}

std::optional<LapEvent> same_event(const LapEvent& event, const std::vector<LapEvent>& others) {
    const LapEvent* best = nullptr;
    for (const LapEvent& other : others) {
        if (other.kind != event.kind || other.corner != event.corner || other.gear != event.gear) continue;
        const double away = std::abs(other.place_m - event.place_m);
        if (event.corner == 0 && away > nearest_shift_m) continue;
        if (best == nullptr || away < std::abs(best->place_m - event.place_m)) best = &other;
    }
    return best == nullptr ? std::nullopt : std::optional(*best);
}

}  // namespace rendak
