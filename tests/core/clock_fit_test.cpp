#include "core/recording/clock_fit.h"

#include <gtest/gtest.h>

#include <cmath>
#include <vector>

using namespace rendak;

TEST(ClockFit, ExactAndRoundedTimes) {
    std::vector<double> exact, rounded;
    for (int i = 0; i < 1000; ++i) {
        exact.push_back(3 + i / 50.0);
        rounded.push_back(std::round((3 + i / 60.0) * 100) / 100);  // two decimals of 60 Hz
    }
    const auto fifty = fit_regular_clock(exact, 1e-6);
    ASSERT_TRUE(fifty);
    EXPECT_EQ(fifty->rate_hz, 50);
    EXPECT_EQ(fifty->size, 1000U);
    const auto sixty = fit_regular_clock(rounded, 0.0051);
    ASSERT_TRUE(sixty);
    EXPECT_NEAR(sixty->rate_hz, 60, 0.01);
    EXPECT_EQ(sixty->size, 1000U);
}

TEST(ClockFit, HolesKeepTheirSlots) {
    std::vector<double> times;
    for (int i = 0; i < 400; ++i) {
        if (i < 100 || i >= 180) times.push_back(i / 20.0);
    }
    const auto clock = fit_regular_clock(times, 1e-6);
    ASSERT_TRUE(clock);
    EXPECT_EQ(clock->size, 400U);
    EXPECT_EQ(clock->slot_of(180 / 20.0), 180U);
}

TEST(ClockFit, AHoleDoesNotStretchTheClockOfCoarseTimes) {
    // One decimal at 10 Hz: half a step is the finest that the file can tell.
    std::vector<double> times;
    for (int i = 0; i < 115; ++i) {
        if (i < 40 || i >= 55) times.push_back(std::round(i) / 10.0);
    }
    const auto clock = fit_regular_clock(times, 0.051);
    ASSERT_TRUE(clock);
    EXPECT_EQ(clock->rate_hz, 10);
    EXPECT_EQ(clock->size, 115U);
    EXPECT_EQ(clock->slot_of(5.5), 55U);
}

TEST(ClockFit, IrregularTimesStayIrregular) {
    std::vector<double> times;
    double t = 0;
    for (int i = 0; i < 200; ++i) times.push_back(t += 0.05 + 0.02 * std::sin(i * 1.7));
    EXPECT_FALSE(fit_regular_clock(times, 1e-4));
    EXPECT_FALSE(fit_regular_clock(std::vector<double>{1}, 1));
}
