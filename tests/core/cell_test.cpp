#include <gtest/gtest.h>

#include "core/recording/assumed_units.h"
#include "core/recording/cell_number.h"
#include "core/recording/cell_place.h"
#include "core/recording/cell_time.h"
#include "core/recording/table_shape.h"
#include "core/units/unit.h"

using namespace rendak;

namespace {

double number(std::string_view cell, char sign = '.') {
    const auto loose = loose_number(cell, sign);
    return loose && loose->rest.empty() ? loose->value : -12345;
}

}  // namespace

TEST(CellNumber, ThousandsOfAllKinds) {
    EXPECT_DOUBLE_EQ(number("5.743,1", ','), 5743.1);
    EXPECT_DOUBLE_EQ(number("1,234,567.5"), 1234567.5);
    EXPECT_DOUBLE_EQ(number("5 743,1", ','), 5743.1);
    EXPECT_DOUBLE_EQ(number("5\xC2\xA0"
                            "743"),
                     5743);
    EXPECT_DOUBLE_EQ(number("5\xE2\x80\xAF"
                            "743"),
                     5743);
    EXPECT_DOUBLE_EQ(number("5'743.1"), 5743.1);
    EXPECT_DOUBLE_EQ(number("5\xE2\x80\x99"
                            "743.1"),
                     5743.1);
    EXPECT_EQ(number("0,050"), -12345) << "no group begins with a zero";
    EXPECT_EQ(number("12,34"), -12345) << "two digits are no group";
    EXPECT_EQ(number("1234,567"), -12345) << "the first group has three digits at most";
    EXPECT_EQ(number("1,234,56"), -12345);
}

TEST(CellNumber, NegativesAndUnitsBehind) {
    EXPECT_DOUBLE_EQ(number("(12.3)"), -12.3);
    EXPECT_DOUBLE_EQ(number("12.3-"), -12.3);
    EXPECT_DOUBLE_EQ(number("\xE2\x88\x92"
                            "12.3"),
                     -12.3);
    EXPECT_DOUBLE_EQ(number("\xE2\x80\x93"
                            "0.5"),
                     -0.5);
    EXPECT_DOUBLE_EQ(number("- 0.5"), -0.5);
    EXPECT_DOUBLE_EQ(number("+0.5e-3"), 0.5e-3);
    EXPECT_DOUBLE_EQ(number("\"7\""), 7);
    const auto with_unit = loose_number("152.5 km/h", '.');
    ASSERT_TRUE(with_unit);
    EXPECT_DOUBLE_EQ(with_unit->value, 152.5);
    EXPECT_EQ(with_unit->rest, "km/h");
    EXPECT_FALSE(loose_number("km/h", '.'));
    EXPECT_FALSE(loose_number("", '.'));
    EXPECT_FALSE(loose_number("-", '.'));
}

TEST(CellTime, DatesInManyOrders) {
    const double day = 1781308800;  // 2026-06-13
    for (const char* text : {"2026-06-13", "13.06.2026", "13/06/2026", "06/13/2026", "13-Jun-2026", "Jun 13, 2026",
                             "13. Juni 2026", "Sat 13 Jun 2026", "20260613", "13/06/26", "2026/6/13"}) {
        const auto time = time_cell(text, '.');
        ASSERT_TRUE(time) << text;
        EXPECT_EQ(time->date_s, day) << text;
        EXPECT_FALSE(time->day_or_month) << text;
    }
    EXPECT_TRUE(time_cell("06/07/2026", '.')->day_or_month);
    EXPECT_NE(time_cell("06/07/2026", '.', DateOrder::day_first)->date_s,
              time_cell("06/07/2026", '.', DateOrder::month_first)->date_s);
    EXPECT_FALSE(time_cell("07.06.2026", '.')->day_or_month) << "with points the day comes first";
    EXPECT_FALSE(time_cell("2026-02-30", '.'));
    EXPECT_FALSE(time_cell("99/99/2026", '.'));
}

TEST(CellTime, ClocksAndZones) {
    const auto seconds = [](const char* text, char sign = '.') { return parse_time_text(text, sign).value_or(-1); };
    EXPECT_DOUBLE_EQ(seconds("1:47:31.25 PM"), 13 * 3600 + 47 * 60 + 31.25);
    EXPECT_DOUBLE_EQ(seconds("12:00:01 am"), 1);
    EXPECT_DOUBLE_EQ(seconds("13:47:31,25", ','), 49651.25);
    EXPECT_DOUBLE_EQ(seconds("13:47:31:250"), 49651.25);
    EXPECT_DOUBLE_EQ(seconds("1:23.4"), 83.4);
    const double noon = 1781352000;  // 2026-06-13T12:00:00Z
    for (const char* text : {"2026-06-13T12:00:00Z", "2026-06-13T14:00:00+02:00", "2026-06-13T14:00:00+0200",
                             "2026-06-13 07:00 -05", "20260613T120000Z", "13.06.2026 12:00", "12:00:00 13.06.2026",
                             "06/13/2026 12:00:00 pm", "2026-06-13 12:00:00 UTC"})
        EXPECT_DOUBLE_EQ(seconds(text), noon) << text;
    for (const char* text : {"12", "12.5", "a:b", "::", "25:61:99", "1:2:3:4:5", "13:00 pm", "N 51.2"})
        EXPECT_FALSE(time_cell(text, '.')) << text;
}

