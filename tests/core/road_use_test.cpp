// How the road is used: against the exact motion on circuits that nobody tuned it to, and with what is not known.
#include "core/analysis/road_use.h"

#include <gtest/gtest.h>

#include <cmath>

#include "core/track/profiles.h"
#include "tests/support/demo_world.h"
#include "tests/support/figures_only.h"
#include "tests/support/got.h"
#include "tests/support/made_world.h"

using namespace rendak;
using namespace rendak::test;
using demo::Cue;

namespace {

/// The world's track with edges from slow laps along them; null where those laps are not complete.
std::shared_ptr<Track> with_edges(const MadeWorld& world, unsigned seed) {
    auto plan = MadeWorld::plan(6, seed, 0.3);
    for (auto& lap : plan.laps) lap.pace = 0.5;
    plan.laps[1].along_edge = 1;
    plan.laps[3].along_edge = -1;
    const MadeRun run = world.run(plan);
    std::vector<RoadSample> left, right;
    for (std::size_t k = 0; k < run.laps.size(); ++k) {
        const int side = plan.laps[static_cast<std::size_t>(run.lap_of[k])].along_edge;
        const LapMap& map = run.laps[k].map;
        for (std::size_t i = 0; i < map.distance_m.size() && side != 0; ++i)
            (side > 0 ? left : right).push_back({map.distance_m[i], map.left_m[i]});
    }
    const auto edges = edges_from_edge_laps(*world.track(), left, right);
    if (!edges) return nullptr;
    auto out = std::make_shared<Track>(*world.track());
    out->edges = *edges;
    return out;
}

/// Least gap between a car of 1.8 m and the inner edge, as it was driven.
double true_gap(const MadeRun& run, std::size_t lap, const Corner& corner, double half_width_m) {
    const LapMap& map = run.laps[lap].map;
    const double shift_s = run.drive.crossings_s[static_cast<std::size_t>(run.lap_of[lap])] - map.start_s();
    double least = 1e9;
    for (double t = map.time_at(corner.start_m); t <= map.time_at(corner.end_m); t += 0.02) {
        const auto i = static_cast<std::size_t>((t + shift_s) / demo::Drive::step_s);
        const double left = run.drive.left_m[i];
        least = std::min(least, half_width_m - (corner.left ? left : -left) - 0.9);
    }
    return least;
}

std::vector<RoadUse> lines_of(std::vector<PreparedLap>& laps, const std::shared_ptr<const Track>& track) {
    std::vector<RoadUse> out;
    for (PreparedLap& lap : laps) {
        lap.track = track;
        out.push_back(road_use(lap));
    }
    return out;
}

}  // namespace

TEST(RoadUse, ApexesAreMissedByWhatTheyAre) {
    RENDAK_FIGURES_ONLY("RoadUse.OfTheDemo");
    double sum = 0, count = 0, worst = 0;
    int misses = 0, named = 0, wrongly = 0, worlds = 0;
    for (unsigned seed = 33001; seed < 33009; ++seed) {
        const MadeWorld world(seed);
        const auto track = with_edges(world, seed + 9);
        if (track == nullptr) continue;
        ++worlds;
        auto plan = MadeWorld::plan(6, seed, 1);
        const auto corners = static_cast<int>(world.circuit().corners.size());
        for (auto& lap : plan.laps) {
            lap.cues.push_back({Cue::Kind::wide, 1 + static_cast<int>(seed) % corners, 1.6});
            lap.cues.push_back({Cue::Kind::wide, 1 + static_cast<int>(seed + 4) % corners, 2.4});
        }
        MadeRun run = world.run(plan);
        const auto means = line_means(lines_of(run.laps, track));
        ASSERT_EQ(means.size(), track->corners.size());
        for (std::size_t c = 0; c < means.size(); ++c) {
            double truth = 0;
            for (std::size_t k = 0; k < run.laps.size(); ++k)
                truth += true_gap(run, k, track->corners[c], 5.5) / static_cast<double>(run.laps.size());
            const double off = std::abs(means[c].apex_gap_m - truth);
            sum += off;
            ++count;
            worst = std::max(worst, off);
            misses += truth > 1;
            named += truth > 1 && means[c].missed_m;
            wrongly += truth < 0.3 && means[c].missed_m;
        }
    }
    std::printf(
        "    apexes of %.0f corners on %d circuits: %.2f m off in the mean, at most %.2f; misses over 1 m named "
        "%d of %d, wrongly %d\n",
        count, worlds, sum / count, worst, named, misses, wrongly);
    EXPECT_GE(worlds, 4);
    EXPECT_LT(sum / count, 0.25);
    EXPECT_LT(worst, 0.8);
    EXPECT_EQ(named, misses);
    EXPECT_LE(wrongly, 1);
}

