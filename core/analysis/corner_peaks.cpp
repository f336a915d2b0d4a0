#include "core/analysis/corner_peaks.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/corner_road.h"

namespace rendak {
namespace {

constexpr double smooth_s = 0.2;

CornerPeak peak_in(const PreparedLap& lap, const Corner& corner) {
    CornerPeak out;
    const double begin = lap.map.time_at(corner.start_m), end = lap.map.time_at(corner.end_m);
    if (const Channel* lateral = lap.recording->find("lateral_acceleration")) {
        const double sign = corner.left ? 1 : -1;
        const auto& clock = lateral->clock;
        const std::size_t from = clock.first_at_or_after(begin), to = clock.first_at_or_after(end);
        const auto half = static_cast<std::size_t>(std::max(0.0, smooth_s / 2 * clock.mean_rate_hz()));
        double sum = 0, count = 0;
        for (std::size_t i = from; i < to; ++i) {
            double mean = 0, samples = 0;
            for (std::size_t k = i - std::min(i, half); k <= std::min(i + half, lateral->size() - 1); ++k) {
                const double value = lateral->at(k);
                if (!std::isfinite(value)) continue;
                mean += sign * value;
                ++samples;
            }
            if (samples > 0 && !(mean / samples <= out.peak_mps2)) {
                out.peak_mps2 = mean / samples;
                out.peak_at_m = lap.map.distance_at(clock.time_at(i));
            }
            if (std::isfinite(lateral->at(i))) {
                sum += sign * lateral->at(i);
                ++count;
            }
        }
        if (count > 0) out.mean_mps2 = sum / count;
    }
    // The slowest point may lie outside the corner's limits by a little.
    const RangeFigures speed = figures_in_range(
        lap, "speed", {std::max(0.0, corner.start_m - 15), std::min(lap.map.length_m(), corner.end_m + 15)});
    out.slowest_mps = speed.low;
    out.slowest_at_m = speed.low_at_m;
    return out;
}

PeakColumn column_of(const Track& track, const Corner& corner) {
    const CornerRoad road = corner_road(track, corner);
    PeakColumn out;
    out.corner = corner;
    out.banked = road.banked;
    out.banking_rad = road.banking_rad.value_or(0);
    return out;
}

}  // namespace

CornerPeaks corner_peaks(std::span<const PreparedLap> laps, bool banked_count) {
    CornerPeaks out;
    if (laps.empty()) return out;
    const Track& track = *laps.front().track;
    for (const Corner& corner : track.corners) out.corners.push_back(column_of(track, corner));
    for (const PreparedLap& lap : laps) {
        out.laps.emplace_back();
        for (PeakColumn& column : out.corners) {
            const CornerPeak peak = peak_in(lap, column.corner);
            out.laps.back().push_back(peak);
            if (lap.counts && !(peak.peak_mps2 <= column.best_mps2) && std::isfinite(peak.peak_mps2))
                column.best_mps2 = peak.peak_mps2;
        }
    }
    for (const PeakColumn& column : out.corners) {
        if (column.banked && !banked_count) continue;
        double& limit = column.corner.left ? out.limit_left_mps2 : out.limit_right_mps2;
        if (!(column.best_mps2 <= limit) && std::isfinite(column.best_mps2)) limit = column.best_mps2;
    }
    return out;
}

}  // namespace rendak
