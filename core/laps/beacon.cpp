#include "core/laps/beacon.h"

#include <algorithm>
#include <cmath>

#include "core/base/text.h"

namespace rendak {

std::optional<BeaconOffset> beacon_offset(const Recording& recording, const Path& path, const std::vector<Lap>& laps) {
    constexpr double farthest_s = 8, agreement_s = 0.05;
    const Channel* count = recording.find("lap_count");
    if (count == nullptr || path.size() < 2) return std::nullopt;
    std::vector<BeaconOffset> offsets;
    for (std::size_t i = 1; i < count->size(); ++i) {
        if (!(count->at(i) > count->at(i - 1))) continue;
        const double t = count->clock.time_at(i);
        for (std::size_t k = 1; k < laps.size(); ++k) {
            const double crossing = laps[k].start_s;
            if (std::abs(t - crossing) > farthest_s) continue;
            offsets.push_back({t - crossing, path.distance_at(t) - path.distance_at(crossing)});
        }
    }
    if (offsets.empty()) return std::nullopt;
    const auto middle = offsets.begin() + static_cast<std::ptrdiff_t>(offsets.size() / 2);
    std::nth_element(offsets.begin(), middle, offsets.end(),
                     [](const auto& a, const auto& b) { return a.late_s < b.late_s; });
    const double sample_s = 1 / std::max(count->clock.mean_rate_hz(), 0.1);
    if (std::abs(middle->late_s) <= agreement_s + sample_s) return std::nullopt;
    return *middle;
}

void note_beacon(std::vector<Lap>& laps, const Recording& recording, const Path& path) {
    const auto offset = beacon_offset(recording, path, laps);
    if (!offset) return;
    const std::string note = "the logger's own line lies " + fixed(std::abs(offset->behind_m), 0) + " m " +
                             (offset->behind_m > 0 ? "behind" : "before") + " the track's (" +
                             fixed(std::abs(offset->late_s), 2) + " s)";
    for (Lap& lap : laps) {
        if (lap.complete()) lap.reason += (lap.reason.empty() ? "" : "; ") + note;
    }
}

}  // namespace rendak
