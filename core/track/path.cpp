#include "core/track/path.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/base/mapping_guard.h"
#include "core/base/missing.h"
#include "core/recording/let_go.h"
#include "core/track/smoother.h"
#include "core/track/velocity_hints.h"

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

/// Positions of a recording in the plane of `origin`; NaN and 0/0 are invalid.
Fixes fixes_of(const Recording& recording, const Channel& latitude, const Channel& longitude, const LocalPlane& plane) {
    const auto one = [&latitude, &longitude, &plane](std::size_t i) {
        const double t = latitude.clock.time_at(i);
        const GeoPoint place{latitude.at(i), longitude.value_at(t)};
        Fix fix{t, {}, true};
        fix.valid = std::isfinite(place.latitude_deg) && std::isfinite(place.longitude_deg) &&
                    !(place.latitude_deg == 0 && place.longitude_deg == 0);
        if (fix.valid) fix.position = plane.to_local(place);
        // A fix in another part of the world is a fault of the receiver.
        if (length(fix.position) > 100e3) fix.valid = false;
        return fix;
    };
    return Fixes(latitude.size(), one, [&recording] { let_go_of_samples(recording); });
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
    // So few of them touch every page.
    for (const Channel* channel : {&latitude, &longitude})
        std::visit([](auto samples) { let_go(samples.data(), samples.size_bytes()); }, channel->samples);
    if (north.empty()) return {missing, missing};
    const auto middle = static_cast<std::ptrdiff_t>(north.size() / 2);
    std::nth_element(north.begin(), north.begin() + middle, north.end());
    std::nth_element(east.begin(), east.begin() + middle, east.end());
    return {north[static_cast<std::size_t>(middle)], east[static_cast<std::size_t>(middle)]};
}

}  // namespace

GeoPoint default_origin(const Recording& recording) {
    const Channel* latitude = recording.find("latitude");
    const Channel* longitude = recording.find("longitude");
    if (latitude == nullptr || longitude == nullptr) return {missing, missing};
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
    const Fixes fixes = fixes_of(recording, *latitude, *longitude, plane);
    const FixSurvey about = survey(fixes);
    if (about.valid < 10) {
        return fail(ErrorCode::bad_input, "Fewer than ten usable positions: too few for a path.",
                    recording.source_name);
    }
    const bool hints = fuse == Fuse::everything && VelocityHints::possible(recording, fixes, about);
    Path path =
        smooth_path(plane.origin(), fixes, about, {}, usual_hint_noise_mps, hints ? Keep::velocities_only : Keep::path);
    if (!hints) return path;
    const VelocityHints others(recording, path, fixes);
    return smooth_path(plane.origin(), fixes, about, [&](std::span<const Fix> piece) { return others.of(piece); });
}

}  // namespace rendak
