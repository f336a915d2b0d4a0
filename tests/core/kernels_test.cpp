// What a formula does sample by sample: each kernel beside its meaning for single numbers, and lists of them.
#include "core/formula/kernels.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <random>
#include <span>
#include <stop_token>
#include <vector>

#include "core/formula/program.h"
#include "core/formula/scalar.h"

namespace rendak::formula {
namespace {

constexpr float nan_sample = std::numeric_limits<float>::quiet_NaN();
constexpr float infinite = std::numeric_limits<float>::infinity();

/// Numbers that functions trip over, then any.
std::vector<float> numbers(unsigned seed, std::size_t count = block_size) {
    std::vector<float> out{0,    -0.0F,  1,     -1,     0.5F,     -0.5F,     2,         -2.5F,
                           3.5F, 1e-20F, 1e20F, -1e20F, infinite, -infinite, nan_sample};
    std::mt19937 engine(seed);
    std::shuffle(out.begin(), out.end(), engine);
    std::uniform_real_distribution<float> any(-20, 20);
    while (out.size() < count) out.push_back(engine() % 5 == 0 ? std::round(any(engine)) : any(engine));
    return out;
}

bool as_computed(float a, double b) {
    if (std::isnan(a) || std::isnan(b)) return std::isnan(a) == std::isnan(b);
    if (std::isinf(a) || std::abs(b) > 3e38) return std::isinf(a) && (a > 0) == (b > 0);
    return std::abs(static_cast<double>(a) - b) <= 3e-6 * std::max(1.0, std::abs(b));
}

std::vector<float> run(Kernel kernel, const std::vector<float>& a, const std::vector<float>& b = {},
                       const std::vector<float>& c = {}, const std::vector<float>& d = {}) {
    std::vector<float> out(a.size(), 77);
    kernel(out.data(), a.data(), b.data(), c.data(), d.data(), a.size());
    return out;
}

}  // namespace

TEST(Kernels, OfOperationsMeanWhatTheyMeanForSingleNumbers) {
    const auto a = numbers(1), b = numbers(2);
    for (const Op op :
         {Op::negate, Op::logical_not, Op::add, Op::subtract, Op::multiply, Op::divide, Op::less, Op::less_equal,
          Op::greater, Op::greater_equal, Op::equal, Op::not_equal, Op::logical_and, Op::logical_or}) {
        const auto out = run(kernel_of(op), a, b);
        for (std::size_t i = 0; i < a.size(); ++i) {
            const bool one = op == Op::negate || op == Op::logical_not;
            const double expected = apply(op, static_cast<double>(a[i]), one ? 0 : static_cast<double>(b[i]));
            EXPECT_PRED2(as_computed, out[i], expected) << static_cast<int>(op) << ": " << a[i] << ", " << b[i];
        }
    }
}

TEST(Kernels, OfPowersMeanThemToo) {
    auto a = numbers(3), b = numbers(4);
    for (float& x : b) x = std::isfinite(x) && std::abs(x) < 1e6F ? std::round(x / 4) : x;
    const auto out = run(kernel_of(Op::power), a, b);
    for (std::size_t i = 0; i < a.size(); ++i) {
        // Missing stays missing, even to the power of nothing.
        const double expected = apply(Op::power, static_cast<double>(a[i]), static_cast<double>(b[i]));
        if (std::abs(expected) < 1e30 || std::isnan(expected)) {
            EXPECT_TRUE(std::isnan(expected) ? std::isnan(out[i])
                                             : std::abs(static_cast<double>(out[i]) - expected) <=
                                                   1e-5 * std::max(1.0, std::abs(expected)))
                << a[i] << " ^ " << b[i] << " = " << out[i] << ", not " << expected;
        }
    }
}

TEST(Kernels, OfOneNumberAreTheFunctionsOfTheStandardLibrary) {
    struct Case {
        Kernel kernel;
        double (*function)(double);
    };
    const std::array cases{
        Case{kernels::absolute, [](double x) { return std::abs(x); }},
        Case{kernels::square_root, [](double x) { return std::sqrt(x); }},
        Case{kernels::cube_root, [](double x) { return std::cbrt(x); }},
        Case{kernels::natural_log, [](double x) { return x > 0 ? std::log(x) : std::nan(""); }},
        Case{kernels::decimal_log, [](double x) { return x > 0 ? std::log10(x) : std::nan(""); }},
        Case{kernels::binary_log, [](double x) { return x > 0 ? std::log2(x) : std::nan(""); }},
        Case{kernels::arc_sine, [](double x) { return std::asin(x); }},
        Case{kernels::arc_cosine, [](double x) { return std::acos(x); }},
        Case{kernels::arc_tangent, [](double x) { return std::atan(x); }},
        Case{kernels::round_down, [](double x) { return std::floor(x); }},
        Case{kernels::round_up, [](double x) { return std::ceil(x); }},
        Case{kernels::whole_part, [](double x) { return std::trunc(x); }},
        Case{kernels::sign_of, [](double x) { return std::isnan(x) ? x
                                                     : x > 0       ? 1.0
                                                     : x < 0       ? -1.0
                                                                   : 0.0; }},
        Case{kernels::is_missing, [](double x) { return std::isnan(x) ? 1.0 : 0.0; }},
        Case{kernels::copy, [](double x) { return x; }},
        Case{fused::square, [](double x) { return x * x; }},
    };
    const auto a = numbers(5);
    for (std::size_t k = 0; k < cases.size(); ++k) {
        const auto out = run(cases[k].kernel, a);
        for (std::size_t i = 0; i < a.size(); ++i)
            EXPECT_PRED2(as_computed, out[i], cases[k].function(static_cast<double>(a[i]))) << k << ": " << a[i];
    }
}

TEST(Kernels, OfAnglesHoldWhereAnglesAre) {
    std::vector<float> angles;
    for (int k = -200; k <= 200; ++k) angles.push_back(static_cast<float>(k) * 0.03F);
    const auto sine = run(kernels::sine, angles), cosine = run(kernels::cosine, angles),
               tangent = run(kernels::tangent, angles), around = run(kernels::arc_tangent_2, sine, cosine),
               one = run(fused::square_sum, sine, cosine);
    for (std::size_t i = 0; i < angles.size(); ++i) {
        EXPECT_NEAR(sine[i], std::sin(angles[i]), 1e-6);
        EXPECT_NEAR(tangent[i] * cosine[i], sine[i], 1e-5);
        EXPECT_NEAR(std::remainder(around[i] - angles[i], 2 * M_PI), 0, 1e-5);
        EXPECT_NEAR(one[i], 1, 1e-6);
    }
}

TEST(Kernels, OfExponentsUndoLogarithms) {
    std::vector<float> x;
    for (int k = -60; k <= 60; ++k) x.push_back(static_cast<float>(k) * 0.5F);
    const auto back = run(kernels::natural_log, run(kernels::exponential, x));
    for (std::size_t i = 0; i < x.size(); ++i) EXPECT_NEAR(back[i], x[i], 1e-5);
}

TEST(Kernels, RoundHalvesToTheEvenNeighbour) {
    const std::vector<float> x{0.5F, 1.5F, 2.5F, -0.5F, -1.5F, 0.49F, 1e10F, nan_sample};
    const auto out = run(kernels::round_near, x);
    const float expected[] = {0, 2, 2, 0, -2, 0, 1e10F};
    for (std::size_t i = 0; i < 7; ++i) EXPECT_EQ(out[i], expected[i]) << x[i];
    EXPECT_TRUE(std::isnan(out[7]));
}

TEST(Kernels, OfTwoNumbersAreMissingWhereOneIs) {
    const auto a = numbers(6), b = numbers(7);
    const auto low = run(kernels::lower, a, b), high = run(kernels::higher, a, b),
               left = run(kernels::replace_missing, a, b);
    for (std::size_t i = 0; i < a.size(); ++i) {
        if (std::isnan(a[i]) || std::isnan(b[i])) {
            EXPECT_TRUE(std::isnan(low[i]) && std::isnan(high[i]));
        } else {
            EXPECT_EQ(low[i], std::min(a[i], b[i]));
            EXPECT_EQ(high[i], std::max(a[i], b[i]));
        }
        EXPECT_PRED2(as_computed, left[i], static_cast<double>(std::isnan(a[i]) ? b[i] : a[i]));
    }
}

TEST(Kernels, RemaindersHaveTheSignOfTheDivisor) {
    std::vector<float> a, b;
    for (int k = -30; k <= 30; ++k)
        for (const float by : {3.0F, -3.0F, 0.0F, 2.5F}) {
            a.push_back(static_cast<float>(k));
            b.push_back(by);
        }
    const auto out = run(kernels::remainder_of, a, b);
    for (std::size_t i = 0; i < a.size(); ++i) {
        if (b[i] == 0) {
            EXPECT_TRUE(std::isnan(out[i]));
            continue;
        }
        const float times = (a[i] - out[i]) / b[i];
        EXPECT_NEAR(times, std::round(times), 1e-5) << a[i] << " by " << b[i];
        EXPECT_GE(out[i] * b[i], 0) << a[i] << " by " << b[i];
        EXPECT_LT(std::abs(out[i]), std::abs(b[i]));
    }
}

TEST(Kernels, FusedOnesAreTheirParts) {
    const auto a = numbers(8), b = numbers(9), c = numbers(10), d = numbers(11);
    const auto madd = run(fused::multiply_add, a, b, c), root = run(fused::root_square_sum, a, b),
               choice = run(fused::choose, a, b, c), less = run(fused::choose_less, a, b, c, d),
               at_most = run(fused::choose_less_equal, a, b, c, d);
    const auto chosen = [](bool known, bool first, float x, float y) {
        return static_cast<double>(!known ? nan_sample : first ? x : y);
    };
    for (std::size_t i = 0; i < a.size(); ++i) {
        const bool both = !std::isnan(a[i]) && !std::isnan(b[i]);
        EXPECT_PRED2(as_computed, madd[i], static_cast<double>(a[i] * b[i] + c[i]));
        if (std::abs(a[i]) < 1e10F && std::abs(b[i]) < 1e10F) {
            EXPECT_PRED2(as_computed, root[i], std::hypot(static_cast<double>(a[i]), static_cast<double>(b[i])));
        }
        EXPECT_PRED2(as_computed, choice[i], chosen(!std::isnan(a[i]), a[i] != 0, b[i], c[i]));
        EXPECT_PRED2(as_computed, less[i], chosen(both, a[i] < b[i], c[i], d[i]));
        EXPECT_PRED2(as_computed, at_most[i], chosen(both, a[i] <= b[i], c[i], d[i]));
    }
}

// ---- lists of kernels ----------------------------------------------------------------------------

namespace {

/// (x + y)² - 3, with a register that is used twice.
Program made_program() {
    Program out;
    const int x = out.add_input(), y = out.add_input(), three = out.add_constant(3);
    const int sum = out.add_step(kernel_of(Op::add), x, y);
    const int square = out.add_step(kernel_of(Op::multiply), sum, sum);
    out.set_result(out.add_step(kernel_of(Op::subtract), square, three));
    return out;
}

}  // namespace

TEST(Program, GivesTheSameForAnyNumberOfSamples) {
    const Program program = made_program();
    EXPECT_EQ(program.inputs(), 2);
    for (const std::size_t count : {std::size_t{0}, std::size_t{1}, block_size - 1, block_size, block_size + 1,
                                    3 * block_size, 10 * block_size + 17}) {
        std::vector<float> x(count), y(count), out(count, 77);
        for (std::size_t i = 0; i < count; ++i) {
            x[i] = static_cast<float>(i % 100);
            y[i] = static_cast<float>(i % 7) - 3;
        }
        const std::array inputs{static_cast<const float*>(x.data()), static_cast<const float*>(y.data())};
        ASSERT_TRUE(program.run(inputs, out));
        for (std::size_t i = 0; i < count; ++i)
            ASSERT_EQ(out[i], (x[i] + y[i]) * (x[i] + y[i]) - 3) << i << " of " << count;
    }
}

TEST(Program, IsWhatItsInputOrItsConstantIs) {
    Program input;
    (void)input.add_input();
    input.set_result(input.add_input());
    std::vector<float> x(300, 1), y(300, 2), out(300);
    const std::array inputs{static_cast<const float*>(x.data()), static_cast<const float*>(y.data())};
    ASSERT_TRUE(input.run(inputs, out));
    EXPECT_EQ(out, y);
    Program constant;
    constant.set_result(constant.add_constant(4.5F));
    ASSERT_TRUE(constant.run({}, out));
    EXPECT_EQ(out, std::vector<float>(300, 4.5F));
}

TEST(Program, KeepsTablesInDouble) {
    Program program;
    const int x = program.add_input();
    // Points that floats cannot tell apart: the middle of the first two is half of what lies between.
    const Table straight{[](double at, std::span<const double> xs, std::span<const double> ys,
                            std::span<const double>) { return table_at(at, xs, ys); },
                         nullptr};
    program.set_result(program.add_table(straight, x, {16'777'216.0, 16'777'218.0, 16'777'220.0}, {0, 1, 5}));
    std::vector<float> in{16'777'216, 16'777'218, 16'777'220, 0, 2e7F, nan_sample}, out(in.size());
    const std::array inputs{static_cast<const float*>(in.data())};
    ASSERT_TRUE(program.run(inputs, out));
    EXPECT_EQ(std::vector<float>(out.begin(), out.begin() + 5), (std::vector<float>{0, 1, 5, 0, 5}));
    EXPECT_TRUE(std::isnan(out[5]));
}

TEST(Program, StopsWhenItIsTold) {
    const Program program = made_program();
    const std::vector<float> x(100'000, 1);
    std::vector<float> out(x.size());
    const std::array inputs{x.data(), x.data()};
    std::stop_source stop;
    EXPECT_TRUE(program.run(inputs, out, stop.get_token()));
    stop.request_stop();
    EXPECT_FALSE(program.run(inputs, out, stop.get_token()));
}

}  // namespace rendak::formula
