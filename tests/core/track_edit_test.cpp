// Edits of a track keep it whole; files of every kind come back as they went; what is learnt of the road fits the
// truth.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "core/laps/cut.h"
#include "core/track/edit.h"
#include "core/track/launch.h"
#include "core/track/learn.h"
#include "core/track/profiles.h"
#include "demo/sensors.h"
#include "tests/support/demo_world.h"

using namespace rendak;
using rendak::test::demo_world;

namespace {

const Track& skerrow() {
    return *demo_world().track;
}

/// Sections cover the lap without holes, corners are in order and numbered upwards.
void expect_whole(const Track& track) {
    double at = 0;
    for (const Section& section : sections_of(track)) {
        EXPECT_DOUBLE_EQ(section.range_m.begin, at);
        EXPECT_GT(section.range_m.end, at);
        at = section.range_m.end;
    }
    EXPECT_DOUBLE_EQ(at, track.length_m);
    int number = 0;
    for (const Corner& corner : track.corners) {
        EXPECT_GT(corner.number, number);
        number = corner.number;
        EXPECT_LE(corner.start_m, corner.apex_m);
        EXPECT_LE(corner.apex_m, corner.end_m);
    }
}

}  // namespace

TEST(TrackEdit, DeleteRenumbersAndTheFoundVersionComesBack) {
    const auto fewer = delete_corner(skerrow(), 6);
    ASSERT_TRUE(fewer);
    EXPECT_EQ(fewer->corners.size(), 13U);
    EXPECT_EQ(fewer->corners[6].number, 7);
    expect_whole(*fewer);
    const Track found = with_found_corners(*fewer);
    EXPECT_EQ(found.corners, skerrow().corners);
    EXPECT_FALSE(delete_corner(skerrow(), 99));
}

TEST(TrackEdit, JoinMeasuresTheCornerAgain) {
    const auto joined = join_corners(skerrow(), 6);  // the chicane, right after left
    ASSERT_TRUE(joined);
    EXPECT_EQ(joined->corners.size(), 13U);
    EXPECT_DOUBLE_EQ(joined->corners[6].start_m, skerrow().corners[6].start_m);
    EXPECT_DOUBLE_EQ(joined->corners[6].end_m, skerrow().corners[7].end_m);
    EXPECT_LT(joined->corners[6].angle_deg, 20) << "left and right take each other away";
    expect_whole(*joined);
    EXPECT_FALSE(join_corners(skerrow(), 13));
}

TEST(TrackEdit, AddNeedsRoomAndMeasuresHandAndRadius) {
    const auto without = delete_corner(skerrow(), 4);
    ASSERT_TRUE(without);
    const Corner hairpin = skerrow().corners[4];
    const auto again = add_corner(*without, {hairpin.start_m, hairpin.end_m});
    ASSERT_TRUE(again);
    EXPECT_EQ(again->corners[4].left, hairpin.left);
    EXPECT_NEAR(again->corners[4].radius_m, hairpin.radius_m, 0.5);
    EXPECT_NEAR(again->corners[4].angle_deg, hairpin.angle_deg, 3);
    EXPECT_EQ(again->corners[4].number, 5);
    EXPECT_EQ(again->corners[13].number, 14);
    const auto crowded = add_corner(skerrow(), {hairpin.start_m + 5, hairpin.end_m + 40});
    ASSERT_FALSE(crowded);
    EXPECT_NE(crowded.error().message.find("There is a corner already"), std::string::npos);
    EXPECT_FALSE(add_corner(skerrow(), {100, 103}));
}

TEST(TrackEdit, NamesAndNumbersAreThePeoplesOwn) {
    auto track = rename_corner(skerrow(), 2, "3A");
    ASSERT_TRUE(track);
    EXPECT_EQ(track->corners[2].title(), "Turn 3A");
    EXPECT_EQ(track->corners[2].label(), "3A");
    track = rename_corner(*track, 4, "Gull Hook");
    EXPECT_EQ(track->corners[4].title(), "Gull Hook");
    EXPECT_EQ(track->corners[4].label(), "5");
    bool named = false;
    for (const Section& section : sections_of(*track)) named |= section.name == "Gull Hook";
    EXPECT_TRUE(named);
    track = renumber_from(*track, 5, 9);
    ASSERT_TRUE(track);
    EXPECT_EQ(track->corners[5].number, 9);
    EXPECT_EQ(track->corners[13].number, 17);
    const auto refused = renumber_from(*track, 5, 4);
    ASSERT_FALSE(refused);
    EXPECT_NE(refused.error().message.find("must be 6 or more"), std::string::npos);
}

