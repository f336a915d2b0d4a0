#include "core/track/track.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

namespace rendak {
namespace {

struct Place {
    std::size_t index, next;
    double share;
};

Place place_of(const Track& track, double distance_m) {
    const std::size_t n = track.line.size();
    if (track.open) {
        const double position = std::clamp(distance_m / track.step_m(), 0.0, static_cast<double>(n - 1));
        const auto index = std::min(static_cast<std::size_t>(position), n - 2);
        return {index, index + 1, position - static_cast<double>(index)};
    }
    double position = std::fmod(distance_m / track.step_m(), static_cast<double>(n));
    if (position < 0) position += static_cast<double>(n);
    const auto index = std::min(static_cast<std::size_t>(position), n - 1);
    return {index, (index + 1) % n, position - static_cast<double>(index)};
}

}  // namespace

std::string Corner::title() const {
    const bool short_name = !name.empty() && name.size() <= 3;
    return name.empty() ? "Turn " + std::to_string(number) : short_name ? "Turn " + name : name;
}

std::string Corner::label() const {
    return name.empty() || name.size() > 3 ? std::to_string(number) : name;
}

Point Track::position_at(double distance_m) const {
    const Place at = place_of(*this, distance_m);
    return line[at.index] * (1 - at.share) + line[at.next] * at.share;
}

Point Track::tangent_at(double distance_m) const {
    const Place at = place_of(*this, distance_m);
    return unit(tangent[at.index] * (1 - at.share) + tangent[at.next] * at.share);
}

double Track::curvature_at(double distance_m) const {
    return value_at(curvature, distance_m);
}

double Track::value_at(const std::vector<double>& values, double distance_m) const {
    if (values.size() != line.size()) return std::numeric_limits<double>::quiet_NaN();
    const Place at = place_of(*this, distance_m);
    return values[at.index] * (1 - at.share) + values[at.next] * at.share;
}

StartLine Track::finish() const {
    return {line.back(), tangent.back(), start.half_width_m};
}

double Track::wrapped(double distance_m) const {
    if (open) return std::clamp(distance_m, 0.0, length_m);
    const double rest = std::fmod(distance_m, length_m);
    return rest < 0 ? rest + length_m : rest;
}

void complete_track(Track& track) {
    const std::size_t n = track.line.size();
    const double step = track.step_m();
    track.tangent.resize(n);
    std::vector<double> raw(n, 0);
    const std::size_t first = track.open ? 1 : 0, end = track.open ? n - 1 : n;
    for (std::size_t i = first; i < end; ++i) {
        track.tangent[i] = unit(track.line[(i + 1) % n] - track.line[(i + n - 1) % n]);
    }
    if (track.open) {
        track.tangent.front() = unit(track.line[1] - track.line[0]);
        track.tangent.back() = unit(track.line[n - 1] - track.line[n - 2]);
    }
    for (std::size_t i = first; i < end; ++i) {
        const Point a = track.line[i] - track.line[(i + n - 1) % n];
        const Point b = track.line[(i + 1) % n] - track.line[i];
        raw[i] = std::atan2(cross(a, b), dot(a, b)) / step;
    }
    // A Gaussian of 5 m: about 15 m wide.
    const double sigma = 5.0 / step;
    const int reach = static_cast<int>(std::ceil(3 * sigma));
    std::vector<double> weights;
    double sum = 0;
    for (int k = -reach; k <= reach; ++k) {
        weights.push_back(std::exp(-0.5 * k * k / (sigma * sigma)));
        sum += weights.back();
    }
    track.curvature.assign(n, 0);
    for (std::size_t i = 0; i < n; ++i) {
        for (int k = -reach; k <= reach; ++k) {
            if (track.open && (static_cast<int>(i) + k < 0 || static_cast<int>(i) + k >= static_cast<int>(n))) continue;
            const auto j = (i + n + static_cast<std::size_t>(static_cast<int>(n) + k)) % n;
            track.curvature[i] += raw[j] * weights[static_cast<std::size_t>(k + reach)] / sum;
        }
    }
    track.corners = find_corners(track);
}

namespace {

/// Points of the line that bend the same way, first to last, both included.
struct Bend {
    std::size_t first, last;
    bool left;
};

/// Two corners of the same hand that run into each other: cut where the line opens, for a few car lengths, to less
/// than half the bending of either side. A double apex that stays tighter than that is one corner.
void split_at_valleys(const Track& track, Bend bend, std::vector<Bend>& out) {
    constexpr double opens = 0.5, least_m = 14;
    const std::size_t n = bend.last - bend.first + 1;
    std::vector<double> share(n);
    double peak = 0;
    for (std::size_t i = n; i-- > 0;) share[i] = peak = std::max(peak, std::abs(track.curvature[bend.first + i]));
    peak = 0;
    for (std::size_t i = 0; i < n; ++i) {
        const double here = std::abs(track.curvature[bend.first + i]);
        peak = std::max(peak, here);
        share[i] = here / std::min(peak, share[i]);
    }
    std::size_t valley = 0;
    double lowest = opens;
    for (std::size_t i = 0; i < n; ++i) {
        std::size_t end = i;
        while (end < n && share[end] < opens) ++end;
        if (static_cast<double>(end - i) * track.step_m() >= least_m) {
            const auto bottom = std::min_element(share.begin() + static_cast<std::ptrdiff_t>(i),
                                                 share.begin() + static_cast<std::ptrdiff_t>(end));
            if (*bottom < lowest) {
                lowest = *bottom;
                valley = static_cast<std::size_t>(bottom - share.begin());
            }
        }
        i = end;
    }
    if (valley == 0) {
        out.push_back(bend);
        return;
    }
    split_at_valleys(track, {bend.first, bend.first + valley, bend.left}, out);
    split_at_valleys(track, {bend.first + valley, bend.last, bend.left}, out);
}

}  // namespace

std::vector<Corner> find_corners(const Track& track) {
    constexpr double begin_curvature = 1.0 / 280, end_curvature = 1.0 / 420;
    constexpr double merge_m = 25, least_angle = 10 * std::numbers::pi / 180;
    const std::size_t n = track.line.size();
    const double step = track.step_m();
    std::vector<Bend> bends;
    for (std::size_t i = 0; i < n; ++i) {
        if (std::abs(track.curvature[i]) < begin_curvature) continue;
        const bool left = track.curvature[i] > 0;
        const auto belongs = [&](std::size_t k) {
            return (track.curvature[k] > 0) == left && std::abs(track.curvature[k]) >= end_curvature;
        };
        std::size_t first = i, last = i;
        while (first > 0 && belongs(first - 1)) --first;
        while (last + 1 < n && belongs(last + 1)) ++last;
        if (!bends.empty() && bends.back().left == left &&
            static_cast<double>(first - bends.back().last) * step < merge_m) {
            bends.back().last = last;
        } else {
            bends.push_back({first, last, left});
        }
        i = last;
    }
    std::vector<Bend> spans;
    for (const Bend& bend : bends) split_at_valleys(track, bend, spans);
    std::vector<Corner> corners;
    for (const Bend& span : spans) {
        Corner corner;
        double angle = 0, peak = 0;
        for (std::size_t i = span.first; i <= span.last; ++i) {
            angle += track.curvature[i] * step;
            if (std::abs(track.curvature[i]) > peak) {
                peak = std::abs(track.curvature[i]);
                corner.apex_m = static_cast<double>(i) * step;
            }
        }
        if (std::abs(angle) < least_angle) continue;
        corner.number = static_cast<int>(corners.size()) + 1;
        corner.start_m = static_cast<double>(span.first) * step;
        corner.end_m = static_cast<double>(span.last) * step;
        corner.left = span.left;
        corner.radius_m = 1 / peak;
        corner.angle_deg = std::abs(angle) * 180 / std::numbers::pi;
        corners.push_back(corner);
    }
    return corners;
}

std::string corner_title(const Track& track, int number) {
    for (const Corner& it : track.corners) {
        if (it.number == number) return it.title();
    }
    return {};
}

std::vector<Section> sections_of(const Track& track) {
    std::vector<Section> out;
    double at = 0;
    const Corner* before = nullptr;
    const auto add_straight = [&](double to, const std::string& name) {
        if (to > at) out.push_back({name, {at, to}, 0});
        at = std::max(at, to);
    };
    for (const Corner& corner : track.corners) {
        add_straight(corner.start_m,
                     before == nullptr ? "Start straight" : "Straight " + before->label() + "–" + corner.label());
        out.push_back({corner.title(), {at, corner.end_m}, corner.number});
        at = corner.end_m;
        before = &corner;
    }
    add_straight(track.length_m, before == nullptr ? "Lap" : "Finish straight");
    return out;
}

std::vector<Section> sectors_of(const Track& track) {
    std::vector<Section> out;
    double at = 0;
    const auto add = [&](double to) {
        out.push_back({"Sector " + std::to_string(out.size() + 1), {at, to}, 0});
        at = to;
    };
    for (const double line : track.sector_lines_m) add(line);
    add(track.length_m);
    return out;
}

Interval view_of_corner(const Track& track, const Corner& corner) {
    return {std::max(0.0, corner.start_m - 120), std::min(track.length_m, corner.end_m + 80)};
}

}  // namespace rendak
