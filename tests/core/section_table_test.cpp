// Section times, ideal lap, fastest loop, peaks, and which laps to compare: closed forms and the demo's planted facts.
#include <gtest/gtest.h>

#include <cmath>

#include "core/analysis/corner_peaks.h"
#include "core/analysis/lap_choice.h"
#include "core/analysis/section_table.h"
#include "tests/support/demo_world.h"

using namespace rendak;
using rendak::test::demo_world;

namespace {

/// A lap of 300 m in three parts of given times, beginning at `start_s`.
TimedLap timed_lap(int number, double start_s, std::array<double, 3> parts, bool included = true) {
    TimedLap lap;
    lap.ref = {{1}, number};
    lap.included = included;
    lap.map.time_s = {start_s, start_s + parts[0], start_s + parts[0] + parts[1],
                      start_s + parts[0] + parts[1] + parts[2]};
    lap.map.distance_m = {0, 100, 200, 300};
    lap.map.left_m = {0, 0, 0, 0};
    return lap;
}

const std::vector<Section> thirds = {{"A", {0, 100}, 0}, {"B", {100, 200}, 1}, {"C", {200, 300}, 0}};

Lap flying(double time_s, std::string reason = {}) {
    Lap lap;
    lap.kind = LapKind::flying;
    lap.included = true;
    lap.end_s = time_s;
    lap.doubt = std::move(reason);
    return lap;
}

}  // namespace

TEST(SectionTable, BestIdealAndSpread) {
    const std::vector<TimedLap> laps{timed_lap(1, 0, {10, 20, 30}), timed_lap(2, 60, {11, 18, 31}),
                                     timed_lap(3, 120, {1, 1, 1}, false)};
    const SectionTable table = section_table(laps, thirds);
    ASSERT_EQ(table.rows.size(), 3U);
    EXPECT_EQ(table.best_lap, 0U) << "60 s each: the first one";
    EXPECT_EQ(table.best[0], 0U);
    EXPECT_EQ(table.best[1], 1U);
    EXPECT_EQ(table.best[2], 0U);
    EXPECT_DOUBLE_EQ(*table.ideal_s, 58) << "the lap that is left out does not make it faster";
    EXPECT_DOUBLE_EQ(table.spread[1].mean, 19);
    EXPECT_NEAR(table.spread[1].sd, std::sqrt(2.0), 1e-12);
    EXPECT_EQ(table.spread[1].count, 2U);
    for (const auto& row : table.rows) {
        double sum = 0;
        for (const double s : row.section_s) sum += s;
        EXPECT_NEAR(sum, row.lap_s, 1e-9);
    }
}

TEST(SectionTable, RunsStandApartWithTheirMiddles) {
    std::vector<TimedLap> laps{timed_lap(1, 0, {10, 20, 30}), timed_lap(2, 60, {11, 18, 31}),
                               timed_lap(3, 120, {16, 19, 33})};
    EXPECT_DOUBLE_EQ(section_table(laps, thirds).spread[0].middle, 11);
    // Another driver's laps set no best here, and stand on their own in their run's column.
    for (auto [number, first] : {std::pair{1, 9.0}, {2, 8.0}}) {
        TimedLap other = timed_lap(number, 200.0 * number, {first, 20, 30}, false);
        other.ref.run = {2};
        laps.push_back(other);
    }
    const SectionTable table = section_table(laps, thirds);
    EXPECT_DOUBLE_EQ(table.spread[0].least, 10);
    ASSERT_EQ(table.runs.size(), 2U);
    EXPECT_EQ(table.runs[1].run, RunId{2});
    EXPECT_DOUBLE_EQ(table.runs[0].spread[0].middle, 11);
    EXPECT_DOUBLE_EQ(table.runs[1].spread[0].middle, 8.5);
    EXPECT_EQ(table.runs[1].laps.count, 2U);
    // What was left out in its run counts nowhere.
    laps.back().counts_in_run = false;
    EXPECT_DOUBLE_EQ(section_table(laps, thirds).runs[1].spread[0].middle, 9);
}

