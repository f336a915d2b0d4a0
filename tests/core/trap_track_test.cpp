// Circuits made to mislead: a figure of eight whose road crosses itself on a bridge, and two long straights that run
// side by side, twelve metres apart, in opposite directions and in the same one.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>
#include <random>

#include "core/laps/cut.h"
#include "core/laps/lap_map.h"
#include "core/track/learn.h"
#include "core/track/projection.h"

using namespace rendak;

namespace {

struct Piece {
    double length_m, turn_deg;  // straight: turn 0
};

/// A road drawn piece by piece with a point every metre; closed by spreading what stays open.
std::vector<Point> drawn(const std::vector<Piece>& pieces) {
    std::vector<Point> points;
    Point at;
    double heading = 0;
    for (const Piece& piece : pieces) {
        const auto n = static_cast<int>(piece.length_m);
        for (int i = 0; i < n; ++i) {
            points.push_back(at);
            heading += piece.turn_deg * std::numbers::pi / 180 / n;
            at = at + Point{std::cos(heading), std::sin(heading)};
        }
    }
    for (std::size_t i = 0; i < points.size(); ++i)
        points[i] = points[i] - at * (static_cast<double>(i) / static_cast<double>(points.size()));
    return points;
}

Track trap_track(std::vector<Point> points, std::size_t first = 0) {
    std::rotate(points.begin(), points.begin() + static_cast<std::ptrdiff_t>(first), points.end());
    Track track;
    track.line = std::move(points);
    for (std::size_t i = 0; i < track.line.size(); ++i)
        track.length_m += length(track.line[(i + 1) % track.line.size()] - track.line[i]);
    complete_track(track);
    track.start = {track.line.front(), track.tangent.front(), 20};
    return track;
}

/// A car that follows the line, up to 3 m beside it, with GPS noise; and where it truly was.
struct TrapDrive {
    std::vector<Fix> fixes;
    std::vector<double> along_m;
};
TrapDrive trap_drive(const Track& track, double laps, double noise_m) {
    TrapDrive out;
    std::mt19937 random(7);
    std::normal_distribution<double> noise(0, noise_m);
    double s = -150;
    for (double t = 0; s < laps * track.length_m + 100; t += 0.05) {
        const double bend = std::abs(track.curvature_at(s));
        const double speed = std::min(60.0, std::sqrt(14 / std::max(bend, 1e-3)));
        const Point place = track.position_at(s) + left_of(track.tangent_at(s)) * (3 * std::sin(s / 57));
        out.fixes.push_back({t, place + Point{noise(random), noise(random)}, true});
        out.along_m.push_back(s);
        s += speed * 0.05;
    }
    return out;
}

void expect_right_places(const Track& track, double noise_m, double most_m) {
    const TrapDrive driven = trap_drive(track, 3, noise_m);
    const Path path = smooth_path(track.origin, driven.fixes);
    const auto laps = cut_laps(path, track);
    int flying = 0;
    double squares = 0, count = 0;
    for (const Lap& lap : laps) {
        if (lap.kind != LapKind::flying) continue;
        const LapMap map = align_lap(path, track, lap.start_s, lap.end_s);
        for (std::size_t i = 0; i < driven.fixes.size(); ++i) {
            const double t = driven.fixes[i].time_s;
            if (t < lap.start_s || t > lap.end_s) continue;
            const double off = std::remainder(map.distance_at(t) - driven.along_m[i], track.length_m);
            ASSERT_LT(std::abs(off), 12) << "jumped to another part of the road at " << driven.along_m[i];
            squares += off * off;
            ++count;
        }
        ++flying;
    }
    EXPECT_EQ(flying, 3);
    EXPECT_LT(std::sqrt(squares / count), most_m);
}

Track figure_of_eight(std::size_t first) {
    return trap_track(drawn({{400, 0}, {420, 240}, {400, 0}, {420, -240}}), first);
}

}  // namespace

TEST(Traps, FigureOfEightCrossesItselfAndKeepsItsPlaces) {
    const Track track = figure_of_eight(40);
    // It does cross itself, at a large angle.
    double nearest = 1e9;
    for (std::size_t i = 0; i < track.line.size(); ++i) {
        for (std::size_t k = i + 200; k + 200 < track.line.size() + i && k < track.line.size(); ++k)
            nearest = std::min(nearest, length(track.line[i] - track.line[k]));
    }
    ASSERT_LT(nearest, 1.5);
    for (const double noise : {0.0, 0.5, 2.0}) expect_right_places(track, noise, 1.3 + 0.3 * noise);
}

TEST(Traps, StartLineNextToTheBridge) {
    const Track plain = figure_of_eight(0);
    std::size_t bridge = 0;
    double nearest = 1e9;
    for (std::size_t i = 0; i < 400; ++i) {
        for (std::size_t k = i + 200; k < plain.line.size() - 200; ++k) {
            const double d = length(plain.line[i] - plain.line[k]);
            if (d < nearest) {
                nearest = d;
                bridge = i;
            }
        }
    }
    expect_right_places(figure_of_eight(bridge + 5), 0.5, 1.0);
}

TEST(Traps, DoubleStraightInOppositeDirections) {
    // 900 m out and 900 m back, 12 m apart.
    expect_right_places(trap_track(drawn({{900, 0}, {20, 180}, {900, 0}, {20, 180}}), 200), 0.5, 1.0);
    expect_right_places(trap_track(drawn({{900, 0}, {20, 180}, {900, 0}, {20, 180}}), 200), 2.0, 2.0);
}

TEST(Traps, DoubleStraightInTheSameDirection) {
    // Two turns round before the road comes back: the second straight runs 12 m beside the first one, the same way. The
    // start line of 20 m to either side reaches across both.
    const auto points = drawn({{700, 0}, {330, 180}, {700, 0}, {290, 180}, {700, 0}, {370, 180}, {700, 0}, {410, 180}});
    const Track track = trap_track(points, 300);
    double beside = 1e9;
    for (std::size_t k = 0; k < track.line.size(); ++k) {
        if (static_cast<double>(k) < 200 || static_cast<double>(k) > track.length_m - 200) continue;
        if (dot(track.tangent[k], track.start.direction) > 0.9)
            beside = std::min(beside, length(track.line[k] - track.start.position));
    }
    ASSERT_LT(beside, 40) << "the trap is set";
    expect_right_places(track, 0.5, 1.2);
}

TEST(Traps, LearntFromDrivingAFigureOfEight) {
    const Track drawn_track = figure_of_eight(40);
    const Path path = smooth_path({57, 4}, trap_drive(drawn_track, 3, 0.3).fixes);
    const auto learnt = learn_track(path, "Eight", drawn_track.start);
    ASSERT_TRUE(learnt);
    EXPECT_NEAR(learnt->length_m, drawn_track.length_m, 0.02 * drawn_track.length_m);
    EXPECT_EQ(learnt->corners.size(), 2U);
    EXPECT_NE(learnt->corners[0].left, learnt->corners[1].left);
}
