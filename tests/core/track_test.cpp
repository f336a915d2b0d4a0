#include "core/track/track.h"

#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "core/track/crossing.h"
#include "core/track/learn.h"
#include "tests/support/demo_world.h"
#include "tests/support/random_world.h"

using namespace rendak;

namespace {

constexpr double pi = std::numbers::pi;

/// A closed track whose curvature is given piece by piece: {length, curvature}.
Track track_of(const std::vector<std::pair<double, double>>& pieces) {
    Track track;
    double heading = 0;
    Point at;
    for (const auto& [length_m, curvature] : pieces) {
        for (int i = 0; i < length_m; ++i) {
            track.line.push_back(at);
            at = at + Point{std::cos(heading), std::sin(heading)};
            heading += curvature;
            track.length_m += 1;
        }
    }
    complete_track(track);
    return track;
}

/// Corners away from the ends: these short test lines do not close, and closing them makes bends of its own.
std::vector<Corner> inner_corners(const Track& track) {
    std::vector<Corner> out;
    for (const Corner& corner : track.corners) {
        if (corner.start_m > 60 && corner.end_m < track.length_m - 60) out.push_back(corner);
    }
    return out;
}

/// A square with rounded corners of 40 m radius, counter-clockwise, from the middle of a side.
Track square_track() {
    const double arc = std::round(40 * pi / 2);
    const double k = (pi / 2) / arc;
    return track_of({{150, 0}, {arc, k}, {300, 0}, {arc, k}, {300, 0}, {arc, k}, {300, 0}, {arc, k}, {150, 0}});
}

}  // namespace

TEST(Track, CornersOfASquare) {
    const Track track = square_track();
    ASSERT_EQ(track.corners.size(), 4U);
    for (std::size_t i = 0; i < 4; ++i) {
        const Corner& corner = track.corners[i];
        EXPECT_EQ(corner.number, static_cast<int>(i) + 1);
        EXPECT_TRUE(corner.left);
        EXPECT_NEAR(corner.angle_deg, 90, 4);
        EXPECT_NEAR(corner.radius_m, 40, 4);
        EXPECT_NEAR(0.5 * (corner.start_m + corner.end_m), 150 + 31.5 + static_cast<double>(i) * 363, 3);
    }
}

TEST(Track, KinksBelowTenDegreesAreNoCorners) {
    const Track track = track_of({{200, 0}, {20, 0.007}, {200, 0}});
    EXPECT_TRUE(inner_corners(track).empty());
    EXPECT_EQ(inner_corners(track_of({{200, 0}, {40, 0.007}, {200, 0}})).size(), 1U) << "16 degrees are one";
}

TEST(Track, SameHandMergesOnlyWhenCloseAndTight) {
    const auto corners = [](double between_m, double between_curvature) {
        return inner_corners(track_of({{200, 0}, {40, 0.02}, {between_m, between_curvature}, {40, 0.02}, {200, 0}}))
            .size();
    };
    EXPECT_EQ(corners(12, 0), 1U) << "a few car lengths";
    EXPECT_EQ(corners(60, 0), 2U);
    EXPECT_EQ(corners(50, 0.015), 1U) << "a double apex that never opens";
    EXPECT_EQ(corners(80, 0.004), 2U) << "it opens to a fifth in between";
}

TEST(Track, ChicaneIsTwoCorners) {
    const Track track = track_of({{200, 0}, {30, 0.025}, {10, 0}, {30, -0.025}, {200, 0}});
    const auto corners = inner_corners(track);
    ASSERT_EQ(corners.size(), 2U);
    EXPECT_TRUE(corners[0].left);
    EXPECT_FALSE(corners[1].left);
}

TEST(Track, SectionsCoverTheLapWithoutHoles) {
    for (const Track& track : {square_track(), *test::demo_world().track, track_of({{500, 0}})}) {
        double at = 0;
        for (const Section& section : sections_of(track)) {
            EXPECT_NEAR(section.range_m.begin, at, 1e-9) << section.name;
            EXPECT_GT(section.range_m.length(), 0) << section.name;
            at = section.range_m.end;
        }
        EXPECT_NEAR(at, track.length_m, 1e-9);
    }
}

TEST(Track, GeoJsonReadsBack) {
    const Track& before = *test::demo_world().track;
    const auto after = track_from_geojson(track_to_geojson(before), "x");
    ASSERT_TRUE(after) << after.error().text();
    EXPECT_EQ(after->name, before.name);
    EXPECT_DOUBLE_EQ(after->length_m, before.length_m);
    ASSERT_EQ(after->line.size(), before.line.size());
    ASSERT_EQ(after->corners.size(), before.corners.size());
    const LocalPlane from(before.origin), to(after->origin);
    for (std::size_t i = 0; i < before.line.size(); i += 50) {
        EXPECT_LT(length(to.to_local(from.to_geo(before.line[i])) - after->line[i]), 0.01);
    }
    EXPECT_NEAR(heading_from_direction(after->start.direction), heading_from_direction(before.start.direction), 0.05);
    EXPECT_NEAR(after->start.half_width_m, before.start.half_width_m, 0.01);
}

TEST(Track, BadGeoJsonIsASentence) {
    for (const char* text :
         {"", "{", "[]", R"({"features":[]})",
          R"({"features":[{"properties":{"role":"centreline"},"geometry":{"coordinates":[[1,2]]}}]})",
          R"({"features":[{"properties":{"role":"centreline","length_m":"x"},"geometry":{"coordinates":7}}]})"}) {
        const auto track = track_from_geojson(text, "ring.geojson");
        ASSERT_FALSE(track) << text;
        EXPECT_EQ(track.error().where, "ring.geojson");
    }
}

