// Filters and moving windows by what is known of them: polynomials that come through whole, what a sine loses, and
// windows counted out one by one.
#include "core/signal/filters.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <random>

using namespace rendak;

namespace {

constexpr float missing_sample = std::numeric_limits<float>::quiet_NaN();
constexpr double two_pi = 2 * std::numbers::pi;

std::vector<float> sampled(std::size_t count, double rate_hz, double (*value)(double)) {
    std::vector<float> out;
    for (std::size_t i = 0; i < count; ++i) out.push_back(static_cast<float>(value(static_cast<double>(i) / rate_hz)));
    return out;
}

std::vector<float> sine(double hz, double rate_hz, double seconds) {
    std::vector<float> out;
    for (double t = 0; t < seconds; t += 1 / rate_hz) out.push_back(static_cast<float>(std::sin(two_pi * hz * t)));
    return out;
}

/// Amplitude of a sine in the middle of a signal, by projection on it and on its cosine.
double amplitude(const std::vector<float>& x, double hz, double rate_hz) {
    double a = 0, b = 0, n = 0;
    const auto periods = std::floor(static_cast<double>(x.size()) / 3 / rate_hz * hz);
    const auto from = x.size() / 3, to = from + static_cast<std::size_t>(std::lround(periods / hz * rate_hz));
    for (std::size_t i = from; i < to; ++i) {
        const double at = two_pi * hz * static_cast<double>(i) / rate_hz;
        a += static_cast<double>(x[i]) * std::sin(at);
        b += static_cast<double>(x[i]) * std::cos(at);
        ++n;
    }
    return 2 / n * std::hypot(a, b);
}

/// Of a Butterworth filter that went over it twice.
double twice_passed(double hz, double cutoff_hz, double rate_hz, int order, Pass pass) {
    // The bilinear transform bends frequencies; at the cutoff it is exact.
    const double ratio = std::tan(std::numbers::pi * hz / rate_hz) / std::tan(std::numbers::pi * cutoff_hz / rate_hz);
    return 1 / (1 + std::pow(pass == Pass::low ? ratio : 1 / ratio, 2 * order));
}

}  // namespace

class Polynomials : public testing::TestWithParam<std::tuple<int, int>> {};

TEST_P(Polynomials, OfTheOrderAndBelowComeThroughWholeWithTheirSlopes) {
    const auto [order, window] = GetParam();
    if (order >= window) GTEST_SKIP() << "no polynomial of that order through so few samples";
    constexpr double rate_hz = 25;
    const auto x = sampled(80, rate_hz, [](double t) { return 3.0 - 2 * t + 1.5 * t * t; });
    const auto values = savitzky_golay(x, rate_hz, window, order, 0);
    const auto slopes = savitzky_golay(x, rate_hz, window, order, 1);
    ASSERT_EQ(values.size(), x.size());
    ASSERT_EQ(slopes.size(), x.size());
    for (std::size_t i = 0; i < x.size(); ++i) {
        const double t = static_cast<double>(i) / rate_hz;
        EXPECT_NEAR(values[i], x[i], 2e-4) << i << ": ends too, with the polynomial of the first or last window";
        EXPECT_NEAR(slopes[i], -2 + 3 * t, 5e-3) << i;
    }
    if (order < 2) return;
    const auto bends = savitzky_golay(x, rate_hz, window, order, 2);
    for (std::size_t i = window; i + static_cast<std::size_t>(window) < x.size(); ++i)
        EXPECT_NEAR(bends[i], 3, 0.1) << i;
}

INSTANTIATE_TEST_SUITE_P(OrdersAndWindows, Polynomials,
                         testing::Combine(testing::Values(2, 3, 4), testing::Values(5, 7, 11, 21)),
                         [](const auto& one) {
                             return "Order" + std::to_string(std::get<0>(one.param)) + "Over" +
                                    std::to_string(std::get<1>(one.param));
                         });

