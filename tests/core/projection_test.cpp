#include "core/track/projection.h"

#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "tests/support/demo_world.h"

using namespace rendak;

namespace {

Track round_track(double radius, int points) {
    Track track;
    for (int i = 0; i < points; ++i) {
        const double a = 2 * std::numbers::pi * i / points;
        track.line.push_back({radius * std::cos(a), radius * std::sin(a)});
    }
    track.length_m = 2 * radius * points * std::sin(std::numbers::pi / points);
    complete_track(track);
    return track;
}

}  // namespace

TEST(Projection, ACarBesideABendNeitherJumpsNorStands) {
    const double radius = 50;
    const Track track = round_track(radius, 157);
    for (const double offset : {-6.0, 0.0, 6.0}) {
        Projector projector(track);
        projector.restart({radius - offset, 0}, {0, 1});
        double before = -1;
        for (int i = 1; i < 3000; ++i) {
            const double a = 2 * std::numbers::pi * i / 3001;
            const Projected at = projector.project({(radius - offset) * std::cos(a), (radius - offset) * std::sin(a)});
            EXPECT_NEAR(at.distance_m, a / (2 * std::numbers::pi) * track.length_m, 0.06);
            EXPECT_NEAR(at.left_m, offset, 0.02);
            if (before >= 0) {
                const double step = at.distance_m - before, even = track.length_m / 3001;
                EXPECT_GT(step, 0.5 * even);
                EXPECT_LT(step, 1.5 * even);
            }
            before = at.distance_m;
        }
    }
}

TEST(Projection, AgreesWithTheDrawnCircuit) {
    const auto& circuit = test::demo_world().circuit;
    Track track;
    track.line = circuit.centre;
    track.length_m = circuit.length_m;
    complete_track(track);
    Projector projector(track);
    projector.restart(circuit.centre[0], circuit.direction[0]);
    for (double s = 3; s < circuit.length_m - 3; s += 2.7) {
        const double left = 5 * std::sin(s / 80);
        const Projected at = projector.project(circuit.position(s, left));
        ASSERT_NEAR(at.distance_m, s, 0.2) << s;
        ASSERT_NEAR(at.left_m, left, 0.05) << s;
    }
}

TEST(Projection, KeepsToItsOwnPartWhereTwoPartsLieSideBySide) {
    // Two straights 15 m apart in opposite directions, joined by half circles.
    Track track;
    constexpr double side = 400, radius = 7.5;
    for (int i = 0; i < 200; ++i) track.line.push_back({2.0 * i, 0});
    for (int i = 0; i < 12; ++i)
        track.line.push_back({side + radius * std::sin(std::numbers::pi * i / 12),
                              radius - radius * std::cos(std::numbers::pi * i / 12)});
    for (int i = 0; i < 200; ++i) track.line.push_back({side - 2.0 * i, 2 * radius});
    for (int i = 0; i < 12; ++i)
        track.line.push_back(
            {-radius * std::sin(std::numbers::pi * i / 12), radius + radius * std::cos(std::numbers::pi * i / 12)});
    track.length_m = 2.0 * static_cast<double>(track.line.size());
    complete_track(track);
    Projector projector(track);
    projector.restart({0.5, 0}, {1, 0});
    for (double x = 1; x < 390; x += 1) {
        // Drifts over to the other straight's side of the middle.
        const Projected at = projector.project({x, 9});
        EXPECT_NEAR(at.distance_m, x, 3) << "must not hop onto the way back";
    }
}
