#include <gtest/gtest.h>

#include <cmath>

#include "app/text/figure_text.h"
#include "app/text/sentences.h"
#include "app/text/shown.h"
#include "core/intake/work_items.h"

using namespace rendak;
using namespace rendak::app;

namespace {

std::string plain(const QString& text) {
    return QString(text).replace(QChar(0x2009), u' ').toStdString();
}

}  // namespace

TEST(Shown, PeoplesUnitsAndOneSwitch) {
    EXPECT_EQ(shown("speed").text(10), QStringLiteral("36.0"));
    EXPECT_EQ(shown("brake_front").text(7.45e6), QStringLiteral("74.5"));
    EXPECT_EQ(shown("tyre_temperature_fl").text(373.15), QStringLiteral("100.0"));
    EXPECT_EQ(shown("tyre_temperature_fl").difference_text(5), QStringLiteral("+5.0"))
        << "a difference has no zero point";
    set_imperial_units(true);
    EXPECT_EQ(shown("speed").text(10), QStringLiteral("22.4"));
    EXPECT_EQ(shown("speed").unit, QStringLiteral("mph"));
    EXPECT_EQ(shown("tyre_temperature_fl").text(373.15), QStringLiteral("212.0"));
    set_imperial_units(false);
}

TEST(Shown, SignsAreRealMinusAndNothingIsADash) {
    EXPECT_EQ(signed_number(-0.0344, 3), QStringLiteral("−0.034"));
    EXPECT_EQ(signed_number(0.412, 3), QStringLiteral("+0.412"));
    EXPECT_EQ(signed_number(-0.00001, 3), QStringLiteral("+0.000")) << "no minus zero";
    EXPECT_EQ(signed_number(std::nan(""), 3), QStringLiteral("–"));
    EXPECT_EQ(shown("speed").text(std::nan("")), QStringLiteral("–"));
    EXPECT_EQ(lap_time(103.511), QStringLiteral("1:43.511"));
}

TEST(Shown, WhatUpMeansIsSaid) {
    EXPECT_EQ(shown("steering").up, QStringLiteral("left"));
    EXPECT_EQ(shown("lateral_acceleration").up, QStringLiteral("left"));
    EXPECT_EQ(shown("damper_fl").up, QStringLiteral("bump"));
    EXPECT_EQ(shown("gap").up, QStringLiteral("slower than A"));
}

TEST(FigureText, LengthsAreAsFineAsTheFigure) {
    const auto figure = [](const char* id) { return *find_corner_figure(id); };
    EXPECT_EQ(figure_text(figure("apex_gap_m"), 0.34), QStringLiteral("0.3"));
    EXPECT_EQ(figure_text(figure("brake_before_apex_m"), 125.4), QStringLiteral("125"));
    EXPECT_EQ(figure_difference_text(figure("apex_gap_m"), -1.76), QStringLiteral("−1.8"));
}

TEST(Sentences, RunsOfOneNameAreToldApartByWhatDiffers) {
    const auto run_of = [](std::int64_t id, const char* driver, const char* session, std::optional<double> start) {
        auto run = std::make_shared<RunData>();
        run->row.id = {id};
        run->row.name = "Run 2";
        run->row.driver = driver;
        run->row.session = session;
        run->row.start_unix_s = start;
        return std::shared_ptr<const RunData>(run);
    };
    const auto a = run_of(1, "Osei", "Saturday", 1781339400.0), b = run_of(2, "Brandvold", "Saturday", 1781339400.0),
               c = run_of(3, "Osei", "Sunday", 1781425800.0), d = run_of(4, "Osei", "Saturday", 1781425800.0);
    EXPECT_EQ(run_title(a->row, {a}), QStringLiteral("Run 2"));
    EXPECT_EQ(run_title(a->row, {a, b}), QStringLiteral("Run 2 (Osei)"));
    EXPECT_EQ(run_title(c->row, {a, c}), QStringLiteral("Run 2 (Sunday)")) << "one driver, another session";
    EXPECT_EQ(run_title(d->row, {a, d}), QStringLiteral("Run 2 (2026-06-14)")) << "another day";
    EXPECT_EQ(run_title(a->row, {a, a, run_of(9, "Osei", "Saturday", 1781339400.0)}), QStringLiteral("Run 2 (run 1)"))
        << "alike in all: its number";
}

