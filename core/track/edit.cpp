#include "core/track/edit.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/base/text.h"
#include "core/track/projection.h"

namespace rendak {
namespace {

constexpr double shortest_corner_m = 8;

/// Hand, radius, angle and apex of a stretch of the line.
void measure(const Track& track, Corner& corner, bool find_apex) {
    double angle = 0, peak = 0;
    const double step = track.step_m();
    for (double s = corner.start_m; s <= corner.end_m; s += step) {
        const double bend = track.curvature_at(s);
        angle += bend * step;
        if (std::abs(bend) <= peak) continue;
        peak = std::abs(bend);
        if (find_apex) corner.apex_m = s;
    }
    corner.left = angle > 0;
    corner.angle_deg = std::abs(angle) * 180 / std::numbers::pi;
    corner.radius_m = peak > 1e-6 ? 1 / peak : 1e6;
}

void renumber(std::vector<Corner>& corners, std::size_t from, int number) {
    for (std::size_t i = from; i < corners.size(); ++i) corners[i].number = number++;
}

/// Free stretch around a corner: from the end of the one before to the start of the next.
Interval room(const Track& track, std::size_t corner) {
    return {corner == 0 ? 0 : track.corners[corner - 1].end_m,
            corner + 1 == track.corners.size() ? track.length_m : track.corners[corner + 1].start_m};
}

Error no_such_corner() {
    return {ErrorCode::not_found, "There is no such corner.", {}};
}

/// Values on the points of a track whose first point moves to `from_m`, resampled at the same step.
template <class Read>
auto moved(const Track& track, double from_m, Read read) {
    std::vector<decltype(read(0.0))> out;
    out.reserve(track.line.size());
    for (std::size_t i = 0; i < track.line.size(); ++i)
        out.push_back(read(from_m + static_cast<double>(i) * track.step_m()));
    return out;
}

/// A point of the line by a cubic through its neighbours (Catmull & Rom 1974): chords would flatten the bends a little
/// with every edit.
Point on_cubic(const Track& track, double distance_m) {
    const auto n = static_cast<std::ptrdiff_t>(track.line.size());
    const double position = track.wrapped(distance_m) / track.step_m();
    const auto i = static_cast<std::ptrdiff_t>(position);
    const double u = position - static_cast<double>(i);
    const auto p = [&](std::ptrdiff_t k) { return track.line[static_cast<std::size_t>((i + k + n) % n)]; };
    const Point p0 = p(-1), p1 = p(0), p2 = p(1), p3 = p(2);
    return p1 + (p2 - p0 + (p0 * 2 - p1 * 5 + p2 * 4 - p3 + ((p1 - p2) * 3 + p3 - p0) * u) * u) * (0.5 * u);
}

void move_values(const Track& track, double from_m, std::vector<double>& values) {
    if (values.empty()) return;
    values = moved(track, from_m, [&](double s) { return track.value_at(values, s); });
}

}  // namespace

Result<Track> add_corner(Track track, Interval range_m) {
    Corner corner;
    corner.start_m = std::max(0.0, range_m.begin);
    corner.end_m = std::min(track.length_m, range_m.end);
    if (corner.end_m - corner.start_m < shortest_corner_m)
        return fail(ErrorCode::bad_input, "A corner needs at least " + fixed(shortest_corner_m, 0) + " m.");
    std::size_t at = 0;
    while (at < track.corners.size() && track.corners[at].start_m < corner.start_m) ++at;
    const bool free = (at == 0 || track.corners[at - 1].end_m <= corner.start_m + 0.01) &&
                      (at == track.corners.size() || track.corners[at].start_m >= corner.end_m - 0.01);
    if (!free)
        return fail(ErrorCode::bad_input, "There is a corner already between " + fixed(corner.start_m, 0) + " and " +
                                              fixed(corner.end_m, 0) + " m. Move its limits first.");
    corner.apex_m = 0.5 * (corner.start_m + corner.end_m);
    measure(track, corner, true);
    corner.number = at == 0 ? 1 : track.corners[at - 1].number + 1;
    track.corners.insert(track.corners.begin() + static_cast<std::ptrdiff_t>(at), corner);
    renumber(track.corners, at, corner.number);
    return track;
}

Result<Track> delete_corner(Track track, std::size_t corner) {
    if (corner >= track.corners.size()) return pass_on(no_such_corner());
    const int number = track.corners[corner].number;
    track.corners.erase(track.corners.begin() + static_cast<std::ptrdiff_t>(corner));
    renumber(track.corners, corner, number);
    return track;
}

Result<Track> join_corners(Track track, std::size_t corner) {
    if (corner + 1 >= track.corners.size())
        return fail(ErrorCode::not_found, "There is no corner behind this one to join it with.");
    Corner& first = track.corners[corner];
    first.end_m = track.corners[corner + 1].end_m;
    track.corners.erase(track.corners.begin() + static_cast<std::ptrdiff_t>(corner) + 1);
    measure(track, first, true);
    renumber(track.corners, corner, first.number);
    return track;
}

Result<Track> rename_corner(Track track, std::size_t corner, const std::string& name) {
    if (corner >= track.corners.size()) return pass_on(no_such_corner());
    track.corners[corner].name = name;
    return track;
}

Result<Track> renumber_from(Track track, std::size_t corner, int number) {
    if (corner >= track.corners.size()) return pass_on(no_such_corner());
    const int least = corner == 0 ? 1 : track.corners[corner - 1].number + 1;
    if (number < least || number > 999)
        return fail(ErrorCode::bad_input, "The number must be " + std::to_string(least) +
                                              " or more: corners count up along the lap. A name such as 3A can be "
                                              "given instead.");
    renumber(track.corners, corner, number);
    return track;
}

Result<Track> set_corner_limits(Track track, std::size_t corner, Interval range_m) {
    if (corner >= track.corners.size()) return pass_on(no_such_corner());
    const Interval free = room(track, corner);
    Corner& it = track.corners[corner];
    const double begin = std::clamp(range_m.begin, free.begin, free.end),
                 end = std::clamp(range_m.end, free.begin, free.end);
    if (end - begin < shortest_corner_m)
        return fail(ErrorCode::bad_input, "A corner needs at least " + fixed(shortest_corner_m, 0) + " m.");
    it.start_m = begin;
    it.end_m = end;
    it.apex_m = std::clamp(it.apex_m, begin, end);
    measure(track, it, false);
    return track;
}

Result<Track> set_corner_apex(Track track, std::size_t corner, double apex_m) {
    if (corner >= track.corners.size()) return pass_on(no_such_corner());
    Corner& it = track.corners[corner];
    it.apex_m = std::clamp(apex_m, it.start_m, it.end_m);
    return track;
}

Track with_found_corners(Track track) {
    track.corners = find_corners(track);
    return track;
}

Result<Track> set_sector_lines(Track track, std::vector<double> lines_m) {
    constexpr double least_m = 20;
    std::sort(lines_m.begin(), lines_m.end());
    double before = 0;
    for (const double line : lines_m) {
        if (!(line - before >= least_m) || line > track.length_m - least_m)
            return fail(ErrorCode::bad_input, "A sector line at " + fixed(line, 0) +
                                                  " m would be nearer than 20 m to another line or off the lap.");
        before = line;
    }
    track.sector_lines_m = std::move(lines_m);
    return track;
}

Result<Track> move_start(Track track, double distance_m) {
    if (track.open)
        return fail(ErrorCode::bad_input,
                    "A road from start to finish begins at its start. Learn it again to begin elsewhere.");
    const double from = track.wrapped(distance_m);
    const double length_m = track.length_m;
    const Track before = track;
    track.start = {on_cubic(before, from), before.tangent_at(from), before.start.half_width_m};
    track.line = moved(before, from, [&](double s) { return on_cubic(before, s); });
    for (std::vector<double>* values : {&track.edges.left_m, &track.edges.right_m, &track.height.value,
                                        &track.height.sd, &track.banking.value, &track.banking.sd})
        move_values(before, from, *values);
    const auto along = [&](double s) { return before.wrapped(s - from); };
    for (double& line : track.sector_lines_m) line = along(line);
    std::sort(track.sector_lines_m.begin(), track.sector_lines_m.end());
    // A sector line that comes to lie on the start line is no line any more.
    std::erase_if(track.sector_lines_m, [&](double line) { return line < 1 || line > length_m - 1; });
    const auto corners = track.corners;
    track.corners.clear();
    complete_track(track);
    track.corners = corners;
    for (Corner& corner : track.corners) {
        const double start = along(corner.start_m), end = along(corner.end_m);
        corner.apex_m = along(corner.apex_m);
        const bool across = start > end;
        corner.start_m = across && end > length_m - start ? 0 : start;
        corner.end_m = across && end <= length_m - start ? length_m : end;
        corner.apex_m = corner.apex_m < corner.start_m || corner.apex_m > corner.end_m
                            ? (corner.start_m == 0 ? 0 : corner.end_m)
                            : corner.apex_m;
    }
    std::sort(track.corners.begin(), track.corners.end(),
              [](const Corner& a, const Corner& b) { return a.start_m < b.start_m; });
    renumber(track.corners, 0, 1);
    return track;
}

double start_distance(const Track& track, const StartLine& line) {
    Projector projector(track);
    projector.restart(line.position, line.direction);
    return projector.project(line.position).distance_m;
}

Result<Track> place_start(Track track, const StartLine& line) {
    Projector projector(track);
    projector.restart(line.position, line.direction);
    const Projected at = projector.project(line.position);
    if (std::abs(at.left_m) > 40)
        return fail(ErrorCode::bad_input, "This place lies " + fixed(std::abs(at.left_m), 0) +
                                              " m off the track; a start line must lie across it.");
    const double along = dot(line.direction, track.tangent_at(at.distance_m));
    if (along < 0.2)
        return fail(ErrorCode::bad_input, along < -0.2 ? "This heading points against the direction of driving."
                                                       : "This heading points across the track, not along it.");
    auto out = move_start(std::move(track), at.distance_m);
    if (out) {
        // The distance of the place itself is 0 only where the line crosses the road squarely; a crooked one keeps its
        // own heading for the crossing.
        out->start.direction = unit(line.direction);
        out->start.half_width_m = line.half_width_m;
    }
    return out;
}

Track reversed(Track track) {
    const double length_m = track.length_m;
    // The first point stays on the start line.
    std::reverse(track.line.begin() + (track.open ? 0 : 1), track.line.end());
    for (std::vector<double>* values : {&track.edges.left_m, &track.edges.right_m, &track.height.value,
                                        &track.height.sd, &track.banking.value, &track.banking.sd}) {
        if (!values->empty()) std::reverse(values->begin() + (track.open ? 0 : 1), values->end());
    }
    std::swap(track.edges.left_m, track.edges.right_m);
    for (double& value : track.banking.value) value = -value;
    std::reverse(track.pit_lane.begin(), track.pit_lane.end());
    for (double& line : track.sector_lines_m) line = length_m - line;
    std::reverse(track.sector_lines_m.begin(), track.sector_lines_m.end());
    auto corners = std::move(track.corners);
    complete_track(track);
    track.start.position = track.line.front();
    track.start.direction = track.tangent.front();
    std::reverse(corners.begin(), corners.end());
    for (Corner& corner : corners) {
        const double start = length_m - corner.end_m;
        corner.end_m = length_m - corner.start_m;
        corner.start_m = start;
        corner.apex_m = length_m - corner.apex_m;
        corner.left = !corner.left;
    }
    renumber(corners, 0, 1);
    track.corners = std::move(corners);
    return track;
}

Result<Track> set_pit_lane(Track track, std::vector<Point> lane) {
    if (lane.size() == 1) return fail(ErrorCode::bad_input, "A pit lane needs an entry and an exit.");
    track.pit_lane = std::move(lane);
    return track;
}

std::vector<Point> pit_lane_from(const Path& path, const Track& track, Interval time_s, double beside_m) {
    std::vector<Point> best, now;
    double best_m = 60, now_m = 0;
    const auto take = [&] {
        if (now_m > best_m) {
            best_m = now_m;
            best = now;
        }
        now.clear();
        now_m = 0;
    };
    Projector projector(track);
    bool first = true;
    double last_m = -1e9;
    for (std::size_t i = path.index_before(time_s.begin); i < path.size() && path.time_s[i] <= time_s.end; ++i) {
        if (path.time_s[i] < time_s.begin || path.distance_m[i] - last_m < 2) continue;
        if (first) projector.restart(path.position[i], path.velocity[i]);
        first = false;
        last_m = path.distance_m[i];
        const Projected at = projector.project(path.position[i]);
        if (std::abs(at.left_m) < beside_m) {
            take();
            continue;
        }
        if (!now.empty()) now_m += length(path.position[i] - now.back());
        now.push_back(path.position[i]);
    }
    take();
    return best;
}

}  // namespace rendak
