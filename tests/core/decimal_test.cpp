#include "core/recording/decimal.h"

#include <gtest/gtest.h>

#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <random>
#include <string>

#include "core/recording/decimal_cell.h"

using namespace rendak;

namespace {

double parsed(const char* text, char sign = '.', std::size_t* used = nullptr) {
    double value = -12345;
    const char* end = parse_decimal(text, text + std::strlen(text), sign, value);
    if (used != nullptr) *used = end == nullptr ? 0 : static_cast<std::size_t>(end - text);
    return value;
}

}  // namespace

TEST(Decimal, HandTable) {
    EXPECT_EQ(parsed("0"), 0);
    EXPECT_EQ(parsed("-12.5"), -12.5);
    EXPECT_EQ(parsed("+3"), 3);
    EXPECT_EQ(parsed(".5"), 0.5);
    EXPECT_EQ(parsed("5."), 5);
    EXPECT_EQ(parsed("1,25", ','), 1.25);
    EXPECT_EQ(parsed("1e3"), 1000);
    EXPECT_EQ(parsed("-2.5E-2"), -0.025);
    EXPECT_TRUE(std::isnan(parsed("nan")));
    EXPECT_TRUE(std::signbit(parsed("-0.0")));
}

TEST(Decimal, StopsBehindTheNumberAndRefusesText) {
    std::size_t used = 99;
    EXPECT_EQ(parsed("1.5;2", '.', &used), 1.5);
    EXPECT_EQ(used, 3U);
    (void)parsed("abc", '.', &used);
    EXPECT_EQ(used, 0U);
    (void)parsed("", '.', &used);
    EXPECT_EQ(used, 0U);
    (void)parsed("-", '.', &used);
    EXPECT_EQ(used, 0U);
}

TEST(Decimal, AgreesWithTheStandardLibraryOnRandomNumbers) {
    std::mt19937_64 engine(11);
    std::uniform_real_distribution<double> mantissa(-10, 10);
    std::uniform_int_distribution<int> exponent(-12, 12), digits(0, 17);
    for (int i = 0; i < 20000; ++i) {
        char text[80];
        std::snprintf(text, sizeof text, "%.*f", digits(engine), mantissa(engine) * std::pow(10, exponent(engine)));
        EXPECT_EQ(parsed(text), std::strtod(text, nullptr)) << text;
    }
}

TEST(Decimal, OfACellInTheMiddleOfALineIsWhatTheGeneralWaySays) {
    // Behind a cell stand others: what is looked at beyond it must not count.
    std::mt19937_64 engine(12);
    const auto below = [&](int n) { return static_cast<int>(engine() % static_cast<std::uint64_t>(n)); };
    const std::string behind[] = {",", ";",  "\t", " ",    "x", "e", "e5,", "E-3;",
                                  ".", "..", ",,", "\xff", "/", ":", "-",   ""};
    for (int k = 0; k < 100'000; ++k) {
        std::string cell = below(3) == 0 ? "-" : below(9) == 0 ? "+" : "";
        for (int n = below(10); n > 0; --n) cell += static_cast<char>('0' + below(10));
        if (below(4) != 0) {
            cell += '.';
            for (int n = below(10); n > 0; --n) cell += static_cast<char>('0' + below(10));
        }
        cell += behind[below(16)];
        cell += below(2) == 0 ? "123456.789012,-5.5,88888888" : "";
        const char* const end = cell.data() + cell.size();
        double value = 1, expected = 1;
        const char* const at = parse_decimal(cell.data(), end, '.', value);
        const char* const general = parse_decimal_general(cell.data(), end, '.', expected);
        ASSERT_EQ(at, general) << cell;
        if (at != nullptr) {
            ASSERT_EQ(value, expected) << cell;
            ASSERT_EQ(std::signbit(value), std::signbit(expected)) << cell;
        }
    }
}

TEST(Decimal, OfAWholeCellIsTheSameOrGoesAnotherWay) {
    std::mt19937_64 engine(13);
    const auto below = [&](int n) { return static_cast<int>(engine() % static_cast<std::uint64_t>(n)); };
    int read = 0;
    for (int k = 0; k < 200'000; ++k) {
        const char sign = below(2) == 0 ? '.' : ',';
        std::string cell = below(3) == 0 ? "-" : below(9) == 0 ? "+" : "";
        for (int n = below(10); n > 0; --n) cell += static_cast<char>('0' + below(10));
        if (below(4) != 0) cell += sign;
        for (int n = below(10); n > 0; --n) cell += static_cast<char>('0' + below(10));
        // One cell in five has a character that numbers do not have, or have in another place.
        if (below(5) == 0)
            cell.insert(static_cast<std::size_t>(below(static_cast<int>(cell.size()) + 1)), 1,
                        "-+e., x/:0\xff"[below(12)]);
        if (cell.empty()) continue;
        // Whatever stands before it, digits above all, is not part of it.
        const std::string text = std::string("9876543210,1234,") + cell + ",5";
        const char* const from = text.data() + 16;
        double value = -12345, other = -12345;
        const bool whole = parse_decimal_cell(from, from + cell.size(), sign, value);
        const char* const behind = parse_decimal(from, from + cell.size(), sign, other);
        if (whole) {
            EXPECT_EQ(behind, from + cell.size()) << cell;
            EXPECT_EQ(value, other) << cell;
            EXPECT_EQ(std::signbit(value), std::signbit(other)) << cell;
            ++read;
        } else if (behind == from + cell.size() && std::isfinite(other)) {
            // Only what is long, or has an exponent, may go another way.
            EXPECT_TRUE(cell.size() > 15 || cell.find('e') != std::string::npos) << cell;
        }
    }
    EXPECT_GT(read, 100'000);
}

TEST(Decimal, OfAWholeCellRefusesWhatIsNoNumber) {
    for (const char* cell :
         {"-", "+", ".", "-.", "1.2.3", "1,5", "--1", "+-1", "1e5", "nan", "12 ", " 12", "1234567890123456"}) {
        const std::string text = std::string("0000000000000000") + cell;
        double value = 0;
        EXPECT_FALSE(parse_decimal_cell(text.data() + 16, text.data() + text.size(), '.', value)) << cell;
    }
    const std::string longest = "0000000000000000-12345678.9012345";
    double value = 0;
    EXPECT_TRUE(parse_decimal_cell(longest.data() + 16, longest.data() + longest.size(), '.', value));
    EXPECT_EQ(value, -12345678.9012345);
}