TEST(TrackEdit, LimitsKeepOffTheNeighbours) {
    const auto track = set_corner_limits(skerrow(), 7, {0, 1e6});
    ASSERT_TRUE(track);
    EXPECT_DOUBLE_EQ(track->corners[7].start_m, skerrow().corners[6].end_m);
    EXPECT_DOUBLE_EQ(track->corners[7].end_m, skerrow().corners[8].start_m);
    expect_whole(*track);
    const auto apex = set_corner_apex(skerrow(), 4, skerrow().corners[4].end_m + 50);
    ASSERT_TRUE(apex);
    EXPECT_DOUBLE_EQ(apex->corners[4].apex_m, skerrow().corners[4].end_m);
}

TEST(TrackEdit, SectorsCoverTheLapWhateverTheirNumber) {
    const auto track = set_sector_lines(skerrow(), {3000, 1200, 2200});
    ASSERT_TRUE(track);
    const auto sectors = sectors_of(*track);
    ASSERT_EQ(sectors.size(), 4U);
    EXPECT_EQ(sectors[1].name, "Sector 2");
    EXPECT_DOUBLE_EQ(sectors[3].range_m.end, track->length_m);
    EXPECT_EQ(sectors_of(skerrow()).size(), 1U);
    EXPECT_FALSE(set_sector_lines(skerrow(), {1000, 1010}));
    EXPECT_FALSE(set_sector_lines(skerrow(), {5}));
}

TEST(TrackEdit, MovedStartKeepsEveryPlaceOnEarth) {
    auto with_sectors = set_sector_lines(skerrow(), {1500, 3000});
    const auto moved = move_start(*with_sectors, 700);
    ASSERT_TRUE(moved);
    expect_whole(*moved);
    EXPECT_NEAR(moved->length_m, skerrow().length_m, 1e-6);
    EXPECT_EQ(moved->corners.size(), 14U) << "the new line lies inside Turn 2, which keeps its longer part";
    for (const double s : {10.0, 555.0, 2000.0, 4000.0})
        EXPECT_LT(length(moved->position_at(s) - skerrow().position_at(s + 700)), 0.05) << s;
    EXPECT_NEAR(moved->sector_lines_m[0], 800, 1e-6);
    // And back: nothing has moved by more than a hand's breadth.
    const auto back = move_start(*moved, skerrow().length_m - 700);
    ASSERT_TRUE(back);
    for (double s = 0; s < skerrow().length_m; s += 50)
        EXPECT_LT(length(back->position_at(s) - skerrow().position_at(s)), 0.1) << s;
}

TEST(TrackEdit, MovedStartCutsTheSameRunElsewhere) {
    const auto moved = move_start(skerrow(), 700);
    ASSERT_TRUE(moved);
    const auto& run = demo_world().runs[1];
    const auto laps = cut_laps(*run.path, *moved);
    const double at_700 = run.lap(3, demo_world().track).map.time_at(700);
    double nearest = 1e9;
    for (const Lap& lap : laps) nearest = std::min(nearest, std::abs(lap.start_s - at_700));
    EXPECT_LT(nearest, 0.02);
}

TEST(TrackEdit, StartIsPlacedByCoordinatesAndRefusedOffTheRoad) {
    const Point at = skerrow().position_at(2400);
    const auto placed =
        place_start(skerrow(), {at + left_of(skerrow().tangent_at(2400)) * 5, skerrow().tangent_at(2400), 15});
    ASSERT_TRUE(placed);
    EXPECT_LT(length(placed->start.position - at), 0.3);
    EXPECT_DOUBLE_EQ(placed->start.half_width_m, 15);
    const auto against = place_start(skerrow(), {at, skerrow().tangent_at(2400) * -1, 15});
    ASSERT_FALSE(against);
    EXPECT_NE(against.error().message.find("against the direction"), std::string::npos);
    const auto off =
        place_start(skerrow(), {at + left_of(skerrow().tangent_at(2400)) * 90, skerrow().tangent_at(2400), 15});
    ASSERT_FALSE(off);
    EXPECT_NE(off.error().message.find("m off the track"), std::string::npos);
}