TEST(SavitzkyGolay, ALineOverOneWindowIsTheLeastSquaresLine) {
    const std::vector<float> x{1, 4, 2, 8, 5, 7, 1};
    const auto slopes = savitzky_golay(x, 1, 7, 1, 1);
    // Σ (i − 3) x over Σ (i − 3)².
    EXPECT_NEAR(slopes[3], (-3 * 1 - 2 * 4 - 1 * 2 + 5 + 2 * 7 + 3 * 1) / 28.0, 1e-5);
    const auto means = savitzky_golay(x, 1, 7, 1, 0);
    EXPECT_NEAR(means[3], 4, 1e-5);
    for (std::size_t i = 1; i < x.size(); ++i) EXPECT_NEAR(means[i] - means[i - 1], slopes[3], 1e-5) << "one line";
}

TEST(SavitzkyGolay, StretchesBetweenMissingSamplesStandAloneAndShortOnesGoMissing) {
    auto x = sampled(60, 10, [](double t) { return 5 + t; });
    x[20] = missing_sample;
    x[24] = missing_sample;
    const auto out = savitzky_golay(x, 10, 5, 2, 0);
    for (std::size_t i = 0; i < x.size(); ++i) {
        const bool alone = i >= 20 && i <= 24;
        EXPECT_EQ(std::isnan(out[i]), alone) << i;
        if (!alone) EXPECT_NEAR(out[i], 5 + 0.1 * static_cast<double>(i), 1e-4) << i;
    }
    EXPECT_TRUE(savitzky_golay({}, 10, 5, 2, 0).empty());
    for (const float value : savitzky_golay(std::vector<float>(4, 1.0F), 10, 5, 2, 0)) EXPECT_TRUE(std::isnan(value));
}

class Butterworths : public testing::TestWithParam<int> {};

TEST_P(Butterworths, TakeFromASineWhatTheyShould) {
    const int order = GetParam();
    constexpr double rate_hz = 100;
    for (const double cutoff_hz : {2.0, 5.0, 12.0}) {
        for (const double hz : {0.5 * cutoff_hz, cutoff_hz, 1.5 * cutoff_hz}) {
            const auto x = sine(hz, rate_hz, 60);
            for (const Pass pass : {Pass::low, Pass::high}) {
                EXPECT_NEAR(amplitude(butterworth(x, rate_hz, pass, cutoff_hz, order), hz, rate_hz),
                            twice_passed(hz, cutoff_hz, rate_hz, order, pass), 0.012)
                    << hz << " Hz through " << cutoff_hz << " Hz, " << (pass == Pass::low ? "low" : "high");
            }
        }
    }
}

TEST_P(Butterworths, LeaveAConstantOrTakeItAway) {
    const std::vector<float> level(400, 7.5F);
    for (const float value : butterworth(level, 50, Pass::low, 3, GetParam())) EXPECT_NEAR(value, 7.5, 2e-3);
    for (const float value : butterworth(level, 50, Pass::high, 3, GetParam())) EXPECT_NEAR(value, 0, 2e-3);
}

TEST_P(Butterworths, ShiftNothingInTime) {
    // A hump comes out where it went in, as steep behind as before.
    constexpr std::size_t middle = 300;
    std::vector<float> x;
    for (std::size_t i = 0; i <= 2 * middle; ++i) {
        const double away = (static_cast<double>(i) - middle) / 20;
        x.push_back(static_cast<float>(std::exp(-away * away)));
    }
    const auto out = butterworth(x, 100, Pass::low, 4, GetParam());
    EXPECT_EQ(std::max_element(out.begin(), out.end()) - out.begin(), static_cast<std::ptrdiff_t>(middle));
    for (std::size_t k = 1; k < 200; ++k) EXPECT_NEAR(out[middle - k], out[middle + k], 1e-4) << k;
}

INSTANTIATE_TEST_SUITE_P(Orders, Butterworths, testing::Values(1, 2, 3, 4, 6, most_filter_order));

