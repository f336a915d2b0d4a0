#include "core/track/by_shape.h"

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <limits>

#include "core/base/median.h"
#include "core/base/text.h"
#include "core/track/speed_source.h"

namespace rendak {
namespace {

constexpr double least_mps = 4;

/// Gaussian smoothing over `sigma` samples, held at the ends.
std::vector<double> smoothed(const std::vector<double>& values, double sigma) {
    const int reach = static_cast<int>(std::ceil(3 * sigma));
    std::vector<double> weights;
    for (int k = 0; k <= reach; ++k) weights.push_back(std::exp(-0.5 * k * k / (sigma * sigma)));
    std::vector<double> out(values.size());
    const auto n = static_cast<int>(values.size());
    for (int i = 0; i < n; ++i) {
        double sum = 0, all = 0;
        for (int k = std::max(-reach, -i); k <= reach && i + k < n; ++k) {
            const double weight = weights[static_cast<std::size_t>(std::abs(k))];
            sum += weight * values[static_cast<std::size_t>(i + k)];
            all += weight;
        }
        out[static_cast<std::size_t>(i)] = sum / all;
    }
    return out;
}

/// The most likely cell of the track at every step of the profile; both have steps of `cell_m`. A car advances about
/// one cell a step: two now and then, or none.
std::vector<int> likely_cells(const std::vector<double>& felt, const std::vector<double>& road, bool open) {
    constexpr double scale = 0.004, most = 4, slip_cost = 3;
    const auto n = felt.size(), m = road.size();
    std::vector<float> cost(m, 0), next(m);
    if (open) std::fill(cost.begin() + 1, cost.end(), 0.5F);
    std::vector<std::uint8_t> from(n * m);
    for (std::size_t i = 0; i < n; ++i) {
        std::uint8_t* const step = from.data() + i * m;
        for (std::size_t j = 0; j < m; ++j) {
            const std::size_t one = j >= 1 ? j - 1 : (open ? 0 : m - 1), two = j >= 2 ? j - 2 : (open ? 0 : j + m - 2);
            float best = cost[one];
            std::uint8_t back = 1;
            if (cost[j] + static_cast<float>(slip_cost) < best) {
                best = cost[j] + static_cast<float>(slip_cost);
                back = 0;
            }
            if (cost[two] + static_cast<float>(slip_cost) < best) {
                best = cost[two] + static_cast<float>(slip_cost);
                back = 2;
            }
            const double off = (felt[i] - road[j]) / scale;
            next[j] = best + static_cast<float>(std::min(most, off * off));
            step[j] = back;
        }
        std::swap(cost, next);
    }
    std::vector<int> cells(n);
    auto j = static_cast<int>(std::min_element(cost.begin(), cost.end()) - cost.begin());
    const auto count = static_cast<int>(m);
    int unwrapped = j;
    for (std::size_t i = n; i-- > 0;) {
        cells[i] = unwrapped;
        const int back = from[i * m + static_cast<std::size_t>(j)];
        unwrapped -= back;
        j = open ? std::max(0, j - back) : (j - back + count) % count;
    }
    return cells;
}

/// The same for a recording of any length: pieces of 100 km, so that the memory it takes stays bounded, each put behind
/// the one before.
std::vector<int> likely_cells_in_pieces(const std::vector<double>& felt, const std::vector<double>& road, bool open) {
    constexpr std::size_t piece = 25000;
    if (open || felt.size() <= piece) return likely_cells(felt, road, open);
    std::vector<int> cells;
    const auto lap = static_cast<int>(road.size());
    for (std::size_t from = 0; from < felt.size(); from += piece) {
        const std::size_t to = std::min(felt.size(), from + piece);
        auto part = likely_cells(
            {felt.begin() + static_cast<std::ptrdiff_t>(from), felt.begin() + static_cast<std::ptrdiff_t>(to)}, road,
            open);
        if (!cells.empty()) {
            const double laps = std::round(static_cast<double>(cells.back() + 1 - part.front()) / lap);
            for (int& cell : part) cell += static_cast<int>(laps) * lap;
        }
        cells.insert(cells.end(), part.begin(), part.end());
    }
    return cells;
}

double mismatch(const BendProfile& profile, const Track& track, const std::vector<double>& along, std::size_t from,
                std::size_t to, double lag) {
    double sum = 0;
    for (std::size_t i = from; i <= to; ++i) {
        const double off = profile.curvature[i] - track.curvature_at(along[i] + lag);
        sum += off * off;
    }
    return sum;
}

/// Where the placing of a corner should move, and how sharply the bends say so.
struct Knot {
    std::size_t at;  ///< index in the profile
    double lag_m;
    double weight;
};

/// The best lag of every corner that is passed.
std::vector<Knot> corner_lags(const BendProfile& profile, const Track& track, const std::vector<double>& along) {
    constexpr double farthest_m = 14, step_m = 1, beside_m = 25;
    std::vector<Knot> knots;
    for (std::size_t i = 1; i < profile.size(); ++i) {
        for (const Corner& corner : track.corners) {
            const double lap = track.open ? 0 : std::floor(along[i] / track.length_m) * track.length_m;
            const double apex = lap + corner.apex_m;
            if (!(along[i - 1] < apex && along[i] >= apex)) continue;
            const auto reach = [&](double metres) {
                return static_cast<std::size_t>(std::max(1.0, metres / profile.step_m));
            };
            const std::size_t before = reach(corner.apex_m - corner.start_m + beside_m),
                              after = reach(corner.end_m - corner.apex_m + beside_m);
            if (i < before || i + after >= profile.size()) continue;
            double best = std::numeric_limits<double>::infinity(), lag = 0;
            for (double l = -farthest_m; l <= farthest_m; l += step_m) {
                const double off = mismatch(profile, track, along, i - before, i + after, l);
                if (off < best) {
                    best = off;
                    lag = l;
                }
            }
            if (std::abs(lag) >= farthest_m) continue;
            const double low = mismatch(profile, track, along, i - before, i + after, lag - step_m),
                         high = mismatch(profile, track, along, i - before, i + after, lag + step_m);
            const double bend = low - 2 * best + high;
            if (!(bend > 0)) continue;
            lag += 0.5 * step_m * (low - high) / bend;
            knots.push_back({i, lag, bend});
        }
    }
    return knots;
}

/// Moves the placing by the lags at the corners, linearly in between.
void move_by(std::vector<double>& along, const std::vector<Knot>& knots, double share) {
    if (knots.empty()) return;
    std::size_t k = 0;
    for (std::size_t i = 0; i < along.size(); ++i) {
        while (k + 1 < knots.size() && knots[k + 1].at <= i) ++k;
        const Knot &a = knots[k], &b = knots[std::min(k + 1, knots.size() - 1)];
        double lag = a.lag_m;
        if (b.at > a.at && i > a.at)
            lag +=
                (b.lag_m - a.lag_m) * std::min(1.0, static_cast<double>(i - a.at) / static_cast<double>(b.at - a.at));
        along[i] += share * lag;
    }
    for (std::size_t i = 1; i < along.size(); ++i) along[i] = std::max(along[i], along[i - 1]);
}

double correlation(const BendProfile& profile, const Track& track, const std::vector<double>& along) {
    double ab = 0, aa = 0, bb = 0;
    for (std::size_t i = 0; i < profile.size(); ++i) {
        const double a = profile.curvature[i], b = track.curvature_at(along[i]);
        ab += a * b;
        aa += a * a;
        bb += b * b;
    }
    return aa > 0 && bb > 0 ? ab / std::sqrt(aa * bb) : 0;
}

}  // namespace

Result<BendProfile> bend_profile(const Recording& recording) {
    const SpeedSource speed(recording, SpeedSource::Prefer::wheels);
    const Channel* yaw_rate = recording.find("yaw_rate");
    const Channel* lateral = recording.find("lateral_acceleration");
    if (!speed.exists() || (yaw_rate == nullptr && lateral == nullptr)) {
        return fail(ErrorCode::bad_input,
                    std::string("The recording has no position channels (latitude and longitude), and ") +
                        (speed.exists() ? "neither yaw rate nor lateral acceleration" : "no speed") +
                        " to work the track's shape out from. Laps cannot be cut from it.",
                    recording.source_name);
    }
    BendProfile profile;
    const Interval span = speed.span_s();
    constexpr double step_s = 0.02;
    std::vector<double> raw;
    double travelled = 0, turned = 0, next_m = 0;
    profile.time_s.push_back(span.begin);
    raw.push_back(0);
    next_m = profile.step_m;
    double turned_at_last = 0;
    for (double t = span.begin; t + step_s <= span.end; t += step_s) {
        const double v = speed.at(t + step_s / 2);
        if (!std::isfinite(v) || v <= 0.3) continue;
        double rate = 0;
        if (v > least_mps) {
            rate = yaw_rate != nullptr ? yaw_rate->value_at(t + step_s / 2) : lateral->value_at(t + step_s / 2) / v;
            if (!std::isfinite(rate)) rate = 0;
        }
        turned += rate * step_s;
        const double moved = v * step_s;
        while (travelled + moved >= next_m) {
            const double share = moved > 0 ? (next_m - travelled) / moved : 0;
            const double turned_here = turned - (1 - share) * rate * step_s;
            profile.time_s.push_back(t + share * step_s);
            raw.push_back((turned_here - turned_at_last) / profile.step_m);
            turned_at_last = turned_here;
            next_m += profile.step_m;
        }
        travelled += moved;
    }
    if (profile.size() < 100)
        return fail(ErrorCode::bad_input, "The car hardly moves in this recording.", recording.source_name);
    profile.curvature = smoothed(raw, 5 / profile.step_m);
    return profile;
}

ShapePlacing place_by_shape(const BendProfile& profile, const Track& track) {
    // Coarse: cells of about 4 m of the track and the profile.
    const auto m = static_cast<std::size_t>(std::max(20.0, std::round(track.length_m / 4)));
    const double cell_m = track.length_m / static_cast<double>(m);
    std::vector<double> road(m), felt;
    for (std::size_t j = 0; j < m; ++j) road[j] = track.curvature_at(static_cast<double>(j) * cell_m);
    const auto n = static_cast<std::size_t>(static_cast<double>(profile.size() - 1) * profile.step_m / cell_m);
    for (std::size_t i = 0; i < n; ++i)
        felt.push_back(profile.curvature[static_cast<std::size_t>(static_cast<double>(i) * cell_m / profile.step_m)]);

    ShapePlacing best;
    best.fit = -2;
    for (const double sign : {1.0, -1.0}) {
        std::vector<double> signed_felt = felt;
        for (double& value : signed_felt) value *= sign;
        const auto cells = likely_cells_in_pieces(signed_felt, road, track.open);
        BendProfile turned = profile;
        for (double& value : turned.curvature) value *= sign;
        ShapePlacing placing;
        placing.turned_round = sign < 0;
        // The cells' staircase becomes a slow drift between distance and place.
        std::vector<double> drift;
        for (std::size_t i = 0; i < cells.size(); ++i)
            drift.push_back(cell_m * (static_cast<double>(cells[i]) - static_cast<double>(i)));
        drift = smoothed(drift, 60 / cell_m);
        for (std::size_t i = 0; i < profile.size(); ++i) {
            const double at = std::min(static_cast<double>(i) * profile.step_m / cell_m,
                                       static_cast<double>(std::max<std::size_t>(drift.size(), 1) - 1));
            const auto k = std::min(static_cast<std::size_t>(at), drift.size() - 1);
            const auto after = std::min(k + 1, drift.size() - 1);
            const double share = at - static_cast<double>(k);
            placing.along_m.push_back(static_cast<double>(i) * profile.step_m + drift[k] * (1 - share) +
                                      drift[after] * share);
        }
        for (std::size_t i = 1; i < placing.along_m.size(); ++i)
            placing.along_m[i] = std::max(placing.along_m[i], placing.along_m[i - 1]);
        if (correlation(turned, track, placing.along_m) < best.fit - 0.1) continue;
        for (const double share : {1.0, 0.7})
            move_by(placing.along_m, corner_lags(turned, track, placing.along_m), share);
        placing.fit = correlation(turned, track, placing.along_m);
        // Straights hold no bends to go by: what was measured on the made-up circuit is the least that is claimed.
        constexpr double floor_m = 3.5;
        // What single corners still disagree by says how good the places are.
        std::vector<double> rest;
        for (const Knot& knot : corner_lags(turned, track, placing.along_m)) rest.push_back(knot.lag_m);
        double off = 6;
        if (!rest.empty()) off = robust_sd(std::move(rest));
        placing.expected_error_m = std::hypot(floor_m, 2 * off);
        if (placing.fit > best.fit) best = std::move(placing);
    }
    // Count laps from 0 near the beginning of the recording.
    if (!track.open && !best.along_m.empty()) {
        const double laps = std::floor(best.along_m.front() / track.length_m) * track.length_m;
        for (double& along : best.along_m) along -= laps;
    }
    return best;
}

Result<Path> path_by_shape(const Recording& recording, const Track& track) {
    const auto profile = bend_profile(recording);
    if (!profile) return pass_on(profile.error());
    const ShapePlacing placing = place_by_shape(*profile, track);
    if (placing.fit < shape_fits) {
        return fail(ErrorCode::bad_input,
                    "The bends of this run are not those of " + track.name + " (fit " + fixed(100 * placing.fit, 0) +
                        " %, 80 % are needed). Without positions its laps cannot be cut.",
                    recording.source_name);
    }
    const SpeedSource speed(recording, SpeedSource::Prefer::wheels);
    const Interval span = speed.span_s();
    Path path;
    path.origin = track.origin;
    path.by_shape = true;
    path.noise_m = placing.expected_error_m;
    constexpr double step_s = 0.05;
    std::size_t k = 0;
    const auto& times = profile->time_s;
    for (double t = span.begin; t <= span.end; t += step_s) {
        while (k + 2 < times.size() && times[k + 1] <= t) ++k;
        double share = std::clamp((t - times[k]) / std::max(1e-6, times[k + 1] - times[k]), 0.0, 1.0);
        const double v = std::max(0.0, std::isfinite(speed.at(t)) ? speed.at(t) : 0.0);
        // Where the car stood between two points of the profile it stood at the first.
        if (times[k + 1] - times[k] > 1.5) share = t - times[k] < 0.5 * (times[k + 1] - times[k]) ? 0 : 1;
        const double along = placing.along_m[k] * (1 - share) + placing.along_m[k + 1] * share;
        path.time_s.push_back(t);
        path.position.push_back(track.position_at(along));
        path.velocity.push_back(track.tangent_at(along) * v);
        path.distance_m.push_back(along);
        path.bridged.push_back(0);
        path.sd_m.push_back(static_cast<float>(placing.expected_error_m));
    }
    return path;
}

}  // namespace rendak
