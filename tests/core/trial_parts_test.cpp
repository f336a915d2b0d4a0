// What trials and the chassis are looked at by: where a change acts, what can be told apart, stretches of a lap.
#include <gtest/gtest.h>

#include <algorithm>
#include <set>

#include "core/chassis/stretches.h"
#include "core/trials/change_parts.h"
#include "tests/support/exact_laps.h"
#include "tests/support/made_world.h"

using namespace rendak;
using test::drawn_circuit;
using test::drawn_track;
using test::exact_laps;

namespace {

using enum LapPart;
using Parts = std::vector<LapPart>;

/// Three laps round Skerrow Point, each where the car truly was.
const std::vector<PreparedLap>& trial_laps() {
    static const auto made = [] {
        demo::RunPlan plan = test::MadeWorld::plan(4, 77, 0.7);
        plan.name = "Made";
        return exact_laps(drawn_circuit(), drawn_track(), plan);
    }();
    return made;
}

double slowest_in(const PreparedLap& lap, Interval range_m) {
    double out = 1e9;
    for (double m = range_m.begin; m <= range_m.end; m += 2) out = std::min(out, lap.value_at("speed", m));
    return out;
}

}  // namespace

TEST(PartsOfAChange, AreThoseThatEngineersName) {
    EXPECT_EQ(parts_of_change("Rear wing +2 holes"), (Parts{fast_corners, straights}));
    EXPECT_EQ(parts_of_change("smaller brake ducts"), (Parts{straights}));
    EXPECT_EQ(parts_of_change("BRAKE BALANCE to the rear"), (Parts{braking}));
    EXPECT_EQ(parts_of_change("final drive 12/37"), (Parts{straights}));
    EXPECT_EQ(parts_of_change("pressures 0.05 bar lower"),
              (Parts{braking, slow_corners, middle_corners, fast_corners}));
    EXPECT_EQ(parts_of_change("preload of the differential"), (Parts{slow_corners, middle_corners}));
    EXPECT_EQ(parts_of_change("rear springs 10 N/mm softer"), (Parts{slow_corners, middle_corners, fast_corners}));
    EXPECT_EQ(parts_of_change("front bar, one step"), (Parts{slow_corners, middle_corners, fast_corners}));
}

TEST(PartsOfAChange, AreNotFoundInsideOtherWords) {
    for (const char* change : {"barely any change", "swinging arm", "remapped", "toed", "new seat", ""})
        EXPECT_TRUE(parts_of_change(change).empty()) << change;
    EXPECT_FALSE(parts_of_change("toe-in 1 mm").empty());
    EXPECT_FALSE(parts_of_change("map3").empty()) << "a digit ends a word";
}

TEST(PartsOfAChange, EveryPartHasAName) {
    std::set<std::string_view> names;
    for (const LapPart part : lap_parts) names.insert(lap_part_name(part));
    EXPECT_EQ(names.size(), lap_parts.size());
    EXPECT_FALSE(names.contains(""));
}

TEST(PartsOfAChange, CornersAreToldApartBySpeed) {
    EXPECT_EQ(part_of_corner(60 / 3.6), slow_corners);
    EXPECT_EQ(part_of_corner(slow_corner_mps), middle_corners);
    EXPECT_EQ(part_of_corner(fast_corner_mps), middle_corners);
    EXPECT_EQ(part_of_corner(170 / 3.6), fast_corners);
}

TEST(Changes, ApartFromEachOtherCanBeTold) {
    const Separable it = separable({"brake balance", "rear wing", "preload"});
    EXPECT_TRUE(it.all) << it.text;
    for (const char* words : {"brake balance: braking", "rear wing: fast corners, straights", "preload: slow corners"})
        EXPECT_NE(it.text.find(words), std::string::npos) << it.text;
}

TEST(Changes, ThatShareAPartCannot) {
    const Separable it = separable({"rear wing", "brake balance", "rear ride height"});
    EXPECT_FALSE(it.all);
    EXPECT_NE(it.text.find("rear wing and rear ride height both act on fast corners, straights"), std::string::npos)
        << it.text;
    EXPECT_EQ(it.text.find("brake balance and"), std::string::npos) << it.text;
}

TEST(Changes, OfWhichNothingIsKnownAreSaid) {
    const Separable two = separable({"new seat", "rear wing"});
    EXPECT_FALSE(two.all);
    EXPECT_NE(two.text.find("where new seat acts is not known"), std::string::npos) << two.text;
    EXPECT_TRUE(separable({}).all);
    EXPECT_TRUE(separable({}).text.empty());
    EXPECT_NE(separable({"new seat"}).text.find("not known"), std::string::npos);
    EXPECT_EQ(separable({"rear wing"}).text, "rear wing acts on fast corners, straights.");
}

// ---- stretches of a lap ----------------------------------------------------------------------------

TEST(ChassisStretches, KindsGoByName) {
    for (const StretchKind kind :
         {StretchKind::lap, StretchKind::straights, StretchKind::corners, StretchKind::exits, StretchKind::kerbs})
        EXPECT_EQ(stretch_kind(stretch_kind_name(kind)), kind);
    EXPECT_FALSE(stretch_kind("Lap"));
    EXPECT_FALSE(stretch_kind(""));
}

