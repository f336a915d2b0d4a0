// Functions of formulas that remember, called by themselves: shapes whose result can be written down.
#include <gtest/gtest.h>

#include <cmath>
#include <limits>
#include <vector>

#include "core/formula/kept_steps.h"
#include "core/formula/over_time.h"

namespace rendak::formula {
namespace {

constexpr float nan = std::numeric_limits<float>::quiet_NaN();

SampleClock even(std::size_t size, double rate_hz = 10, double start_s = 0) {
    SampleClock out;
    out.start_s = start_s;
    out.rate_hz = rate_hz;
    out.size = size;
    return out;
}

/// Steps of 0.05 and 0.15 s in turn.
struct Uneven {
    std::vector<double> times;
    SampleClock clock;
    explicit Uneven(std::size_t size) {
        double t = 3;
        for (std::size_t i = 0; i < size; ++i) {
            times.push_back(t);
            t += i % 2 == 0 ? 0.05 : 0.15;
        }
        clock.size = size;
        clock.times_s = times;
    }
};

std::vector<float> along(const SampleClock& clock, double (*value)(double)) {
    std::vector<float> out;
    for (std::size_t i = 0; i < clock.size; ++i) out.push_back(static_cast<float>(value(clock.time_at(i))));
    return out;
}

/// NaN is the same as NaN.
void expect_same(const std::vector<float>& got, const std::vector<float>& expected, float within = 0) {
    ASSERT_EQ(got.size(), expected.size());
    for (std::size_t i = 0; i < got.size(); ++i) {
        if (std::isnan(expected[i]))
            EXPECT_TRUE(std::isnan(got[i])) << i << " is " << got[i];
        else
            EXPECT_NEAR(got[i], expected[i], within) << i;
    }
}

}  // namespace

TEST(Memory, SlopeOfAParabolaIsExactWithinOnAnyClock) {
    const auto parabola = [](double t) { return 2 * t * t - 3 * t + 1; };
    const Uneven uneven(21);
    for (const SampleClock& clock : {even(21), uneven.clock}) {
        const auto slope = gradient(along(clock, parabola), clock);
        for (std::size_t i = 1; i + 1 < slope.size(); ++i) EXPECT_NEAR(slope[i], 4 * clock.time_at(i) - 3, 2e-4) << i;
        // At the ends of the slope between the last two: that of the middle between them.
        const double first = (clock.time_at(0) + clock.time_at(1)) / 2;
        EXPECT_NEAR(slope.front(), 4 * first - 3, 2e-4);
        const double last = (clock.time_at(19) + clock.time_at(20)) / 2;
        EXPECT_NEAR(slope.back(), 4 * last - 3, 2e-4);
    }
}

TEST(Memory, SlopeIsMissingBesideAndAtAHole) {
    const std::vector<float> x{0, 1, 2, nan, 4, 5, 6};
    expect_same(gradient(x, even(7)), {10, 10, nan, nan, nan, 10, 10}, 1e-5F);
    expect_same(gradient(std::vector<float>{1}, even(1)), {nan});
    expect_same(gradient({}, even(0)), {});
}

TEST(Memory, SumOfALineIsItsParabola) {
    const auto line = [](double t) { return t; };
    const Uneven uneven(31);
    for (const SampleClock& clock : {even(31, 10, 2), uneven.clock}) {
        const auto sum = cumulative_trapezoid(along(clock, line), clock, {});
        const double begin = clock.time_at(0);
        for (std::size_t i = 0; i < sum.size(); ++i) {
            const double t = clock.time_at(i);
            EXPECT_NEAR(sum[i], (t * t - begin * begin) / 2, 1e-4) << i;
        }
    }
}

TEST(Memory, SumGoesOnBehindAHoleAndBeginsAnewWhereItIsTold) {
    expect_same(cumulative_trapezoid(std::vector<float>{10, 10, nan, 10, 10, 10}, even(6), {}), {0, 1, nan, 1, 2, 3},
                1e-6F);
    const std::vector<float> anew{0, 0, 1, 0, 0, 1};
    expect_same(cumulative_trapezoid(std::vector<float>(6, 10.0F), even(6), anew), {0, 1, 0, 1, 2, 0}, 1e-6F);
}

TEST(Memory, AnEarlierMomentIsBetweenItsSamples) {
    const std::vector<float> x{0, 1, 2, 3, 4, 5};
    expect_same(delayed(x, even(6), 0.25, false), {nan, nan, nan, 0.5F, 1.5F, 2.5F}, 1e-5F);
    expect_same(delayed(x, even(6), 0.25, true), {nan, nan, nan, 0, 1, 2});
    expect_same(delayed(x, even(6), -0.2, false), {2, 3, 4, 5, nan, nan}, 1e-5F);
    expect_same(delayed(x, even(6), 0, false), x);
    // By whole samples they are only moved: the same as what is read between them.
    expect_same(delayed(x, even(6), 0.2, false), {nan, nan, 0, 1, 2, 3});
    expect_same(delayed(x, even(6), 0.6, false), std::vector<float>(6, nan));
    expect_same(delayed(x, even(6), 1e9, false), std::vector<float>(6, nan));
    const std::vector<float> holes{5, nan, 7, 8, nan, 1};
    expect_same(delayed(holes, even(6, 10, 3), 0.1, false), {nan, 5, nan, 7, 8, nan});
    const Uneven uneven(9);
    const auto back = delayed(along(uneven.clock, [](double t) { return 7 * t; }), uneven.clock, 0.1, false);
    EXPECT_TRUE(std::isnan(back[0]));
    for (std::size_t i = 2; i < back.size(); ++i) EXPECT_NEAR(back[i], 7 * (uneven.times[i] - 0.1), 1e-4) << i;
}

TEST(Memory, OtherMomentsAreOutsideMissing) {
    const std::vector<float> x{10, 20, nan, 40};
    const auto at = even(9, 20, -0.1);  // −0.1, −0.05, … 0.3
    expect_same(sampled(x, even(4), false, at, 0, 9), {nan, nan, 10, 15, 20, nan, nan, nan, 40}, 1e-4F);
    expect_same(sampled(x, even(4), true, at, 0, 9), {nan, nan, 10, 10, 20, 20, nan, nan, 40});
    // A part of them is the same part of the result.
    expect_same(sampled(x, even(4), false, at, 3, 5), {15, 20}, 1e-4F);
    expect_same(sampled({}, even(0), false, at, 0, 2), {nan, nan});
}

TEST(Memory, HysteresisKeepsBetweenItsLimits) {
    const std::vector<float> x{0, 5, 6, 5, 4, 3, 5, nan, 7, 4, 2}, low(11, 4), high(11, 5);
    expect_same(hysteresis(x, low, high), {0, 0, 1, 1, 1, 0, 0, nan, 1, 1, 0});
    // Limits may move.
    const std::vector<float> steady(4, 5), lower{4, 4, 6, 4}, upper{4, 4, 6, nan};
    expect_same(hysteresis(steady, lower, upper), {1, 1, 0, nan});
}

TEST(Memory, ASettledConditionIsOneThatStays) {
    const std::vector<float> x{0, 1, 0, 1, 1, 1, 1, 0, 0, 0, 0, 1};
    // 0.2 s: three samples of the same before it is believed.
    expect_same(debounced(x, even(12), 0.2), {0, 0, 0, 0, 0, 1, 1, 1, 1, 0, 0, 0});
    expect_same(debounced(x, even(12), 0), x);
    expect_same(debounced(std::vector<float>{1, nan, 1, 0}, even(4), 1), {1, nan, 1, 1});
}

TEST(Memory, WhatDoesNotLastLongEnoughNeverWas) {
    const std::vector<float> x{1, 0, 1, 1, 0, 1, 1, 1, nan, 1, 1};
    expect_same(lasting(x, even(11), 0.2), {0, 0, 1, 1, 0, 1, 1, 1, nan, 0, 0});
    expect_same(lasting(x, even(11), 0.3), {0, 0, 0, 0, 0, 1, 1, 1, nan, 0, 0});
    expect_same(lasting(x, even(11), 0), x);
}

namespace {

LapMap straight_map(double begin_s, double end_s, double length_m) {
    LapMap out;
    for (int k = 0; k <= 10; ++k) {
        out.time_s.push_back(begin_s + (end_s - begin_s) * k / 10);
        out.distance_m.push_back(length_m * k / 10);
        out.left_m.push_back(0);
    }
    return out;
}

/// Two laps of a second each, after half a second.
struct TwoLaps {
    LapMap first = straight_map(0.5, 1.5, 100), second = straight_map(1.5, 2.5, 100);
    SampleClock clock = even(26);
    std::vector<Stretch> stretches = stretches_of({{1, 0.5, 1.5, &first}, {2, 1.5, 2.5, &second}}, clock);
};

}  // namespace

TEST(Memory, StretchesAreTheLapsAndTheLastHasTheLastSample) {
    const TwoLaps laps;
    ASSERT_EQ(laps.stretches.size(), 2U);
    EXPECT_EQ(laps.stretches[0].from, 5U);
    EXPECT_EQ(laps.stretches[0].to, 15U);
    EXPECT_EQ(laps.stretches[1].from, 15U);
    EXPECT_EQ(laps.stretches[1].to, 26U);
    EXPECT_EQ(laps.stretches[1].map, &laps.second);
    EXPECT_TRUE(stretches_of({}, laps.clock).empty());
}

TEST(Memory, RisesAreCountedLapByLap) {
    const TwoLaps laps;
    std::vector<float> x(26, 0);
    for (const std::size_t on : {3U, 8U, 9U, 12U, 18U, 25U}) x[on] = 1;
    x[20] = nan;
    const auto count = count_rises(x, laps.stretches);
    EXPECT_TRUE(std::isnan(count[4])) << "in no lap";
    const float expected[] = {0, 0, 0, 1, 1, 1, 1, 2, 2, 2, 0, 0, 0, 1, 1, nan, 1, 1, 1, 1, 2};
    for (std::size_t i = 5; i < 26; ++i) {
        if (i == 20)
            EXPECT_TRUE(std::isnan(count[i]));
        else
            EXPECT_EQ(count[i], expected[i - 5]) << i;
    }
    // On from the very first sample on: nothing has begun.
    EXPECT_EQ(count_rises(std::vector<float>{1, 1, 0, 1}, {{0, 4, 0, 0.4, nullptr}}), (std::vector<float>{0, 0, 0, 1}));
}

TEST(Memory, TimeWhileSomethingHoldsAndItsShare) {
    const TwoLaps laps;
    std::vector<float> x(26, 0);
    for (std::size_t i = 7; i < 12; ++i) x[i] = 1;
    const std::vector<double> step(26, 0.1);
    const auto sum = sum_while(x, step, laps.stretches, false), share = sum_while(x, step, laps.stretches, true);
    EXPECT_NEAR(sum[7], 0, 1e-6) << "it has only begun";
    EXPECT_NEAR(sum[10], 0.3, 1e-6);
    EXPECT_NEAR(sum[14], 0.5, 1e-6);
    EXPECT_NEAR(sum[15], 0, 1e-6) << "the next lap begins anew";
    EXPECT_NEAR(share[14], 0.5, 1e-6);
    EXPECT_TRUE(std::isnan(sum[0]));
    std::vector<double> holes = step;
    holes[9] = std::nan("");
    EXPECT_NEAR(sum_while(x, holes, laps.stretches, false)[14], 0.4, 1e-6);
}

TEST(Memory, MissingSamplesEndWhatIsSummedAndNotTheSum) {
    const std::vector<double> step(8, 0.5);
    const std::vector<Stretch> lap{{0, 8, 0, 4, nullptr}};
    const std::vector<float> x{1, 1, nan, 1, 0, 1, nan, nan};
    // A bit counts where it begins while the condition holds; what begins with a missing sample is no part of all.
    expect_same(sum_while(x, step, lap, false), {0, 0.5, nan, 1, 1.5, 1.5, nan, nan}, 1e-6F);
    expect_same(sum_while(x, step, lap, true), {1, 1, nan, 1, 1, 0.75F, nan, nan}, 1e-6F);
}

TEST(KeptSteps, AreComputedOncePerClockAndLaps) {
    KeptSteps kept;
    int computed = 0;
    const std::vector<Stretch> laps{{0, 10, 0, 1, nullptr}}, others{{0, 9, 0, 1, nullptr}};
    const auto steps = [&](KeptSteps::Of what, const SampleClock& clock, const std::vector<Stretch>& over) {
        return kept.of(what, clock, over, [&] {
            ++computed;
            return std::vector<double>(clock.size, computed);
        });
    };
    using enum KeptSteps::Of;
    EXPECT_EQ(steps(time, even(10), laps)->front(), 1);
    EXPECT_EQ(steps(time, even(10), laps)->front(), 1);
    EXPECT_EQ(steps(distance, even(10), laps)->front(), 2) << "metres are no seconds";
    EXPECT_EQ(steps(time, even(10), others)->front(), 3) << "other laps";
    EXPECT_EQ(steps(time, even(10, 20), others)->front(), 4) << "another rate";
    EXPECT_EQ(steps(time, even(10, 20), others)->front(), 4);
    // Uneven times are known by where they lie alone.
    const Uneven uneven(10);
    EXPECT_EQ(steps(time, uneven.clock, others)->front(), 5);
    EXPECT_EQ(steps(time, uneven.clock, others)->front(), 6);
    EXPECT_EQ(kept_steps(nullptr, time, even(10), laps, [] { return std::vector<double>{7}; })->front(), 7);
}

TEST(Memory, FiguresOfEachLap) {
    const TwoLaps laps;
    std::vector<float> x;
    for (int i = 0; i < 26; ++i) x.push_back(static_cast<float>(i));
    const auto of = [&](Figure figure, std::span<const float> where = {}, Interval place = {}) {
        const auto all = figure_of(x, laps.clock, figure, laps.stretches, where, place);
        for (std::size_t i = 0; i < 5; ++i) EXPECT_TRUE(std::isnan(all[i]));
        for (std::size_t i = 5; i < 15; ++i)
            EXPECT_TRUE(all[i] == all[5] || (std::isnan(all[i]) && std::isnan(all[5])));
        return std::pair(all[5], all[20]);
    };
    EXPECT_EQ(of(Figure::mean), std::pair(9.5F, 20.0F));
    EXPECT_EQ(of(Figure::median), std::pair(9.5F, 20.0F));
    EXPECT_EQ(of(Figure::low), std::pair(5.0F, 15.0F));
    EXPECT_EQ(of(Figure::high), std::pair(14.0F, 25.0F));
    EXPECT_EQ(of(Figure::spread), std::pair(9.0F, 10.0F));
    EXPECT_EQ(of(Figure::first), std::pair(5.0F, 15.0F));
    EXPECT_EQ(of(Figure::last), std::pair(14.0F, 25.0F));
    EXPECT_NEAR(of(Figure::deviation).first, std::sqrt((10.0 * 10 - 1) / 12), 1e-5) << "of ten numbers in a row";
    // From 20 to 50 m of the lap, a tenth of a second after its begin.
    EXPECT_EQ(of(Figure::first, {}, {20, 50}), std::pair(7.0F, 17.0F));
    EXPECT_EQ(of(Figure::last, {}, {20, 50}), std::pair(9.0F, 19.0F));
    std::vector<float> where(26, 0);
    where[8] = where[11] = 1;
    EXPECT_EQ(of(Figure::mean, where).first, 9.5F);
    EXPECT_TRUE(std::isnan(of(Figure::mean, where).second)) << "it holds nowhere in the second lap";
    x[14] = nan;
    x[13] = std::numeric_limits<float>::infinity();
    EXPECT_EQ(of(Figure::last).first, 12.0F);
}

TEST(Memory, APlaceWantsALapThatHasOne) {
    const std::vector<float> x(10, 1);
    const std::vector<Stretch> run{{0, 10, 0, 1, nullptr}};
    expect_same(figure_of(x, even(10), Figure::mean, run, {}, {10, 20}), std::vector<float>(10, nan));
    expect_same(figure_of(x, even(10), Figure::mean, run, {}, {}), x);
}

}  // namespace rendak::formula
