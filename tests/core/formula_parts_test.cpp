// The parts that formulas are made of, one by one: words of a text, dimensions, tables and curves, single operations.
#include <gtest/gtest.h>

#include <cmath>
#include <limits>
#include <random>

#include "core/formula/lexer.h"
#include "core/formula/scalar.h"
#include "core/formula/type.h"
#include "core/units/compound_unit.h"

namespace rendak::formula {
namespace {

constexpr double missing_value = std::numeric_limits<double>::quiet_NaN();

std::string told(std::string_view text) {
    const auto tokens = tokens_of(text);
    if (!tokens) return "! " + tokens.error().sentence;
    std::string out;
    for (const Token& token : *tokens) {
        switch (token.kind) {
            case Token::Kind::number:
                out += "[" + std::to_string(token.number).substr(0, 4) + "|" + token.text + "]";
                break;
            case Token::Kind::name:
                out += "<" + token.text + ">";
                break;
            case Token::Kind::mark:
                out += token.text;
                break;
            case Token::Kind::end:
                out += ".";
        }
    }
    return out;
}

TEST(FormulaWords, NumbersTakeTheUnitBehindThem) {
    EXPECT_EQ(told("100 km/h"), "[100.|km/h].");
    EXPECT_EQ(told("9.81m/s²"), "[9.81|m/s²].");
    EXPECT_EQ(told("2 m/width"), "[2.00|m]/<width>.");
    EXPECT_EQ(told("2 width"), "[2.00|]<width>.");
    EXPECT_EQ(told("50 % of"), "[50.0|%]<of>.");
    EXPECT_EQ(told("5 if a"), "[5.00|]<if><a>.") << "a keyword is no unit";
    EXPECT_EQ(told("5 min"), "[5.00|min].");
    EXPECT_EQ(told("1e3"), "[1000|].");
    EXPECT_EQ(told(".5"), "[0.50|].");
    EXPECT_EQ(told("20 °C"), "[20.0|°C].");
}

TEST(FormulaWords, MarksAreTheSameHoweverTheyWereTyped) {
    EXPECT_EQ(told("a×b·c*d"), "<a>*<b>*<c>*<d>.");
    EXPECT_EQ(told("a≤b≥c≠d"), "<a><=<b>>=<c>!=<d>.");
    EXPECT_EQ(told("a−b"), "<a>-<b>.");
    EXPECT_EQ(told("a**b<=c"), "<a>**<b><=<c>.");
    EXPECT_EQ(told("a²+b³"), "<a>²+<b>³.");
}

TEST(FormulaWords, CommentsAndBlanksAreNone) {
    EXPECT_EQ(told(""), ".");
    EXPECT_EQ(told(" \t\n "), ".");
    EXPECT_EQ(told("a # b * c"), "<a>.");
    EXPECT_EQ(told("a # b\n+ c"), "<a>+<c>.");
}

TEST(FormulaWords, KnowWhereTheyStand) {
    const std::string_view text = "  speed /  12.5 km/h # why\n + x";
    const auto tokens = tokens_of(text);
    ASSERT_TRUE(tokens);
    ASSERT_EQ(tokens->size(), 6U);
    const std::vector<std::string_view> parts{"speed", "/", "12.5 km/h", "+", "x"};
    for (std::size_t i = 0; i < parts.size(); ++i)
        EXPECT_EQ(text.substr((*tokens)[i].from, (*tokens)[i].to - (*tokens)[i].from), parts[i]);
    EXPECT_EQ(tokens->back().from, text.size());
}

TEST(FormulaWords, WhatMeansNothingIsSaidWithWhatToWriteInstead) {
    for (const auto& [text, hint] : {std::pair{"a ^ 2", "**"},
                                     {"a & b", "\"and\""},
                                     {"a | b", "\"or\""},
                                     {"!a", "\"not\""},
                                     {"a ? b", "if condition else"},
                                     {"'oil'", "plain words"},
                                     {"a $ b", "means nothing"},
                                     {"1e999", "too large"}}) {
        const auto tokens = tokens_of(text);
        ASSERT_FALSE(tokens) << text;
        EXPECT_NE(tokens.error().sentence.find(hint), std::string::npos) << tokens.error().sentence;
        EXPECT_LT(tokens.error().from, tokens.error().to);
        EXPECT_LE(tokens.error().to, std::string_view(text).size());
    }
    EXPECT_FALSE(tokens_of(std::string(longest_text + 1, 'a')));
    EXPECT_FALSE(tokens_of(std::string(longest_text, '+'))) << "too many parts";
}

TEST(FormulaWords, NoBytesAtAllBringItDown) {
    std::mt19937 random(23);
    std::uniform_int_distribution<int> byte(0, 255), size(0, 60);
    for (int round = 0; round < 20'000; ++round) {
        std::string text(static_cast<std::size_t>(size(random)), ' ');
        for (char& c : text) c = static_cast<char>(byte(random));
        const auto tokens = tokens_of(text);
        if (!tokens) {
            ASSERT_LE(tokens.error().to, text.size());
            continue;
        }
        std::size_t before = 0;
        for (const Token& token : *tokens) {
            ASSERT_LE(before, token.from);
            ASSERT_LE(token.from, token.to);
            ASSERT_LE(token.to, text.size());
            before = token.to;
        }
    }
}

Type of(std::string_view unit) {
    const auto found = parse_compound_unit(unit);
    EXPECT_TRUE(found) << unit;
    return found ? type_of(*found) : Type{};
}

TEST(FormulaTypes, DimensionsMultiplyAndDivide) {
    EXPECT_EQ(product(of("m/s"), of("s")), of("m"));
    EXPECT_EQ(quotient(of("N"), of("m²")), of("Pa"));
    EXPECT_EQ(product(of("N"), of("m/s")), of("W"));
    EXPECT_EQ(quotient(of("m"), of("m")), Type{});
    EXPECT_TRUE(quotient(of("km/h"), of("m/s")).is_plain());
    EXPECT_EQ(of("km/h"), of("m/s")) << "a unit is no dimension";
    EXPECT_EQ(of("%"), Type{});
}

TEST(FormulaTypes, RootsCarryThroughAndBrokenPowersAreSaid) {
    const auto root = raised(of("m"), 0.5);
    ASSERT_TRUE(root);
    EXPECT_FALSE(dimension_of(*root));
    EXPECT_EQ(described(*root), "a value with a broken power of a unit");
    EXPECT_EQ(product(*root, *root), of("m"));
    ASSERT_TRUE(raised(of("m²/s²"), 0.5));
    EXPECT_EQ(*raised(of("m²/s²"), 0.5), of("m/s"));
    EXPECT_EQ(*raised(of("m"), 3), of("m³"));
    EXPECT_EQ(*raised(of("m"), 0), Type{});
    EXPECT_EQ(*raised(of("s"), -1), quotient(Type{}, of("s")));
    EXPECT_FALSE(raised(of("m"), 0.3));
    EXPECT_FALSE(raised(of("m"), 1e9));
    EXPECT_FALSE(raised(of("m"), missing_value));
    EXPECT_EQ(*raised(Type{}, 0.3), Type{}) << "plain numbers can be raised to anything";
}

TEST(FormulaTypes, AnAngleCountsAsNothingBesideALengthOnly) {
    EXPECT_TRUE(alike(of("m"), product(of("rad"), of("m")))) << "an arc is a length";
    EXPECT_TRUE(alike(of("1/m"), of("rad/m")));
    EXPECT_FALSE(alike(of("rad"), Type{}));
    EXPECT_FALSE(alike(of("rad/s"), of("1/s")));
    EXPECT_FALSE(alike(of("m"), of("s")));
    EXPECT_FALSE(alike(condition_type(), Type{}));
    EXPECT_TRUE(alike(condition_type(), condition_type()));
}

TEST(FormulaTypes, AreCalledWhatPeopleCallThem) {
    for (const auto& [unit, name] : {std::pair{"bar", "a pressure"},
                                     {"km/h", "a speed"},
                                     {"m/s²", "an acceleration"},
                                     {"°", "an angle"},
                                     {"rpm", "a rate of turn"},
                                     {"1/s", "a rate (1/s)"},
                                     {"°C", "a temperature"},
                                     {"K", "a temperature difference"},
                                     {"N", "a force"},
                                     {"kW", "a power"},
                                     {"kg", "a mass"},
                                     {"l", "a volume"},
                                     {"V", "a voltage"},
                                     {"A", "a current"},
                                     {"m²", "an area"},
                                     {"%", "a plain number"}})
        EXPECT_EQ(described(of(unit)), name) << unit;
    EXPECT_EQ(described(condition_type()), "a condition");
    EXPECT_TRUE(described(of("kg·m²")).starts_with("a value in ")) << described(of("kg·m²"));
}

TEST(FormulaTypes, HaveAUnitToBeShownIn) {
    for (const char* unit : {"km/h", "bar", "m", "s", "N", "W", "kg", "V", "A", "m/s²", "rpm", "°"}) {
        const std::string shown = usual_unit(of(unit));
        EXPECT_FALSE(shown.empty()) << unit;
        EXPECT_EQ(of(shown), of(unit)) << "of the same dimension: " << shown;
    }
    EXPECT_EQ(usual_unit(of("°C")), "°C");
    EXPECT_EQ(usual_unit(of("K")), "K") << "a difference is no temperature";
    EXPECT_EQ(usual_unit(of("1/m")), "1/m");
    EXPECT_EQ(usual_unit(condition_type()), "");
}

TEST(FormulaOperations, MissingStaysMissingAndConditionsAreOneAndZero) {
    for (const Op op : {Op::add, Op::subtract, Op::multiply, Op::divide, Op::power, Op::less, Op::less_equal,
                        Op::greater, Op::greater_equal, Op::equal, Op::not_equal, Op::logical_and, Op::logical_or}) {
        EXPECT_TRUE(std::isnan(apply(op, missing_value, 1)));
        EXPECT_TRUE(std::isnan(apply(op, 1, missing_value)));
    }
    EXPECT_EQ(apply(Op::add, 2, 3), 5);
    EXPECT_EQ(apply(Op::subtract, 2, 3), -1);
    EXPECT_EQ(apply(Op::multiply, 2, 3), 6);
    EXPECT_EQ(apply(Op::divide, 3, 2), 1.5);
    EXPECT_TRUE(std::isnan(apply(Op::divide, 3, 0))) << "nothing is divided by nothing";
    EXPECT_EQ(apply(Op::power, 2, 10), 1024);
    EXPECT_EQ(apply(Op::negate, 2, 0), -2);
    EXPECT_EQ(apply(Op::logical_not, 0, 0), 1);
    EXPECT_EQ(apply(Op::logical_not, 5, 0), 0);
    for (const double a : {-1.0, 0.0, 2.0}) {
        for (const double b : {-1.0, 0.0, 2.0}) {
            EXPECT_EQ(apply(Op::less, a, b), a < b);
            EXPECT_EQ(apply(Op::less_equal, a, b), a <= b);
            EXPECT_EQ(apply(Op::greater, a, b), a > b);
            EXPECT_EQ(apply(Op::greater_equal, a, b), a >= b);
            EXPECT_EQ(apply(Op::equal, a, b), a == b);
            EXPECT_EQ(apply(Op::not_equal, a, b), a != b);
            EXPECT_EQ(apply(Op::logical_and, a, b), a != 0 && b != 0);
            EXPECT_EQ(apply(Op::logical_or, a, b), a != 0 || b != 0);
        }
    }
}

TEST(FormulaTables, GoThroughTheirPointsAndStayAtTheirEnds) {
    const std::vector<double> xs{-2, 0, 1, 5}, ys{10, 4, 4.5, 20};
    for (std::size_t i = 0; i < xs.size(); ++i) EXPECT_EQ(table_at(xs[i], xs, ys), ys[i]);
    EXPECT_EQ(table_at(-1, xs, ys), 7);
    EXPECT_EQ(table_at(3, xs, ys), 12.25);
    EXPECT_EQ(table_at(-50, xs, ys), 10);
    EXPECT_EQ(table_at(50, xs, ys), 20);
    EXPECT_TRUE(std::isnan(table_at(missing_value, xs, ys)));
}

TEST(FormulaCurves, NeverRiseOrFallWhereTheirPointsDoNot) {
    std::mt19937 random(41);
    std::uniform_real_distribution<double> step(0.05, 3), height(-4, 4);
    for (int round = 0; round < 300; ++round) {
        std::vector<double> xs{0}, ys{height(random)};
        while (xs.size() < 2 + static_cast<std::size_t>(round % 7)) {
            xs.push_back(xs.back() + step(random));
            // Some stay level.
            ys.push_back(round % 3 == 0 && xs.size() % 2 == 0 ? ys.back() : ys.back() + height(random));
        }
        const auto slopes = pchip_slopes(xs, ys);
        ASSERT_EQ(slopes.size(), xs.size());
        for (std::size_t i = 0; i < xs.size(); ++i) ASSERT_NEAR(pchip_at(xs[i], xs, ys, slopes), ys[i], 1e-12);
        for (std::size_t i = 0; i + 1 < xs.size(); ++i) {
            double before = ys[i];
            for (int k = 1; k <= 40; ++k) {
                const double at = pchip_at(xs[i] + (xs[i + 1] - xs[i]) * k / 40, xs, ys, slopes);
                const double rise = (at - before) * (ys[i + 1] - ys[i]);
                ASSERT_GE(rise, -1e-12) << "round " << round << ", piece " << i;
                ASSERT_LE(at, std::max(ys[i], ys[i + 1]) + 1e-12);
                ASSERT_GE(at, std::min(ys[i], ys[i + 1]) - 1e-12);
                before = at;
            }
        }
        EXPECT_EQ(pchip_at(-9, xs, ys, slopes), ys.front());
        EXPECT_EQ(pchip_at(1e6, xs, ys, slopes), ys.back());
        EXPECT_TRUE(std::isnan(pchip_at(missing_value, xs, ys, slopes)));
    }
}

TEST(FormulaCurves, AreSmoothAtTheirPointsAndExactForALine) {
    const std::vector<double> xs{0, 1, 2.5, 4, 7}, line{1, 3, 6, 9, 15}, bent{0, 2, 3, 3.5, 3.6};
    const auto even = pchip_slopes(xs, line);
    for (const double slope : even) EXPECT_NEAR(slope, 2, 1e-12);
    EXPECT_NEAR(pchip_at(5.3, xs, line, even), 1 + 2 * 5.3, 1e-12);
    const auto slopes = pchip_slopes(xs, bent);
    for (std::size_t i = 1; i + 1 < xs.size(); ++i) {
        const double h = 1e-6;
        const double before = (bent[i] - pchip_at(xs[i] - h, xs, bent, slopes)) / h;
        const double after = (pchip_at(xs[i] + h, xs, bent, slopes) - bent[i]) / h;
        EXPECT_NEAR(before, after, 1e-4) << i;
        EXPECT_NEAR(before, slopes[i], 1e-4) << i;
    }
}

}  // namespace
}  // namespace rendak::formula
