// Medians and what rests on them, sums of sections, samples over a stretch, work spread over threads: closed forms.
#include <gtest/gtest.h>

#include <atomic>
#include <cmath>
#include <limits>
#include <random>

#include "core/analysis/best_of_both.h"
#include "core/analysis/line_fit.h"
#include "core/base/median.h"
#include "core/base/parallel.h"
#include "core/chassis/samples.h"

using namespace rendak;

namespace {

constexpr double not_there = std::numeric_limits<double>::quiet_NaN();

/// A lap of 1 000 m in two sections that take the times given, each at an even speed.
PreparedLap lap_of_halves(double first_s, double second_s, double start_s = 100) {
    PreparedLap lap;
    lap.map.distance_m = {0, 400, 1000};
    lap.map.time_s = {start_s, start_s + first_s, start_s + first_s + second_s};
    return lap;
}
const std::vector<Section> two_sections{{"straight", {0, 400}, 0}, {"corner", {400, 1000}, 1}};

Recording recording_of(Channel channel) {
    Recording out;
    out.channels.push_back(std::move(channel));
    return out;
}

}  // namespace

TEST(Median, IsTheMiddleAndOfTwoTheUpper) {
    EXPECT_TRUE(std::isnan(median_of({})));
    EXPECT_EQ(median_of({7}), 7);
    EXPECT_EQ(median_of({3, 1}), 3);
    EXPECT_EQ(median_of({5, 1, 4}), 4);
    EXPECT_EQ(median_of({9, 1, 4, 5}), 5);
}

