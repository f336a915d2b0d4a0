#include <gtest/gtest.h>

#include <random>

#include "core/formula/functions.h"
#include "core/formula/syntax.h"

namespace rendak::formula {
namespace {

std::string printed(std::string_view text) {
    const auto syntax = parse(text);
    return syntax ? print(*syntax) : "! " + syntax.error().sentence;
}

TEST(FormulaSyntax, BindsAsWrittenOnPaper) {
    EXPECT_EQ(printed("a+b*c-d/e"), "a + b * c - d / e");
    EXPECT_EQ(printed("(a+b)*c"), "(a + b) * c");
    EXPECT_EQ(printed("a-(b-c)"), "a - (b - c)");
    EXPECT_EQ(printed("-a**2"), "-a ** 2");
    EXPECT_EQ(printed("(-a)**2"), "(-a) ** 2");
    EXPECT_EQ(printed("2**3**2"), "2 ** 3 ** 2");
    EXPECT_EQ(printed("(2**3)**2"), "(2 ** 3) ** 2");
    EXPECT_EQ(printed("a² + b³"), "a ** 2 + b ** 3");
    EXPECT_EQ(printed("not a>b and c or d"), "not a > b and c or d");
    EXPECT_EQ(printed("a and (b or c)"), "a and (b or c)");
    EXPECT_EQ(printed("10 < a <= 20"), "10 < a and a <= 20");
    EXPECT_EQ(printed("1 if a>b else 2 if c else 3"), "1 if a > b else 2 if c else 3");
    EXPECT_EQ(printed("(1 if a else 2) + 3"), "(1 if a else 2) + 3");
    EXPECT_EQ(printed("f(a, window=0.2 s,[1,2])"), "f(a, window=0.2 s, [1, 2])");
    EXPECT_EQ(printed("a × b · c ≤ d"), "a * b * c <= d");
    EXPECT_EQ(printed("a # the rest is a comment\n + b"), "a + b");
    EXPECT_EQ(printed("car.mass * 1.5"), "car.mass * 1.5");
}

TEST(FormulaSyntax, AUnitBelongsToTheNumberBeforeIt) {
    EXPECT_EQ(printed("100 km/h"), "100 km/h");
    EXPECT_EQ(printed("9.81 m/s²*x"), "9.81 m/s² * x");
    EXPECT_EQ(printed("2 m/width"), "2 m / width");
    EXPECT_EQ(printed("3 N/mm + 4 bar"), "3 N/mm + 4 bar");
    EXPECT_EQ(printed("50%"), "50 %");
    EXPECT_EQ(printed("-5 °C"), "-5 °C");
    EXPECT_EQ(printed("5 if a else 6"), "5 if a else 6");
    const auto cold = parse("-5 °C");
    ASSERT_TRUE(cold);
    EXPECT_EQ(cold->at(cold->root).number, -5);
}

struct Wrong {
    const char* text;
    std::size_t from;
    const char* part;
};

TEST(FormulaSyntax, ErrorsPointAtTheCharacterInASentence) {
    for (const Wrong& it : {Wrong{"", 0, "There is no formula yet"},
                            {"a +", 3, "still to come"},
                            {"a b", 2, "side by side"},
                            {"(a + b", 0, "never closed"},
                            {"sqrt(a", 4, "sqrt( is never closed"},
                            {"a = b", 2, "=="},
                            {"a ^ 2", 2, "**"},
                            {"a & b", 2, "bitwise_and"},
                            {"a ? b", 2, "if condition else"},
                            {"a if b", 6, "needs an \"else\""},
                            {"car.", 4, "must follow the dot"},
                            {"'speed'", 0, "plain words"},
                            {"a * * b", 4, "not expected"},
                            {"a +\x01", 3, "byte 1"},
                            {"1e999", 0, "too large"}}) {
        const auto syntax = parse(it.text);
        ASSERT_FALSE(syntax) << it.text;
        EXPECT_EQ(syntax.error().from, it.from) << it.text << ": " << syntax.error().sentence;
        EXPECT_NE(syntax.error().sentence.find(it.part), std::string::npos)
            << it.text << ": " << syntax.error().sentence;
    }
}

TEST(FormulaSyntax, HostileTextsAreRefusedNotSuffered) {
    EXPECT_FALSE(parse(std::string(100'000, '(')));
    EXPECT_FALSE(parse(std::string(10'000, '(')));
    EXPECT_FALSE(parse(std::string(10'000, '-') + "a"));
    std::string nots, powers = "a", choices = "a";
    for (int i = 0; i < 3000; ++i) nots += "not ";
    for (int i = 0; i < 3000; ++i) powers += "**a";
    for (int i = 0; i < 1500; ++i) choices += " if a else a";
    EXPECT_FALSE(parse(nots + "a"));
    EXPECT_FALSE(parse(powers));
    EXPECT_FALSE(parse(choices));
    std::string sum = "a";
    for (int i = 0; i < 5000; ++i) sum += "+a";
    EXPECT_FALSE(parse(sum));
    std::string calls = "a";
    for (int i = 0; i < 200; ++i) calls = "f(" + calls + ")";
    EXPECT_FALSE(parse(calls));
}

/// A random formula of the grammar, as text with more brackets than needed.
std::string random_text(std::mt19937& random, int depth) {
    const auto pick = [&](int count) { return static_cast<int>(random() % static_cast<unsigned>(count)); };
    const auto below = [&] { return random_text(random, depth - 1); };
    if (depth == 0) {
        const char* leaves[] = {"speed", "2", "0.15 g", "-3 °C", "car.mass", "12 km/h", "1e-7", "x_1"};
        return leaves[pick(8)];
    }
    const char* operators[] = {"+", "-", "*", "/", "**", "<", ">=", "==", "and", "or"};
    switch (pick(8)) {
        case 0:
            return "(" + below() + ")";
        case 1:
            return "-(" + below() + ")";
        case 2:
            return "(not (" + below() + "))";
        case 3:
            return "((" + below() + ") if (" + below() + ") else " + below() + ")";
        case 4:
            return "f(" + below() + ", by=" + below() + ", [" + below() + "])";
        default:
            return "(" + below() + ") " + operators[pick(10)] + " (" + below() + ")";
    }
}

TEST(FormulaSyntax, PrintingAndParsingAgainGivesTheSameTree) {
    std::mt19937 random(27);
    for (int i = 0; i < 4000; ++i) {
        const std::string text = random_text(random, static_cast<int>(random() % 6));
        const auto first = parse(text);
        ASSERT_TRUE(first) << text << ": " << first.error().sentence;
        const std::string shown = print(*first);
        const auto second = parse(shown);
        ASSERT_TRUE(second) << text << " -> " << shown << ": " << second.error().sentence;
        EXPECT_TRUE(same(*first, *second)) << text << " -> " << shown << " -> " << print(*second);
        EXPECT_EQ(print(*second), shown);
    }
}

TEST(FormulaSyntax, NearNamesAreFound) {
    const std::vector<std::string> known{"oil_pressure", "oil_temperature", "speed", "steering", "brake_front"};
    EXPECT_EQ(nearest("oil_presure", known), "oil_pressure");
    EXPECT_EQ(nearest("sped", known), "speed");
    EXPECT_EQ(nearest("seped", known), "speed");
    EXPECT_EQ(nearest("brake", known), "brake_front");
    EXPECT_EQ(nearest("qqqqqq", known), "");
}

TEST(FormulaSyntax, LoggersNamesBecomePlainNames) {
    EXPECT_EQ(plain_name("Brake Pres. F"), "brake_pres_f");
    EXPECT_EQ(plain_name("2nd sensor"), "_2nd_sensor");
    EXPECT_TRUE(is_plain_name("brake_pres_f"));
    EXPECT_FALSE(is_plain_name("if"));
    EXPECT_FALSE(is_plain_name("a b"));
    EXPECT_FALSE(is_plain_name(""));
}

TEST(FormulaSyntax, EveryFunctionHasHelpAndASignature) {
    for (const Function& function : all_functions()) {
        EXPECT_FALSE(function.help.empty()) << function.name;
        EXPECT_FALSE(function.parameters.empty()) << function.name;
        EXPECT_TRUE(is_plain_name(function.name)) << function.name;
        EXPECT_EQ(find_function(function.name), &function);
        const FunctionRow& row = *function.row;
        const int ways = static_cast<int>(row.pointwise.value != nullptr) +
                         static_cast<int>(row.table.value != nullptr) + static_cast<int>(row.over_time != nullptr);
        EXPECT_EQ(ways, 1) << function.name << " is computed in one way";
        EXPECT_TRUE(row.type != nullptr || row.takes_first) << function.name;
    }
}

}  // namespace
}  // namespace rendak::formula
