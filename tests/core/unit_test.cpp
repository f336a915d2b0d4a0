#include "core/units/unit.h"

#include <gtest/gtest.h>

#include <numbers>

#include "core/signal/quantity.h"

using namespace rendak;

TEST(Unit, ConvertsToSi) {
    const struct {
        const char* unit;
        double value, si;
    } rows[] = {{"km/h", 36, 10},
                {"kph", 3.6, 1},
                {"mph", 1, 0.44704},
                {"°C", 20, 293.15},
                {"degF", 32, 273.15},
                {"bar", 2, 2e5},
                {"psi", 1, 6894.757293168361},
                {"g", 1, 9.80665},
                {"%", 50, 0.5},
                {"mm", 12, 0.012},
                {"rpm", 60, 2 * std::numbers::pi},
                {"deg", 180, std::numbers::pi},
                {"1/min", 30, std::numbers::pi},
                {"ms", 5, 0.005},
                {"kn", 1, 1852.0 / 3600}};
    for (const auto& row : rows) {
        const auto unit = parse_unit(row.unit);
        ASSERT_TRUE(unit) << row.unit;
        EXPECT_NEAR(unit->to_si(row.value), row.si, 1e-12 * std::abs(row.si) + 1e-12) << row.unit;
        EXPECT_NEAR(unit->from_si(row.si), row.value, 1e-9) << row.unit;
    }
}

TEST(Unit, SpellingsAndLatin1Degrees) {
    EXPECT_TRUE(is_unit("[km/h]"));
    EXPECT_TRUE(is_unit(" Km/H "));
    EXPECT_TRUE(
        is_unit("\xB0"
                "C"));
    EXPECT_FALSE(is_unit("furlong"));
    const auto unknown = parse_unit("furlong");
    ASSERT_FALSE(unknown);
    EXPECT_NE(unknown.error().message.find("furlong"), std::string::npos);
}

TEST(Quantity, EveryQuantityHasUnitsThatAgree) {
    for (const Quantity& quantity : all_quantities()) {
        const auto stored = parse_unit(quantity.unit), shown = parse_unit(quantity.shown_unit),
                   imperial = parse_unit(quantity.shown_unit_imperial);
        if (quantity.unit == "m³") continue;  // shown in litres; no other volume is needed
        ASSERT_TRUE(stored && shown && imperial) << quantity.id;
        EXPECT_EQ(stored->dimension, shown->dimension) << quantity.id;
        EXPECT_EQ(stored->dimension, imperial->dimension) << quantity.id;
        if (quantity.unit != "deg") {
            EXPECT_EQ(stored->factor, 1) << quantity.id << " must be stored in SI";
        }
    }
}

TEST(Quantity, LoggersNamesAreRecognised) {
    EXPECT_EQ(match_quantity("GPS_Latitude")->id, "latitude");
    EXPECT_EQ(match_quantity("Brake Pres Front")->id, "brake_front");
    EXPECT_EQ(match_quantity("gps speed")->id, "speed");
    EXPECT_EQ(match_quantity("lng")->id, "longitude");
    EXPECT_EQ(match_quantity("nonsense"), nullptr);
    EXPECT_EQ(match_quantity(""), nullptr);
}
