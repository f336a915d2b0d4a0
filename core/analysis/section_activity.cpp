#include "core/analysis/section_activity.h"

#include <cmath>

namespace rendak {
namespace {

constexpr ActivityFigure activity_figures[] = {
    {"brake_s", "On the brake", "s", Better::less, &SectionActivity::brake_s},
    {"brake_m", "On the brake", "m", Better::less, &SectionActivity::brake_m},
    {"throttle_s", "On the throttle", "s", Better::neither, &SectionActivity::throttle_s},
    {"throttle_m", "On the throttle", "m", Better::neither, &SectionActivity::throttle_m},
    {"full_s", "Full throttle", "s", Better::neither, &SectionActivity::full_s},
    {"full_m", "Full throttle", "m", Better::more, &SectionActivity::full_m},
    {"coasting_s", "Coasting", "s", Better::less, &SectionActivity::coasting_s},
    {"coasting_m", "Coasting", "m", Better::less, &SectionActivity::coasting_m},
    {"neither_s", "Neither pedal", "s", Better::less, &SectionActivity::neither_s},
    {"neither_m", "Neither pedal", "m", Better::less, &SectionActivity::neither_m},
};

}  // namespace

std::span<const ActivityFigure> all_activity_figures() {
    return activity_figures;
}

std::vector<SectionActivity> section_activity(const PreparedLap& lap, std::span<const Interval> ranges_m) {
    constexpr double step_s = 0.02;
    const DriverActivity driver = lap.activity();
    std::vector<SectionActivity> out(ranges_m.size());
    for (std::size_t k = 0; k < ranges_m.size(); ++k) {
        SectionActivity& it = out[k];
        if (!driver.known()) {
            for (const ActivityFigure& figure : activity_figures) it.*figure.value = std::nan("");
            continue;
        }
        const double end = lap.map.time_at(ranges_m[k].end);
        for (double t = lap.map.time_at(ranges_m[k].begin); t < end; t += step_s) {
            const double by_s = std::min(step_s, end - t), middle = t + by_s / 2;
            const double by_m = lap.map.distance_at(t + by_s) - lap.map.distance_at(t);
            const auto add = [&](bool on, double& seconds, double& metres) {
                seconds += on ? by_s : 0;
                metres += on ? by_m : 0;
            };
            add(driver.braking(middle), it.brake_s, it.brake_m);
            add(driver.on_throttle(middle), it.throttle_s, it.throttle_m);
            add(driver.full_throttle(middle), it.full_s, it.full_m);
            add(driver.coasting(middle), it.coasting_s, it.coasting_m);
            add(driver.off_pedals(middle), it.neither_s, it.neither_m);
        }
    }
    return out;
}

}  // namespace rendak