TEST(Butterworth, MissingStaysMissingAndDoesNotSpread) {
    auto x = sine(1, 50, 8);
    const auto whole = butterworth(std::span(x).subspan(200), 50, Pass::low, 4, 2);
    x[199] = missing_sample;
    const auto out = butterworth(x, 50, Pass::low, 4, 2);
    ASSERT_EQ(out.size(), x.size());
    for (std::size_t i = 0; i < x.size(); ++i) EXPECT_EQ(std::isnan(out[i]), i == 199) << i;
    for (std::size_t i = 0; i < whole.size(); ++i) EXPECT_EQ(out[200 + i], whole[i]) << "the stretch alone, " << i;
}

namespace {

/// A window as it is told: every sample within half its size to either side, looked at one by one.
float counted_out(std::span<const float> x, const SampleClock& clock, Window kind, double size_s, std::size_t at) {
    std::vector<double> there;
    for (std::size_t i = 0; i < x.size(); ++i) {
        if (std::abs(clock.time_at(i) - clock.time_at(at)) <= size_s / 2 + 1e-9 && std::isfinite(x[i]))
            there.push_back(static_cast<double>(x[i]));
    }
    if (there.empty()) return missing_sample;
    std::sort(there.begin(), there.end());
    double sum = 0;
    for (const double value : there) sum += value;
    const std::size_t n = there.size();
    switch (kind) {
        case Window::mean:
            return static_cast<float>(sum / static_cast<double>(n));
        case Window::low:
            return static_cast<float>(there.front());
        case Window::high:
            return static_cast<float>(there.back());
        case Window::median:
            break;
    }
    return static_cast<float>(n % 2 == 1 ? there[n / 2] : 0.5 * (there[n / 2 - 1] + there[n / 2]));
}

}  // namespace

class MovingWindows : public testing::TestWithParam<Window> {};

TEST_P(MovingWindows, AreWhatCountingOutGives) {
    std::mt19937 random(17);
    std::normal_distribution<float> normal(20, 6);
    std::uniform_real_distribution<double> step(0.01, 0.09);
    for (const bool regular : {true, false}) {
        std::vector<float> x;
        std::vector<double> times;
        double t = 3;
        for (int i = 0; i < 240; ++i) {
            // Some are missing, alone and in a row.
            x.push_back(i % 31 == 7 || (i > 100 && i < 112) ? missing_sample : normal(random));
            times.push_back(t);
            t += step(random);
        }
        const SampleClock clock = regular ? SampleClock{3, 20, x.size(), {}} : SampleClock{3, 0, x.size(), times};
        for (const double size_s : {0.12, 0.5, 2.3, 60.0}) {
            const auto out = moving(x, clock, GetParam(), size_s);
            ASSERT_EQ(out.size(), x.size());
            for (std::size_t i = 0; i < x.size(); ++i) {
                const float wanted = counted_out(x, clock, GetParam(), size_s, i);
                if (std::isnan(x[i])) {
                    EXPECT_TRUE(std::isnan(out[i])) << "missing stays missing, " << i;
                } else {
                    EXPECT_NEAR(out[i], wanted, 2e-4 * std::abs(wanted) + 1e-5)
                        << i << " over " << size_s << " s, " << (regular ? "even" : "uneven") << " clock";
                }
            }
        }
    }
}

INSTANTIATE_TEST_SUITE_P(Kinds, MovingWindows,
                         testing::Values(Window::mean, Window::low, Window::high, Window::median));

TEST(MovingWindow, OfNothingIsNothing) {
    for (const Window kind : {Window::mean, Window::low, Window::high, Window::median}) {
        EXPECT_TRUE(moving({}, SampleClock{0, 10, 0, {}}, kind, 1).empty());
        const std::vector<float> gone(5, missing_sample);
        for (const float value : moving(gone, SampleClock{0, 10, 5, {}}, kind, 1)) EXPECT_TRUE(std::isnan(value));
    }
}
