#include "core/intake/tread.h"

namespace rendak {
namespace {

struct Sum {
    double camber = 0, pressure = 0;
    std::size_t both = 0, middle = 0;
    void add(double inner, double middle_k, double outer) {
        if (!std::isfinite(inner + outer)) return;
        camber += inner - outer;
        ++both;
        if (!std::isfinite(middle_k)) return;
        pressure += middle_k - (inner + outer) / 2;
        ++middle;
    }
    [[nodiscard]] TreadReading::Apart mean(double step_s) const {
        TreadReading::Apart out;
        out.seconds = step_s * static_cast<double>(both);
        if (both > 0) out.inner_minus_outer = camber / static_cast<double>(both);
        if (middle > 0) out.middle_minus_edges = pressure / static_cast<double>(middle);
        return out;
    }
};

}  // namespace

std::vector<TreadReading> tread_readings(const RunData& run, const Stint& stint) {
    constexpr double step_s = 0.1;  // heat is slow
    constexpr auto kinds = wheel_kinds();
    const Recording& recording = *run.recording;
    const Channel* lateral = recording.find("lateral_acceleration");
    if (lateral == nullptr) return {};
    const DriverActivity driver(recording, run.scales != nullptr ? *run.scales : pedal_scales(recording));
    std::vector<TreadReading> out(wheel_ids.size());
    bool any = false;
    for (std::size_t w = 0; w < wheel_ids.size(); ++w) {
        const Channel* inner = recording.find(kinds[wheel_kind::inner].channel(w));
        const Channel* middle = recording.find(kinds[wheel_kind::middle].channel(w));
        const Channel* outer = recording.find(kinds[wheel_kind::outer].channel(w));
        if (inner == nullptr || outer == nullptr) continue;
        any = true;
        const bool left_wheel = w % 2 == 0;
        Sum loaded, straight;
        for (const Lap& lap : run.laps) {
            for (std::size_t k = 0; k < stint.laps.size(); ++k) {
                if (stint.laps[k] != lap.number || !stint.tells(k)) continue;
                for (double t = lap.start_s; t < lap.end_s; t += step_s) {
                    const double pull = lateral->value_at(t);
                    if (!std::isfinite(pull)) continue;
                    const bool corners = driver.cornering(t);
                    // Towards the left it loads the right wheels.
                    if (corners && (pull > 0) == left_wheel) continue;
                    (corners ? loaded : straight)
                        .add(inner->value_at(t), middle == nullptr ? std::nan("") : middle->value_at(t),
                             outer->value_at(t));
                }
            }
        }
        out[w] = {loaded.mean(step_s), straight.mean(step_s)};
    }
    if (!any) out.clear();
    return out;
}

}  // namespace rendak
