#include "core/laps/lap_map.h"

#include <algorithm>
#include <cmath>

#include "core/track/projection.h"

namespace rendak {
namespace {

double interpolated(const std::vector<double>& from, const std::vector<double>& to, double x) {
    const auto after = std::upper_bound(from.begin(), from.end(), x);
    if (after == from.begin()) return to.front();
    if (after == from.end()) return to.back();
    const auto i = static_cast<std::size_t>(after - from.begin());
    const double width = from[i] - from[i - 1];
    return width > 0 ? to[i - 1] + (x - from[i - 1]) / width * (to[i] - to[i - 1]) : to[i];
}

constexpr double largest_shift_m = 12;

/// The shift b that explains the offsets from the line: minimises Σ ρ(offset − b·normal − mean).
Point slow_error(const Track& track, const std::vector<Projected>& places) {
    constexpr double huber_m = 1.0;
    Point shift;
    for (int round = 0; round < 6; ++round) {
        double xx = 1e-9, xy = 0, yy = 1e-9, bx = 0, by = 0;
        double last = -1e9;
        for (const Projected& place : places) {
            // Evenly spaced along the track, so that slow corners do not outvote straights.
            if (std::abs(place.distance_m - last) < 4) continue;
            last = place.distance_m;
            const Point normal = left_of(track.tangent_at(place.distance_m));
            const double rest = place.left_m - dot(shift, normal);
            const double weight = std::abs(rest) <= huber_m ? 1 : huber_m / std::abs(rest);
            xx += weight * normal.x * normal.x;
            xy += weight * normal.x * normal.y;
            yy += weight * normal.y * normal.y;
            bx += weight * normal.x * place.left_m;
            by += weight * normal.y * place.left_m;
        }
        const double determinant = xx * yy - xy * xy;
        // A track that only goes one way shows the error across it, not along it.
        if (determinant < 0.02 * (xx + yy) * (xx + yy)) return {};
        shift = {(yy * bx - xy * by) / determinant, (xx * by - xy * bx) / determinant};
    }
    // More than some metres is no slow GPS error but another line or another place.
    return length(shift) > largest_shift_m ? Point{} : shift;
}

}  // namespace

double LapMap::distance_at(double t_s) const {
    return interpolated(time_s, distance_m, t_s);
}

double LapMap::distance_at(double t_s, std::size_t& near) const {
    if (near >= time_s.size() || time_s[near] > t_s) return distance_at(t_s);
    while (near + 1 < time_s.size() && time_s[near + 1] <= t_s) ++near;
    if (near + 1 >= time_s.size()) return distance_m.back();
    const double width = time_s[near + 1] - time_s[near];
    return width > 0 ? distance_m[near] + (t_s - time_s[near]) / width * (distance_m[near + 1] - distance_m[near])
                     : distance_m[near + 1];
}

double LapMap::time_at(double distance) const {
    return interpolated(distance_m, time_s, distance);
}

double LapMap::left_at(double distance) const {
    if (left_m.size() != distance_m.size() || left_m.empty()) return std::nan("");
    return interpolated(distance_m, left_m, distance);
}

LapMap align_lap(const Path& path, const Track& track, double start_s, double end_s) {
    LapMap map;
    std::vector<double> times{start_s};
    std::vector<Point> positions{path.position_at(start_s)};
    for (std::size_t i = path.index_before(start_s); i < path.size() && path.time_s[i] < end_s; ++i) {
        if (path.time_s[i] <= start_s + 1e-6 || path.time_s[i] >= end_s - 1e-6) continue;
        times.push_back(path.time_s[i]);
        positions.push_back(path.position[i]);
        map.bridged |= path.bridged[i] != 0;
    }
    times.push_back(end_s);
    positions.push_back(path.position_at(end_s));

    const auto project_all = [&] {
        std::vector<Projected> places;
        places.reserve(positions.size());
        Projector projector(track);
        projector.start_near(0, positions.front() - map.shift);
        for (const Point position : positions) places.push_back(projector.project(position - map.shift));
        return places;
    };
    auto places = project_all();
    if (!path.slow_error_out) {
        map.shift = slow_error(track, places);
        places = project_all();
    }

    // Unwrapped at the line, never falling, then scaled so that the lap spans exactly 0 … length.
    const double length_m = track.length_m;
    std::vector<double> unwrapped;
    double turns = 0;
    for (std::size_t i = 0; i < places.size(); ++i) {
        double s = places[i].distance_m + turns;
        if (track.open) {
            // from the start to the finish: nothing to unwrap
        } else if (i == 0 && s > length_m / 2) {
            turns = -length_m;
            s -= length_m;
        } else if (i > 0 && s < unwrapped.back() - length_m / 2) {
            turns += length_m;
            s += length_m;
        } else if (i > 0 && s > unwrapped.back() + length_m / 2) {
            turns -= length_m;
            s -= length_m;
        }
        unwrapped.push_back(i == 0 ? s : std::max(s, unwrapped.back()));
    }
    const double first = unwrapped.front(), whole = unwrapped.back() - unwrapped.front();
    map.time_s = std::move(times);
    for (std::size_t i = 0; i < places.size(); ++i) {
        const double share = whole > 0 ? (unwrapped[i] - first) / whole : 0;
        map.distance_m.push_back(share * length_m);
        map.left_m.push_back(places[i].left_m);
    }
    map.distance_m.back() = length_m;
    return map;
}

}  // namespace rendak
