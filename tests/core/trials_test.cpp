// Ladders and trials of changes: what was planted is found, what was not is said not to be told, and intervals hold.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <random>

#include "core/chassis/ladder.h"
#include "core/trials/change_trial.h"
#include "core/trials/chassis_sheet.h"
#include "core/trials/find_ladder.h"
#include "core/trials/planned_runs.h"
#include "core/trials/setup_hints.h"
#include "core/trials/trial_book.h"
#include "demo/suspension.h"
#include "tests/support/exact_laps.h"
#include "tests/support/figures_only.h"
#include "tests/support/got.h"
#include "tests/support/made_world.h"
#include "tests/support/weekend_test.h"

using namespace rendak;
using test::drawn_circuit;
using test::drawn_track;
using test::exact_laps;
using test::got;

namespace {

/// The planned ladder of the demo with other laps; `same`: its steps are all one setting.
Ladder ladder(std::uint64_t seed, bool same, std::vector<double> clicks = {2, 4, 6, 8, 10, 12}) {
    std::vector<LadderStep> steps;
    std::vector<PreparedLap> all;
    for (std::size_t k = 0; k < clicks.size(); ++k) {
        demo::RunPlan plan = test::MadeWorld::plan(4, 1000 * seed + k, 0.7);
        plan.state.rear_bump_clicks = same ? 8 : clicks[k];
        steps.push_back({clicks[k], exact_laps(drawn_circuit(), drawn_track(), plan)});
        if (steps.back().laps.size() > 3) steps.back().laps.resize(3);
        all.insert(all.end(), steps.back().laps.begin(), steps.back().laps.end());
    }
    SpectrumWish wish;
    wish.front = false;
    wish.wheels = WheelChoice::loaded;
    return got(ladder_of(std::move(steps), stretches_of(StretchKind::exits, all), wish, "Bump rear", "clicks"));
}

TEST(LadderOfSettings, FindsThePlantedBest) {
    RENDAK_FIGURES_ONLY("LadderOfSettings.HasAnEnd");
    for (std::uint64_t seed = 1; seed <= 3; ++seed) {
        const Ladder it = ladder(seed, false);
        EXPECT_EQ(it.says, Ladder::Says::inside) << it.text;
        EXPECT_EQ(it.values[it.best], demo::best_rear_bump_clicks) << it.text;
        EXPECT_EQ(it.steps.front().verdict, StepVerdict::baseline);
        EXPECT_EQ(it.steps[3].verdict, StepVerdict::lower);
        ASSERT_TRUE(it.valley);
        EXPECT_NEAR(*it.valley, 8, 1.5);
        EXPECT_EQ(it.next, (std::vector<double>{7, 9}));
        EXPECT_NE(it.text.find("a calmer load is not yet time"), std::string::npos) << it.text;
    }
}

TEST(LadderOfSettings, SaysNothingWhereThereIsNothing) {
    RENDAK_FIGURES_ONLY("LadderOfSettings.HasAnEnd");
    for (std::uint64_t seed = 11; seed <= 13; ++seed) {
        const Ladder it = ladder(seed, true);
        EXPECT_EQ(it.says, Ladder::Says::unknown) << it.text;
        EXPECT_TRUE(it.next.empty());
        EXPECT_NE(it.text.find("cannot be told"), std::string::npos) << it.text;
    }
}

TEST(LadderOfSettings, HasAnEnd) {
    const Ladder low = ladder(21, false, {2, 4, 7});
    EXPECT_EQ(low.says, Ladder::Says::high_end) << low.text;
    ASSERT_FALSE(low.next.empty());
    EXPECT_EQ(low.next.front(), 10);
    EXPECT_NE(low.text.find("try beyond 7 clicks"), std::string::npos) << low.text;
    // Too few, no laps, no stretch, no such baseline: in words.
    std::vector<LadderStep> two{{1, {}}, {2, {}}};
    EXPECT_NE(ladder_of(two, {}, {}, "x", "").error().text().find("three values"), std::string::npos);
}

TEST(ChangeParts, AreKnownByTheirWords) {
    EXPECT_EQ(parts_of_change("Rear wing 9 to 5 °"), (std::vector{LapPart::fast_corners, LapPart::straights}));
    EXPECT_EQ(parts_of_change("Bars front stiffer").size(), 3U);
    EXPECT_EQ(parts_of_change("pressure cold FL 1.5 to 1.6 bar").size(), 4U);
    EXPECT_TRUE(parts_of_change("barely anything").empty()) << "no bar";
    EXPECT_TRUE(parts_of_change("").empty());
    EXPECT_TRUE(separable({"Brake balance 62 to 60 %", "Rear wing 9 to 5 °"}).all);
    const Separable mixed = separable({"Rear wing 9 to 5 °", "Brake ducts closed to open"});
    EXPECT_FALSE(mixed.all);
    EXPECT_NE(mixed.text.find("both act on straights"), std::string::npos) << mixed.text;
    EXPECT_FALSE(separable({"Rear wing 9 to 5 °", "painted red"}).all);
    EXPECT_TRUE(separable({}).all);
}

TEST(TrialAims, AreReadAsPeopleSayThem) {
    EXPECT_EQ(got(trial_aim("")).kind, TrialAim::Kind::lap);
    EXPECT_EQ(got(trial_aim("Turn 5")).corner, 5);
    EXPECT_EQ(got(trial_aim("7")).corner, 7);
    EXPECT_EQ(got(trial_aim("fast")).part, LapPart::fast_corners);
    EXPECT_EQ(got(trial_aim("Slow corners")).part, LapPart::slow_corners);
    EXPECT_EQ(got(trial_aim("straights")).part, LapPart::straights);
    for (const char* wrong : {"the moon", "Turn", "0", "-3", "5x", "corner 99999999999999999999"})
        EXPECT_FALSE(trial_aim(wrong)) << wrong;
}

TEST(TrialFigures, IntervalsHoldWhatTheySay) {
    // Two thousand trials of a known effect in scattered laps: 95 % hold it in 90 to 99 of a hundred, whatever the
    // sizes of the sets and however unlike their scatter.
    std::mt19937 engine(7);
    for (const auto& [n_a, n_b, sd_a, sd_b] : {std::tuple{3, 3, 0.15, 0.15}, std::tuple{8, 3, 0.1, 0.3},
                                               std::tuple{6, 12, 0.2, 0.1}, std::tuple{2, 2, 0.2, 0.2}}) {
        int held = 0;
        constexpr int trials = 2000;
        for (int k = 0; k < trials; ++k) {
            std::normal_distribution<double> of_a(90, sd_a), of_b(89.7, sd_b);
            std::vector<double> a, b;
            for (int i = 0; i < n_a; ++i) a.push_back(of_a(engine));
            for (int i = 0; i < n_b; ++i) b.push_back(of_b(engine));
            const TrialFigure it = trial_figure("", a, b);
            held += it.likely && it.likely->begin <= -0.3 && it.likely->end >= -0.3 ? 1 : 0;
        }
        EXPECT_GE(held, 0.90 * trials) << n_a << " " << n_b;
        EXPECT_LE(held, 0.99 * trials) << n_a << " " << n_b;
    }
    const TrialFigure alone = trial_figure("", {90}, {89});
    EXPECT_EQ(alone.verdict(), TrialFigure::Verdict::unknown);
    EXPECT_EQ(alone.change_s, -1);
    EXPECT_EQ(trial_figure("", {90, 90.1}, {80, 80.1}).verdict(), TrialFigure::Verdict::gain);
    EXPECT_EQ(trial_figure("", {80, 80.1}, {90, 90.1}).verdict(), TrialFigure::Verdict::loss);
}

class TrialTest : public test::WeekendTest {
  protected:
    LapSet set(const std::string& words) {
        return got(named_lap_set(library(), {words}, false, [&](RunId id) { return load_run(library(), id); }));
    }
};

TEST_F(TrialTest, NewTyresGainInCorners) {
    const LapSet a = set("2"), b = set("12");
    const ChangeTrial it = got(change_trial(library(), a, b, got(trial_aim("slow corners"))));
    double sum = 0;
    for (const TrialFigure& part : it.parts) sum += part.change_s;
    EXPECT_NEAR(sum, it.net.change_s, 1e-9) << "parts add up";
    EXPECT_NEAR(it.aimed.change_s + it.elsewhere.change_s, it.net.change_s, 1e-9);
    sum = 0;
    for (const TrialFigure& corner : it.corners) sum += corner.change_s;
    EXPECT_NEAR(sum, it.net.change_s, 1e-9) << "corners add up";
    EXPECT_EQ(it.net.verdict(), TrialFigure::Verdict::gain);
    ASSERT_TRUE(it.pull);
    EXPECT_NEAR(it.pull->change_s, 0, 0.05) << "tyres do not pull";
    ASSERT_TRUE(it.tyres);
    EXPECT_GT(it.tyres->grip, 1.005);
    EXPECT_LT(it.tyres->grip, 1.04);
    EXPECT_NE(it.text.find("tyres C1 to C4"), std::string::npos) << it.text;
    EXPECT_NE(std::find(it.unchanged.begin(), it.unchanged.end(), "Rear wing"), it.unchanged.end());
    // The other way round the sign turns, and the tyres are not newer.
    const ChangeTrial back = got(change_trial(library(), b, a, TrialAim{}));
    EXPECT_EQ(back.net.verdict(), TrialFigure::Verdict::loss);
    EXPECT_FALSE(back.tyres);
    EXPECT_FALSE(change_trial(library(), a, b, got(trial_aim("77"))));
    // Alike runs are alike.
    const ChangeTrial same = got(change_trial(library(), set("2:2,4,6"), set("2:3,5,7"), TrialAim{}));
    EXPECT_NE(same.net.verdict(), TrialFigure::Verdict::loss);
    EXPECT_TRUE(same.differences.empty());
    EXPECT_NE(same.text.find("No change of the car is noted"), std::string::npos) << same.text;
}

TEST_F(TrialTest, LaddersAreFoundFromTheSheets) {
    const auto all = got(library().runs());
    const auto found = got(find_ladders(library(), all));
    ASSERT_FALSE(found.empty());
    EXPECT_EQ(found[0].name, "Bump rear");
    EXPECT_EQ(found[0].unit, "clicks");
    EXPECT_TRUE(found[0].rear);
    EXPECT_FALSE(found[0].front);
    EXPECT_EQ(found[0].values, (std::vector<double>{2, 4, 6, 8, 10, 12}));
    EXPECT_EQ(found[0].runs.front(), RunId{6});
    EXPECT_TRUE(got(find_ladders(library(), {all.begin(), all.begin() + 3})).empty());
}

TEST_F(TrialTest, TrialsAndPlansAreKept) {
    EXPECT_TRUE(got(kept_trials(library())).empty());
    KeptTrial trial;
    trial.name = "Packers \"6\" mm";
    trial.a = {"2"};
    trial.b = {"12:best", "12:3"};
    trial.net_s = -0.3;
    const auto id = got(keep_trial(library(), trial));
    trial.id = id;
    EXPECT_EQ(got(kept_trial(library(), id)), trial);
    trial.verdict = "keep";
    trial.decided_by = "the engineer";
    EXPECT_EQ(got(keep_trial(library(), trial)), id);
    EXPECT_EQ(got(kept_trials(library())).size(), 1U);
    EXPECT_EQ(got(kept_trial(library(), id)).verdict, "keep");
    EXPECT_TRUE(drop_trial(library(), id));
    EXPECT_FALSE(drop_trial(library(), id));
    EXPECT_TRUE(library().set_setting("trials", "[{\"id\": \"no number\"}]"));
    EXPECT_FALSE(kept_trials(library()));
    EXPECT_FALSE(keep_trial(library(), trial)) << "what cannot be read is not written over";

    const std::vector<PlannedRun> plan{{"Test", "27", "Bump rear 7 clicks", 3, "ladder"}};
    EXPECT_TRUE(plan_runs(library(), plan));
    EXPECT_TRUE(plan_runs(library(), plan)) << "once is enough";
    EXPECT_EQ(got(planned_runs(library())), plan);
    EXPECT_TRUE(got(planned_runs(library(), "another")).empty());
    EXPECT_TRUE(clear_planned_runs(library(), "Test"));
    EXPECT_TRUE(got(planned_runs(library())).empty());
    EXPECT_TRUE(library().set_setting("planned_runs", "{"));
    EXPECT_FALSE(planned_runs(library()));
}

TEST_F(TrialTest, SheetsTellTheChassis) {
    const auto run = got(load_run(library(), {4}));
    const ChassisSheet sheet = got(chassis_sheet(library(), *run));
    EXPECT_NEAR(sheet.spring_front_n_per_m.value(), 110e3, 1);
    EXPECT_NEAR(sheet.height_front_m.value(), 0.021, 1e-9);
    EXPECT_NEAR(sheet.wheelbase_m.value(), 2.55, 1e-9);
    EXPECT_FALSE(sheet.motion_ratio_front);
    // Base: 110 + 2 · 45 in front, 120 + 2 · 20 behind with the long run's softer bar.
    EXPECT_NEAR(sheet.front_roll_share().value(), 200.0 / 360.0, 1e-6);
    EXPECT_FALSE(power_input(*run).air_known);
    EXPECT_NEAR(power_input(*run).mass_kg.value(), 775, 1e-6);
}

TEST_F(TrialTest, HintsComeFromEvidenceOnly) {
    const LapSet understeers = set("4:2,3,4,5,6,7");
    const ChassisSheet sheet = got(chassis_sheet(library(), *understeers.runs.front()));
    const SetupHints hints = got(setup_hints(understeers.laps, sheet));
    ASSERT_FALSE(hints.hints.empty()) << hints.none;
    EXPECT_TRUE(hints.hints[0].evidence.starts_with("Understeer in the slower corners")) << hints.hints[0].evidence;
    EXPECT_TRUE(hints.hints[0].driver_first.starts_with("Driver first"));
    EXPECT_TRUE(hints.hints[0].possible.starts_with("Possible"));
    for (const SetupHint& hint : got(setup_hints(set("2").laps, sheet)).hints)
        EXPECT_EQ(hint.evidence.find("steer"), std::string::npos) << "as most cars are: " << hint.evidence;
    // None from too few laps, nor while they scatter more than a setup does.
    EXPECT_NE(got(setup_hints(set("2:2,3").laps, sheet)).none.find("takes three"), std::string::npos);
    EXPECT_NE(got(setup_hints(set("3:1,3,5,6").laps, sheet)).none.find("scatter"), std::string::npos);
}

}  // namespace
