#include "core/chassis/strikes.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/set_difference.h"
#include "core/analysis/wheel_events.h"
#include "core/chassis/damper_speed.h"
#include "core/chassis/stretches.h"

namespace rendak {
namespace {

/// Front pressure over both while the brake is on, over a stretch of time; NaN without.
double brake_share(const PreparedLap& lap, const DriverActivity& activity, Interval time_s) {
    const Channel *front = lap.recording->find("brake_front"), *rear = lap.recording->find("brake_rear");
    if (front == nullptr || rear == nullptr || !activity.known()) return std::nan("");
    double fronts = 0, both = 0;
    for (double t = time_s.begin; t < time_s.end; t += 0.05) {
        if (!activity.braking(t)) continue;
        const double f = front->value_at(t), r = rear->value_at(t);
        if (!std::isfinite(f + r) || f + r <= 0) continue;
        fronts += f;
        both += f + r;
    }
    return both > 0 ? fronts / both : std::nan("");
}

double mean_told(const std::vector<double>& values) {
    const auto told = finite_values(values);
    return told.empty() ? std::nan("") : mean_value(told);
}

/// The corner that the way leads to at a place.
std::size_t next_corner(const Track& track, double at_m) {
    for (std::size_t k = 0; k < track.corners.size(); ++k)
        if (at_m <= track.corners[k].end_m) return k;
    return 0;
}

}  // namespace

Strikes strikes_of(std::span<const PreparedLap> laps) {
    Strikes out;
    out.laps = laps.size();
    out.brake_share = std::nan("");
    if (laps.empty()) return out;
    const Track& track = *laps.front().track;
    const std::size_t count = track.corners.size();
    std::vector<CornerStrikes> corners(count);
    for (std::size_t k = 0; k < count; ++k) {
        corners[k].corner = track.corners[k].number;
        corners[k].name = track.corners[k].title();
        corners[k].brake_share = std::nan("");
    }
    for (const char* wheel : wheel_corners) {
        out.dampers = out.dampers || laps.front().recording->find(std::string("damper_") + wheel) != nullptr;
        out.wheel_speeds =
            out.wheel_speeds || laps.front().recording->find(std::string("wheel_speed_") + wheel) != nullptr;
    }
    const std::vector<Stretch> kerbs = out.dampers ? stretches_of(StretchKind::kerbs, laps) : std::vector<Stretch>{};
    std::vector<std::vector<double>> shares(count);
    std::vector<double> all_shares;
    for (const PreparedLap& lap : laps) {
        for (std::size_t w = 0; w < 4 && !kerbs.empty(); ++w) {
            const DamperSpeed speed = damper_speed(lap, std::string("damper_") + wheel_corners[w]);
            if (!speed.known()) continue;
            const double usual = speed.rms({lap.map.start_s(), lap.map.end_s()});
            for (const Stretch& kerb : kerbs) {
                double fastest = 0;
                const Interval time = time_on(lap, kerb);
                for (const float v : speed.samples.during(time))
                    if (std::isfinite(v)) fastest = std::max(fastest, std::abs(static_cast<double>(v)));
                if (!(speed.rms(time) > loud_share * usual)) continue;
                for (CornerStrikes& corner : corners) {
                    if (corner.corner != kerb.corner) continue;
                    ++corner.kerb_laps[w];
                    corner.kerb_mps[w] += fastest;
                }
            }
        }
        for (const WheelEvent& event : wheel_events(lap)) {
            if (event.kind != WheelEvent::Kind::locks_up || count == 0) continue;
            const auto w = static_cast<std::size_t>(std::find(wheel_corners.begin(), wheel_corners.end(), event.wheel) -
                                                    wheel_corners.begin());
            if (w >= 4) continue;
            CornerStrikes& corner = corners[next_corner(track, event.range_m.begin)];
            ++corner.lock_ups[w];
            corner.locked_s[w] += event.duration_s;
        }
        const DriverActivity activity = lap.activity();
        double from = 0;
        for (std::size_t k = 0; k < count; ++k) {
            shares[k].push_back(
                brake_share(lap, activity, {lap.map.time_at(from), lap.map.time_at(track.corners[k].apex_m)}));
            from = track.corners[k].apex_m;
        }
        all_shares.push_back(brake_share(lap, activity, {lap.map.start_s(), lap.map.end_s()}));
    }
    out.brake_share = mean_told(all_shares);
    for (std::size_t k = 0; k < count; ++k) {
        CornerStrikes& corner = corners[k];
        corner.brake_share = mean_told(shares[k]);
        bool any = false;
        for (std::size_t w = 0; w < 4; ++w) {
            if (corner.kerb_laps[w] > 0) corner.kerb_mps[w] /= static_cast<double>(corner.kerb_laps[w]);
            any = any || corner.kerb_laps[w] > 0 || corner.lock_ups[w] > 0;
        }
        if (any) out.corners.push_back(std::move(corner));
    }
    return out;
}

}  // namespace rendak
