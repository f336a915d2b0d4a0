#include "core/analysis/wheel_events.h"

#include <algorithm>
#include <cmath>

namespace rendak {

std::vector<WheelEvent> wheel_events(const PreparedLap& lap) {
    constexpr double locked = -0.15, spinning = 0.15, locked_s = 0.05, spinning_s = 0.1;
    constexpr double locked_from_mps = 30 / 3.6, spinning_from_mps = 20 / 3.6;
    std::vector<WheelEvent> out;
    const Channel* speed = lap.recording->find("speed");
    if (speed == nullptr) return out;
    for (const char* name : {"fl", "fr", "rl", "rr"}) {
        const Channel* wheel = lap.recording->find_logged(std::string("wheel_speed_") + name);
        if (wheel == nullptr || wheel == speed) continue;
        std::optional<WheelEvent> now;
        double since_s = 0;
        const auto end = [&](double t) {
            if (!now) return;
            now->duration_s = t - since_s;
            now->range_m = {lap.map.distance_at(since_s), lap.map.distance_at(t)};
            if (now->duration_s >= (now->kind == WheelEvent::Kind::locks_up ? locked_s : spinning_s) - 1e-9)
                out.push_back(*now);
            now.reset();
        };
        for (std::size_t i = wheel->clock.first_at_or_after(lap.map.start_s()); i < wheel->size(); ++i) {
            const double t = wheel->clock.time_at(i);
            if (t > lap.map.end_s()) break;
            const double v = speed->value_at(t), slip = wheel->at(i) / v - 1;
            const bool locks = v > locked_from_mps && slip<locked, spins = v> spinning_from_mps && slip > spinning;
            const auto kind = locks ? WheelEvent::Kind::locks_up : WheelEvent::Kind::spins;
            if (now && (!(locks || spins) || now->kind != kind)) end(t);
            if (!locks && !spins) continue;
            if (!now) {
                now.emplace();
                now->kind = kind;
                now->wheel = name;
                since_s = t;
            }
            if (std::abs(slip) > std::abs(now->depth)) now->depth = slip;
        }
        end(lap.map.end_s());
    }
    std::sort(out.begin(), out.end(),
              [](const WheelEvent& a, const WheelEvent& b) { return a.range_m.begin < b.range_m.begin; });
    return out;
}

}  // namespace rendak