TEST(Learn, WrongHeadingSaysTheRightOne) {
    const auto& world = test::demo_world();
    const auto start = start_line_at(world.circuit.origin, world.circuit.origin, world.circuit.heading_deg + 180);
    const auto track = learn_track(*world.runs[1].path, "x", start);
    ASSERT_FALSE(track);
    EXPECT_NE(track.error().message.find("the other way round: try heading 118"), std::string::npos)
        << track.error().message;
}

TEST(Learn, LineFarAwayIsSaid) {
    const auto& world = test::demo_world();
    const auto start = start_line_at(world.circuit.origin, {57.5, 4.82}, 118);
    const auto track = learn_track(*world.runs[1].path, "x", start);
    ASSERT_FALSE(track);
    EXPECT_NE(track.error().message.find("crosses this start line 0 times"), std::string::npos);
}

TEST(Learn, SuggestedStartGivesTheSameLaps) {
    const auto& world = test::demo_world();
    const auto start = suggest_start(*world.runs[1].path);
    ASSERT_TRUE(start);
    const auto track = learn_track(*world.runs[1].path, "x", *start);
    ASSERT_TRUE(track) << track.error().message;
    EXPECT_NEAR(track->length_m, world.track->length_m, 8);
}

/// Where it crosses itself a car comes by twice a lap, each time another way.
TEST(Learn, AFigureOfEightHasWholeLaps) {
    for (const double height : {0.3, 0.55, 0.9}) {
        const test::RandomRoad road = test::figure_of_eight(height);
        const test::RandomDrive drive = test::drive(road, {}, 4, 11);
        const Recording recording = test::recorded(road, drive, {0, 60, 0.05, 0.03}, 11);
        const auto path = path_of(recording);
        ASSERT_TRUE(path) << path.error().message;
        const auto start = suggest_start(*path);
        ASSERT_TRUE(start);
        const auto track = learn_track(*path, "Eight", *start);
        ASSERT_TRUE(track) << track.error().message;
        EXPECT_NEAR(track->length_m / road.length_m, 1, 0.01) << height;
        const auto to_left = std::count_if(track->corners.begin(), track->corners.end(),
                                           [](const Corner& corner) { return corner.left; });
        EXPECT_GE(to_left, 1) << height;
        EXPECT_LT(to_left, static_cast<std::ptrdiff_t>(track->corners.size())) << height;
        // Through the very crossing, as somebody may say it.
        std::size_t a = 0, b = 0;
        double nearest = 1e9;
        for (std::size_t i = 0; i < road.centre.size(); ++i)
            for (std::size_t k = i + 300; k + 300 < road.centre.size() + i && k < road.centre.size(); ++k)
                if (length(road.centre[k] - road.centre[i]) < nearest) {
                    nearest = length(road.centre[k] - road.centre[i]);
                    a = i;
                    b = k;
                }
        ASSERT_LT(nearest, 2);
        const LocalPlane from(road.origin), to(path->origin);
        StartLine crossing{to.to_local(from.to_geo(road.centre[a])), road.direction[a], 20};
        const auto times = find_crossings(*path, crossing);
        ASSERT_GE(times.size(), 3U) << height << " " << b;
        // Half a lap apart nobody is on the line, unless the legs run almost the same way.
        if (dot(road.direction[a], road.direction[b]) > 0.3) continue;
        for (std::size_t k = 1; k < times.size(); ++k)
            EXPECT_NEAR(path->distance_at(times[k]) - path->distance_at(times[k - 1]), road.length_m, 30) << height;
    }
}

TEST(Learn, RunsAreRecognisedByPlace) {
    const auto& world = test::demo_world();
    EXPECT_GT(share_on_track(*world.runs[2].path, *world.track), 0.95);
    Track elsewhere = *world.track;
    elsewhere.origin = {57.33, 4.82};
    EXPECT_LT(share_on_track(*world.runs[2].path, elsewhere), 0.3);
}

TEST(Crossing, DirectionWidthAndStandingCars) {
    Path path;
    path.origin = {57, 4};
    const auto drive = [&](Point velocity, double seconds) {
        for (int i = 0; i < seconds * 20; ++i) {
            const Point at = path.size() == 0 ? Point{-50, 0} : path.position.back() + velocity * 0.05;
            path.distance_m.push_back(path.size() == 0 ? 0 : path.distance_m.back() + length(velocity) * 0.05);
            path.time_s.push_back(0.05 * static_cast<double>(path.size()));
            path.position.push_back(at);
            path.velocity.push_back(velocity);
            path.bridged.push_back(0);
        }
    };
    drive({20, 0}, 10);   // over the line at x = 0
    drive({0, 20}, 5);    // around …
    drive({-20, 0}, 15);  // … back 100 m to the side
    drive({0, -20}, 5);
    drive({20, 0}, 10);  // and over it again
    const auto times = find_crossings(path, {{0.01, 0}, {1, 0}, 20});
    ASSERT_EQ(times.size(), 2U);
    EXPECT_NEAR(times[0], 2.5, 0.01);
    EXPECT_TRUE(find_crossings(path, {{0.01, 0}, {-1, 0}, 20}).empty()) << "the way back lies outside the line's width";
    EXPECT_EQ(find_crossings(path, {{0.01, 100}, {-1, 0}, 20}).size(), 1U);
}
