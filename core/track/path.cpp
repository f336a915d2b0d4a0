#include "core/track/path.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/recording/let_go.h"
#include "core/track/speed_source.h"

namespace rendak {

std::size_t Path::index_before(double t_s) const {
    const auto after = std::upper_bound(time_s.begin(), time_s.end(), t_s);
    const auto index = after == time_s.begin() ? 0 : static_cast<std::size_t>(after - time_s.begin()) - 1;
    return std::min(index, size() < 2 ? 0 : size() - 2);
}

Point Path::position_at(double t_s) const {
    const std::size_t i = index_before(t_s);
    const double step = time_s[i + 1] - time_s[i];
    const double u = (t_s - time_s[i]) / step;
    // Before the first and behind the last point: straight on.
    if (u < 0) return position[i] + velocity[i] * (t_s - time_s[i]);
    if (u > 1) return position[i + 1] + velocity[i + 1] * (t_s - time_s[i + 1]);
    const double u2 = u * u, u3 = u2 * u;
    return position[i] * (2 * u3 - 3 * u2 + 1) + velocity[i] * (step * (u3 - 2 * u2 + u)) +
           position[i + 1] * (3 * u2 - 2 * u3) + velocity[i + 1] * (step * (u3 - u2));
}

Point Path::velocity_at(double t_s) const {
    const std::size_t i = index_before(t_s);
    const double u = std::clamp((t_s - time_s[i]) / (time_s[i + 1] - time_s[i]), 0.0, 1.0);
    return velocity[i] * (1 - u) + velocity[i + 1] * u;
}

double Path::distance_at(double t_s) const {
    const std::size_t i = index_before(t_s);
    const double u = std::clamp((t_s - time_s[i]) / (time_s[i + 1] - time_s[i]), 0.0, 1.0);
    return distance_m[i] * (1 - u) + distance_m[i + 1] * u;
}

namespace {

constexpr double nothing = std::numeric_limits<double>::quiet_NaN();

/// Positions of a recording in the plane of `origin`; NaN and 0/0 are invalid.
std::vector<Fix> fixes_of(const Channel& latitude, const Channel& longitude, const LocalPlane& plane) {
    std::vector<Fix> fixes;
    fixes.reserve(latitude.size());
    for (std::size_t i = 0; i < latitude.size(); ++i) {
        const double t = latitude.clock.time_at(i);
        const GeoPoint place{latitude.at(i), longitude.value_at(t)};
        Fix fix{t, {}, true};
        fix.valid = std::isfinite(place.latitude_deg) && std::isfinite(place.longitude_deg) &&
                    !(place.latitude_deg == 0 && place.longitude_deg == 0);
        if (fix.valid) fix.position = plane.to_local(place);
        // A fix in another part of the world is a fault of the receiver.
        if (length(fix.position) > 100e3) fix.valid = false;
        fixes.push_back(fix);
    }
    return fixes;
}

GeoPoint median_place(const Channel& latitude, const Channel& longitude) {
    std::vector<double> north, east;
    const std::size_t stride = std::max<std::size_t>(1, latitude.size() / 2000);
    for (std::size_t i = 0; i < latitude.size(); i += stride) {
        const double a = latitude.at(i), b = longitude.value_at(latitude.clock.time_at(i));
        if (!std::isfinite(a) || !std::isfinite(b) || (a == 0 && b == 0)) continue;
        north.push_back(a);
        east.push_back(b);
    }
    if (north.empty()) return {nothing, nothing};
    const auto middle = static_cast<std::ptrdiff_t>(north.size() / 2);
    std::nth_element(north.begin(), north.begin() + middle, north.end());
    std::nth_element(east.begin(), east.begin() + middle, east.end());
    return {north[static_cast<std::size_t>(middle)], east[static_cast<std::size_t>(middle)]};
}

/// For every missing fix: speed along a heading that is turned from the last good one to the next good one, by
/// the yaw rate where it is logged, the closing error spread evenly.
std::vector<Point> hints_for_gaps(const std::vector<Fix>& fixes, const Path& first_pass, const Recording& recording) {
    std::vector<Point> hints(fixes.size(), Point{nothing, nothing});
    const SpeedSource speed(recording, SpeedSource::Prefer::wheels);
    const Channel* yaw_rate = recording.find("yaw_rate");
    for (std::size_t i = 1; i < fixes.size(); ++i) {
        if (fixes[i].valid || !fixes[i - 1].valid) continue;
        std::size_t next = i;
        while (next < fixes.size() && !fixes[next].valid) ++next;
        if (next == fixes.size()) break;
        const Point v0 = first_pass.velocity_at(fixes[i - 1].time_s), v1 = first_pass.velocity_at(fixes[next].time_s);
        const double heading0 = std::atan2(v0.y, v0.x);
        std::vector<double> turned;  // since the last good fix
        double sum = 0;
        for (std::size_t k = i; k <= next; ++k) {
            const double step = fixes[k].time_s - fixes[k - 1].time_s;
            const double rate = yaw_rate == nullptr ? nothing : yaw_rate->value_at(fixes[k].time_s - step / 2);
            sum += std::isfinite(rate) ? rate * step : 0;
            turned.push_back(sum);
        }
        const double closing = std::remainder(std::atan2(v1.y, v1.x) - heading0 - sum, 2 * 3.14159265358979323846);
        for (std::size_t k = i; k < next; ++k) {
            const double v = speed.at(fixes[k].time_s);
            if (!std::isfinite(v)) continue;
            const double share = static_cast<double>(k - i + 1) / static_cast<double>(turned.size());
            const double heading = heading0 + turned[k - i] + share * closing;
            hints[k] = {v * std::cos(heading), v * std::sin(heading)};
        }
    }
    return hints;
}

/// For every good fix: the measured speed along a heading that follows the yaw rate from moment to moment and the first
/// pass over seconds (a complementary filter: the sensor's bias and the car's slip angle change slowly).
void add_hints(std::vector<Point>& hints, const std::vector<Fix>& fixes, const Path& first_pass,
               const Recording& recording) {
    constexpr double reach_s = 1.2, least_mps = 5;
    const SpeedSource speed(recording, SpeedSource::Prefer::gps);
    const Channel* yaw_rate = recording.find("yaw_rate");
    if (yaw_rate == nullptr || fixes.size() < 3) return;
    const std::size_t n = fixes.size();
    std::vector<double> turned(n, 0), away(n, 0), weight(n, 0);
    double course = 0;
    for (std::size_t i = 0; i < n; ++i) {
        if (i > 0) {
            const double step = fixes[i].time_s - fixes[i - 1].time_s;
            const double rate = yaw_rate->value_at(fixes[i].time_s - step / 2);
            turned[i] = turned[i - 1] + (std::isfinite(rate) ? rate * step : 0);
        }
        const Point v = first_pass.velocity_at(fixes[i].time_s);
        course += std::remainder(std::atan2(v.y, v.x) - course, 2 * 3.14159265358979323846);
        away[i] = course - turned[i];
        weight[i] = length(v) > least_mps ? dot(v, v) : 0;
    }
    // A speed that reads by a share too high or low (wheels that are entered too large) pulls the path by that share.
    double driven = 0, measured = 0;
    for (std::size_t i = 0; i < n; i += 5) {
        const double v = speed.at(fixes[i].time_s);
        if (!(v > least_mps) || !fixes[i].valid) continue;
        driven += length(first_pass.velocity_at(fixes[i].time_s));
        measured += v;
    }
    const double ratio = driven > 0 ? measured / driven : 1;
    const double scale = std::abs(ratio - 1) > 0.01 ? ratio : 1;
    std::vector<double> sum(n + 1, 0), weights(n + 1, 0);
    for (std::size_t i = 0; i < n; ++i) {
        sum[i + 1] = sum[i] + weight[i] * away[i];
        weights[i + 1] = weights[i] + weight[i];
    }
    std::size_t low = 0, high = 0;
    for (std::size_t i = 0; i < n; ++i) {
        while (fixes[low].time_s < fixes[i].time_s - reach_s) ++low;
        while (high < n && fixes[high].time_s <= fixes[i].time_s + reach_s) ++high;
        const double v = speed.at(fixes[i].time_s) / scale;
        if (!fixes[i].valid || !(v > least_mps) || !(weights[high] - weights[low] > 0)) continue;
        const double heading = turned[i] + (sum[high] - sum[low]) / (weights[high] - weights[low]);
        hints[i] = {v * std::cos(heading), v * std::sin(heading)};
    }
}

}  // namespace

GeoPoint default_origin(const Recording& recording) {
    const Channel* latitude = recording.find("latitude");
    const Channel* longitude = recording.find("longitude");
    if (latitude == nullptr || longitude == nullptr) return {nothing, nothing};
    return median_place(*latitude, *longitude);
}

Result<Path> path_of(const Recording& recording, std::optional<GeoPoint> origin, Fuse fuse) {
    const Channel* latitude = recording.find("latitude");
    const Channel* longitude = recording.find("longitude");
    if (latitude == nullptr || longitude == nullptr) {
        return fail(ErrorCode::bad_input,
                    "The recording has no position channels (latitude and longitude), so laps cannot be cut from it.",
                    recording.source_name);
    }
    const GeoPoint middle = median_place(*latitude, *longitude);
    if (!std::isfinite(middle.latitude_deg)) {
        return fail(ErrorCode::bad_input,
                    "The position channels hold no position (all missing or 0/0): the receiver had no view of the sky. "
                    "Laps cannot be cut from this recording.",
                    recording.source_name);
    }
    const LocalPlane plane(origin.value_or(middle));
    const auto fixes = fixes_of(*latitude, *longitude, plane);
    const auto valid = std::count_if(fixes.begin(), fixes.end(), [](const Fix& fix) { return fix.valid; });
    if (valid < 10) {
        return fail(ErrorCode::bad_input, "Fewer than ten usable positions: too few for a path.",
                    recording.source_name);
    }
    let_go_of_samples(recording);
    Path path = smooth_path(plane.origin(), fixes);
    if (fuse == Fuse::positions_only) return path;
    auto hints = hints_for_gaps(fixes, path, recording);
    add_hints(hints, fixes, path, recording);
    const bool any = std::any_of(hints.begin(), hints.end(), [](Point hint) { return std::isfinite(hint.x); });
    if (any) {
        // Of a day both are large: not at once.
        path = {};
        let_go_of_samples(recording);
        path = smooth_path(plane.origin(), fixes, hints);
    }
    return path;
}

}  // namespace rendak
