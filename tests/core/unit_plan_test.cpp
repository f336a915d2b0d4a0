// How a logger's numbers become stored ones, and how the steps of a clock are told.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/recording/channel_units.h"
#include "core/recording/time_scale.h"
#include "core/units/unit.h"

using namespace rendak;

namespace {

UnitPlan plan(const char* unit, const char* quantity, double low = 0, double high = 1) {
    return plan_units("Some channel", unit, quantity == nullptr ? nullptr : find_quantity(quantity), low, high);
}
double logged_as(const UnitPlan& plan, double logged) {
    return logged * plan.factor + plan.offset;
}

struct UnitCase {
    const char *unit, *quantity;
    double logged, si;
};

}  // namespace

TEST(UnitPlans, BringPeoplesUnitsIntoSi) {
    for (const UnitCase& it : {UnitCase{"km/h", "speed", 180, 50},
                               {"mph", "speed", 100, 44.704},
                               {"m/s", "speed", 50, 50},
                               {"bar", "brake_front", 60, 6e6},
                               {"psi", "brake_front", 100, 689'475.7},
                               {"kPa", "oil_pressure", 420, 420'000},
                               {"g", "lateral_acceleration", 2, 19.6133},
                               {"rpm", "engine_speed", 6000, 628.3185},
                               {"%", "throttle", 80, 0.8},
                               {"°C", "oil_temperature", 90, 363.15},
                               {"°F", "oil_temperature", 212, 373.15},
                               {"deg", "steering_angle", 90, std::numbers::pi / 2},
                               {"deg/s", "yaw_rate", 45, std::numbers::pi / 4},
                               {"mm", "ride_height_front", 35, 0.035}}) {
        const Quantity* quantity = find_quantity(it.quantity);
        if (quantity == nullptr) continue;  // asked for again below: not all may be missing
        const UnitPlan found = plan(it.unit, it.quantity, 0, it.logged);
        EXPECT_EQ(found.quantity, it.quantity) << it.unit;
        EXPECT_EQ(found.note, "") << it.unit;
        EXPECT_EQ(found.stored_unit, quantity->unit);
        EXPECT_NEAR(logged_as(found, it.logged), it.si, 1e-5 * std::abs(it.si) + 1e-9)
            << it.quantity << " in " << it.unit;
    }
    for (const char* id : {"speed", "brake_front", "lateral_acceleration", "engine_speed", "throttle", "yaw_rate"})
        EXPECT_NE(find_quantity(id), nullptr) << id;
}

TEST(UnitPlans, PlacesStayInDegreesAndOnlyWherePlacesCanBe) {
    const UnitPlan place = plan("deg", "latitude", 44.1, 44.2);
    EXPECT_EQ(place.quantity, "latitude");
    EXPECT_NEAR(logged_as(place, 44.15), 44.15, 1e-12);
    EXPECT_FALSE(place.changes_values());
    const UnitPlan radians = plan("rad", "latitude", 0.76, 0.78);
    EXPECT_NEAR(logged_as(radians, std::numbers::pi / 4), 45, 1e-9);
    for (const auto& [id, far] : {std::pair{"latitude", 4415.0}, {"longitude", 912.0}}) {
        const UnitPlan wrong = plan("deg", id, 0, far);
        EXPECT_EQ(wrong.quantity, "") << id;
        EXPECT_NE(wrong.note.find("beyond what degrees can be"), std::string::npos) << wrong.note;
    }
}

TEST(UnitPlans, AUnitThatContradictsTheNameIsSaidAndNothingIsLost) {
    const UnitPlan odd = plan("bar", "speed", 0, 60);
    EXPECT_EQ(odd.quantity, "");
    EXPECT_NE(odd.note.find("Some channel"), std::string::npos);
    EXPECT_NE(odd.note.find("bar"), std::string::npos) << odd.note;
    EXPECT_NEAR(logged_as(odd, 60), 6e6, 1) << "still a pressure, under its own name";
    const UnitPlan unknown = plan("furlongs?", "speed", 0, 60);
    EXPECT_EQ(unknown.quantity, "");
    EXPECT_NE(unknown.note, "");
    EXPECT_EQ(unknown.stored_unit, "furlongs?");
    EXPECT_EQ(logged_as(unknown, 60), 60);
    const UnitPlan own = plan("bar", nullptr, 0, 3);
    EXPECT_EQ(own.quantity, "");
    EXPECT_EQ(own.note, "") << "nothing was expected of it";
    EXPECT_NEAR(logged_as(own, 3), 3e5, 1e-3);
}

TEST(UnitPlans, ABrakeMayBeAPressureAndRevsMayCountTurns) {
    EXPECT_EQ(plan("bar", "brake", 0, 80).quantity, "brake_front");
    EXPECT_EQ(plan("%", "brake", 0, 100).quantity, "brake");
    const UnitPlan turns = plan("1/s", "engine_speed", 0, 130);
    EXPECT_EQ(turns.quantity, "engine_speed");
    EXPECT_NEAR(logged_as(turns, 100), 628.3185, 1e-3);
}

TEST(ClockSteps, AreTheMiddleOfThoseThatRise) {
    EXPECT_TRUE(std::isnan(median_step({})));
    EXPECT_TRUE(std::isnan(median_step({5})));
    EXPECT_TRUE(std::isnan(median_step({5, 5, 4})));
    // Of hours not every step is looked at; one that comes every so often must not hide the others.
    for (const std::size_t every : {3U, 10U, 64U}) {
        std::vector<double> times;
        double t = 0;
        for (std::size_t i = 0; i < 700'000; ++i) times.push_back(t += i % every == 0 ? 0.5 : 0.01);
        EXPECT_NEAR(median_step(times), 0.01, 1e-9) << every;
    }
    EXPECT_EQ(median_step({0, 1, 2, 3, 100}), 1);
    EXPECT_EQ(median_step({0, 10, 5, 15, 25}), 10) << "a clock that is set back does not count";
}

TEST(ClockScales, AreToldByHowFarTheCarWent) {
    // 200 s at 40 m/s to the north at 20 Hz; the speed in m/s, known to be that.
    const auto counted_in = [](const Scale& scale) {
        std::vector<double> times;
        Vehicle car;
        for (int i = 0; i < 4000; ++i) {
            const double t = 0.05 * i;
            times.push_back(t / scale.factor);
            car.latitude.push_back(44 + 40 * t / 111'120.0);
            car.longitude.push_back(9);
            car.speed.push_back(40);
        }
        car.rows = {0, times.size()};
        car.speed_unit_known = true;
        car.units_per_mps = {1};
        return told_scales(times, car);
    };
    for (const Scale& scale : scales) {
        const Told told = counted_in(scale);
        EXPECT_TRUE(told.by_motion && told.measured) << scale.label;
        ASSERT_EQ(told.scales.size(), 1U) << scale.label;
        EXPECT_EQ(told.scales.front().factor, scale.factor) << scale.label;
    }
    // Without a car all that can be a clock is left open.
    std::vector<double> times;
    for (int i = 0; i < 4000; ++i) times.push_back(50 * i);
    Vehicle none;
    none.rows = {0, times.size()};
    const Told open = told_scales(times, none);
    EXPECT_FALSE(open.measured);
    EXPECT_GT(open.scales.size(), 1U);
    EXPECT_TRUE(std::any_of(open.scales.begin(), open.scales.end(), [](const Scale& it) { return it.factor == 1e-3; }));
    EXPECT_TRUE(told_scales({7, 7, 7}, Vehicle{{}, {}, {}, {0, 3}, false, {}}).scales.empty());
}