TEST(RoadUse, OfTheDemo) {
    const DemoWorld& world = demo_world();
    auto track = std::make_shared<Track>(*world.track);
    const auto laps_of = [&](std::size_t run) {
        std::vector<PreparedLap> out;
        for (int lap = 1; lap <= 4; ++lap) out.push_back(world.runs[run].lap(lap, world.track));
        return out;
    };
    auto first = laps_of(1), second = laps_of(2);
    // Without edges: against the others only.
    const auto a = lines_of(first, track), b = lines_of(second, track);
    const auto against = line_means(b, a);
    EXPECT_FALSE(against[9].told);
    EXPECT_FALSE(against[9].missed_m);
    EXPECT_NEAR(against[9].apex_out_m, 1.8, 0.4) << "he is that wide there";
    EXPECT_NEAR(line_means(a, b)[9].apex_out_m, -against[9].apex_out_m, 1e-9);
    const std::string words = line_words(against[9], b.front(), *track);
    EXPECT_NE(words.find("cannot be told"), std::string::npos) << words;
    EXPECT_NE(words.find("further out at the apex"), std::string::npos) << words;
    EXPECT_NE(line_words(against, b.front(), *track).find("not known"), std::string::npos);
    // The road as it is, driven over by receivers without an error.
    const DemoWorld& exact = demo_world(false);
    track = std::make_shared<Track>(*exact.track);
    first.clear();
    second.clear();
    for (int lap = 1; lap <= 4; ++lap) {
        first.push_back(exact.runs[1].lap(lap, exact.track));
        second.push_back(exact.runs[2].lap(lap, exact.track));
    }
    track->edges.source = Edges::Source::driven;
    for (std::size_t i = 0; i < track->line.size(); ++i) {
        const Point at = LocalPlane(world.circuit.origin).to_local(LocalPlane(track->origin).to_geo(track->line[i]));
        const std::size_t nearest = beside(world.circuit, *track, i);
        const double left = cross(world.circuit.direction[nearest], at - world.circuit.centre[nearest]);
        track->edges.left_m.push_back(world.circuit.half_width_m[nearest] - left);
        track->edges.right_m.push_back(world.circuit.half_width_m[nearest] + left);
    }
    const auto line = lines_of(second, track);
    const auto means = line_means(line);
    ASSERT_TRUE(means[9].missed_m);
    EXPECT_NEAR(*means[9].missed_m, 1.8, 0.5);
    EXPECT_EQ(means[9].misses, 4U);
    EXPECT_NE(line_words(means[9], line.front(), *track).find("misses the apex by"), std::string::npos);
    EXPECT_FALSE(line_means(lines_of(first, track))[9].missed_m);
    for (const LineMean& it : means) {
        // He keeps 0.3 m from the edges otherwise.
        if (it.corner != 10) EXPECT_LT(it.missed_m.value_or(0), 0.7) << it.corner;
    }
    EXPECT_EQ(line_words(means, line.front(), *track).find("Misses the apex of "), 0U);
    // A miss that is smaller than what the positions are good to is none.
    for (PreparedLap& lap : second) lap.trust_m = 1.5;
    const auto vague = lines_of(second, track);
    EXPECT_FALSE(line_means(vague)[9].missed_m);
    // From where laps went nobody knows where the road ends.
    track->edges.source = Edges::Source::spread;
    EXPECT_FALSE(line_means(lines_of(second, track))[9].told);
}