TEST(SectionTable, NoLapCounts) {
    const std::vector<TimedLap> laps{timed_lap(1, 0, {10, 20, 30}, false)};
    const SectionTable table = section_table(laps, thirds);
    EXPECT_FALSE(table.best_lap);
    EXPECT_FALSE(table.ideal_s);
    EXPECT_FALSE(fastest_loop(laps, thirds));
    EXPECT_TRUE(section_table({}, thirds).rows.empty());
}

TEST(SectionTable, FastestLoopGoesOverTheLine) {
    // Slow-fast-fast, then fast-slow-slow: from B to B it is quicker than either lap.
    const std::vector<TimedLap> laps{timed_lap(1, 0, {14, 20, 30}), timed_lap(2, 64, {10, 24, 33})};
    const auto loop = fastest_loop(laps, thirds);
    ASSERT_TRUE(loop);
    EXPECT_DOUBLE_EQ(loop->time_s, 60);
    EXPECT_DOUBLE_EQ(loop->start_m, 100);
    EXPECT_EQ(loop->section, "B");
    EXPECT_EQ(loop->first.lap, 1);
    // Laps that do not follow each other make no loop.
    const std::vector<TimedLap> apart{timed_lap(1, 0, {14, 20, 30}), timed_lap(3, 64, {10, 24, 33})};
    EXPECT_DOUBLE_EQ(fastest_loop(apart, thirds)->time_s, 64);
}

TEST(SectionTable, Run3LosesAtTheHairpinOnEveryLap) {
    const auto& world = demo_world();
    const auto sections = sections_of(*world.track);
    std::vector<TimedLap> laps;
    for (const std::size_t r : {1U, 2U}) {
        for (const Lap& lap : world.runs[r].laps) {
            if (lap.kind == LapKind::flying)
                laps.push_back({{{static_cast<std::int64_t>(r + 1)}, lap.number},
                                true,
                                world.runs[r].lap(lap.number, world.track).map});
        }
    }
    const SectionTable table = section_table(laps, sections);
    EXPECT_LT(*table.ideal_s, table.rows[*table.best_lap].lap_s);
    std::size_t hairpin = 0;
    while (sections[hairpin].name != "Turn 5") ++hairpin;
    double slowest_of_2 = 0, fastest_of_3 = 1e9;
    for (const auto& row : table.rows) {
        if (row.ref.run.value == 2) slowest_of_2 = std::max(slowest_of_2, row.section_s[hairpin]);
        if (row.ref.run.value == 3) fastest_of_3 = std::min(fastest_of_3, row.section_s[hairpin]);
    }
    EXPECT_GT(fastest_of_3, slowest_of_2);
    EXPECT_EQ(table.rows[*table.best[hairpin]].ref.run.value, 2);
}

TEST(LapChoice, VisibleEffectIsStudentsT) {
    std::vector<Lap> laps;
    for (const double t : {100.0, 100.2, 100.4, 100.2}) laps.push_back(flying(t));
    laps.push_back(flying(104, "off the usual line by 9 m at Turn 1: an excursion?"));
    const Consistency found = consistency(laps);
    EXPECT_EQ(found.laps.count, 4U);
    EXPECT_EQ(found.doubtful, 1U);
    // t(0.975, 6) = 2.4469 (SciPy); sd = 0.163299; √(2/4)
    EXPECT_NEAR(*found.visible_s, 2.4469 * 0.163299 * std::sqrt(0.5), 2e-3);
    EXPECT_EQ(effect_verdict(found, 0.5).substr(0, 3), "Yes");
    EXPECT_EQ(effect_verdict(found, 0.05).substr(0, 2), "No");
    EXPECT_FALSE(consistency(std::span(laps).first(2)).visible_s);
    EXPECT_EQ(consistency({}).verdict, "No flying lap counts.");
}

