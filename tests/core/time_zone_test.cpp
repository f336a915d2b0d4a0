#include "core/base/time_zone.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cstdlib>

#include "core/base/date.h"

using namespace rendak;

namespace {

constexpr const char* minutes = "%Y-%m-%d %H:%M";
/// Clocks in Berlin go back at 01:00 UTC of 25 October 2026, and forward at that of 29 March.
constexpr double autumn = 1792890000, spring = 1774746000, hour = 3600;

}  // namespace

TEST(TimeZone, FixedOnesAreAheadByWhatTheySay) {
    for (const double moment : {autumn, spring}) {
        EXPECT_EQ(zone_offset_s("+02:00", moment), 7200);
        EXPECT_EQ(zone_offset_s("-03:30", moment), -12600);
        EXPECT_EQ(zone_offset_s("+9", moment), 32400);
        EXPECT_EQ(zone_offset_s("", moment), 0);
        EXPECT_EQ(zone_offset_s("UTC", moment), 0);
    }
    for (const char* text :
         {"2", "CEST", "+25:00", "+02:75", "+", "+02:00x", "noon", "Nowhere/Town", "../etc/passwd", "/"}) {
        EXPECT_FALSE(is_time_zone(text)) << text;
        EXPECT_FALSE(zone_offset_s(text, autumn)) << text;
    }
    EXPECT_EQ(local_text(1781390000, "+02:00", minutes), "2026-06-14 00:33") << "an evening session";
    EXPECT_EQ(utc_text(1781390000, "%Y-%m-%d"), "2026-06-13");
    EXPECT_EQ(local_text(1781390000, "Nowhere/Town", minutes), utc_text(1781390000, minutes));
}

TEST(TimeZone, OfAPlaceChangesWithItsClocks) {
    ASSERT_TRUE(is_time_zone("Europe/Berlin"));
    EXPECT_EQ(local_text(autumn - 60, "Europe/Berlin", minutes), "2026-10-25 02:59");
    EXPECT_EQ(local_text(autumn, "Europe/Berlin", minutes), "2026-10-25 02:00");
    EXPECT_EQ(local_text(spring - 60, "Europe/Berlin", minutes), "2026-03-29 01:59");
    EXPECT_EQ(local_text(spring, "Europe/Berlin", minutes), "2026-03-29 03:00");
    EXPECT_EQ(zone_text("Europe/Berlin", autumn - 1), "+02:00");
    EXPECT_EQ(zone_text("Europe/Berlin", autumn), "+01:00");
    EXPECT_EQ(zone_text("Asia/Kathmandu", autumn), "+05:45");
    EXPECT_EQ(zone_text("America/St_Johns", autumn), "-02:30");
    EXPECT_EQ(zone_text("Europe/London", autumn), "UTC");
    EXPECT_EQ(zone_text("", autumn), "UTC");
}

TEST(TimeZone, WhatClocksShowIsAMomentAgain) {
    for (const char* zone :
         {"Europe/Berlin", "America/Los_Angeles", "Australia/Lord_Howe", "Asia/Tokyo", "+05:30", ""}) {
        for (double moment = spring - 40 * 86400; moment < autumn + 40 * 86400; moment += 1237 * 60) {
            const double shown = moment + zone_offset_s(zone, moment).value();
            const double back = unix_of_local(shown, zone);
            // Of the two moments at which clocks show the same in autumn it is the first.
            EXPECT_TRUE(back == moment || (back < moment && back + zone_offset_s(zone, back).value() == shown))
                << zone << moment;
        }
    }
    EXPECT_EQ(unix_of_local(autumn + hour, "Europe/Berlin"), autumn - hour) << "02:00 twice: in summer time";
    EXPECT_EQ(unix_of_local(autumn + 2 * hour, "Europe/Berlin"), autumn + hour) << "03:00 is there once";
    EXPECT_EQ(unix_of_local(autumn + 0.5 * hour, "Europe/Berlin"), autumn - 1.5 * hour);
    EXPECT_EQ(unix_of_local(spring + 1.5 * hour, "Europe/Berlin"), spring + 0.5 * hour) << "02:30 is left out";
    EXPECT_EQ(unix_of_local(spring + 2 * hour, "Europe/Berlin"), spring);
}

TEST(TimeZone, OfThisComputerGoesWithItsClock) {
    const char* const before = std::getenv("TZ");
    const std::string kept = before == nullptr ? "" : before;
    const auto here = [](const char* said) {
        ::setenv("TZ", said, 1);
        ::tzset();
        return zone_here(autumn - 86400);
    };
    EXPECT_EQ(here("Europe/Berlin"), "Europe/Berlin");
    EXPECT_EQ(here(":America/New_York"), "America/New_York");
    EXPECT_EQ(here("XYZ-3:30"), "+03:30") << "no name of a place";
    EXPECT_EQ(here("UTC"), "+00:00");
    before == nullptr ? ::unsetenv("TZ") : ::setenv("TZ", kept.c_str(), 1);
    ::tzset();
    EXPECT_TRUE(is_time_zone(zone_here(autumn)));
}

TEST(TimeZone, NamesAreThoseThatCanBeAskedFor) {
    const auto names = zone_names();
    EXPECT_GT(names.size(), 300U);
    EXPECT_TRUE(std::is_sorted(names.begin(), names.end()));
    EXPECT_NE(std::find(names.begin(), names.end(), "Europe/Madrid"), names.end());
    for (const std::string& name : names) EXPECT_TRUE(zone_offset_s(name, autumn)) << name;
}
