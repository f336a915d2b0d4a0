#include "core/track/geometry.h"

#include <gtest/gtest.h>

using namespace rendak;

TEST(LocalPlane, RoundTripWithinAMillimetre) {
    const LocalPlane plane({57.31, 4.82});
    for (const Point p : {Point{0, 0}, {1000, -500}, {-3000, 2500}, {12, 4000}}) {
        const Point back = plane.to_local(plane.to_geo(p));
        EXPECT_NEAR(back.x, p.x, 1e-3);
        EXPECT_NEAR(back.y, p.y, 1e-3);
    }
}

TEST(LocalPlane, DegreesAreMetres) {
    // One minute of latitude on WGS 84 at 57.31° is 1 855.9 m (meridian radius of curvature).
    const LocalPlane plane({57.31, 4.82});
    EXPECT_NEAR(plane.to_local({57.31 + 1.0 / 60, 4.82}).y, 1855.9, 0.3);
    EXPECT_NEAR(plane.to_local({57.31 + 1.0 / 60, 4.82}).x, 0, 1e-6);
}

TEST(Heading, CompassToVectorAndBack) {
    EXPECT_NEAR(direction_from_heading(0).y, 1, 1e-12);
    EXPECT_NEAR(direction_from_heading(90).x, 1, 1e-12);
    for (const double heading : {0.0, 17.0, 118.0, 270.0, 359.0})
        EXPECT_NEAR(heading_from_direction(direction_from_heading(heading)), heading, 1e-9);
}

TEST(Vectors, LeftIsLeft) {
    const Point north{0, 1};
    EXPECT_EQ(left_of(north).x, -1) << "left of north is west";
    EXPECT_GT(cross(north, {-1, 0}), 0);
}
