// What is made of a story: groups, the list to work on, what is the same everywhere, odd laps; and work items with what
// later runs show.
#include <gtest/gtest.h>

#include <cmath>

#include "core/analysis/excursion.h"
#include "core/analysis/section_activity.h"
#include "core/analysis/technique.h"
#include "core/analysis/work_list.h"
#include "core/intake/work_items.h"
#include "tests/support/demo_data.h"
#include "tests/support/figures_only.h"
#include "tests/support/got.h"
#include "tests/support/made_world.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using namespace rendak::test;

namespace {

using Kind = LapFinding::Kind;

LedgerRow losing_row(int corner, double loss_s, std::optional<Interval> likely = {}) {
    LedgerRow out;
    out.corner = corner;
    out.name = corner == 0 ? "From the line" : "Turn " + std::to_string(corner);
    out.loss_s = loss_s;
    out.likely_s = likely;
    out.range_m = {100.0 * corner, 100.0 * corner + 100};
    return out;
}

const LapFinding* of_kind(const std::vector<LapFinding>& all, Kind kind) {
    for (const LapFinding& it : all) {
        if (it.kind == kind) return &it;
    }
    return nullptr;
}

TEST(LedgerGroups, AreSaidInWords) {
    Ledger ledger;
    ledger.rows = {losing_row(0, 0.001),
                   losing_row(1, 0.05, Interval{0.01, 0.09}),
                   losing_row(2, 0.5, Interval{0.4, 0.6}),
                   losing_row(3, 0.1, Interval{-0.1, 0.3}),
                   losing_row(4, 0.01),
                   losing_row(5, -0.08, Interval{-0.1, -0.06})};
    EXPECT_EQ(group_words(ledger),
              "Most of it in Turn 2 (+0.50 s), some in Turn 1 (+0.05 s), alike in 2 corners, better in Turn 5 "
              "(−0.08 s).");
    // Spread evenly there is no place that holds most.
    ledger.rows.clear();
    for (int k = 1; k <= 6; ++k) ledger.rows.push_back(losing_row(k, 0.1));
    EXPECT_TRUE(group_words(ledger).starts_with("Spread over Turn 1, Turn 2")) << group_words(ledger);
    EXPECT_EQ(group_words(Ledger{}), "");
}

TEST(WorkList, IsSureFirstAndTheDriverBeforeTheCar) {
    LapStory story;
    for (auto [corner, loss, sure] : {std::tuple{1, 0.04, true}, {2, 0.3, false}, {3, 0.2, true}, {4, 0.005, true}}) {
        LedgerRow row = losing_row(corner, loss, sure ? Interval{loss / 2, 2 * loss} : Interval{-1, 1});
        row.lap_losses_s = {loss - 0.01, loss, loss + 0.01};
        row.laps_needed = sure ? 0 : 7;
        story.ledger.rows.push_back(row);
    }
    story.lost = {{Kind::pulls_less, 0, 0, 3, "%", 0.5, 3, 3}, {Kind::lifts, 3, 350, 40, "%", 0.2, 3, 3}};
    const auto list = work_list(story);
    ASSERT_EQ(list.size(), 4U) << "what is next to nothing is left out";
    EXPECT_EQ(list[0].corner, 3);
    EXPECT_EQ(list[0].findings.size(), 1U);
    EXPECT_NEAR(list[0].to_best_s.value(), 0.01, 1e-9);
    EXPECT_NEAR(list[0].to_usual_s.value(), 0, 1e-9);
    EXPECT_EQ(list[1].corner, 1);
    EXPECT_FALSE(list[2].of_driver) << "the car, where it is sure";
    EXPECT_EQ(list[3].corner, 2) << "what is not sure comes last, however large";
    EXPECT_EQ(list[3].laps_needed, 7U);
    for (const WorkPlace& it : list) EXPECT_GE(it.available_s(), 0.02);
}

TEST(LapStory, TellsTheReverseAndWhatMoreLapsWouldHaveToTell) {
    const MadeWorld world(77);
    const auto& corners = world.circuit().corners;
    auto plan = MadeWorld::plan(5, 2, 0.6);
    for (auto& lap : plan.laps) lap.cues.push_back({demo::Cue::Kind::slower, corners[3].number, 0.09});
    const MadeRun clean = world.run(MadeWorld::plan(5, 1, 0.6)), slow = world.run(plan);
    const LapStory story = got(story_of(clean.laps, slow.laps)), other = got(story_of(slow.laps, clean.laps));
    ASSERT_NE(of_kind(story.lost, Kind::overslowed), nullptr);
    EXPECT_EQ(of_kind(story.won, Kind::overslowed), nullptr);
    // The other way round it is what A does where B is the better one.
    ASSERT_NE(of_kind(other.won, Kind::overslowed), nullptr);
    EXPECT_EQ(of_kind(other.won, Kind::overslowed)->corner, of_kind(story.lost, Kind::overslowed)->corner);
    WordUnits reverse;
    std::swap(reverse.a, reverse.b);
    EXPECT_NE(finding_words(*of_kind(other.won, Kind::overslowed), *world.track(), reverse).find(": A is "),
              std::string::npos);
    int unsure = 0;
    for (const LedgerRow& row : story.ledger.rows) {
        double mean = 0;
        for (const double loss : row.lap_losses_s) mean += loss / static_cast<double>(row.lap_losses_s.size());
        EXPECT_NEAR(mean, row.loss_s, 1e-9);
        if (row.likely_s->contains(0) && row.laps_needed > 0) {
            ++unsure;
            EXPECT_GT(row.laps_needed, 3U) << "five a side did not tell";
        }
        if (!row.likely_s->contains(0)) EXPECT_EQ(row.laps_needed, 0U);
    }
    EXPECT_GT(unsure, 0);
}

TEST(LapStory, LessWingAndSoftBrakesAreOfTheWholeLap) {
    RENDAK_FIGURES_ONLY("the other stories");
    const MadeWorld world(78);
    const MadeRun usual = world.run(MadeWorld::plan(5, 1, 0.5));
    auto plan = MadeWorld::plan(5, 2, 0.5);
    plan.car.downforce_m2 *= 0.75;
    plan.car.drag_m2 *= 0.92;
    const auto less_wing = got(story_of(usual.laps, world.run(plan).laps));
    const LapFinding* slower = of_kind(less_wing.lost, Kind::carries_less);
    ASSERT_NE(slower, nullptr);
    EXPECT_EQ(slower->corner, 0);
    EXPECT_GT(slower->size, 1);
    EXPECT_NE(finding_causes(*slower).find("less downforce"), std::string::npos) << finding_causes(*slower);
    EXPECT_EQ(of_kind(less_wing.lost, Kind::overslowed), nullptr) << "no corner is blamed for what all have";
    // Less grip is no less downforce.
    auto slippery = MadeWorld::plan(5, 2, 0.5);
    slippery.car.grip *= 0.95;
    const auto less_grip = got(story_of(usual.laps, world.run(slippery).laps));
    const LapFinding* grip = of_kind(less_grip.lost, Kind::carries_less);
    ASSERT_NE(grip, nullptr);
    EXPECT_EQ(finding_causes(*grip).find("less downforce"), std::string::npos) << finding_causes(*grip);
    auto soft = MadeWorld::plan(5, 2, 0.5);
    soft.brake_use *= 0.75;
    const auto softer = got(story_of(usual.laps, world.run(soft).laps));
    const LapFinding* brake = of_kind(softer.lost, Kind::brakes_softly);
    ASSERT_NE(brake, nullptr);
    EXPECT_EQ(brake->corner, 0);
    EXPECT_EQ(brake->seen_on, brake->of);
    // A corner that is braked for much too early as well keeps its name.
    auto both = soft;
    const auto techniques = technique_of(usual.laps.front());
    std::size_t k = 2;
    const auto suits = [&](std::size_t c) {
        return techniques[c].brake_on_m && techniques[c].brake_s > 1.2 &&
               *techniques[c].brake_on_m - world.track()->corners[c - 1].apex_m > 250;
    };
    while (k + 2 < techniques.size() && !suits(k)) ++k;
    if (suits(k)) {
        int made = 0;
        for (const demo::CircuitCorner& it : world.circuit().corners) {
            if (std::abs(world.place_on_track(it.apex_m) - world.track()->corners[k].apex_m) < 25) made = it.number;
        }
        for (auto& lap : both.laps) lap.cues.push_back({demo::Cue::Kind::brake_early, made, 110});
        const auto early = got(story_of(usual.laps, world.run(both).laps));
        const LapFinding* named = of_kind(early.lost, Kind::brakes_early);
        ASSERT_NE(named, nullptr);
        EXPECT_EQ(named->corner, world.track()->corners[k].number);
    }
    EXPECT_TRUE(suits(k)) << "this circuit has no such corner: take another seed";
    // And of two like runs there is nothing of the kind.
    const auto alike = got(story_of(usual.laps, world.run(MadeWorld::plan(5, 3, 0.5)).laps));
    for (const auto* side : {&alike.lost, &alike.won}) {
        for (const LapFinding& it : *side) EXPECT_NE(it.corner, 0) << finding_words(it, *world.track());
    }
}

TEST(LapStory, OneLapThatTheOthersAreNotLikeIsAskedAbout) {
    const MadeWorld world(79);
    const auto& corners = world.circuit().corners;
    auto plan = MadeWorld::plan(6, 2, 0.4);
    plan.laps[2].cues.push_back({demo::Cue::Kind::traffic, corners[4].number, 0.25});
    const MadeRun usual = world.run(MadeWorld::plan(5, 1, 0.4)), held_up = world.run(plan);
    const auto story = got(story_of(usual.laps, held_up.laps));
    const LapFinding* odd = of_kind(story.lost, Kind::odd_lap);
    ASSERT_NE(odd, nullptr);
    ASSERT_TRUE(odd->lap);
    std::size_t which = 0;
    while (held_up.lap_of[which] != 2) ++which;
    EXPECT_EQ(odd->lap->lap, held_up.laps[which].ref.lap);
    EXPECT_GT(odd->size, 0.25);
    EXPECT_NE(finding_causes(*odd).find("traffic"), std::string::npos);
    EXPECT_NE(finding_words(*odd, *world.track()).find("lap " + std::to_string(odd->lap->lap) + " alone"),
              std::string::npos);
}

TEST(SectionActivity, AddsUpToTheLap) {
    const MadeWorld world(80);
    const PreparedLap lap = world.run(MadeWorld::plan(3, 1, 0.4)).laps.front();
    const double length = lap.map.length_m();
    const std::vector<Interval> parts{{0, 0.3 * length}, {0.3 * length, length}, {0, length}};
    const auto activity = section_activity(lap, parts);
    for (const ActivityFigure& figure : all_activity_figures()) {
        const double first = activity[0].*figure.value, second = activity[1].*figure.value;
        EXPECT_GE(first, 0);
        EXPECT_NEAR(first + second, activity[2].*figure.value, figure.unit == std::string_view("s") ? 0.05 : 3)
            << figure.id;
    }
    EXPECT_GT(activity[2].full_s, 0.2 * lap.time_s());
    EXPECT_LT(activity[2].full_m, length);
    EXPECT_GT(activity[2].brake_s, 1);
    EXPECT_GE(activity[2].neither_s, activity[2].coasting_s);
}

TEST(Excursions, AreAskedAboutInOrder) {
    const MadeWorld world(81);
    // A corner that is braked for, so that there is a brake to ask about.
    const MadeRun usual = world.run(MadeWorld::plan(3, 1, 0.3));
    const auto techniques = technique_of(usual.laps.front());
    std::size_t k = 2;
    const auto suits = [&](std::size_t c) {
        const Corner& corner = world.track()->corners[c];
        return techniques[c].brake_on_m && techniques[c].brake_s > 1 && corner.apex_m - corner.start_m < 70;
    };
    while (k + 2 < techniques.size() && !suits(k)) ++k;
    ASSERT_TRUE(techniques[k].brake_on_m);
    int made = 0;
    for (const demo::CircuitCorner& it : world.circuit().corners) {
        if (std::abs(world.place_on_track(it.apex_m) - world.track()->corners[k].apex_m) < 25) made = it.number;
    }
    ASSERT_GT(made, 0);
    auto plan = MadeWorld::plan(3, 2, 0.3);
    plan.laps[1].cues = {{demo::Cue::Kind::lock_up, made, 0.5}, {demo::Cue::Kind::off, made, 8}};
    const MadeRun run = world.run(plan);
    int found = 0;
    for (std::size_t l = 0; l < run.laps.size(); ++l) {
        for (const Excursion& it : excursions_of(run.laps[l], usual.laps)) {
            ++found;
            EXPECT_EQ(run.lap_of[l], 1);
            EXPECT_EQ(it.corner, world.track()->corners[k].number);
            EXPECT_NEAR(std::abs(it.beside_m), 8, 2);
            EXPECT_EQ(it.beside_m > 0, !world.track()->corners[k].left) << "to the outside";
            ASSERT_EQ(it.steps.size(), 5U);
            EXPECT_EQ(it.steps[0].answer, Excursion::Step::Answer::no) << excursion_words(it, *world.track());
            EXPECT_EQ(it.steps[3].answer, Excursion::Step::Answer::yes) << excursion_words(it, *world.track());
            EXPECT_TRUE(it.steps[3].figures.starts_with("fl for 0.")) << it.steps[3].figures;
            EXPECT_EQ(it.steps[4].answer, Excursion::Step::Answer::no) << "the pressure does what it always does";
        }
    }
    EXPECT_EQ(found, 1);
    // A receiver alone sees where, and cannot tell of wheels and pressures.
    const MadeRun alone = world.run(plan, true);
    int seen = 0;
    for (const PreparedLap& lap : alone.laps) {
        for (const Excursion& it : excursions_of(lap, world.run(MadeWorld::plan(3, 1, 0.3), true).laps)) {
            ++seen;
            EXPECT_EQ(it.steps[3].answer, Excursion::Step::Answer::cannot_be_told);
            EXPECT_EQ(it.steps[4].answer, Excursion::Step::Answer::cannot_be_told);
            EXPECT_NE(excursion_words(it, *world.track()).find("Cannot be told"), std::string::npos);
        }
    }
    EXPECT_EQ(seen, 1);
    EXPECT_TRUE(excursions_of(usual.laps.front(), usual.laps).empty());
    EXPECT_TRUE(excursions_of(run.laps[1], {}).empty());
    EXPECT_TRUE(excursions_of(run.laps[1], std::span(usual.laps).first(2)).empty()) << "who of three was off?";
}

class WorkItems : public testing::Test {
  protected:
    void SetUp() override {
        copy_library(saturday_library(), folder_.path());
        library_ = got(Library::open(folder_.path()));
    }
    std::vector<PreparedLap> laps_of(RunId run) {
        std::vector<PreparedLap> out;
        for (RunLap& it : complete_laps(*got(load_run(*library_, run)))) {
            if (it.included) out.push_back(std::move(it.lap));
        }
        return out;
    }
    TempFolder folder_;
    std::unique_ptr<Library> library_;
};

TEST_F(WorkItems, AreMadeOfFindingsKeptAndPutAway) {
    const auto a = laps_of({2}), b = laps_of({3});
    const auto found = got(findings_of(a, b));
    const RunRow run = got(library_->run({3}));
    const LapFinding* early = of_kind(found, Kind::brakes_early);
    ASSERT_NE(early, nullptr);
    WorkItem item = got(work_item_of(*early, a, b, run));
    EXPECT_EQ(item.figure, "brake_before_apex_m");
    EXPECT_EQ(item.driver, run.driver);
    EXPECT_NEAR(item.from - item.target, early->size, 0.1) << "metres before the apex, from B's to A's";
    EXPECT_EQ(item.step, 0) << "a slow corner";
    item.id = got(library_->add_work_item(item));
    const auto kept = got(library_->work_items());
    ASSERT_EQ(kept.size(), 1U);
    EXPECT_GT(kept[0].made_unix_s, 1.7e9);
    item.made_unix_s = kept[0].made_unix_s;
    EXPECT_EQ(kept[0], item);
    // In a fast corner in small steps.
    const LapFinding* lift = of_kind(found, Kind::lifts);
    ASSERT_NE(lift, nullptr);
    const WorkItem steps = got(work_item_of(*lift, a, b, run));
    EXPECT_GT(steps.step, 0);
    EXPECT_NEAR(steps.step, std::abs(steps.target - steps.from) / 3, 1e-9);
    // What its own figure does not show is followed by the corner's time: a lift where the throttle is closed anyway.
    LapFinding lost = *early;
    lost.kind = Kind::lifts;
    const WorkItem by_time = got(work_item_of(lost, a, b, run));
    EXPECT_EQ(by_time.figure, "time_s");
    EXPECT_LT(by_time.target, by_time.from);
    // What is of the whole lap is no corner's.
    EXPECT_FALSE(work_item_of({Kind::pulls_less, 0, 0, 1, "%", 0.1, 1, 1}, a, b, run));
    ASSERT_TRUE(library_->close_work_item(item.id, true));
    EXPECT_TRUE(got(library_->work_items())[0].closed);
    EXPECT_TRUE(got(work_progress(*library_)).empty()) << "put away";
    ASSERT_TRUE(library_->remove_work_item(item.id));
    EXPECT_TRUE(got(library_->work_items()).empty());
    EXPECT_FALSE(library_->close_work_item(item.id, true));
    EXPECT_FALSE(library_->add_work_item({}));
}

TEST_F(WorkItems, LaterRunsShowTheirValueUntilItIsMet) {
    const auto laps = laps_of({2});
    const RunRow run = got(library_->run({2}));
    // Something found in the driver's first run; run 2 is his as well here.
    RunFacts facts = got(library_->run({1}));
    facts.driver = run.driver;
    facts.car = run.car;
    ASSERT_TRUE(library_->set_facts({1}, facts));
    const Corner& corner = laps.front().track->corners[4];
    const auto table = corner_figure_table(laps, corner_peaks(laps));
    std::size_t slowest = 0;
    while (all_corner_figures()[slowest].id != std::string_view("slowest_mps")) ++slowest;
    double mean = 0;
    for (const auto& lap : table) mean += lap[4][slowest] / static_cast<double>(laps.size());
    WorkItem item;
    item.track = run.track;
    item.run = {1};
    item.driver = run.driver;
    item.car = run.car;
    item.at_m = corner.apex_m;
    item.figure = "slowest_mps";
    item.from = mean - 2;
    item.target = mean - 0.5;
    item.id = got(library_->add_work_item(item));
    WorkItem far = item;
    far.id = 0;
    far.target = mean + 3;
    far.step = 0.5;
    far.id = got(library_->add_work_item(far));
    const auto work = got(work_progress(*library_));
    ASSERT_EQ(work.size(), 2U);
    for (const WorkProgress& it : work) {
        EXPECT_EQ(it.corner, corner.title());
        ASSERT_EQ(it.steps.size(), 1U) << "run 2, and neither run 1 nor the other driver's run 3";
        EXPECT_EQ(it.steps[0].run, RunId{2});
        EXPECT_NEAR(it.steps[0].value, mean, 1e-9);
        EXPECT_EQ(it.steps[0].laps, laps.size());
    }
    EXPECT_TRUE(work[0].met);
    EXPECT_FALSE(work[1].met);
    EXPECT_NEAR(work[1].next, mean + 0.5, 1e-9) << "a small step further than the last";
}

}  // namespace