TEST(TrackEdit, ReversedTwiceIsTheSame) {
    const Track other_way = reversed(skerrow());
    expect_whole(other_way);
    EXPECT_NE(other_way.corners.front().left, skerrow().corners.back().left);
    EXPECT_NEAR(other_way.corners.front().start_m, skerrow().length_m - skerrow().corners.back().end_m, 1e-6);
    EXPECT_LT(length(other_way.position_at(300) - skerrow().position_at(skerrow().length_m - 300)), 0.1);
    const Track same = reversed(other_way);
    EXPECT_LT(length(same.position_at(300) - skerrow().position_at(300)), 1e-6);
    EXPECT_NEAR(same.corners[4].apex_m, skerrow().corners[4].apex_m, 1e-6);
}

TEST(TrackEdit, PitLaneIsFoundInAnOutLap) {
    const auto& run = demo_world().runs[1];
    const auto lane = pit_lane_from(*run.path, skerrow(), {run.laps.front().start_s, run.laps.front().end_s});
    ASSERT_GT(lane.size(), 10U);
    const double first = start_distance(skerrow(), {lane.front(), skerrow().start.direction, 20});
    EXPECT_NEAR(first, 100, 20) << "the box";
    EXPECT_TRUE(pit_lane_from(*run.path, skerrow(), {run.laps[3].start_s, run.laps[3].end_s}).empty());
}

TEST(TrackEdit, CrossingsInAKnownPitLaneMakeOutAndInLaps) {
    const auto& run = demo_world().runs[1];
    Track wide = skerrow();
    wide.start.half_width_m = 40;  // the line reaches across the pits, 28 m beside the track
    const auto without = cut_laps(*run.path, wide);
    ASSERT_TRUE(without.back().kind == LapKind::in || without.back().kind == LapKind::part);
    const auto flying = [](const std::vector<Lap>& laps) {
        return std::count_if(laps.begin(), laps.end(), [](const Lap& lap) { return lap.kind == LapKind::flying; });
    };
    EXPECT_EQ(flying(without), 9) << "the in lap crosses the line in the pits";
    for (double s = -150; s <= 200; s += 10)
        wide.pit_lane.push_back(wide.position_at(s) + left_of(wide.tangent_at(s)) * -28.0);
    const auto with = cut_laps(*run.path, wide);
    EXPECT_EQ(flying(with), 8);
    EXPECT_TRUE(std::any_of(with.begin(), with.end(), [](const Lap& lap) {
        return lap.kind == LapKind::in && lap.reason == "into the pits" && lap.time_s() > 100;
    }));
}

TEST(TrackFile, EverythingComesBack) {
    Track track = *set_sector_lines(*rename_corner(skerrow(), 2, "3A"), {1200, 3100});
    track.pit_lane = {track.position_at(100), track.position_at(150), track.position_at(200)};
    track.edges.source = Edges::Source::spread;
    track.height.value.assign(track.line.size(), 12.5);
    track.height.sd.assign(track.line.size(), 0.25);
    track.banking.value.assign(track.line.size(), std::nan(""));
    track.banking.sd.assign(track.line.size(), std::nan(""));
    for (std::size_t i = 0; i < track.line.size(); ++i) {
        track.edges.left_m.push_back(5 + std::sin(static_cast<double>(i) * 0.01));
        track.edges.right_m.push_back(6);
    }
    for (std::size_t i = 100; i < 200; ++i) track.banking.value[i] = track.banking.sd[i] = 0.05;
    const std::string text = track_to_geojson(track);
    const auto back = track_from_geojson(text, "test");
    ASSERT_TRUE(back) << back.error().text();
    EXPECT_EQ(back->corners[2].name, "3A");
    EXPECT_EQ(back->sector_lines_m, track.sector_lines_m);
    EXPECT_EQ(back->pit_lane.size(), 3U);
    EXPECT_EQ(back->edges.source, Edges::Source::spread);
    for (std::size_t i = 0; i < track.line.size(); i += 37) {
        EXPECT_NEAR(back->edges.left_m[i], track.edges.left_m[i], 0.08) << i;
        EXPECT_NEAR(back->height.value[i], 12.5, 0.01);
    }
    EXPECT_TRUE(std::isnan(back->banking.value[50]));
    EXPECT_NEAR(back->banking.value[150], 0.05, 1e-3);
    EXPECT_EQ(track_to_geojson(*back).substr(0, 200), text.substr(0, 200));
}