TEST(CellPlace, LettersMarksAndPairs) {
    const auto value = [](const char* text, char sign = '.') {
        const auto place = place_cell(text, sign);
        return place ? place->value : -999;
    };
    EXPECT_DOUBLE_EQ(value("S 31.5"), -31.5);
    EXPECT_DOUBLE_EQ(value("31.5W"), -31.5);
    EXPECT_DOUBLE_EQ(value("51,5 N", ','), 51.5);
    EXPECT_NEAR(value("51°30'36\"N"), 51.51, 1e-12);
    EXPECT_NEAR(value("6° 32.25′ W"), -6.5375, 1e-12);
    EXPECT_NEAR(value("-6 32.25"), -6.5375, 1e-12);
    EXPECT_DOUBLE_EQ(value("5114.07N"), 5114.07) << "to be understood with the whole column";
    EXPECT_EQ(value("51.5"), -999) << "a bare number is a number";
    EXPECT_EQ(value("51 75.0 N"), -999) << "no minute beyond 60";
    EXPECT_EQ(value("12.5 bar"), -999);
    const auto pair = place_pair("51.2345, -3.4625", '.');
    ASSERT_TRUE(pair);
    EXPECT_DOUBLE_EQ(pair->latitude.value, 51.2345);
    EXPECT_DOUBLE_EQ(pair->longitude.value, -3.4625);
    EXPECT_FALSE(place_pair("51.2345", '.'));
    EXPECT_EQ(hemisphere_cell("S"), -1);
    EXPECT_EQ(hemisphere_cell("East"), 1);
    EXPECT_EQ(hemisphere_cell("3"), 0);
}

TEST(Unit, ManySpellingsAndPlainFactors) {
    const auto factor = [](const char* text) {
        const auto unit = parse_unit(text);
        return unit ? unit->factor : -1;
    };
    EXPECT_DOUBLE_EQ(factor("10 ms"), 0.01);
    EXPECT_DOUBLE_EQ(factor("1/1000 s"), 1e-3);
    EXPECT_DOUBLE_EQ(factor("rpm x 1000"), 1000 * factor("rpm"));
    EXPECT_DOUBLE_EQ(factor("x1000 rpm"), 1000 * factor("rpm"));
    EXPECT_NEAR(factor("1e-7 deg") / factor("deg"), 1e-7, 1e-20);
    EXPECT_NEAR(factor("deg*1e7") / factor("deg"), 1e-7, 1e-20);
    EXPECT_DOUBLE_EQ(factor("min⁻¹"), factor("rpm"));
    EXPECT_DOUBLE_EQ(factor("\xB5s"), 1e-6) << "Latin-1";
    EXPECT_DOUBLE_EQ(factor("μs"), 1e-6) << "the Greek letter";
    EXPECT_DOUBLE_EQ(factor("m/s\xB2"), 1);
    EXPECT_EQ(factor("ticks"), -1);
    EXPECT_EQ(factor("1000"), -1) << "a number alone is no unit";
}

TEST(AssumedUnits, ToldWhereOneFitsAskedWhereTwoDo) {
    const auto fitting = [](const char* id, double high, const UnitHints& hints = {}) {
        return guess_unit(*find_quantity(id), 0, high, hints).fitting;
    };
    using Units = std::vector<std::string>;
    EXPECT_EQ(fitting("throttle", 1), Units{""});
    EXPECT_EQ(fitting("throttle", 99.5), Units{"%"});
    EXPECT_EQ(fitting("throttle", 255), Units{"1/255"});
    EXPECT_EQ(fitting("engine_speed", 7200), Units{"rpm"});
    EXPECT_EQ(fitting("engine_speed", 7.2), Units{"krpm"});
    EXPECT_EQ(fitting("speed", 252), Units{"km/h"});
    EXPECT_EQ(fitting("speed", 187).size(), 2U) << "km/h or mph";
    EXPECT_EQ(fitting("brake", 60).size(), 2U) << "per cent or bar";
    EXPECT_EQ(fitting("brake_front", 871).size(), 2U) << "psi or kPa";
    EXPECT_EQ(fitting("brake_front", 60), Units{"bar"});
    EXPECT_EQ(fitting("oil_temperature", 110).size(), 2U) << "°C or °F";
    EXPECT_EQ(fitting("oil_temperature", 110, {"Oil", true, false, true}), Units{"°C"});
    EXPECT_EQ(fitting("lateral_acceleration", 1.4), Units{"g"});
    EXPECT_EQ(fitting("lateral_acceleration", 14), Units{"m/s²"});
    EXPECT_EQ(fitting("lateral_acceleration", 4.1).size(), 2U);
    EXPECT_EQ(fitting("lateral_acceleration", 4.1, {"Lateral G", false, false, true}), Units{"g"});
}