TEST(ChassisStretches, ALapIsAllOfTheQuickest) {
    const PreparedLap& quickest = quickest_of(trial_laps());
    for (const PreparedLap& lap : trial_laps()) EXPECT_LE(quickest.time_s(), lap.time_s());
    const auto found = stretches_of(StretchKind::lap, trial_laps());
    ASSERT_EQ(found.size(), 1U);
    EXPECT_EQ(found[0].range_m.begin, 0);
    EXPECT_DOUBLE_EQ(found[0].range_m.end, quickest.map.length_m());
    EXPECT_NEAR(found[0].time_s, quickest.time_s(), 1e-6);
}

TEST(ChassisStretches, CornersAreThoseOfTheTrack) {
    const auto& corners = drawn_track()->corners;
    const auto found = stretches_of(StretchKind::corners, trial_laps());
    ASSERT_EQ(found.size(), corners.size());
    const PreparedLap& lap = quickest_of(trial_laps());
    for (std::size_t k = 0; k < corners.size(); ++k) {
        EXPECT_EQ(found[k].corner, corners[k].number);
        EXPECT_EQ(found[k].left, corners[k].left);
        EXPECT_EQ(found[k].range_m.begin, corners[k].start_m);
        EXPECT_EQ(found[k].range_m.end, corners[k].end_m);
        EXPECT_NEAR(found[k].time_s, lap.map.time_at(corners[k].end_m) - lap.map.time_at(corners[k].start_m), 1e-9);
    }
}

TEST(ChassisStretches, StraightsLieBetweenCornersAndAreLongEnough) {
    const auto& corners = drawn_track()->corners;
    const auto found = stretches_of(StretchKind::straights, trial_laps());
    ASSERT_FALSE(found.empty());
    for (const Stretch& straight : found) {
        EXPECT_GE(straight.range_m.length(), 100) << straight.name;
        EXPECT_EQ(straight.corner, 0);
        for (const Corner& corner : corners)
            EXPECT_TRUE(straight.range_m.end <= corner.start_m + 1e-6 || straight.range_m.begin >= corner.end_m - 1e-6)
                << straight.name << " and " << corner.title();
    }
}

TEST(ChassisStretches, ExitsLeadFromSlowPlacesOntoStraights) {
    const PreparedLap& lap = quickest_of(trial_laps());
    double top = 0;
    for (double m = 0; m < lap.map.length_m(); m += 5) top = std::max(top, lap.value_at("speed", m));
    const auto found = stretches_of(StretchKind::exits, trial_laps());
    ASSERT_FALSE(found.empty());
    const auto& corners = drawn_track()->corners;
    for (const Stretch& exit : found) {
        const auto corner =
            std::find_if(corners.begin(), corners.end(), [&](const Corner& it) { return it.number == exit.corner; });
        ASSERT_NE(corner, corners.end()) << exit.name;
        EXPECT_GE(exit.range_m.begin, corner->start_m);
        EXPECT_GT(exit.range_m.end, corner->end_m - 20) << exit.name;
        EXPECT_LE(exit.time_s, 4 + 1e-6);
        EXPECT_LT(lap.value_at("speed", exit.range_m.begin), 0.6 * top) << exit.name;
        EXPECT_NEAR(lap.value_at("speed", exit.range_m.begin), slowest_in(lap, {corner->start_m, corner->end_m}), 0.3)
            << exit.name;
        EXPECT_GT(lap.value_at("speed", exit.range_m.end), lap.value_at("speed", exit.range_m.begin)) << exit.name;
    }
    // Fast corners have none, and they stand in the order of the road.
    for (std::size_t k = 1; k < found.size(); ++k) EXPECT_GT(found[k].range_m.begin, found[k - 1].range_m.begin);
}

TEST(ChassisStretches, OneOfOnesOwnBelongsToTheCornerBeforeItsMiddle) {
    const auto& corners = drawn_track()->corners;
    const double behind = corners[1].end_m + 5;
    const Stretch own = own_stretch({behind, behind + 40}, trial_laps());
    EXPECT_EQ(own.corner, corners[1].number);
    EXPECT_EQ(own.left, corners[1].left);
    EXPECT_GT(own.time_s, 0);
    EXPECT_NE(own.name.find(" to "), std::string::npos);
    const Stretch first = own_stretch({0, 10}, trial_laps());
    EXPECT_EQ(first.corner, 0) << "no corner comes before the first";
    const PreparedLap& lap = trial_laps().front();
    EXPECT_EQ(time_on(lap, own).begin, lap.map.time_at(own.range_m.begin));
    EXPECT_EQ(time_on(lap, own).end, lap.map.time_at(own.range_m.end));
}

TEST(ChassisStretches, WithoutDampersThereAreNoKerbs) {
    auto without = trial_laps();
    auto less = std::make_shared<Recording>(*without.front().recording);
    std::erase_if(less->channels, [](const Channel& channel) { return channel.quantity.starts_with("damper"); });
    for (PreparedLap& lap : without) lap.recording = less;
    EXPECT_TRUE(stretches_of(StretchKind::kerbs, without).empty());
}
