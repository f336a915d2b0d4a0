#include <gtest/gtest.h>

#include <cmath>
#include <fstream>
#include <nlohmann/json.hpp>
#include <numbers>

#include "tests/support/formula_world.h"
#include "tests/support/own_build.h"

namespace rendak {
namespace {

using test::FormulaWorld;

std::vector<float> made(std::size_t count, auto of) {
    std::vector<float> out(count);
    for (std::size_t i = 0; i < count; ++i) out[i] = static_cast<float>(of(static_cast<double>(i)));
    return out;
}

TEST(FormulaNumbers, AgreeWithNumPyAndSciPy) {
    const auto stored = nlohmann::json::parse(std::ifstream(test::tests_folder() / "fixtures/formula_scipy.json"));
    FormulaWorld world;
    world.add("x", "", stored["x"].get<std::vector<float>>(), stored["rate_hz"]);
    world.add("y", "", stored["y"].get<std::vector<float>>(), stored["rate_hz"]);
    std::size_t compared = 0;
    for (const auto& it : stored["cases"]) {
        const std::string formula = it["formula"];
        const auto values = world.values(formula);
        ASSERT_EQ(values.size(), it["values"].size());
        double scale = 1;
        for (const auto& value : it["values"])
            scale = value.is_null() ? scale : std::max(scale, std::abs(value.get<double>()));
        // Windows are stored for the inside only; everywhere else missing means missing.
        const bool inside_only = formula.find("_filter(x, size") != std::string::npos;
        for (std::size_t i = 0; i < values.size(); ++i) {
            if (it["values"][i].is_null()) {
                if (!inside_only) EXPECT_TRUE(std::isnan(values[i])) << formula << " at " << i;
                continue;
            }
            EXPECT_NEAR(values[i], it["values"][i].get<double>(), 3e-6 * scale) << formula << " at " << i;
            ++compared;
        }
    }
    EXPECT_GT(compared, 9000u);
}

TEST(FormulaNumbers, IntegralAndDerivativeOfASineAreClosed) {
    FormulaWorld world;
    const double rate_hz = 200, omega = 3;
    world.add("x", "m", made(2001, [&](double i) { return std::sin(omega * i / rate_hz); }), rate_hz);
    const auto slope = world.values("gradient(x)"), smooth = world.values("savgol_filter(x, window=0.055 s, deriv=1)");
    const auto area = world.values("cumulative_trapezoid(x)");
    for (std::size_t i = 1; i + 1 < slope.size(); ++i) {
        const double t = static_cast<double>(i) / rate_hz;
        EXPECT_NEAR(slope[i], omega * std::cos(omega * t), 2e-4);
        EXPECT_NEAR(smooth[i], omega * std::cos(omega * t), 6e-3);
        EXPECT_NEAR(area[i], (1 - std::cos(omega * t)) / omega, 2e-5);
    }
}

TEST(FormulaNumbers, AZeroPhaseFilterNeitherShiftsNorDampsWhatIsSlow) {
    FormulaWorld world;
    const double rate_hz = 100;
    const auto slow = [&](double i) { return std::sin(2 * std::numbers::pi * 0.5 * i / rate_hz); };
    world.add("x", "",
              made(2000, [&](double i) { return slow(i) + std::sin(2 * std::numbers::pi * 20 * i / rate_hz); }),
              rate_hz);
    const auto low = world.values("lowpass(x, 4 Hz, order=4)"), high = world.values("highpass(x, 4 Hz, order=4)");
    for (std::size_t i = 200; i < 1800; ++i) {
        EXPECT_NEAR(low[i], slow(static_cast<double>(i)), 2e-3);
        EXPECT_NEAR(high[i], std::sin(2 * std::numbers::pi * 20 * static_cast<double>(i) / rate_hz), 2e-3);
    }
}

TEST(FormulaNumbers, RatesMeetOnTheFastestClockAndNothingIsInvented) {
    FormulaWorld world;
    world.add("fast", "m", made(101, [](double i) { return i; }), 100);
    world.add("slow", "m", {10, 20, 30, 40, 50, 60}, 10, 0.25);
    world.add("gear", "", {1, 2, 3}, 5, 0, true);
    const auto sum = world.evaluate("fast + slow");
    ASSERT_TRUE(sum);
    EXPECT_EQ(sum->clock.rate_hz, 100);
    EXPECT_EQ(sum->size(), 101u);
    EXPECT_TRUE(std::isnan(sum->at(24)));     // before the slow channel begins
    EXPECT_NEAR(sum->at(25), 25 + 10, 1e-4);  // its first sample
    EXPECT_NEAR(sum->at(30), 30 + 15, 1e-4);  // half-way between two
    EXPECT_NEAR(sum->at(75), 75 + 60, 1e-4);  // its last sample
    EXPECT_TRUE(std::isnan(sum->at(76)));     // nothing behind it
    const auto steps = world.values("fast * gear");
    EXPECT_EQ(steps[19], 19 * 1);
    EXPECT_EQ(steps[20], 20 * 2);
    EXPECT_EQ(steps[39], 39 * 2);
}

TEST(FormulaNumbers, MissingSamplesStayMissingUnlessAsked) {
    FormulaWorld world;
    const float nan = std::nanf("");
    world.add("x", "", {1, nan, 3, 4, 5, nan, 7, 8}, 10);
    world.add("flag", "", {0, 0, 0, 1, 1, 1, 0, 0}, 10);
    for (const char* formula : {"x + 1",
                                "x * 0",
                                "number(x > 2)",
                                "number(x > 2 or x < 2)",
                                "number(not (x > 2))",
                                "1 if x > 2 else 0",
                                "minimum(x, 100)",
                                "maximum(x, 0)",
                                "clip(x, 0, 9)",
                                "x²",
                                "sqrt(x)",
                                "uniform_filter(x, 0.3 s)",
                                "maximum_filter(x, 0.3 s)",
                                "median_filter(x, 0.3 s)",
                                "cumulative_trapezoid(x)",
                                "abs(x)",
                                "sign(x)",
                                "interp(x, [0, 10], [0, 1])",
                                "hypot(x, x)",
                                "x if flag > 0 else x",
                                "lowpass(x, 1 Hz)"}) {
        const auto values = world.values(formula);
        for (std::size_t i = 0; i < values.size(); ++i)
            EXPECT_EQ(std::isnan(values[i]), i == 1 || i == 5) << formula << " at " << i;
    }
    EXPECT_EQ(world.values("nan_to_num(x)")[1], 0);
    EXPECT_EQ(world.values("coalesce(x, 9)")[5], 9);
    EXPECT_EQ(world.values("number(isnan(x))"), (std::vector<double>{0, 1, 0, 0, 0, 1, 0, 0}));
    EXPECT_NEAR(world.values("mean(x, per=run)")[0], 28.0 / 6, 1e-6);
    EXPECT_TRUE(std::isnan(world.values("x / 0")[0]));
    EXPECT_TRUE(std::isnan(world.values("log(x - 1)")[0]));
}

TEST(FormulaNumbers, ConditionsOverTime) {
    FormulaWorld world;
    world.add("x", "", {0, 3, 1.5F, 0.5F, 3, 3, 0, 3, 0, 0}, 10);
    EXPECT_EQ(world.values("number(hysteresis(x, 1, 2))"), (std::vector<double>{0, 1, 1, 0, 1, 1, 0, 1, 0, 0}));
    EXPECT_EQ(world.values("number(lasting(x > 1, 0.2 s))"), (std::vector<double>{0, 1, 1, 0, 1, 1, 0, 0, 0, 0}));
    EXPECT_EQ(world.values("number(debounce(x > 1, 0.1 s))"), (std::vector<double>{0, 0, 1, 1, 1, 1, 1, 1, 1, 0}));
    EXPECT_EQ(world.values("count_rises(x > 1, per=run)"), (std::vector<double>{0, 1, 1, 1, 2, 2, 2, 3, 3, 3}));
    const auto sum = world.values("cumulative_trapezoid(x * 0 + 1, reset=x > 2) / 1 s");
    EXPECT_NEAR(sum[3], 0.2, 1e-6);
    EXPECT_NEAR(sum[4], 0.0, 1e-6);
    EXPECT_NEAR(sum[6], 0.2, 1e-6);
}

TEST(FormulaNumbers, FiguresOfEachLapBeginAnewAtTheLine) {
    FormulaWorld world;
    world.add("x", "", made(101, [](double i) { return i; }), 10);
    world.add_lap(0, 4);
    world.add_lap(4, 10);
    const auto mean = world.values("mean(x)"), time = world.values("time_while(x >= 20 and x < 60) / 1 s");
    EXPECT_NEAR(mean[0], 19.5, 1e-4);
    EXPECT_NEAR(mean[50], 70, 1e-4);
    EXPECT_NEAR(time[39], 1.9, 1e-5);
    EXPECT_NEAR(time[40], 0.0, 1e-5);
    EXPECT_NEAR(time[99], 2.0, 1e-5);
    EXPECT_NEAR(world.values("share_while(x < 20)")[39], 2.0 / 3.9, 1e-5);
    EXPECT_EQ(world.values("lap_number + x * 0")[39], 1);
    EXPECT_EQ(world.values("lap_number + x * 0")[40], 2);
    EXPECT_NEAR(world.values("lap_time / 1 s + x * 0")[45], 0.5, 1e-5);
    EXPECT_NEAR(world.values("value_at(x, time=1.05 s)")[0], 10.5, 1e-4);
    EXPECT_NEAR(world.values("value_at(x, time=1.05 s)")[60], 50.5, 1e-4);
    EXPECT_EQ(world.values("first(x)")[60], 40);
    EXPECT_EQ(world.values("last(x)")[0], 39);
    EXPECT_NEAR(world.values("max(x, where=x < 70)")[90], 69, 1e-4);
    EXPECT_NEAR(world.values("cumulative_trapezoid(x * 0 + 2, reset=lap) / 1 s")[50], 2.0, 1e-5);
}

TEST(FormulaNumbers, ARangeHasTheValuesOfTheWhole) {
    FormulaWorld world;
    world.add("x", "", made(3001, [](double i) { return std::sin(i / 17) + std::cos(i / 5); }), 100);
    world.add("y", "", made(301, [](double i) { return std::sin(i / 3); }), 10);
    world.add_lap(0, 9.5);
    world.add_lap(9.5, 21);
    world.add_lap(21, 30);
    for (const char* formula : {"x + y",
                                "gradient(x)",
                                "uniform_filter(x * y, 0.5 s)",
                                "lowpass(x, 3 Hz)",
                                "savgol_filter(x, 0.2 s, deriv=1)",
                                "cumulative_trapezoid(x)",
                                "cumulative_trapezoid(x, reset=lap)",
                                "delay(x, 0.123 s)",
                                "mean(x)",
                                "time_while(x > 0)",
                                "share_while(x > 0)",
                                "count_rises(x > 0)",
                                "median_filter(x, 0.3 s)",
                                "number(lasting(x > 0, 0.3 s))",
                                "max(y, where=x > 0)",
                                "value_at(x, time=2 s)",
                                "resample(x, 7 Hz) + x",
                                "mean(x, per=run)",
                                "lap_time",
                                "minimum_filter(gradient(x), 0.2 s)"}) {
        const auto whole = world.evaluate(formula);
        const auto part = world.evaluate(formula, {.range_s = {10.2, 14.7}});
        ASSERT_TRUE(whole && part) << formula;
        EXPECT_LT(part->size(), whole->size() / 5) << formula;
        ASSERT_GT(part->size(), 40u) << formula;
        for (std::size_t i = 0; i < part->size(); ++i)
            EXPECT_NEAR(part->at(i), whole->value_at(part->clock.time_at(i)), 1e-6) << formula << " at " << i;
    }
}

TEST(FormulaNumbers, UnevenClocksAreTakenAsTheyAre) {
    FormulaWorld world;
    std::vector<double> times;
    std::vector<float> samples;
    for (int i = 0; i < 400; ++i) {
        times.push_back(0.05 * i + 0.015 * std::sin(i * 1.7));
        samples.push_back(static_cast<float>(std::sin(times.back())));
    }
    world.add_uneven("x", "m", samples, times);
    const auto slope = world.values("gradient(x)"), area = world.values("cumulative_trapezoid(x)"),
               low = world.values("lowpass(x, 3 Hz)");
    for (std::size_t i = 20; i < 380; ++i) {
        EXPECT_NEAR(slope[i], std::cos(times[i]), 3e-3);
        EXPECT_NEAR(area[i], 1 - std::cos(times[i]), 1e-3);
        EXPECT_NEAR(low[i], std::sin(times[i]), 3e-3);
    }
}

TEST(FormulaNumbers, LongFormulasAndLargeWindowsAreNoDanger) {
    FormulaWorld world;
    world.add("x", "", made(5001, [](double i) { return std::sin(i); }), 500);
    std::string sum = "x";
    for (int i = 0; i < 640; ++i) sum += i % 2 == 0 ? " + x" : " - x * 1";
    EXPECT_NEAR(world.values(sum)[7], std::sin(7), 1e-4);
    std::string conditions = "x > 0";
    for (int i = 0; i < 400; ++i) conditions += " or x > 0";
    EXPECT_EQ(world.values("number(" + conditions + ")")[1], 1);
    for (const auto& [formula, part] : {std::pair{"resample(x, 100000000 Hz)", "fit into memory"},
                                        {"x + resample(x, 100000000 Hz)", "fit into memory"},
                                        {"median_filter(x, 5 s)", "2000 samples"},
                                        {"savgol_filter(x, window=5 s)", "1000 samples"},
                                        {"lowpass(x, 400 Hz)", "below half the sample rate"}}) {
        const auto result = world.evaluate(formula);
        ASSERT_FALSE(result) << formula;
        EXPECT_NE(result.error().sentence.find(part), std::string::npos) << result.error().sentence;
    }
    std::stop_source stop;
    stop.request_stop();
    world.view.stop = stop.get_token();
    EXPECT_EQ(world.evaluate("x + 1").error().sentence, "Cancelled.");
}

TEST(FormulaNumbers, TheRateFollowsTheInputsOrTheHand) {
    FormulaWorld world;
    world.add("x", "", made(1001, [](double i) { return i; }), 100);
    EXPECT_EQ(world.evaluate("resample(x * 2, 10 Hz)")->clock.rate_hz, 10);
    const auto slow = world.evaluate("x", {.rate_hz = 4});
    ASSERT_TRUE(slow);
    EXPECT_EQ(slow->size(), 41u);
    EXPECT_EQ(slow->at(3), 75);
    EXPECT_EQ(world.evaluate("7 bar")->at(0), 7e5F);
}

}  // namespace
}  // namespace rendak
