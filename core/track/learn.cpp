#include "core/track/learn.h"

#include <algorithm>
#include <cmath>

#include "core/base/text.h"
#include "core/track/crossing.h"
#include "core/track/projection.h"

namespace rendak {
namespace {

constexpr double line_step_m = 2;

struct LapSpan {
    double begin_s, end_s, length_m;
    bool bridged, stopped;
};

std::vector<LapSpan> spans_between(const Path& path, const std::vector<double>& crossings) {
    std::vector<LapSpan> spans;
    for (std::size_t k = 0; k + 1 < crossings.size(); ++k) {
        LapSpan span{crossings[k], crossings[k + 1], 0, false, false};
        span.length_m = path.distance_at(span.end_s) - path.distance_at(span.begin_s);
        for (std::size_t i = path.index_before(span.begin_s); i < path.size() && path.time_s[i] < span.end_s; ++i) {
            span.bridged |= path.bridged[i] != 0;
            span.stopped |= length(path.velocity[i]) < 1.5;
        }
        spans.push_back(span);
    }
    return spans;
}

/// The fastest lap of the usual length, preferably without holes.
const LapSpan* good_lap(const std::vector<LapSpan>& spans) {
    std::vector<double> lengths;
    for (const LapSpan& span : spans) lengths.push_back(span.length_m);
    std::nth_element(lengths.begin(), lengths.begin() + static_cast<std::ptrdiff_t>(lengths.size() / 2), lengths.end());
    const double usual = lengths[lengths.size() / 2];
    const LapSpan* best = nullptr;
    const auto flaws = [](const LapSpan& span) { return (span.bridged ? 1 : 0) + (span.stopped ? 2 : 0); };
    for (const LapSpan& span : spans) {
        if (std::abs(span.length_m - usual) > 0.02 * usual) continue;
        const bool better = best == nullptr || flaws(span) < flaws(*best) ||
                            (flaws(span) == flaws(*best) && span.end_s - span.begin_s < best->end_s - best->begin_s);
        if (better) best = &span;
    }
    return best;
}

}  // namespace

StartLine start_line_at(GeoPoint origin, GeoPoint place, double heading_deg) {
    return {LocalPlane(origin).to_local(place), direction_from_heading(heading_deg), 20};
}

Result<Track> learn_track(const Path& path, const std::string& name, const StartLine& start) {
    const auto crossings = find_crossings(path, start);
    if (crossings.size() < 2) {
        StartLine reversed = start;
        reversed.direction = start.direction * -1;
        const auto other_way = find_crossings(path, reversed);
        std::string hint = " Check its place and heading.";
        if (other_way.size() >= 2) {
            hint = " It crosses it " + counted(other_way.size(), "time", "times") +
                   " the other way round: try heading " + fixed(heading_from_direction(reversed.direction), 0) + ".";
        }
        return fail(ErrorCode::bad_input, "The car crosses this start line " +
                                              counted(crossings.size(), "time", "times") +
                                              " in its direction; a lap needs two crossings." + hint);
    }
    const auto spans = spans_between(path, crossings);
    const LapSpan* lap = good_lap(spans);
    if (lap == nullptr || lap->length_m < 100) {
        return fail(ErrorCode::bad_input, "No lap of this run goes once around: a track cannot be learnt from it.");
    }
    // Dense points of the lap, then close it: the small distance between its two ends is spread along it.
    std::vector<Point> points;
    std::vector<double> travelled{0};
    const int count = std::max(200, static_cast<int>(lap->length_m / 0.5));
    for (int k = 0; k <= count; ++k) {
        const double t = lap->begin_s + (lap->end_s - lap->begin_s) * k / count;
        points.push_back(path.position_at(t));
    }
    const Point opening = points.back() - points.front();
    for (int k = 0; k <= count; ++k)
        points[static_cast<std::size_t>(k)] =
            points[static_cast<std::size_t>(k)] - opening * (static_cast<double>(k) / count);
    for (std::size_t k = 1; k < points.size(); ++k)
        travelled.push_back(travelled.back() + length(points[k] - points[k - 1]));

    Track track;
    track.name = name;
    track.origin = path.origin;
    track.start = start;
    const auto n = static_cast<std::size_t>(std::max(50.0, std::round(travelled.back() / line_step_m)));
    std::size_t at = 0;
    for (std::size_t i = 0; i < n; ++i) {
        const double s = travelled.back() * static_cast<double>(i) / static_cast<double>(n);
        while (at + 2 < travelled.size() && travelled[at + 1] <= s) ++at;
        const double width = travelled[at + 1] - travelled[at];
        const double share = width > 0 ? (s - travelled[at]) / width : 0;
        track.line.push_back(points[at] * (1 - share) + points[at + 1] * share);
    }
    track.length_m = 0;
    for (std::size_t i = 0; i < n; ++i) track.length_m += length(track.line[(i + 1) % n] - track.line[i]);
    complete_track(track);
    return track;
}

Result<Track> learn_open_track(const Path& path, const std::string& name, double launch_s) {
    constexpr double least_m = 100;
    // The finish: the last place at which the car was nearly as fast as ever in the second half of the road; behind it
    // it slows down for good.
    constexpr double nearly = 0.97;
    const double half_m = 0.5 * (path.distance_at(launch_s) + path.distance_m.back());
    double fastest = 0;
    for (std::size_t i = 0; i < path.size(); ++i) {
        if (path.distance_m[i] > half_m) fastest = std::max(fastest, length(path.velocity[i]));
    }
    std::size_t last = path.size() - 1;
    while (last > 1 && length(path.velocity[last]) < nearly * fastest) --last;
    const double begin_m = path.distance_at(launch_s), end_m = path.distance_m[last];
    if (path.time_s[last] <= launch_s || end_m - begin_m < least_m)
        return fail(ErrorCode::bad_input, "The car drives less than " + fixed(least_m, 0) +
                                              " m after the launch: no road can be learnt from that.");
    Track track;
    track.name = name;
    track.origin = path.origin;
    track.open = true;
    const double travelled = end_m - begin_m;
    const auto n = static_cast<std::size_t>(std::max(50.0, std::round(travelled / line_step_m)));
    std::size_t k = path.index_before(launch_s);
    for (std::size_t i = 0; i <= n; ++i) {
        const double at = begin_m + travelled * static_cast<double>(i) / static_cast<double>(n);
        while (k + 2 < path.size() && path.distance_m[k + 1] <= at) ++k;
        const double width = path.distance_m[k + 1] - path.distance_m[k];
        const double share = width > 0 ? std::clamp((at - path.distance_m[k]) / width, 0.0, 1.0) : 0;
        track.line.push_back(path.position[k] * (1 - share) + path.position[k + 1] * share);
    }
    for (std::size_t i = 1; i < track.line.size(); ++i) track.length_m += length(track.line[i] - track.line[i - 1]);
    complete_track(track);
    track.start = {track.line.front(), track.tangent_at(10), 20};
    return track;
}

Result<Track> finish_at(Track track, double distance_m) {
    if (!track.open) return fail(ErrorCode::bad_input, "A circuit finishes where it starts.");
    const double step = track.step_m();
    const auto last = static_cast<std::size_t>(std::round(distance_m / step));
    if (last < 20 || last >= track.line.size())
        return fail(ErrorCode::bad_input, "The finish must lie on the road, between " + fixed(20 * step, 0) + " and " +
                                              fixed(track.length_m, 0) + " m.");
    const std::size_t count = last + 1;
    for (std::vector<double>* values : {&track.edges.left_m, &track.edges.right_m, &track.height.value,
                                        &track.height.sd, &track.banking.value, &track.banking.sd}) {
        if (!values->empty()) values->resize(count);
    }
    track.line.resize(count);
    track.length_m = step * static_cast<double>(last);
    auto corners = std::move(track.corners);
    complete_track(track);
    std::erase_if(corners, [&](const Corner& corner) { return corner.apex_m >= track.length_m; });
    for (Corner& corner : corners) corner.end_m = std::min(corner.end_m, track.length_m);
    track.corners = std::move(corners);
    std::erase_if(track.sector_lines_m, [&](double line) { return line >= track.length_m - 20; });
    return track;
}

std::optional<StartLine> suggest_start(const Path& path) {
    // Candidates: the fastest moments. A good one is passed often.
    std::vector<std::pair<float, std::uint32_t>> order;  // speed and place in the path
    for (std::size_t i = 0; i < path.size(); ++i) {
        const double speed = length(path.velocity[i]);
        if (!path.bridged[i] && speed > 5)
            order.emplace_back(static_cast<float>(-speed), static_cast<std::uint32_t>(i));
    }
    std::sort(order.begin(), order.end());
    std::optional<StartLine> best;
    std::size_t most = 1;
    const std::size_t stride = std::max<std::size_t>(1, order.size() / 60);
    for (std::size_t k = 0; k < order.size() / 2 + 1 && k < order.size(); k += stride) {
        const StartLine line{path.position[order[k].second], unit(path.velocity[order[k].second]), 20};
        const auto times = find_crossings(path, line);
        const std::size_t passes = times.size();
        // Not where the circuit crosses itself, or comes by in another direction.
        constexpr double same_way = 0.9;
        const bool one_way = std::all_of(times.begin(), times.end(), [&](double t) {
            return dot(unit(path.velocity_at(t)), line.direction) > same_way;
        });
        if (one_way && passes > most) {
            most = passes;
            best = line;
        }
    }
    return best;
}

TrackFit::Place TrackFit::place() const {
    if (share < 0.6) return Place::elsewhere;
    // An excursion is short, a pit lane slow. A layout that is longer than the track leaves it at speed in every lap;
    // one that is shorter never comes by a part of it, however often it goes round.
    const bool leaves = fast_off > 0.06, skips = rounds > 1.7 && covered < 0.93;
    return leaves || skips ? Place::other_layout : Place::here;
}

TrackFit fit_on_track(const Path& path, const Track& track) {
    constexpr double near_m = 40, fast_mps = 22, slow_mps = 5;
    const LocalPlane from(path.origin), to(track.origin);
    double minimum_x = 1e18, maximum_x = -1e18, minimum_y = 1e18, maximum_y = -1e18;
    for (const Point p : track.line) {
        minimum_x = std::min(minimum_x, p.x);
        maximum_x = std::max(maximum_x, p.x);
        minimum_y = std::min(minimum_y, p.y);
        maximum_y = std::max(maximum_y, p.y);
    }
    constexpr std::size_t skip = 5;
    std::vector<char> came_by(track.line.size() / skip + 1, 0);
    std::size_t moving = 0, near = 0;
    double fast = 0, fast_off = 0, driven = 0, apart = 0;
    const std::size_t stride = std::max<std::size_t>(1, path.size() / 3000);
    for (std::size_t i = 0; i < path.size(); i += stride) {
        const double speed = length(path.velocity[i]);
        const double step = i >= stride ? path.time_s[i] - path.time_s[i - stride] : 0;
        if (step < 5) driven += speed * step;
        if (speed < slow_mps) continue;
        ++moving;
        const Point p = to.to_local(from.to_geo(path.position[i]));
        double nearest = near_m;
        if (p.x > minimum_x - near_m && p.x < maximum_x + near_m && p.y > minimum_y - near_m &&
            p.y < maximum_y + near_m) {
            for (std::size_t k = 0; k < track.line.size(); k += skip) {
                const double distance = length(track.line[k] - p);
                if (distance >= near_m) continue;
                nearest = std::min(nearest, distance);
                came_by[k / skip] = 1;
            }
        }
        near += nearest < near_m;
        apart += nearest;
        if (speed < fast_mps) continue;
        fast += speed;
        if (nearest >= near_m) fast_off += speed;
    }
    TrackFit out;
    if (moving == 0) return out;
    out.share = static_cast<double>(near) / static_cast<double>(moving);
    out.apart_m = apart / static_cast<double>(moving);
    out.fast_off = fast > 0 ? fast_off / fast : 0;
    const std::size_t nodes = (track.line.size() + skip - 1) / skip;
    out.covered = static_cast<double>(std::count(came_by.begin(), came_by.end(), 1)) / static_cast<double>(nodes);
    out.rounds = track.length_m > 0 ? driven / track.length_m : 0;
    // Beyond the finish of an open road, and on the way back, a car is elsewhere by rights.
    if (track.open) out.fast_off = out.rounds = 0;
    return out;
}

double share_on_track(const Path& path, const Track& track) {
    return fit_on_track(path, track).share;
}

}  // namespace rendak
