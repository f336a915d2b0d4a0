#include "core/track/profiles.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "core/base/median.h"
#include "core/base/missing.h"
#include "core/base/text.h"
#include "core/units/gravity.h"

namespace rendak {
namespace {

/// Mean of a lap's samples near each point of the track's line, NaN where it has none.
template <class Sample, class Value>
std::vector<double> on_points(const Track& track, const std::vector<Sample>& lap, Value value) {
    std::vector<double> sum(track.line.size(), 0), count(track.line.size(), 0);
    for (const Sample& sample : lap) {
        const double x = value(sample);
        if (!std::isfinite(x)) continue;
        auto i = static_cast<std::size_t>(track.wrapped(sample.distance_m) / track.step_m() + 0.5);
        if (i >= track.line.size()) i = track.open ? track.line.size() - 1 : 0;
        sum[i] += x;
        count[i] += 1;
    }
    for (std::size_t i = 0; i < sum.size(); ++i) sum[i] = count[i] > 0 ? sum[i] / count[i] : missing;
    return sum;
}

/// Holes up to `longest_m` bridged linearly (around the lap on a circuit); longer ones stay.
void bridge(const Track& track, std::vector<double>& values, double longest_m) {
    const auto n = static_cast<std::ptrdiff_t>(values.size());
    const auto at = [&](std::ptrdiff_t i) -> double& { return values[static_cast<std::size_t>((i % n + n) % n)]; };
    const auto reach = static_cast<std::ptrdiff_t>(longest_m / track.step_m());
    for (std::ptrdiff_t i = 0; i < n; ++i) {
        if (!std::isfinite(at(i))) continue;
        std::ptrdiff_t next = i + 1;
        while (next - i <= reach + 1 && !std::isfinite(at(next))) ++next;
        if (next == i + 1 || next - i > reach + 1 || (track.open && next >= n)) continue;
        const double a = at(i), b = at(next);
        for (std::ptrdiff_t k = i + 1; k < next; ++k)
            at(k) = a + (b - a) * static_cast<double>(k - i) / static_cast<double>(next - i);
    }
    if (track.open) {  // the very ends hold
        std::ptrdiff_t first = 0, last = n - 1;
        while (first < n && !std::isfinite(at(first))) ++first;
        while (last >= 0 && !std::isfinite(at(last))) --last;
        for (std::ptrdiff_t k = 0; first < n && first <= reach && k < first; ++k) at(k) = at(first);
        for (std::ptrdiff_t k = last + 1; last >= 0 && n - last <= reach && k < n; ++k) at(k) = at(last);
    }
}

/// Gaussian over `sigma_m`, NaN left out.
std::vector<double> smoothed_profile(const Track& track, const std::vector<double>& values, double sigma_m) {
    const auto n = static_cast<int>(values.size());
    const double sigma = sigma_m / track.step_m();
    const int reach = static_cast<int>(std::ceil(3 * sigma));
    std::vector<double> out(values.size(), missing);
    for (int i = 0; i < n; ++i) {
        if (!std::isfinite(values[static_cast<std::size_t>(i)])) continue;
        double sum = 0, weights = 0;
        for (int k = -reach; k <= reach; ++k) {
            const int j = i + k;
            if (track.open && (j < 0 || j >= n)) continue;
            const double value = values[static_cast<std::size_t>((j % n + n) % n)];
            if (!std::isfinite(value)) continue;
            const double weight = std::exp(-0.5 * k * k / (sigma * sigma));
            sum += weight * value;
            weights += weight;
        }
        out[static_cast<std::size_t>(i)] = sum / weights;
    }
    return out;
}

/// Median over the laps and the standard deviation of that median's mean, smoothed alike; where fewer than that
/// share of the laps says something, nothing is told.
Profile combined(const Track& track, const std::vector<std::vector<double>>& laps, double sigma_m, double least_share) {
    Profile profile;
    std::vector<double> middle(track.line.size(), missing), spread(track.line.size(), missing);
    double own_scatter = 0;
    if (laps.size() == 1) {
        const auto smooth = smoothed_profile(track, laps.front(), sigma_m);
        double sum = 0, count = 0;
        for (std::size_t i = 0; i < smooth.size(); ++i) {
            if (!std::isfinite(smooth[i])) continue;
            sum += (laps.front()[i] - smooth[i]) * (laps.front()[i] - smooth[i]);
            ++count;
        }
        own_scatter = count > 0 ? std::sqrt(sum / count) : 0;
    }
    for (std::size_t i = 0; i < track.line.size(); ++i) {
        std::vector<double> here;
        for (const auto& lap : laps) {
            if (std::isfinite(lap[i])) here.push_back(lap[i]);
        }
        if (here.empty() || static_cast<double>(here.size()) < least_share * static_cast<double>(laps.size())) continue;
        middle[i] = median_of(here);
        double squares = 0;
        for (const double value : here) squares += (value - middle[i]) * (value - middle[i]);
        spread[i] = here.size() > 1
                        ? std::sqrt(squares / static_cast<double>(here.size() - 1) / static_cast<double>(here.size()))
                        : own_scatter;
    }
    profile.value = smoothed_profile(track, middle, sigma_m);
    profile.sd = smoothed_profile(track, spread, sigma_m);
    return profile;
}

}  // namespace

Profile height_profile(const Track& track, std::span<const std::vector<RoadSample>> laps) {
    constexpr double smooth_m = 12, longest_hole_m = 120;
    std::vector<std::vector<double>> heights;
    for (const auto& lap : laps) {
        auto points = on_points(track, lap, [](const RoadSample& sample) { return sample.value; });
        const auto known = std::count_if(points.begin(), points.end(), [](double z) { return std::isfinite(z); });
        if (known < static_cast<std::ptrdiff_t>(points.size() / 8)) continue;
        bridge(track, points, longest_hole_m);
        heights.push_back(std::move(points));
    }
    if (heights.empty()) return {};
    // Offsets of whole laps to the first one's.
    for (std::size_t k = 1; k < heights.size(); ++k) {
        std::vector<double> off;
        for (std::size_t i = 0; i < heights[k].size(); ++i) {
            if (std::isfinite(heights[k][i]) && std::isfinite(heights[0][i]))
                off.push_back(heights[k][i] - heights[0][i]);
        }
        const double shift = median_of(off);
        if (!std::isfinite(shift)) continue;
        for (double& z : heights[k]) z -= shift;
    }
    Profile profile = combined(track, heights, smooth_m, 0);
    if (std::any_of(profile.value.begin(), profile.value.end(), [](double z) { return !std::isfinite(z); })) {
        bridge(track, profile.value, 1e6);
        bridge(track, profile.sd, 1e6);
    }
    return profile;
}

Profile banking_profile(const Track& track, std::span<const std::vector<CorneringSample>> laps) {
    constexpr double cornering_mps2 = 3, smooth_m = 6;
    // The share of every corner alike: roll, scale of the sensor.
    std::vector<double> shares;
    for (const auto& lap : laps) {
        for (const CorneringSample& s : lap) {
            if (std::abs(s.by_curve_mps2) > cornering_mps2) shares.push_back(s.felt_mps2 / s.by_curve_mps2);
        }
    }
    if (shares.size() < 50) return {};
    const double share = std::clamp(median_of(shares), 0.85, 1.15);
    std::vector<std::vector<double>> angles, speeds;  // speeds squared
    for (const auto& lap : laps) {
        angles.push_back(on_points(track, lap, [&](const CorneringSample& s) {
            if (std::abs(s.by_curve_mps2) < cornering_mps2) return missing;
            // Left side high is positive: in a left turn that is a road that falls away.
            return -std::asin(std::clamp((s.by_curve_mps2 - s.felt_mps2 / share) / standard_gravity_mps2, -0.5, 0.5));
        }));
        bridge(track, angles.back(), 12);
        speeds.push_back(on_points(track, lap, [&](const CorneringSample& s) {
            const double curvature = std::abs(track.curvature_at(s.distance_m));
            return curvature > 1e-4 ? std::abs(s.by_curve_mps2) / curvature : missing;
        }));
    }
    Profile profile = combined(track, angles, smooth_m, 0.5);
    // A path does not follow a curve that is taken up or let go within some metres, which looks like a lean; and the
    // share that was fitted out is one for all corners.
    constexpr double path_m = 3, apart_m = 10, share_rad = 0.4 * std::numbers::pi / 180;
    for (std::size_t i = 0; i < profile.sd.size(); ++i) {
        if (!std::isfinite(profile.sd[i])) continue;
        double squares = 0, count = 0;
        for (const auto& lap : speeds) {
            if (!std::isfinite(lap[i])) continue;
            squares += lap[i];
            ++count;
        }
        const double s = static_cast<double>(i) * track.step_m();
        // Over what lies about it: a track's curvature has a noise of its own.
        double bending2 = 0, places = 0;
        for (double by = -2 * apart_m; by <= 2 * apart_m; by += apart_m / 2) {
            const double change = track.curvature_at(s + by - apart_m) - 2 * track.curvature_at(s + by) +
                                  track.curvature_at(s + by + apart_m);
            bending2 += change * change / std::pow(apart_m, 4);
            ++places;
        }
        const double bending = std::sqrt(bending2 / places);
        const double missed_mps2 = 0.5 * path_m * path_m * bending * (count > 0 ? squares / count : 0);
        profile.sd[i] = std::hypot(profile.sd[i], share_rad, missed_mps2 / standard_gravity_mps2);
    }
    return profile;
}

namespace {

/// Distances of a slow lap along an edge at every point of the line, or where it strays.
Result<std::vector<double>> one_edge(const Track& track, const std::vector<RoadSample>& lap, const char* side) {
    auto points = on_points(track, lap, [](const RoadSample& sample) { return sample.value; });
    bridge(track, points, 60);
    for (std::size_t i = 0; i < points.size(); ++i) {
        if (std::isfinite(points[i])) continue;
        return fail(ErrorCode::bad_input, std::string("The lap along the ") + side + " edge has a hole at " +
                                              fixed(static_cast<double>(i) * track.step_m(), 0) +
                                              " m. Take a lap that goes all the way round.");
    }
    return smoothed_profile(track, points, 3);
}

}  // namespace

Result<Edges> edges_from_edge_laps(const Track& track, const std::vector<RoadSample>& left,
                                   const std::vector<RoadSample>& right, double car_half_width_m) {
    constexpr double least_m = 4, most_m = 40;
    auto left_m = one_edge(track, left, "left");
    if (!left_m) return pass_on(left_m.error());
    auto right_m = one_edge(track, right, "right");
    if (!right_m) return pass_on(right_m.error());
    Edges edges;
    edges.source = Edges::Source::driven;
    for (std::size_t i = 0; i < track.line.size(); ++i) {
        edges.left_m.push_back((*left_m)[i] + car_half_width_m);
        edges.right_m.push_back(-(*right_m)[i] + car_half_width_m);
        const double width = edges.left_m[i] + edges.right_m[i];
        if (width >= least_m && width <= most_m) continue;
        return fail(
            ErrorCode::bad_input,
            "Between these two laps the road would be " + fixed(width, 1) + " m wide at " +
                fixed(static_cast<double>(i) * track.step_m(), 0) +
                " m. One of them does not keep to its edge there (an off, or the laps are the wrong way round).");
    }
    return edges;
}

Result<Edges> edges_from_spread(const Track& track, std::span<const std::vector<RoadSample>> laps,
                                double car_half_width_m) {
    constexpr double astray_m = 4;
    if (laps.size() < 3)
        return fail(ErrorCode::bad_input, "The spread needs three laps or more; there " +
                                              std::string(laps.size() == 1 ? "is " : "are ") +
                                              std::to_string(laps.size()) + ".");
    std::vector<std::vector<double>> offsets;
    for (const auto& lap : laps) {
        offsets.push_back(on_points(track, lap, [](const RoadSample& sample) { return sample.value; }));
        bridge(track, offsets.back(), 60);
    }
    Edges edges;
    edges.source = Edges::Source::spread;
    for (std::size_t i = 0; i < track.line.size(); ++i) {
        std::vector<double> here;
        for (const auto& lap : offsets) {
            if (std::isfinite(lap[i])) here.push_back(lap[i]);
        }
        const double middle = here.empty() ? 0 : median_of(here);
        double low = middle, high = middle;
        for (const double value : here) {
            if (std::abs(value - middle) > astray_m) continue;
            low = std::min(low, value);
            high = std::max(high, value);
        }
        edges.left_m.push_back(high + car_half_width_m);
        edges.right_m.push_back(-low + car_half_width_m);
    }
    edges.left_m = smoothed_profile(track, edges.left_m, 4);
    edges.right_m = smoothed_profile(track, edges.right_m, 4);
    return edges;
}

}  // namespace rendak
