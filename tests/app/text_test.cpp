#include <gtest/gtest.h>

#include <cmath>

#include "app/text/sentences.h"
#include "app/text/shown.h"

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
    EXPECT_EQ(plain(evidence(faster)),
              "brakes 8 m later, 3.6 km/h faster at the slowest point (pedals inferred from acceleration)");
    ZoneDifference small;
    small.brake_on_m = -2;
    small.slowest_mps = 0.1;
    EXPECT_TRUE(evidence(small).isEmpty()) << "differences within the scatter are not talked about";
}
