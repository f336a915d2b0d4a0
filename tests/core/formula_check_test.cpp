#include <gtest/gtest.h>

#include "tests/support/formula_world.h"

namespace rendak {
namespace {

/// A car's usual channels, one sample each.
class FormulaCheck : public testing::Test {
  protected:
    FormulaCheck() {
        const std::vector<std::pair<const char*, const char*>> channels{
            {"speed", "m/s"},      {"brake_front", "Pa"},  {"brake_rear", "Pa"}, {"steering", "rad"},
            {"yaw_rate", "rad/s"}, {"damper_fl", "m"},     {"damper_fr", "m"},   {"lateral", "m/s²"},
            {"throttle", ""},      {"oil_pressure", "Pa"}, {"tyre_left", "K"},   {"tyre_right", "K"},
            {"revs", "rad/s"},     {"fuel", "m³"},         {"status", ""}};
        for (const auto& [name, unit] : channels) world_.add(name, unit, {1, 2, 3}, 10);
        world_.add_constant("car.wheelbase", 2600, "mm");
        world_.add_constant("car.mass", 680, "kg");
        world_.add_constant("car.best_tyre", 90, "°C");
    }
    std::string unit_of(std::string_view text) {
        const auto checked = world_.check(text);
        return checked ? formula::usual_unit(checked->type()) : "! " + checked.error().sentence;
    }
    test::FormulaWorld world_;
};

TEST_F(FormulaCheck, DimensionsCarryThrough) {
    EXPECT_EQ(unit_of("speed + 10 km/h"), "km/h");
    EXPECT_EQ(unit_of("speed * 1 s"), "m");
    EXPECT_EQ(unit_of("sqrt(speed² + speed²)"), "km/h");
    EXPECT_EQ(unit_of("sqrt(2 * 9.81 m/s² * damper_fl)"), "km/h");
    EXPECT_EQ(unit_of("brake_front / (brake_front + brake_rear)"), "");
    EXPECT_EQ(unit_of("gradient(damper_fl)"), "km/h");
    EXPECT_EQ(unit_of("gradient(speed)"), "g");
    EXPECT_EQ(unit_of("cumulative_trapezoid(speed)"), "m");
    EXPECT_EQ(unit_of("car.mass * lateral"), "N");
    EXPECT_EQ(unit_of("car.mass * lateral * speed"), "kW");
    EXPECT_EQ(unit_of("speed * yaw_rate + lateral"), "g");  // an arc is a length
    EXPECT_EQ(unit_of("lateral / speed²"), "1/m");
    EXPECT_EQ(unit_of("arctan2(speed, speed)"), "°");
    EXPECT_EQ(unit_of("speed > 100 km/h"), "");
    EXPECT_EQ(unit_of("cbrt(fuel)"), "m");
    EXPECT_EQ(unit_of("polyval(throttle, [2 bar, 1 bar])"), "bar");
    EXPECT_EQ(unit_of("interp(speed, [0 km/h, 200 km/h], [0 mm, 12 mm])"), "m");
    EXPECT_EQ(unit_of("time_while(speed > 1 m/s)"), "s");
}

TEST_F(FormulaCheck, UnitsThatDoNotFitAreErrorsInASentence) {
    EXPECT_EQ(world_.sentence("brake_front + damper_fl"),
              "A pressure (brake_front) and a length (damper_fl) cannot be added.");
    EXPECT_NE(world_.sentence("speed > 100").find("Write the number with its unit, such as 100 km/h"),
              std::string::npos);
    EXPECT_NE(world_.sentence("steering + 1").find("1 rad"), std::string::npos);
    EXPECT_NE(world_.sentence("sin(speed)").find("needs an angle"), std::string::npos);
    EXPECT_NE(world_.sentence("exp(speed)").find("plain numbers"), std::string::npos);
    EXPECT_NE(world_.sentence("speed ** throttle").find("constant power"), std::string::npos);
    EXPECT_NE(world_.sentence("sqrt(speed)").find("broken power"), std::string::npos);
    EXPECT_NE(world_.sentence("lowpass(speed, 5)").find("a rate, such as 5 Hz"), std::string::npos);
    EXPECT_NE(world_.sentence("lowpass(speed, throttle * 1 Hz)").find("one value for the whole run"),
              std::string::npos);
    EXPECT_NE(world_.sentence("lowpass(speed, 5 Hz, order=2.5)").find("whole number"), std::string::npos);
    EXPECT_NE(world_.sentence("speed + oil_pressure").find("cannot be added"), std::string::npos);
    EXPECT_NE(world_.sentence("speed", "bar").find("cannot be shown in bar"), std::string::npos);
    EXPECT_NE(world_.sentence("speed", "blob").find("not known"), std::string::npos);
    EXPECT_EQ(world_.sentence("speed", "mph"), "");
}

TEST_F(FormulaCheck, ProblemsPointAtThePartThatIsWrong) {
    const std::string text = "speed + 2 * oil_presure";
    const auto checked = world_.check(text);
    ASSERT_FALSE(checked);
    EXPECT_EQ(text.substr(checked.error().from, checked.error().to - checked.error().from), "oil_presure");
    EXPECT_EQ(checked.error().sentence, "\"oil_presure\" is not known. Did you mean oil_pressure?");
    EXPECT_NE(world_.sentence("gradiant(speed)").find("Did you mean gradient?"), std::string::npos);
    EXPECT_NE(world_.sentence("sqrt").find("its arguments follow in brackets"), std::string::npos);
    EXPECT_NE(world_.sentence("clip(speed, 1 m/s)").find("high is missing"), std::string::npos);
    EXPECT_NE(world_.sentence("abs(speed, speed)").find("fewer arguments"), std::string::npos);
    EXPECT_NE(world_.sentence("delay(speed, bye=1 s)").find("no argument called bye"), std::string::npos);
    EXPECT_EQ(world_.sentence("car.inertia"), "The car sheet has no inertia.");
}

TEST_F(FormulaCheck, ConditionsAndNumbersAreKeptApart) {
    EXPECT_NE(world_.sentence("speed and throttle > 0").find("needs a condition"), std::string::npos);
    EXPECT_NE(world_.sentence("(speed > 1 m/s) + 1").find("number( )"), std::string::npos);
    EXPECT_NE(world_.sentence("1 if speed else 2").find("needs a condition"), std::string::npos);
    EXPECT_NE(world_.sentence("1 if speed > 1 m/s else 2 bar").find("two sides of one choice"), std::string::npos);
    EXPECT_EQ(world_.sentence("number(speed > 1 m/s) * 2"), "");
    EXPECT_EQ(world_.sentence("bit(status, 3) and throttle > 50 %"), "");
    EXPECT_TRUE(world_.check("speed > 1 m/s")->is_state);
    EXPECT_FALSE(world_.check("speed * 2")->is_state);
}

TEST_F(FormulaCheck, TemperaturesAreNotDifferences) {
    EXPECT_EQ(unit_of("tyre_left - tyre_right"), "K");
    EXPECT_EQ(unit_of("(tyre_left + tyre_right) / 2"), "°C");
    EXPECT_EQ(unit_of("0.3 * tyre_left + 0.7 * tyre_right"), "°C");
    EXPECT_EQ(unit_of("tyre_left + 5 K"), "°C");
    EXPECT_EQ(unit_of("tyre_left - car.best_tyre"), "K");
    EXPECT_EQ(unit_of("lowpass(tyre_left, 0.1 Hz)"), "°C");
    EXPECT_NE(world_.sentence("tyre_left + tyre_right").find("no temperature"), std::string::npos);
    EXPECT_NE(world_.sentence("tyre_left > 90 K").find("in °C"), std::string::npos);
    EXPECT_NE(world_.sentence("tyre_left - tyre_right", "°C").find("show it in K"), std::string::npos);
    EXPECT_EQ(world_.sentence("tyre_left > 90 °C"), "");
}

TEST_F(FormulaCheck, ConstantsComeFromTheCarSheetWithTheirUnits) {
    const auto checked = world_.check("car.wheelbase * 2");
    ASSERT_TRUE(checked);
    ASSERT_TRUE(checked->value());
    EXPECT_NEAR(*checked->value(), 5.2, 1e-12);
    EXPECT_EQ(checked->uses.front().named.kind, formula::Named::Kind::constant);
}

TEST_F(FormulaCheck, AlternativesAreTriedInOrderAndTold) {
    const auto checked = world_.check("first_of(gps_speed, speed, revs * 1 m/rad)");
    ASSERT_TRUE(checked) << checked.error().sentence;
    ASSERT_EQ(checked->uses.size(), 1u);
    EXPECT_EQ(checked->uses[0].written, "speed");
    ASSERT_FALSE(checked->notes.empty());
    EXPECT_NE(checked->notes.back().find("Not there: gps_speed; speed is taken"), std::string::npos);
    EXPECT_EQ(unit_of("first_of(car.braking_from, 0.15 g)"), "g");
    EXPECT_NE(world_.sentence("first_of(nothing_1, nothing_2)").find("None of these alternatives"), std::string::npos);
    EXPECT_NE(world_.sentence("first_of(speed, brake_front)").find("alternatives of each other"), std::string::npos);
    EXPECT_NE(world_.sentence("first_of(speed + 1, speed)").find("cannot be added"), std::string::npos);
}

TEST_F(FormulaCheck, TablesAreChecked) {
    EXPECT_NE(world_.sentence("interp(throttle, [0, 1], [1, 2, 3])").find("xs has 2 values, ys has 3"),
              std::string::npos);
    EXPECT_NE(world_.sentence("interp(throttle, [0, 0], [1, 2])").find("must rise"), std::string::npos);
    EXPECT_NE(world_.sentence("interp(speed, [0, 1], [1, 2])").find("read by a plain number"), std::string::npos);
    EXPECT_NE(world_.sentence("interp(throttle, [throttle, 1], [1, 2])").find("holds constants"), std::string::npos);
}

TEST_F(FormulaCheck, FoldingAConstantMeansTheSameAsTheKernels) {
    // Each of these is folded in double; the same with a channel of one value runs through the kernels.
    world_.add("two", "", {2, 2, 2}, 10);
    world_.add("half", "", {0.5F, 0.5F, 0.5F}, 10);
    for (const std::string formula : {"A + B",
                                      "A - B",
                                      "A * B",
                                      "A / B",
                                      "A ** B",
                                      "abs(-A)",
                                      "sqrt(A)",
                                      "cbrt(A)",
                                      "exp(B)",
                                      "log(A)",
                                      "log10(A)",
                                      "log2(A)",
                                      "sin(A)",
                                      "cos(A)",
                                      "tan(B)",
                                      "arcsin(B) / 1 rad",
                                      "arccos(B) / 1 rad",
                                      "arctan(A) / 1 rad",
                                      "arctan2(A, B) / 1 rad",
                                      "hypot(A, B)",
                                      "sign(-A)",
                                      "floor(-B)",
                                      "ceil(B)",
                                      "rint(B)",
                                      "trunc(-B)",
                                      "mod(-A, B * 3)",
                                      "minimum(A, B)",
                                      "maximum(A, B)",
                                      "clip(A, B, 1)",
                                      "number(A < B)",
                                      "number(A >= B and B > 0)",
                                      "number(not (A == B))",
                                      "number(A != B or A < 0)",
                                      "A if A > B else B",
                                      "where(A <= B, A, B)",
                                      "bitwise_and(A, 3)",
                                      "bitwise_or(A, 5)",
                                      "bitwise_xor(A, 7)",
                                      "left_shift(A, 3)",
                                      "right_shift(A, 1)",
                                      "number(bit(A, 1))",
                                      "number(isnan(A))",
                                      "nan_to_num(A, 1)",
                                      "coalesce(A, B)",
                                      "interp(A, [0, 1, 4], [3, 1, 9])",
                                      "pchip(A, [0, 1, 4], [3, 1, 9])",
                                      "polyval(A, [1, -2, 3])"}) {
        std::string constant = formula, varying = formula;
        const auto replace = [](std::string& text, const std::string& what, const std::string& with) {
            for (std::size_t at = 0; (at = text.find(what, at)) != std::string::npos; at += with.size())
                text.replace(at, 1, with);
        };
        replace(constant, "A", "2");
        replace(constant, "B", "0.5");
        replace(varying, "A", "two");
        replace(varying, "B", "half");
        const auto folded = world_.check(constant);
        ASSERT_TRUE(folded) << constant << ": " << folded.error().sentence;
        ASSERT_TRUE(folded->value()) << constant;
        EXPECT_FALSE(world_.check(varying)->value()) << varying;
        EXPECT_NEAR(world_.values(varying)[1], *folded->value(), 2e-6) << formula;
    }
}

}  // namespace
}  // namespace rendak