TEST(TrackFile, NonsenseIsRefusedWithASentence) {
    std::string text = track_to_geojson(*set_sector_lines(skerrow(), {1000, 2000}));
    const auto at = text.find("\"distance_m\": 2000");
    ASSERT_NE(at, std::string::npos);
    const auto bad = track_from_geojson(text.replace(at, 18, "\"distance_m\": 9000"), "bad.geojson");
    ASSERT_FALSE(bad);
    EXPECT_NE(bad.error().message.find("sector lines are not in order"), std::string::npos);
    text = track_to_geojson(skerrow());
    const auto start = text.find("\"apex_m\"");
    const auto worse = track_from_geojson(text.replace(start, 10, "\"apex_m\": -"), "bad.geojson");
    ASSERT_FALSE(worse);
}

TEST(Road, EdgesFromSlowLapsFitTheRoadAndAStrayLapIsRefused) {
    const auto& circuit = demo_world().circuit;
    const demo::RunPlan plan = demo::edge_laps();
    const auto drive = demo::drive_run(circuit, plan.car, plan);
    const Recording recording = demo::main_logger(circuit, plan.car, plan, drive);
    const auto path = path_of(recording, circuit.origin);
    ASSERT_TRUE(path);
    const auto laps = cut_laps(*path, skerrow());
    ASSERT_GT(laps.size(), 4U);
    const auto offsets = [&](const Lap& lap) {
        const LapMap map = align_lap(*path, skerrow(), lap.start_s, lap.end_s);
        std::vector<RoadSample> out;
        for (std::size_t i = 0; i < map.left_m.size(); ++i) out.push_back({map.distance_m[i], map.left_m[i]});
        return out;
    };
    const auto edges = edges_from_edge_laps(skerrow(), offsets(laps[1]), offsets(laps[3]));
    ASSERT_TRUE(edges) << edges.error().message;
    double squares = 0, count = 0;
    for (std::size_t i = 0; i < skerrow().line.size(); i += 5) {
        const double width = edges->left_m[i] + edges->right_m[i];
        const double s = static_cast<double>(i) / static_cast<double>(skerrow().line.size()) * circuit.length_m;
        const double off = width - 2 * circuit.half_width_m[circuit.index(s)];
        squares += off * off;
        ++count;
    }
    EXPECT_LT(std::sqrt(squares / count), 0.5) << "metres of width";
    const auto wrong = edges_from_edge_laps(skerrow(), offsets(laps[3]), offsets(laps[1]));
    ASSERT_FALSE(wrong);
    EXPECT_NE(wrong.error().message.find("wrong way round"), std::string::npos);
}

TEST(Road, HeightFromManyLapsIsBetterThanFromOne) {
    const auto& world = demo_world();
    std::vector<std::vector<RoadSample>> laps;
    for (int number = 1; number <= 8; ++number) {
        const PreparedLap lap = world.runs[1].lap(number, world.track);
        const Channel* height = lap.recording->find("altitude");
        laps.emplace_back();
        for (double t = lap.map.start_s(); t < lap.map.end_s(); t += 0.05)
            laps.back().push_back({lap.map.distance_at(t), height->value_at(t) + 2.0 * number});
    }
    const auto rms = [&](const Profile& profile) {
        double mean = 0, squares = 0, count = 0;
        const auto off = [&](std::size_t i) {
            const double s =
                static_cast<double>(i) / static_cast<double>(profile.value.size()) * world.circuit.length_m;
            return profile.value[i] - world.circuit.height_m[world.circuit.index(s)];
        };
        for (std::size_t i = 0; i < profile.value.size(); ++i)
            mean += off(i) / static_cast<double>(profile.value.size());
        for (std::size_t i = 0; i < profile.value.size(); ++i) {
            squares += (off(i) - mean) * (off(i) - mean);
            ++count;
        }
        return std::sqrt(squares / count);
    };
    const Profile one = height_profile(skerrow(), std::span(laps).first(1)), many = height_profile(skerrow(), laps);
    EXPECT_LT(rms(many), 0.25);
    EXPECT_LT(rms(many), rms(one));
    EXPECT_LT(many.sd[1000], one.sd[1000]);
}

