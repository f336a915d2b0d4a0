#include "core/analysis/alignment.h"

#include <algorithm>
#include <cmath>

#include "core/base/median.h"
#include "core/track/projection.h"
#include "core/track/speed_source.h"

namespace rendak {
namespace {

/// The lag (in samples, with a fraction) of the second curve that fits the first one best after taking the means out.
/// Both are read on the same grid; NaN when the best lies at the end of the search.
double best_lag(const std::vector<double>& a, const std::vector<double>& b, int farthest) {
    const auto n = static_cast<int>(a.size());
    const auto badness = [&](int lag) {
        double sum_a = 0, sum_b = 0, count = 0;
        for (int i = farthest; i + farthest < n; ++i) {
            sum_a += a[static_cast<std::size_t>(i)];
            sum_b += b[static_cast<std::size_t>(i + lag)];
            ++count;
        }
        double squares = 0;
        for (int i = farthest; i + farthest < n; ++i) {
            const double off =
                a[static_cast<std::size_t>(i)] - sum_a / count - (b[static_cast<std::size_t>(i + lag)] - sum_b / count);
            squares += off * off;
        }
        return squares;
    };
    int best = 0;
    double least = 1e300;
    std::vector<double> found;
    for (int lag = -farthest; lag <= farthest; ++lag) {
        found.push_back(badness(lag));
        if (found.back() < least) {
            least = found.back();
            best = lag;
        }
    }
    if (std::abs(best) == farthest) return std::nan("");
    const double low = found[static_cast<std::size_t>(best + farthest - 1)],
                 high = found[static_cast<std::size_t>(best + farthest + 1)];
    const double bend = low - 2 * least + high;
    return best + (bend > 0 ? 0.5 * (low - high) / bend : 0);
}

}  // namespace

bool AlongOffset::stands_out() const {
    return corners >= 4 && std::abs(behind_m) > 4 && std::abs(behind_m) > 3 * scatter_m / std::sqrt(corners);
}

std::optional<AlongOffset> along_offset(const PreparedLap& reference, const PreparedLap& lap) {
    constexpr double step_m = 2, farthest_m = 90, beside_m = 110;
    const Track& track = *reference.track;
    std::vector<double> lags;
    const AlongLap speed_a = reference.along("speed"), speed_b = lap.along("speed");
    for (const Corner& corner : track.corners) {
        const double begin = corner.apex_m - beside_m - farthest_m, end = corner.apex_m + beside_m + farthest_m;
        if (begin < 0 || end > track.length_m) continue;
        std::vector<double> a, b;
        for (double s = begin; s <= end; s += step_m) {
            a.push_back(speed_a(s));
            b.push_back(speed_b(s));
        }
        if (std::any_of(a.begin(), a.end(), [](double v) { return !std::isfinite(v); }) ||
            std::any_of(b.begin(), b.end(), [](double v) { return !std::isfinite(v); }))
            continue;
        const auto [low, high] = std::minmax_element(a.begin(), a.end());
        if (*high - *low < 6) continue;  // no slow-down to go by
        const double lag = best_lag(a, b, static_cast<int>(farthest_m / step_m)) * step_m;
        if (std::isfinite(lag)) lags.push_back(lag);
    }
    if (lags.size() < 3) return std::nullopt;
    AlongOffset out;
    out.behind_m = median_of(lags);
    out.scatter_m = robust_sd(lags, out.behind_m);
    out.corners = static_cast<int>(lags.size());
    return out;
}

std::optional<PositionDelay> position_delay(const Recording& recording) {
    constexpr double step_s = 0.02, farthest_s = 1.0, piece_s = 30;
    const Channel* along = recording.find("longitudinal_acceleration");
    // The accelerometer comes first: slip makes driven wheels lead.
    const bool wheels = recording.find("wheel_speed_rl") != nullptr || recording.find("wheel_speed_fl") != nullptr;
    if (!wheels && along == nullptr) return std::nullopt;
    const auto found = path_of(recording, {}, Fuse::positions_only);
    if (!found || found->size() < 100) return std::nullopt;
    const Path& path = *found;
    const SpeedSource speed(recording, SpeedSource::Prefer::wheels);
    std::vector<double> lags;
    for (double from = path.time_s.front(); from + piece_s < path.time_s.back() && lags.size() < 40; from += piece_s) {
        std::vector<double> sensor, receiver;
        for (double t = from; t < from + piece_s; t += step_s) {
            if (along == nullptr) {
                sensor.push_back(speed.at(t));
                receiver.push_back(length(path.velocity_at(t)));
            } else {
                // What the accelerometer felt against how the speed changes.
                sensor.push_back(along->value_at(t));
                receiver.push_back((length(path.velocity_at(t + 0.1)) - length(path.velocity_at(t - 0.1))) / 0.2);
            }
        }
        if (std::any_of(sensor.begin(), sensor.end(), [](double v) { return !std::isfinite(v); })) continue;
        const auto [low, high] = std::minmax_element(sensor.begin(), sensor.end());
        if (*high - *low < 8) continue;
        const double lag = best_lag(sensor, receiver, static_cast<int>(farthest_s / step_s)) * step_s;
        if (std::isfinite(lag)) lags.push_back(lag);
    }
    if (lags.size() < 3) return std::nullopt;
    PositionDelay out;
    out.delay_s = median_of(lags);
    out.uncertainty_s = robust_sd(lags, out.delay_s) / std::sqrt(static_cast<double>(lags.size()));
    return out;
}

std::optional<PositionShift> position_shift(const Path& path, const Track& track, const std::vector<Lap>& laps) {
    if (path.by_shape || track.shape_only) return std::nullopt;
    std::vector<Point> shifts;
    for (const Lap& lap : laps) {
        if (lap.complete()) shifts.push_back(path.lasting_error + align_lap(path, track, lap.start_s, lap.end_s).shift);
    }
    if (shifts.empty()) return std::nullopt;
    PositionShift out;
    for (const Point shift : shifts) out.shift = out.shift + shift * (1 / static_cast<double>(shifts.size()));
    double squares = 0;
    for (const Point shift : shifts) squares += dot(shift - out.shift, shift - out.shift);
    out.scatter_m = std::sqrt(squares / static_cast<double>(shifts.size()));
    return out;
}

}  // namespace rendak