TEST(RobustSd, IsThatOfTheNormalDistributionAndDoesNotHearOutliers) {
    EXPECT_EQ(robust_sd({}), 0);
    std::mt19937 random(3);
    std::normal_distribution<double> normal(40, 2.5);
    std::vector<double> values;
    for (int i = 0; i < 20'000; ++i) values.push_back(normal(random));
    EXPECT_NEAR(robust_sd(values, 40), 2.5, 0.07);
    for (int i = 0; i < 200; ++i) values.push_back(1e6);
    EXPECT_NEAR(robust_sd(values, 40), 2.5, 0.1);
}

TEST(NoiseFromThirdDifferences, DoesNotHearAParabola) {
    std::mt19937 random(4);
    std::normal_distribution<double> normal(0, 0.3);
    std::vector<double> x, exact;
    for (int i = 0; i < 8'000; ++i) {
        exact.push_back(0.01 * i * i - 3 * i);
        x.push_back(exact.back() + normal(random));
    }
    const auto third = [](const std::vector<double>& y) {
        std::vector<double> out;
        for (std::size_t i = 3; i < y.size(); ++i) out.push_back(y[i] - 3 * y[i - 1] + 3 * y[i - 2] - y[i - 3]);
        return out;
    };
    EXPECT_NEAR(noise_from_third_differences(third(x)), 0.3, 0.015);
    EXPECT_NEAR(noise_from_third_differences(third(exact)), 0, 1e-6);
}

TEST(FinitePairs, AreThoseOfWhichBothAreKnown) {
    const std::vector<double> x{1, not_there, 3, 4, 5}, y{2, 3, INFINITY, 8, 10};
    const FinitePairs pairs = finite_pairs(x, y);
    EXPECT_EQ(pairs.x, (std::vector<double>{1, 4, 5}));
    EXPECT_EQ(pairs.y, (std::vector<double>{2, 8, 10}));
    EXPECT_NEAR(fit_line(pairs.x, pairs.y).slope, 2, 1e-12);
    EXPECT_TRUE(std::isnan(correlation(x, y))) << "three pairs tell nothing";
}

TEST(SideBySide, OneLapAgainstOneIsJudgedByItsSizeAlone) {
    const std::vector<PreparedLap> a{lap_of_halves(10, 20)}, b{lap_of_halves(10.015, 19.5, 900)};
    const auto sides = side_by_side(a, b, two_sections);
    ASSERT_EQ(sides.size(), 2U);
    EXPECT_EQ(sides[0].better, SideSection::Better::neither) << "0.015 s is less than anybody tells";
    EXPECT_EQ(sides[1].better, SideSection::Better::b);
    EXPECT_FALSE(sides[1].likely_s);
    EXPECT_NEAR(sides[1].a_s - sides[1].b_s, 0.5, 1e-9);
}

TEST(SideBySide, AlikeDriversAreSeldomToldApartAndOthersAre) {
    std::mt19937 random(11);
    std::normal_distribution<double> normal(0, 0.06);
    int told = 0, found = 0, wrong = 0, intervals_hold = 0;
    constexpr int worlds = 400;
    for (int world = 0; world < worlds; ++world) {
        std::vector<PreparedLap> a, b;
        for (int k = 0; k < 6; ++k) {
            a.push_back(lap_of_halves(10 + normal(random), 20 + normal(random)));
            b.push_back(lap_of_halves(10 + normal(random), 19.8 + normal(random)));
        }
        const auto sides = side_by_side(a, b, two_sections);
        told += sides[0].better != SideSection::Better::neither ? 1 : 0;
        found += sides[1].better == SideSection::Better::b ? 1 : 0;
        wrong += sides[1].better == SideSection::Better::a ? 1 : 0;
        intervals_hold += sides[1].likely_s && sides[1].likely_s->contains(-0.2) ? 1 : 0;
    }
    // By chance one in twenty; of 400, 8.4 more or less is twice the scatter.
    EXPECT_LT(told, worlds / 20 + 13);
    EXPECT_GT(intervals_hold, worlds - worlds / 20 - 13);
    EXPECT_GT(found, 0.97 * worlds);
    EXPECT_EQ(wrong, 0);
}

TEST(SampledStretch, IsWhatWasLoggedThere) {
    ChannelStorage storage;
    for (int i = 0; i < 200; ++i) storage.floats.push_back(static_cast<float>(i));
    const Recording recording = recording_of(make_channel("Load", "load", "N", std::move(storage), 1, 50));
    const SampledStretch part = sampled(recording, "load", {1.5, 2.5});
    EXPECT_EQ(part.rate_hz, 50);
    EXPECT_NEAR(part.start_s, 1.5, 1e-9);
    ASSERT_EQ(part.values.size(), 50U);
    EXPECT_EQ(part.values.front(), 25.0F);
    EXPECT_EQ(part.values.back(), 74.0F) << "the sample at its end belongs to what follows";
    const auto inner = part.during({2.0, 2.1});
    ASSERT_EQ(inner.size(), 5U);
    EXPECT_EQ(inner.front(), 50.0F);
    EXPECT_TRUE(part.during({7, 8}).empty());
    EXPECT_TRUE(part.during({2.1, 2.0}).empty());
    EXPECT_EQ(part.during({0, 99}).size(), 50U);
    EXPECT_TRUE(sampled(recording, "load", {90, 95}).values.empty());
    EXPECT_TRUE(sampled(recording, "nothing", {1, 2}).values.empty());
    EXPECT_TRUE(sampled({}, "load", {1, 2}).values.empty());
}

TEST(SampledStretch, AnUnevenClockIsReadBetweenItsSamplesAndAStateNotAtAll) {
    ChannelStorage storage;
    double t = 0;
    for (int i = 0; t < 10; ++i) {
        storage.times_s.push_back(t);
        storage.floats.push_back(static_cast<float>(3 * t));
        t += i % 2 == 0 ? 0.008 : 0.012;
    }
    const Recording recording = recording_of(make_channel("Load", "load", "N", std::move(storage)));
    const SampledStretch part = sampled(recording, "load", {2, 4});
    EXPECT_NEAR(part.rate_hz, 100, 0.1);
    ASSERT_NEAR(static_cast<double>(part.values.size()), 200, 1);
    for (std::size_t i = 0; i < part.values.size(); ++i)
        EXPECT_NEAR(part.values[i], 3 * (2 + static_cast<double>(i) / part.rate_hz), 1e-3) << i;
    ChannelStorage gears;
    gears.floats.assign(100, 3.0F);
    EXPECT_TRUE(sampled(recording_of(make_channel("Gear", "gear", "", std::move(gears), 0, 10)), "gear", {1, 5})
                    .values.empty());
}

TEST(SampledStretch, ASensorThatStandsForHalfASecondIsLeftOut) {
    SampledStretch samples;
    samples.rate_hz = 100;
    for (int i = 0; i < 300; ++i) {
        // Stuck from 50 to 99, and for 49 samples only from 150 on.
        const bool stuck = i >= 50 && i < 100, nearly = i >= 150 && i < 199;
        samples.values.push_back(stuck ? -1.0F : nearly ? -2.0F : static_cast<float>(i));
    }
    leave_out_stuck(samples);
    for (std::size_t i = 0; i < 300; ++i) EXPECT_EQ(std::isnan(samples.values[i]), i >= 50 && i < 100) << i;
    // At a rate where half a second is hardly a sample nothing can be said.
    SampledStretch slow;
    slow.rate_hz = 5;
    slow.values.assign(50, 1.0F);
    leave_out_stuck(slow);
    EXPECT_EQ(slow.values, std::vector<float>(50, 1.0F));
}

TEST(ParallelFor, DoesEachOnceWithAnyNumberOfThreads) {
    for (const unsigned most : {0U, 1U, 3U, 64U}) {
        for (const std::size_t count : {std::size_t{0}, std::size_t{1}, std::size_t{2}, std::size_t{1000}}) {
            std::vector<std::atomic<int>> done(count);
            parallel_for(
                count, 1, [&](std::size_t i) { ++done[i]; }, most);
            for (const auto& it : done) EXPECT_EQ(it.load(), 1);
        }
    }
}
