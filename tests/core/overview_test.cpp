// Two laps or sets on one page, and the best of both: sums that hold, sides that are the right ones.
#include "core/analysis/overview.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <numeric>

#include "tests/support/demo_world.h"
#include "tests/support/figures_only.h"
#include "tests/support/got.h"
#include "tests/support/made_world.h"

using namespace rendak;
using namespace rendak::test;
using demo::Cue;

namespace {

std::vector<PreparedLap> demo_laps(std::size_t run) {
    const DemoWorld& world = demo_world();
    std::vector<PreparedLap> out;
    for (int lap = 1; lap <= 4; ++lap) out.push_back(world.runs[run].lap(lap, world.track));
    return out;
}

}  // namespace

TEST(BestOfBoth, IsMadeOfWhatWasDriven) {
    const auto a = demo_laps(1), b = demo_laps(2);
    const BestOfBoth both = best_of_both(a, b);
    double a_best = 0, b_best = 0, best = 0, a_mean = 0, b_mean = 0, place = 0;
    for (const SideSection& it : both.sections) {
        EXPECT_NEAR(it.section.range_m.begin, place, 1e-9) << "without a hole";
        place = it.section.range_m.end;
        EXPECT_LE(it.a_best_s, it.a_s + 1e-9);
        EXPECT_LE(it.b_best_s, it.b_s + 1e-9);
        a_best += it.a_best_s;
        b_best += it.b_best_s;
        best += std::min(it.a_best_s, it.b_best_s);
        a_mean += it.a_s;
        b_mean += it.b_s;
        if (it.better == SideSection::Better::a) EXPECT_LT(it.a_s, it.b_s);
        if (it.section.corner == 5) EXPECT_EQ(it.better, SideSection::Better::a) << "he is over-slow there";
    }
    const auto mean = [](const std::vector<PreparedLap>& laps) {
        return std::accumulate(laps.begin(), laps.end(), 0.0,
                               [](double sum, const PreparedLap& lap) { return sum + lap.time_s(); }) /
               static_cast<double>(laps.size());
    };
    EXPECT_NEAR(a_mean, mean(a), 1e-6);
    EXPECT_NEAR(b_mean, mean(b), 1e-6);
    EXPECT_NEAR(both.lap_s, best, 1e-9);
    EXPECT_NEAR(both.a_asks_s, a_best - best, 1e-9);
    EXPECT_NEAR(both.b_asks_s, b_best - best, 1e-9);
    EXPECT_LE(both.lap_s, std::min(both.a_lap_s, both.b_lap_s));
    // The other way round the sides are, too.
    const BestOfBoth reverse = best_of_both(b, a);
    EXPECT_NEAR(reverse.lap_s, both.lap_s, 1e-9);
    EXPECT_NEAR(reverse.a_asks_s, both.b_asks_s, 1e-9);
    for (std::size_t k = 0; k < both.sections.size(); ++k) {
        using Better = SideSection::Better;
        const Better here = both.sections[k].better, there = reverse.sections[k].better;
        EXPECT_EQ(here == Better::a, there == Better::b);
    }
}

TEST(Overview, SaysWhatEachSideDoesAndWhereToLook) {
    RENDAK_FIGURES_ONLY("the story tests of the window");
    const auto a = demo_laps(1), b = demo_laps(2);
    const LapStory story = got(story_of(a, b));
    const LapOverview it = overview_of(a, b, story);
    EXPECT_NEAR(it.corners_s + it.straights_s, story.ledger.total_s, 1e-9);
    ASSERT_EQ(it.sectors.size(), sectors_of(*a.front().track).size());
    EXPECT_GT(it.a.lap.full_s, it.b.lap.full_s + 1) << "he lifts in Turn 6";
    EXPECT_NEAR(it.a.top_mps * 3.6, 236, 4);
    ASSERT_FALSE(it.in_words.empty());
    EXPECT_EQ(it.in_words.front().text.find("B loses "), 0U) << it.in_words.front().text;
    // What is lost is told of B, and each place lies in its corner's row.
    std::size_t placed = 0;
    for (const auto& sentence : it.in_words) {
        if (sentence.corner == 0) continue;
        ++placed;
        for (const LedgerRow& row : story.ledger.rows) {
            if (row.corner != sentence.corner) continue;
            EXPECT_GE(sentence.at_m, row.range_m.begin - 200) << sentence.text;
            EXPECT_LE(sentence.at_m, row.range_m.end + 1) << sentence.text;
        }
    }
    EXPECT_GE(placed, 3U);
    ASSERT_FALSE(it.first.empty());
    EXPECT_EQ(it.first.front().corner, 5) << it.first.front().text;
    // The quicker one as B: who loses is named A then.
    const LapStory back = got(story_of(b, a));
    EXPECT_EQ(overview_of(b, a, back).in_words.front().text.find("A loses "), 0U);
    // A lap against itself.
    const LapStory same = got(story_of(std::span(a).first(1), std::span(a).first(1)));
    EXPECT_EQ(overview_of(std::span(a).first(1), std::span(a).first(1), same).in_words.front().text,
              "A and B are as quick.");
}

TEST(Overview, OfAReceiverAloneLeavesOutWhatIsNotLogged) {
    const MadeWorld world(50001);
    auto plan = MadeWorld::plan(4, 2, 0.6);
    for (auto& lap : plan.laps) lap.cues.push_back({Cue::Kind::slower, 3, 0.08});
    const auto a = world.run(MadeWorld::plan(4, 1, 0.6), true).laps, b = world.run(plan, true).laps;
    const LapStory story = got(story_of(a, b));
    const LapOverview it = overview_of(a, b, story);
    EXPECT_FALSE(it.a.wheels_known);
    EXPECT_FALSE(it.a.lowest_front_m.has_value());
    for (const auto& sentence : it.in_words) {
        EXPECT_EQ(sentence.text.find("lock up"), std::string::npos);
        EXPECT_EQ(sentence.text.find("floor"), std::string::npos);
    }
    EXPECT_EQ(it.sectors.size(), 1U) << "without sector lines: the lap";
}
