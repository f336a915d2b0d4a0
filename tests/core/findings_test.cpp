// What a driver does otherwise, named: held against drives that were made with one fault each.
#include "core/analysis/findings.h"

#include <gtest/gtest.h>

#include <cmath>
#include <set>

#include "core/analysis/technique.h"
#include "core/analysis/wheel_events.h"
#include "tests/support/demo_world.h"
#include "tests/support/figures_only.h"
#include "tests/support/got.h"
#include "tests/support/made_faults.h"
#include "tests/support/made_world.h"

using namespace rendak;
using namespace rendak::test;

namespace {

void print(const FindingScore& score) {
    for (const auto& [kind, it] : score.kinds) {
        std::printf("  %-13s %d of %d named; of %d told %d at a wrong place", kind.c_str(), it.named, it.faults,
                    it.told, it.wrong);
        for (const double size : it.sizes) std::printf(" %.2f", size);
        std::printf("\n");
    }
    for (const std::string& miss : score.misses) std::printf("    %s\n", miss.c_str());
}

TEST(Findings, NameTheDemosFaultsWithTheirCornersAndSizes) {
    const auto& world = demo_world();
    const PreparedLap a = world.runs[1].lap(4, world.track), b = world.runs[2].lap(1, world.track);
    const auto found = got(findings_of(std::span(&a, 1), std::span(&b, 1)));
    const auto one = [&](LapFinding::Kind kind, int corner) -> const LapFinding* {
        for (const LapFinding& it : found) {
            if (it.kind == kind && it.corner == corner) return &it;
        }
        return nullptr;
    };
    const LapFinding* early = one(LapFinding::Kind::brakes_early, 5);
    ASSERT_NE(early, nullptr);
    EXPECT_NEAR(early->size, 14, 3);
    const LapFinding* lift = one(LapFinding::Kind::lifts, 6);
    ASSERT_NE(lift, nullptr);
    EXPECT_GT(lift->size, 50);
    EXPECT_GT(lift->loss_s, 0.3);
    EXPECT_NE(finding_words(*lift, *world.track).find("Turn 6: B lifts by"), std::string::npos);
    EXPECT_NE(finding_words(*lift, *world.track).find("costs 0."), std::string::npos);
    for (std::size_t i = 1; i < found.size(); ++i) EXPECT_GE(found[i - 1].loss_s, found[i].loss_s);
    for (const LapFinding& it : found) {
        EXPECT_GT(it.size, 0);
        EXPECT_FALSE(kind_name(it.kind).empty());
        EXPECT_EQ(it.of, 1U);
    }
    EXPECT_TRUE(got(findings_of(std::span(&a, 1), std::span(&a, 1))).empty()) << "against itself there is nothing";
    EXPECT_FALSE(findings_of({}, std::span(&a, 1)));
}

TEST(Findings, AreRightOnDrivesThatWereMadeWithOneFaultEach) {
    RENDAK_FIGURES_ONLY("Findings.NameTheDemosFaultsWithTheirCornersAndSizes");
    const FindingScore score = score_findings(301, 5, false);
    print(score);
    EXPECT_GT(score.faults(), 12);
    EXPECT_GE(score.named(), 0.75 * score.faults());
    EXPECT_LE(score.wrong(), 0.12 * score.told() + 1);
    EXPECT_EQ(score.kinds.at("none").wrong, 0) << "a clean drive has no fault";
    double off = 0, count = 0;
    for (const auto& [kind, it] : score.kinds) {
        for (const double size : it.sizes) {
            off += std::abs(size - 1);
            ++count;
        }
    }
    EXPECT_GT(count, 3);
    EXPECT_LT(off / count, 0.15);
}

TEST(Findings, EachKindHasANameAndASentenceOfItsOwn) {
    const auto& world = demo_world();
    std::set<std::string> names, sentences;
    for (int k = 0; k <= static_cast<int>(LapFinding::Kind::carries_less); ++k) {
        const LapFinding it{static_cast<LapFinding::Kind>(k), 5, 2000, 12.5, "m", 0.25, 3, 4};
        EXPECT_TRUE(names.insert(std::string(kind_name(it.kind))).second) << k;
        const std::string words = finding_words(it, *world.track);
        EXPECT_TRUE(sentences.insert(words).second) << words;
        EXPECT_TRUE(words.starts_with("Turn 5: ")) << words;
        EXPECT_FALSE(finding_causes(it).empty()) << words;
        if (it.kind == LapFinding::Kind::odd_lap) continue;  // that is of one lap, and says which
        EXPECT_TRUE(words.ends_with(", on 3 of 4 laps; costs 0.25 s.")) << words;
    }
    // What cannot be told is not made up.
    const LapFinding lift{LapFinding::Kind::lifts, 6, 2500, std::nan(""), "%", 0.1, 1, 1};
    EXPECT_EQ(finding_words(lift, *world.track), "Turn 6: B lifts where A stays flat; costs 0.10 s.");
    const LapFinding car{LapFinding::Kind::pulls_less, 0, 0, 2, "%", 0.4, 1, 1};
    EXPECT_TRUE(finding_words(car, *world.track).starts_with("On the straights: B pulls less")) << "of the whole lap";
}

TEST(Techniques, AreThoseOfThePedals) {
    // A demo lap corner by corner: what is told in one place agrees with the others.
    const auto& world = demo_world();
    const PreparedLap lap = world.runs[1].lap(4, world.track);
    const auto techniques = technique_of(lap);
    const auto events = corner_events(lap);
    ASSERT_EQ(techniques.size(), events.size());
    int braked = 0;
    for (std::size_t k = 0; k < events.size(); ++k) {
        const Technique& it = techniques[k];
        EXPECT_EQ(it.corner, events[k].corner);
        EXPECT_EQ(it.brake_on_m, events[k].brake_on_m);
        EXPECT_FALSE(it.inferred);
        ASSERT_TRUE(it.slowest_m && it.slowest_mps);
        EXPECT_NEAR(*it.slowest_mps, lap.value_at("speed", *it.slowest_m), 1e-9);
        if (it.full_for_good_m) EXPECT_GE(*it.full_for_good_m, *it.slowest_m - 1);
        if (!it.brake_on_m) {
            EXPECT_EQ(it.brake_s, 0);
            continue;
        }
        ++braked;
        ASSERT_TRUE(it.brake_peak_mps2 && it.brake_rise_s && it.brake_peak_m);
        EXPECT_GT(*it.brake_peak_mps2, 3);
        EXPECT_LT(*it.brake_peak_mps2, 30);
        EXPECT_GE(*it.brake_peak_m, *it.brake_on_m);
        EXPECT_LT(*it.brake_rise_s, 1.5);
        EXPECT_GT(it.brake_s, 0.2);
        EXPECT_LE(it.trail_s, it.brake_s + 1e-9);
        EXPECT_LT(it.least_throttle, 0.2);
        if (it.throttle_touch_m) EXPECT_GE(*it.throttle_touch_m, *it.brake_off_m - 2);
    }
    EXPECT_GT(braked, 7);
}

TEST(WheelEvents, ALockedWheelIsFoundWithItsPlaceAndLength) {
    const MadeWorld world(91);
    auto plan = MadeWorld::plan(3, 91, 0.3);
    const auto& corner = world.circuit().corners[3];
    plan.laps[1].cues.push_back({demo::Cue::Kind::lock_up, corner.number, 0.4});
    const MadeRun run = world.run(plan);
    int found = 0;
    for (std::size_t k = 0; k < run.laps.size(); ++k) {
        for (const WheelEvent& it : wheel_events(run.laps[k])) {
            if (it.kind != WheelEvent::Kind::locks_up) continue;
            ++found;
            EXPECT_EQ(run.lap_of[k], 1);
            EXPECT_EQ(it.wheel, "fl");
            EXPECT_NEAR(it.duration_s, 0.4, 0.1);
            EXPECT_LT(it.depth, -0.5);
            const double true_s = run.drive.lock_ups[0].time_s.begin;
            EXPECT_NEAR(run.laps[k].map.time_at(it.range_m.begin), true_s, 0.1);
        }
    }
    EXPECT_EQ(found, 1);
    // A receiver alone knows nothing of wheels.
    EXPECT_TRUE(wheel_events(world.run(plan, true).laps[0]).empty());
}

}  // namespace