TEST(Sentences, EvidenceNamesTheTwoMostTellingThings) {
    ZoneDifference d;
    EXPECT_TRUE(evidence(d).isEmpty());
    d.brake_on_m = -14;
    d.slowest_mps = -2.5;
    d.exit_mps = -1;
    EXPECT_EQ(plain(evidence(d)), "brakes 14 m earlier, 9.0 km/h slower at the slowest point");
    d.throttle_lift = 0.7;
    EXPECT_EQ(plain(evidence(d)), "lifts where A stays flat, brakes 14 m earlier");
    ZoneDifference faster;
    faster.brake_on_m = 8;
    faster.slowest_mps = 1;
    faster.inferred = true;
    EXPECT_EQ(plain(evidence(faster)), "brakes 8 m later, 3.6 km/h faster at the slowest point");
    ZoneDifference small;
    small.brake_on_m = -2;
    small.slowest_mps = 0.1;
    EXPECT_TRUE(evidence(small).isEmpty()) << "differences within the scatter are not talked about";
}

namespace {

/// Two laps with a gap, and what the corners hold of it.
ComparedLaps two_laps(double gap_s, const std::vector<std::pair<std::string, double>>& corners) {
    auto run = std::make_shared<RunData>();
    run->row.name = "Run 3";
    run->row.driver = "Osei";
    ComparedLaps out;
    for (int slot = 0; slot < 2; ++slot) {
        ComparedLap lap;
        lap.run = run;
        lap.lap.ref = {{3}, slot + 1};
        lap.gap = {{0, 1000}, {0, slot == 0 ? 0 : gap_s}};
        int number = 0;
        for (const auto& [name, loss_s] : corners) {
            ZoneDifference difference;
            difference.zone.corner.number = ++number;
            difference.zone.corner.name = name;
            difference.loss_s = loss_s;
            if (slot == 1) lap.differences.push_back(difference);
        }
        out.laps.push_back(std::move(lap));
    }
    return out;
}

}  // namespace

TEST(Headline, HoldsNoMoreThanTheGapAndSaysGainsApart) {
    EXPECT_EQ(headline(two_laps(0.5, {{"", 0.3}, {"", 0.1}, {"", 0.1}}), 1).remove(QChar(0x2009)),
              QStringLiteral("B (Osei, Run 3 lap 2) loses 0.500s to A. Turns 1, 2 and 3 hold 0.500s of it."));
    EXPECT_EQ(
        headline(two_laps(0.2, {{"", 0.5}, {"", -0.3}}), 1).remove(QChar(0x2009)),
        QStringLiteral("B (Osei, Run 3 lap 2) loses 0.200s to A. Turn 1 loses 0.500s; 0.300s is gained elsewhere."));
    EXPECT_EQ(headline(two_laps(-0.2, {{"", -0.5}, {"", 0.3}}), 1).remove(QChar(0x2009)),
              QStringLiteral(
                  "B (Osei, Run 3 lap 2) is quicker than A by 0.200s. Turn 1 gains 0.500s; 0.300s is lost elsewhere."));
    // Names where there are any.
    const QString named = headline(two_laps(0.5, {{"Gull Hook", 0.3}, {"", 0.1}}), 1);
    EXPECT_TRUE(named.contains(QStringLiteral("Gull Hook and Turn 2 hold"))) << named.toStdString();
    EXPECT_TRUE(headline(two_laps(0.5, {}), 1).endsWith(QStringLiteral("to A.")));
}

TEST(Shown, AChannelByItselfKeepsItsLoggersUnit) {
    Channel channel;
    channel.name = "Boost";
    channel.unit = "Pa";
    channel.source_unit = "bar";
    EXPECT_EQ(shown_by_itself(channel).unit, QStringLiteral("bar"));
    EXPECT_EQ(shown_by_itself(channel).text(1.25e5), QStringLiteral("1.25"));
    channel.unit = "K";
    channel.source_unit = "°C";
    EXPECT_EQ(shown_by_itself(channel).text(373.15), QStringLiteral("100.00"));
    channel.unit = channel.source_unit = "widgets";
    EXPECT_EQ(shown_by_itself(channel).unit, QStringLiteral("widgets"));
    EXPECT_EQ(shown_by_itself(channel).text(3), QStringLiteral("3.00"));
    EXPECT_EQ(shown("channel:Nobody Knows").label, QStringLiteral("Nobody Knows"));
}