TEST(Road, BankingOfTurn3IsFoundWithItsUncertainty) {
    const auto& world = demo_world();
    std::vector<std::vector<CorneringSample>> laps;
    for (int number = 1; number <= 8; ++number) {
        const PreparedLap lap = world.runs[1].lap(number, world.track);
        laps.emplace_back();
        for (double t = lap.map.start_s() + 0.2; t < lap.map.end_s() - 0.2; t += 0.05) {
            const Point v = lap.path->velocity_at(t);
            const Point a = (lap.path->velocity_at(t + 0.15) - lap.path->velocity_at(t - 0.15)) * (1 / 0.3);
            laps.back().push_back(
                {lap.map.distance_at(t), cross(unit(v), a), lap.recording->find("lateral_acceleration")->value_at(t)});
        }
    }
    const Profile banking = banking_profile(skerrow(), laps);
    ASSERT_FALSE(banking.value.empty());
    const auto degrees_at = [&](int corner) {
        return skerrow().value_at(banking.value, skerrow().corners[static_cast<std::size_t>(corner - 1)].apex_m) * 180 /
               std::numbers::pi;
    };
    EXPECT_NEAR(degrees_at(3), 6, 1.5) << "left side high: it helps the right-hander";
    for (const int flat : {1, 4, 5, 9, 12}) EXPECT_NEAR(degrees_at(flat), 0, 1.6) << "turn " << flat;
    EXPECT_LT(skerrow().value_at(banking.sd, skerrow().corners[2].apex_m), 0.04);
    // Turn 10 turns right and falls away where it ends: there its left side is the lower one.
    double most = 0;
    for (double s = skerrow().corners[9].end_m - 50; s < skerrow().corners[9].end_m; s += 2) {
        const double here = skerrow().value_at(banking.value, s);
        if (here < most) most = here;
    }
    EXPECT_NEAR(most * 180 / std::numbers::pi, -2.5, 1);
    EXPECT_TRUE(std::isnan(skerrow().value_at(banking.value, 100))) << "a straight says nothing";
}

TEST(HillClimb, LaunchIsFoundAndTheFinishLineEndsTheRun) {
    const demo::Circuit hill = demo::corrin_hill();
    std::optional<Track> track;
    for (const demo::RunPlan& plan : demo::hill_climb()) {
        const auto drive = demo::drive_run(hill, plan.car, plan);
        const Recording recording = demo::main_logger(hill, plan.car, plan, drive);
        const auto launch = find_launch(recording);
        ASSERT_TRUE(launch);
        EXPECT_NEAR(*launch, drive.launch_s, 0.1) << plan.name;
        const auto path = path_of(recording, hill.origin);
        ASSERT_TRUE(path);
        if (!track) {
            auto learnt = learn_open_track(*path, hill.name, *launch);
            ASSERT_TRUE(learnt) << learnt.error().message;
            auto finished = finish_at(*learnt, 1850);
            ASSERT_TRUE(finished);
            track = std::move(*finished);
            EXPECT_EQ(track->corners.size(), 7U);
        }
        const auto laps = cut_laps(*path, *track, {*launch});
        ASSERT_EQ(laps.size(), 3U);
        EXPECT_EQ(laps[0].reason, "before the launch");
        EXPECT_EQ(laps[1].kind, LapKind::flying);
        EXPECT_EQ(laps[2].reason, "after the finish");
        // The finish is a place on the road: the true time there.
        double best = 1e9, true_finish = 0;
        for (std::size_t i = 0; i < drive.position.size(); ++i) {
            const double away = std::abs(dot(drive.position[i] - track->line.back(), track->tangent.back()));
            if (away < best && length(drive.position[i] - track->line.back()) < 30) {
                best = away;
                true_finish = static_cast<double>(i) * 0.01;
            }
        }
        EXPECT_NEAR(laps[1].end_s, true_finish, 0.03);
        // Without a launch there is nothing to line up.
        const auto without = cut_laps(*path, *track, {});
        ASSERT_EQ(without.size(), 1U);
        EXPECT_FALSE(without[0].included);
        EXPECT_NE(without[0].reason.find("set it by hand"), std::string::npos);
    }
}

TEST(HillClimb, RecordingOnTheMoveHasNoLaunch) {
    EXPECT_FALSE(find_launch(*demo_world().runs[0].recording));
}
