// The guide: what the demo's road is known to be, closed forms of bends, and what cannot be told.
#include "core/analysis/track_guide.h"

#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "tests/support/demo_world.h"
#include "tests/support/got.h"

using namespace rendak;
using namespace rendak::test;

namespace {

/// The demo's track with the heights and leans that the road has.
std::shared_ptr<Track> true_road() {
    const DemoWorld& world = demo_world(false);
    auto track = std::make_shared<Track>(*world.track);
    for (std::size_t i = 0; i < track->line.size(); ++i) {
        const std::size_t nearest = beside(world.circuit, *track, i);
        track->height.value.push_back(world.circuit.height_m[nearest]);
        track->height.sd.push_back(0.05);
        const double helps = world.circuit.banking_rad[nearest];
        track->banking.value.push_back(world.circuit.curvature[nearest] > 0 ? -helps : helps);
        track->banking.sd.push_back(0.005);
    }
    return track;
}

PreparedLap lap_on(const std::shared_ptr<const Track>& track) {
    PreparedLap lap = demo_world(false).runs[1].lap(4, demo_world(false).track);
    lap.track = track;
    return lap;
}

bool warns(const GuideCorner& it, const Track& track, const char* of) {
    for (const std::string& text : guide_warnings(it, track)) {
        if (text.find(of) != std::string::npos) return true;
    }
    return false;
}

}  // namespace

TEST(TrackGuide, FindsWhatTheDemosRoadIsMadeOf) {
    const auto track = true_road();
    const TrackGuide guide = track_guide(lap_on(track));
    ASSERT_EQ(guide.corners.size(), 14U);
    EXPECT_TRUE(guide.height_known && guide.lean_known);
    const auto corner = [&](int number) -> const GuideCorner& {
        return guide.corners[static_cast<std::size_t>(number - 1)];
    };
    // Banked by six degrees that help.
    ASSERT_TRUE(corner(3).lean_middle);
    EXPECT_NEAR(corner(3).lean_middle->rad * 180 / std::numbers::pi, 5, 1);
    EXPECT_NE(guide_words(corner(3), *track).find("leans your way in the middle"), std::string::npos);
    // The road falls away at the exit of Turn 10.
    ASSERT_TRUE(corner(10).lean_out);
    EXPECT_LT(corner(10).lean_out->rad, 0);
    EXPECT_TRUE(warns(corner(10), *track, "falls away at the exit"));
    // A crest on the long straight behind Turn 5.
    ASSERT_TRUE(corner(5).crest_m);
    EXPECT_NEAR(*corner(5).crest_m - corner(5).corner.end_m, 190, 60);
    EXPECT_TRUE(warns(corner(5), *track, "crest"));
    EXPECT_FALSE(warns(corner(1), *track, "crest"));
    // Down to the shore at Turn 5, up from there.
    ASSERT_TRUE(corner(4).climbs_in_m && corner(9).climbs_out_m);
    EXPECT_LT(*corner(4).climbs_in_m, -1);
    EXPECT_GT(*corner(9).climbs_out_m, 4);
    EXPECT_EQ(guide_kind(corner(5)), "tight right");
    EXPECT_EQ(guide_kind(corner(6)), "fast right, flat");
    EXPECT_TRUE(corner(4).of_commitment);
    EXPECT_TRUE(warns(corner(4), *track, "small steps"));
    EXPECT_EQ(*corner(5).gear, 1);
    EXPECT_NEAR(corner(14).after_m, track->length_m - corner(14).corner.end_m + corner(1).corner.start_m, 1e-6);
    EXPECT_EQ(corner(14).next, 1) << "round to the first";
}

TEST(TrackGuide, WhatMattersComesFromWhatAKmhIsWorth) {
    const auto track = true_road();
    const PreparedLap lap = lap_on(track);
    const TrackGuide guide = track_guide(lap);
    const auto worth = got(worth_of(std::span(&lap, 1)));
    for (std::size_t k = 0; k < guide.corners.size(); ++k) {
        const GuideCorner& it = guide.corners[k];
        ASSERT_TRUE(it.exit_s && it.slowest_s);
        EXPECT_EQ(*it.exit_s, worth[k].exit_s);
        const double exit = *it.exit_s * *it.exit_mps, middle = (*it.slowest_s - *it.exit_s) * *it.slowest_mps;
        if (it.matters == GuideCorner::Matters::exit) EXPECT_GT(exit, middle) << it.corner.number;
        if (it.matters == GuideCorner::Matters::speed) EXPECT_LE(exit, middle) << it.corner.number;
        if (it.matters == GuideCorner::Matters::next) EXPECT_LE(it.after_m, 80) << it.corner.number;
    }
    // In miles an hour the same seconds are of a larger step.
    const GuideUnits imperial{"mph", "ft", 3.6 / 1.609344, 1 / 0.3048};
    const std::string words = guide_headline(guide.corners[0], *track, imperial);
    EXPECT_NE(words.find("1 mph more"), std::string::npos) << words;
    char expected[32];
    std::snprintf(expected, sizeof expected, "%.3f s at the exit", *guide.corners[0].exit_s * 1.609344);
    EXPECT_NE(words.find(expected), std::string::npos) << words << " not " << expected;
}

TEST(TrackGuide, SaysWhatIsNotKnown) {
    const DemoWorld& world = demo_world(false);
    PreparedLap lap = world.runs[1].lap(4, world.track);
    auto slow = std::make_shared<Recording>(*lap.recording);
    for (const char* gone : {"throttle", "speed", "longitudinal_acceleration"})
        std::erase_if(slow->channels, [&](const Channel& it) { return it.quantity == gone; });
    lap.recording = slow;
    lap.scales = nullptr;
    const TrackGuide guide = track_guide(lap);
    EXPECT_FALSE(guide.height_known || guide.lean_known);
    for (const GuideCorner& it : guide.corners) {
        EXPECT_FALSE(it.climbs_in_m || it.climbs_out_m || it.lean_in || it.crest_m);
        EXPECT_EQ(it.matters, GuideCorner::Matters::cannot_be_told);
        EXPECT_EQ(guide_matters(it, *lap.track), "–");
        EXPECT_NE(guide_words(it, *lap.track).find("cannot be told"), std::string::npos);
        EXPECT_EQ(guide_words(it, *lap.track).find("leans"), std::string::npos);
    }
    // A lean that may as well be nothing is none.
    EXPECT_FALSE((Lean{0.03, 0.02}.told()));
    EXPECT_FALSE((Lean{0.01, 0.001}.told()));
    EXPECT_TRUE((Lean{-0.03, 0.01}.told()));
    // Heights that nobody knows to half of what they are say nothing.
    auto vague = true_road();
    for (double& sd : vague->height.sd) sd = 6;
    for (const GuideCorner& it : track_guide(lap_on(vague)).corners) EXPECT_FALSE(it.climbs_in_m && it.crest_m);
}
