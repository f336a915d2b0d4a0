#include "demo/circuit.h"

#include <Eigen/QR>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "demo/noise.h"

namespace rendak::demo {
namespace {

constexpr double degrees = std::numbers::pi / 180;

/// A straight (radius 0) or an arc that turns by `angle_deg` (left positive), eased in and out.
struct Piece {
    double length_m;
    double radius_m = 0;
    double angle_deg = 0;
    int corner = 0;
    double ease_m = 30;
};
Piece straight(double length_m) {
    return {length_m};
}
Piece arc(int corner, double radius_m, double angle_deg, double ease_m = 30) {
    return {0, radius_m, angle_deg, corner, ease_m};
}

std::vector<Piece> layout() {
    return {straight(400.0),  arc(1, 55, -85),  straight(144.6),    arc(2, 140, 45),     straight(114.4),
            arc(3, 45, -108), straight(323.3),  arc(4, 75, 62),     straight(480.8),     arc(5, 20, -157),
            straight(380.0),  arc(6, 240, -56), straight(112.0),    arc(7, 32, 60),      straight(16.0),
            arc(8, 32, -60),  straight(69.7),   arc(9, 70, 58, 20), arc(9, 105, 34, 14), arc(9, 65, 58, 20),
            straight(396.2),  arc(10, 46, -95), straight(90.0),     arc(11, 85, -60),    straight(49.1),
            arc(12, 50, 75),  straight(65.0),   arc(13, 40, -89),   straight(100.0),     arc(14, 100, -42),
            straight(300.0)};
}

/// A stretch over which curvature goes evenly from one value to another.
struct Ramp {
    double length_m, from, to;
    int corner;
};

std::vector<Ramp> ramps_of(const std::vector<Piece>& pieces) {
    std::vector<Ramp> ramps;
    for (const Piece& piece : pieces) {
        if (piece.radius_m == 0) {
            ramps.push_back({piece.length_m, 0, 0, 0});
            continue;
        }
        const double angle = std::abs(piece.angle_deg) * degrees;
        const double peak = std::copysign(1 / piece.radius_m, piece.angle_deg);
        const double ease = std::min(piece.ease_m, 0.45 * angle * piece.radius_m);
        const double hold = angle * piece.radius_m - ease;
        ramps.push_back({ease, 0, peak, piece.corner});
        ramps.push_back({hold, peak, peak, piece.corner});
        ramps.push_back({ease, peak, 0, piece.corner});
    }
    return ramps;
}

/// Where the ramps lead, starting at the origin towards +x.
Point end_of(const std::vector<Ramp>& ramps) {
    Point at;
    double heading = 0;
    for (const Ramp& ramp : ramps) {
        const int n = std::max(1, static_cast<int>(ramp.length_m * 4));
        const double d = ramp.length_m / n;
        for (int i = 0; i < n; ++i) {
            const double k = ramp.from + (ramp.to - ramp.from) * (i + 0.5) / n;
            const double middle = heading + k * d / 2;
            at = at + Point{d * std::cos(middle), d * std::sin(middle)};
            heading += k * d;
        }
    }
    return at;
}

/// Adjusts two straights that point different ways so that the circuit closes exactly.
void close(std::vector<Piece>& pieces) {
    constexpr std::size_t first = 6, second = 8;
    double heading = 0, headings[2] = {0, 0};
    for (std::size_t i = 0; i < pieces.size(); ++i) {
        if (i == first) headings[0] = heading;
        if (i == second) headings[1] = heading;
        heading += pieces[i].angle_deg * degrees;
    }
    for (int round = 0; round < 3; ++round) {
        const Point opening = end_of(ramps_of(pieces));
        Eigen::Matrix2d directions;
        directions << std::cos(headings[0]), std::cos(headings[1]), std::sin(headings[0]), std::sin(headings[1]);
        const Eigen::Vector2d change = directions.colPivHouseholderQr().solve(Eigen::Vector2d(-opening.x, -opening.y));
        pieces[first].length_m += change(0);
        pieces[second].length_m += change(1);
    }
}

/// A bump of the given height that begins and ends smoothly (raised cosine), wrapped around the lap.
double bump(double s, double middle, double half_length, double height, double lap_m) {
    const double away = std::abs(std::remainder(s - middle, lap_m));
    return away >= half_length ? 0 : 0.5 * height * (1 + std::cos(std::numbers::pi * away / half_length));
}

}  // namespace

std::vector<double> rough_road(std::size_t n, std::uint64_t seed) {
    Noise noise(seed);
    std::vector<double> rough(n);
    double level = 0;
    for (double& r : rough) {
        level = 0.97 * level + 0.0009 * noise.normal();
        r = level;
    }
    return rough;
}

std::size_t Circuit::index(double s) const {
    const auto n = static_cast<double>(centre.size());
    if (open) return static_cast<std::size_t>(std::clamp(s / step_m, 0.0, n - 1));
    double position = s / step_m;
    // What fmod gives, exactly, and many times as quick within the first laps.
    if (position < 0 || position >= 64 * n) {
        position = std::fmod(position, n);
        if (position < 0) position += n;
    } else if (position >= n) {
        const double rest = position - std::floor(position / n) * n;
        position = rest < 0 ? rest + n : rest >= n ? rest - n : rest;
    }
    return std::min(static_cast<std::size_t>(position), centre.size() - 1);
}

Point Circuit::position(double s, double left_m) const {
    const std::size_t i = index(s), next = open ? std::min(i + 1, centre.size() - 1) : (i + 1) % centre.size();
    double share = s / step_m - std::floor(s / step_m);
    share = std::clamp(share, 0.0, 1.0);
    const Point at = centre[i] * (1 - share) + centre[next] * share;
    const Point along = unit(direction[i] * (1 - share) + direction[next] * share);
    return at + left_of(along) * left_m;
}

namespace {

/// Fills points, directions and curvature along the ramps, and the corners' limits.
void walk(Circuit& circuit, const std::vector<Ramp>& ramps) {
    double road_m = 0;
    for (const Ramp& ramp : ramps) road_m += ramp.length_m;
    const auto n = static_cast<std::size_t>(std::round(road_m));
    circuit.step_m = road_m / static_cast<double>(n);
    if (!circuit.open) circuit.length_m = road_m;

    // Walk with fine steps and keep every point of the even grid.
    constexpr int fine = 20;
    std::size_t ramp = 0;
    double in_ramp = 0, heading = 0;
    Point at;
    const double turn = (90 - circuit.heading_deg) * degrees;  // +x of the drawing becomes the first straight
    const auto rotated = [turn](Point p) {
        return Point{p.x * std::cos(turn) - p.y * std::sin(turn), p.x * std::sin(turn) + p.y * std::cos(turn)};
    };
    for (std::size_t i = 0; i < n; ++i) {
        circuit.centre.push_back(rotated(at));
        circuit.direction.push_back(rotated({std::cos(heading), std::sin(heading)}));
        const auto curvature_here = [&] {
            return ramps[ramp].from +
                   (ramps[ramp].to - ramps[ramp].from) * std::min(1.0, in_ramp / std::max(ramps[ramp].length_m, 1e-9));
        };
        circuit.curvature.push_back(curvature_here());
        for (int k = 0; k < fine; ++k) {
            const double d = circuit.step_m / fine;
            const double curvature = curvature_here();
            const double middle = heading + curvature * d / 2;
            at = at + Point{d * std::cos(middle), d * std::sin(middle)};
            heading += curvature * d;
            in_ramp += d;
            while (in_ramp > ramps[ramp].length_m && ramp + 1 < ramps.size()) in_ramp -= ramps[ramp++].length_m;
        }
    }
    if (!circuit.open) {
        // What the walk left open (millimetres) is spread along the lap.
        const Point opening = rotated(at) - circuit.centre.front();
        for (std::size_t i = 0; i < n; ++i)
            circuit.centre[i] = circuit.centre[i] - opening * (static_cast<double>(i) / static_cast<double>(n));
    }
    double s = 0;
    for (const Ramp& part : ramps) {
        if (part.corner > 0) {
            if (circuit.corners.empty() || circuit.corners.back().number != part.corner) {
                circuit.corners.push_back({part.corner, s, 0, s, part.to > 0 || part.from > 0});
            }
            circuit.corners.back().end_m = s + part.length_m;
        }
        s += part.length_m;
    }
    for (CircuitCorner& corner : circuit.corners) corner.apex_m = 0.5 * (corner.start_m + corner.end_m);
}

void find_slopes(Circuit& circuit) {
    const std::size_t n = circuit.centre.size();
    for (std::size_t i = 0; i < n; ++i) {
        const std::size_t last = circuit.open && i == 0 ? 0 : (i + n - 1) % n,
                          next = circuit.open && i + 1 == n ? i : (i + 1) % n;
        const double before = circuit.height_m[last], here = circuit.height_m[i], after = circuit.height_m[next];
        circuit.grade.push_back((after - before) / (2 * circuit.step_m));
        circuit.crest.push_back((after - 2 * here + before) / (circuit.step_m * circuit.step_m));
    }
}

}  // namespace

Circuit skerrow_point() {
    Circuit circuit;
    auto pieces = layout();
    close(pieces);
    walk(circuit, ramps_of(pieces));
    const std::size_t n = circuit.centre.size();
    const double lap = circuit.length_m;
    const auto corner = [&](int number) { return circuit.corners[static_cast<std::size_t>(number - 1)]; };
    const auto rough = rough_road(n, 27);
    circuit.other_roughness_m = rough_road(n, 28);
    for (std::size_t i = 0; i < n; ++i) {
        const double at_m = static_cast<double>(i) * circuit.step_m;
        // 40 m between the shore (Turn 5) and the top of the hill; a crest on the long straight, and the road
        // falls away at the exit of Turn 10.
        const double z = 20 - 20 * std::cos(2 * std::numbers::pi * (at_m - corner(5).apex_m) / lap) +
                         bump(at_m, corner(5).end_m + 230, 70, 2.2, lap) -
                         bump(at_m, corner(10).end_m + 35, 60, 1.4, lap);
        circuit.height_m.push_back(z);
        circuit.banking_rad.push_back(
            bump(at_m, corner(3).apex_m, 0.7 * (corner(3).end_m - corner(3).start_m), 6 * degrees, lap) -
            bump(at_m, corner(10).end_m, 40, 2.5 * degrees, lap));
        circuit.half_width_m.push_back(6.0 + 0.5 * std::sin(2 * std::numbers::pi * at_m / lap * 3));
        circuit.roughness_m.push_back(rough[i]);
        // Kerbs inside the chicane: Turn 7 is a left one, Turn 8 a right one.
        circuit.kerb_left_m.push_back(
            0.03 * (bump(at_m, corner(7).apex_m, 14, 1, lap) - bump(at_m, corner(8).apex_m, 14, 1, lap)));
    }
    find_slopes(circuit);
    return circuit;
}

Circuit corrin_hill() {
    Circuit circuit;
    circuit.name = "Corrin Hill";
    circuit.open = true;
    circuit.origin = {57.3600, 4.7000};
    circuit.heading_deg = 20;
    circuit.length_m = 1900;
    // The road goes on behind the finish, for stopping.
    walk(circuit, ramps_of({straight(170), arc(1, 60, 55), straight(150), arc(2, 38, -70), straight(120),
                            arc(3, 22, 120), straight(200), arc(4, 90, -48), straight(140), arc(5, 28, -105, 20),
                            straight(110), arc(6, 55, 80), straight(180), arc(7, 120, -40), straight(900)}));
    const std::size_t n = circuit.centre.size();
    const auto rough = rough_road(n, 31);
    circuit.other_roughness_m = rough_road(n, 32);
    circuit.kerb_left_m.assign(n, 0);
    for (std::size_t i = 0; i < n; ++i) {
        const double at_m = static_cast<double>(i) * circuit.step_m;
        // Gentle at the start line, steepest in the middle: 125 m up.
        const double u = std::clamp(at_m / circuit.length_m, 0.0, 1.0);
        circuit.height_m.push_back(60 + 125 * u * u * (3 - 2 * u));
        circuit.banking_rad.push_back(0);
        circuit.half_width_m.push_back(3.4);
        circuit.roughness_m.push_back(rough[i]);
    }
    find_slopes(circuit);
    return circuit;
}

}  // namespace rendak::demo