TEST(LapChoice, TQuantiles) {
    // scipy.stats.t.ppf(0.975, n)
    EXPECT_NEAR(t_95(1), 12.706, 1e-3);
    EXPECT_NEAR(t_95(7), 2.36462, 2e-3);
    EXPECT_NEAR(t_95(14), 2.14479, 5e-4);
    EXPECT_NEAR(t_95(100), 1.98397, 1e-4);
}

TEST(LapChoice, NearBestAndFairLap) {
    std::vector<Lap> laps{flying(100.5), flying(100.0), flying(103), flying(100.2)};
    laps[2].included = false;
    EXPECT_EQ(near_best(laps, 0.3), (std::vector<std::size_t>{1, 3}));
    EXPECT_EQ(near_best(laps, 10).size(), 3U) << "what does not count is not near";
    std::vector<Candidate> candidates;
    for (std::size_t i = 0; i < laps.size(); ++i) candidates.push_back({{{2}, static_cast<int>(i)}, laps[i]});
    candidates.push_back({{{2}, 9}, flying(101.01, "1.2 s slower than usual in Turn 3: traffic?")});
    const auto fair = fair_lap({{{1}, 4}, flying(101)}, candidates);
    ASSERT_TRUE(fair);
    EXPECT_EQ(fair->lap, 0) << "nearest in time without a doubt";
    EXPECT_FALSE(fair_lap({{{1}, 4}, flying(140)}, candidates)) << "nothing within 5 %";
}

TEST(CornerPeaks, HandsApartAndBankedCornerLeftOut) {
    const auto& world = demo_world();
    // The right-hander with the highest peak is said to be banked.
    const std::vector<PreparedLap> flat{world.runs[1].lap(3, world.track), world.runs[2].lap(4, world.track)};
    const CornerPeaks on_flat = corner_peaks(flat);
    std::size_t highest = 0;
    for (std::size_t k = 0; k < 14; ++k) {
        if (on_flat.corners[k].best_mps2 == on_flat.limit_right_mps2) highest = k;
    }
    Track banked = *world.track;
    banked.banking.value.assign(banked.line.size(), 0);
    banked.banking.sd.assign(banked.line.size(), 0.005);
    for (std::size_t i = 0; i < banked.line.size(); ++i) {
        const double s = static_cast<double>(i) * banked.step_m();
        if (s > banked.corners[highest].start_m && s < banked.corners[highest].end_m) banked.banking.value[i] = 0.1;
    }
    const auto track = std::make_shared<const Track>(banked);
    std::vector<PreparedLap> laps{world.runs[1].lap(3, track), world.runs[2].lap(4, track)};
    const CornerPeaks peaks = corner_peaks(laps);
    ASSERT_EQ(peaks.laps.size(), 2U);
    ASSERT_EQ(peaks.corners.size(), 14U);
    EXPECT_TRUE(peaks.corners[highest].banked);
    EXPECT_NEAR(peaks.corners[highest].banking_rad, 0.1, 1e-6) << "left side high helps the right-hander";
    for (const auto& lap : peaks.laps) {
        for (const CornerPeak& peak : lap) {
            EXPECT_GT(peak.peak_mps2, 5);
            EXPECT_LT(peak.mean_mps2, peak.peak_mps2);
            EXPECT_GT(peak.slowest_mps, 8);
        }
    }
    // Without it the limit is lower.
    EXPECT_LT(peaks.limit_right_mps2, corner_peaks(laps, true).limit_right_mps2);
    // A lap that does not count is shown and sets no limit.
    auto fewer = laps;
    for (PreparedLap& lap : fewer) lap.counts = false;
    const CornerPeaks none = corner_peaks(fewer);
    EXPECT_EQ(none.laps.size(), peaks.laps.size());
    EXPECT_TRUE(std::isnan(none.limit_right_mps2) && std::isnan(none.limit_left_mps2));
    EXPECT_LT(peaks.laps[1][4].slowest_mps, peaks.laps[0][4].slowest_mps) << "the second driver over-slows the hairpin";
}
