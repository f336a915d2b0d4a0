// Figures of laps: closed forms on ramps and steps, what people write, what is proposed, and the line over laps.
#include "core/analysis/lap_figures.h"

#include <gtest/gtest.h>

#include <cmath>
#include <limits>

#include "core/intake/lap_table.h"
#include "tests/support/got.h"

using namespace rendak;
using test::got;

namespace {

constexpr double nan_value = std::numeric_limits<double>::quiet_NaN();

/// Ten seconds at 10 Hz by a function of time.
template <class Of>
Channel channel(const std::string& quantity, const std::string& unit, Of of) {
    ChannelStorage storage;
    for (int i = 0; i <= 100; ++i) storage.floats.push_back(static_cast<float>(of(0.1 * i)));
    return make_channel(quantity, quantity, unit, std::move(storage), 0, 10);
}

PreparedLap lap_of(std::vector<Channel> channels, double begin_s, double end_s) {
    auto recording = std::make_shared<Recording>();
    recording->channels = std::move(channels);
    PreparedLap lap;
    lap.recording = recording;
    lap.map.time_s = {begin_s, end_s};
    lap.map.distance_m = {0, end_s - begin_s};
    return lap;
}

LapFigure figure_of_lap(const PreparedLap& lap, const std::string& column, double limit = 0) {
    return lap_figures(lap, got(lap_columns(column)), std::vector{limit}).at(0);
}

TEST(LapColumns, AreReadAsPeopleWriteThem) {
    const auto columns =
        got(lap_columns(" speed high ; oil_temperature above 95 °C;speed low in 5; speed at 1200 m;; coasting_time "));
    ASSERT_EQ(columns.size(), 5U);
    EXPECT_EQ(columns[0].channel, "speed");
    EXPECT_EQ(columns[0].statistic, LapStatistic::high);
    EXPECT_EQ(columns[1].limit, 95);
    EXPECT_EQ(columns[1].limit_unit, "°C");
    EXPECT_EQ(columns[2].corner, 5);
    EXPECT_EQ(columns[3].place_m, 1200);
    EXPECT_FALSE(columns[4].statistic);
    for (const LapColumn& it : columns) EXPECT_EQ(got(lap_columns(it.text())).at(0).text(), it.text());
    EXPECT_EQ(got(lap_columns("throttle above 0.5 in 3")).at(0).corner, 3);
    for (const char* wrong : {"", ";", "speed often", "speed high low", "speed above", "speed above fast",
                              "speed at 12", "speed at 12 s", "speed low in x", "speed low in 2.5", "speed low in 0",
                              "speed at 5 m in 2", "speed above 3 wombats", "speed above nan m/s", "speed low in 5 6"})
        EXPECT_FALSE(lap_columns(wrong)) << wrong;
}

TEST(LapFigures, NamesWithBlanksStandInQuotes) {
    const auto columns = got(lap_columns("\"channel:Oil Temp; left\" high in 3; speed low"));
    ASSERT_EQ(columns.size(), 2U);
    EXPECT_EQ(columns[0].channel, "channel:Oil Temp; left");
    EXPECT_EQ(columns[0].corner, 3);
    EXPECT_EQ(columns[0].text(), "\"channel:Oil Temp; left\" high in 3");
    EXPECT_EQ(got(lap_columns("\"speed\" low")).at(0).text(), "speed low");
    for (const char* wrong : {"\"\" low", "\"open", "\"a\"b"}) {
        const auto read = lap_columns(wrong);
        if (read) EXPECT_NE(read->front().channel, "") << wrong;
    }
}

TEST(LapFigures, TouchesAreTimesBelowTheLimitThatLieApart) {
    // Below a millimetre from 3.0 to 3.2 s, at 5.0 s, and again 0.3 s later: that is one with the last.
    const PreparedLap lap = lap_of({channel("ride_height_front", "m",
                                            [](double t) {
                                                const bool low = (t > 2.95 && t < 3.25) || std::abs(t - 5) < 0.05 ||
                                                                 std::abs(t - 5.3) < 0.05;
                                                return low ? 0.0005 : 0.02;
                                            })},
                                   0, 10);
    EXPECT_EQ(figure_of_lap(lap, "ride_height_front touches", 0.001).value, 2);
    EXPECT_NEAR(figure_of_lap(lap, "ride_height_front touches", 0.001).at_s, 3, 0.25);
    EXPECT_EQ(figure_of_lap(lap, "ride_height_front touches", 0.0004).value, 0);
    EXPECT_TRUE(std::isnan(figure_of_lap(lap, "ride_height_rear touches", 0.001).value));
    EXPECT_EQ(better_way(got(lap_columns("ride_height_front touches")).at(0)), Better::less);
    // What is worn, and the fuel, are read at the lap's end.
    const auto proposed = [](const char* quantity) {
        return proposed_statistics(channel(quantity, "", [](double t) { return 0.3 + 0.001 * t; }), {{0, 10}});
    };
    EXPECT_EQ(proposed("tyre_worn_fl"), std::vector{LapStatistic::end});
    EXPECT_EQ(proposed("fuel"), std::vector{LapStatistic::end});
}

TEST(LapMap, WalkingAlongIsTheSameAsAskingAnew) {
    LapMap map;
    for (int k = 0; k <= 50; ++k) {
        map.time_s.push_back(10 + 0.1 * k + (k % 3 == 0 ? 0.02 : 0));
        map.distance_m.push_back(4 * k + (k > 20 ? 30 : 0));
    }
    std::size_t near = 0;
    for (double t = 9.5; t < 16; t += 0.013) EXPECT_NEAR(map.distance_at(t, near), map.distance_at(t), 1e-9) << t;
    EXPECT_NEAR(map.distance_at(11, near), map.distance_at(11), 1e-9) << "back again";
}

TEST(LapFigures, AreThoseOfARampAndOfSteps) {
    const PreparedLap lap =
        lap_of({channel("speed", "m/s", [](double t) { return 10 * t; }),
                channel("gear", "", [](double t) { return t < 4 ? 2 : 3; }),
                channel("oil_temperature", "K", [](double t) { return t < 5 ? nan_value : 360 + t; })},
               2, 8);
    EXPECT_NEAR(figure_of_lap(lap, "speed low").value, 20, 1e-4);
    EXPECT_NEAR(figure_of_lap(lap, "speed low").at_s, 2, 1e-9);
    EXPECT_NEAR(figure_of_lap(lap, "speed high").value, 79, 1e-4) << "the sample on the line is the next lap's";
    EXPECT_NEAR(figure_of_lap(lap, "speed mean").value, 49.5, 1e-4);
    EXPECT_NEAR(figure_of_lap(lap, "speed end").value, 79, 1e-4);
    // 20 to 80: a third of the time is above 60, between the samples too.
    EXPECT_NEAR(figure_of_lap(lap, "speed above 1 m/s", 60).value, 1.0 / 3, 1e-6);
    EXPECT_NEAR(figure_of_lap(lap, "speed above 1 m/s", 60).at_s, 6, 1e-6);
    EXPECT_NEAR(figure_of_lap(lap, "speed above 1 m/s", 60.5).value, 1.95 / 6, 1e-6);
    EXPECT_NEAR(figure_of_lap(lap, "speed below 1 m/s", 60.5).value, 4.05 / 6, 1e-6);
    EXPECT_EQ(figure_of_lap(lap, "speed above 1 m/s", 500).value, 0);
    EXPECT_TRUE(std::isnan(figure_of_lap(lap, "speed above 1 m/s", 500).at_s));
    // A state does not run from one value to the next; at the limit it is neither above nor below.
    EXPECT_NEAR(figure_of_lap(lap, "gear above 2", 2).value, 4.0 / 6, 1e-6);
    EXPECT_EQ(figure_of_lap(lap, "gear below 2", 2).value, 0);
    EXPECT_NEAR(figure_of_lap(lap, "gear below 3", 3).value, 2.0 / 6, 1e-6);
    // Of the time for which it is logged.
    EXPECT_NEAR(figure_of_lap(lap, "oil_temperature above 300 K", 366).value, 2.0 / 3, 1e-4);
    EXPECT_NEAR(figure_of_lap(lap, "oil_temperature low").value, 365, 1e-3);
    // Not logged, or no places.
    for (const char* none : {"brake_front high", "speed at 3 m", "speed low in 1", "brake_front above 3 Pa"})
        EXPECT_TRUE(std::isnan(figure_of_lap(lap, none).value)) << none;
    const PreparedLap before = lap_of({channel("speed", "m/s", [](double t) { return t; })}, -5, -1);
    for (const char* none : {"speed low", "speed mean", "speed end", "speed above 3 m/s", "speed below 3 m/s"})
        EXPECT_TRUE(std::isnan(figure_of_lap(before, none).value)) << none;
}

TEST(LapFigures, ManyTogetherAreEachAsAlone) {
    const PreparedLap lap =
        lap_of({channel("speed", "m/s", [](double t) { return 20 + 5 * std::sin(t); }),
                channel("oil_temperature", "K", [](double t) { return t < 4 ? nan_value : 350 + t; })},
               1.04, 8.77);
    const auto columns =
        got(lap_columns("speed low; speed mean; oil_temperature mean; speed high; oil_temperature high;"
                        "oil_temperature low; speed end; speed above 21 m/s; no_such_thing mean"));
    const std::vector<double> limits{0, 0, 0, 0, 0, 0, 0, 21, 0};
    const std::vector<LapFigure> together = lap_figures(lap, columns, limits);
    ASSERT_EQ(together.size(), columns.size());
    for (std::size_t c = 0; c + 1 < columns.size(); ++c) {
        const LapFigure alone = figure_of_lap(lap, columns[c].text(), limits[c]);
        EXPECT_EQ(together[c].value, alone.value) << columns[c].text();
        if (!std::isnan(alone.at_s)) EXPECT_EQ(together[c].at_s, alone.at_s) << columns[c].text();
    }
    EXPECT_NEAR(together[0].value, 15, 0.01);
    EXPECT_NEAR(together[3].value, 25, 0.01);
    EXPECT_NEAR(together[5].value, 354, 0.01);
    EXPECT_TRUE(std::isnan(together.back().value));
}

TEST(LapFigures, TheFigureThatIsProposedFitsTheChannel) {
    const std::vector<Interval> laps{{0, 5}, {5, 10}};
    const auto proposed = [&](const std::string& quantity, const std::string& unit, auto of) {
        return proposed_statistics(channel(quantity, unit, of), laps);
    };
    using S = LapStatistic;
    const std::vector<S> all{S::low, S::mean, S::high};
    EXPECT_EQ(proposed("speed", "m/s", [](double t) { return 30 + std::sin(t); }), all);
    EXPECT_EQ(proposed("", "s", [](double t) { return std::fmod(t, 5); }), std::vector{S::end})
        << "begins anew at the line";
    EXPECT_EQ(proposed("", "m", [](double t) { return 100 + t; }), all) << "a total of the whole run is none of a lap";
    EXPECT_EQ(proposed("oil_temperature", "K", [](double t) { return 350 + t; }), std::vector{S::mean});
    EXPECT_EQ(proposed("gear", "", [](double t) { return t < 3 ? 2 : 3; }), std::vector{S::mean});
    EXPECT_EQ(proposed("", "", [](double) { return nan_value; }), all);
    EXPECT_EQ(proposed_statistics(channel("speed", "m/s", [](double t) { return t; }), {}), all);
}

TEST(LapTrend, IsTheLineWithTheLeastSquaresAndItsLikelyRange) {
    // By hand: slope, scatter and 2.776 standard errors with four degrees of freedom.
    const auto line = lap_trend({1, 2, 3, 4, 5, 6, 7}, {106.3, 106.4, 106.9, nan_value, 107.0, 107.6, 107.5});
    ASSERT_TRUE(line);
    EXPECT_EQ(line->laps, 6U);
    EXPECT_NEAR(line->per_lap, 0.2178571429, 1e-9);
    EXPECT_NEAR(line->scatter, 0.1775326932, 1e-9);
    EXPECT_NEAR(line->likely.length() / 2, 0.093151, 1e-3);
    EXPECT_TRUE(line->sure());
    EXPECT_EQ(trend_words(*line, 1, "s"), "rises by 0.22 s a lap, ± 0.09 s");
    EXPECT_EQ(trend_words(*line, 1000, "ms").substr(0, 16), "rises by 218 ms ");
    EXPECT_FALSE(lap_trend({1, 2}, {3, 4}));
    EXPECT_FALSE(lap_trend({4, 4, 4}, {3, 4, 5}));
    const auto chance = lap_trend({1, 2, 3, 4}, {5, 6, 4, 5.5});
    ASSERT_TRUE(chance);
    EXPECT_FALSE(chance->sure());
    EXPECT_EQ(trend_words(*chance, 1, "s"), "");
}

TEST(LapTrend, LikelyRangesHoldTheTruthNineteenTimesInTwenty) {
    // Noise from a fixed generator about known slopes.
    std::uint64_t state = 7;
    const auto uniform = [&] {
        state = state * 6364136223846793005ULL + 1442695040888963407ULL;
        return static_cast<double>(state >> 11) / 9007199254740992.0;
    };
    int held = 0;
    constexpr int trials = 2000;
    for (int k = 0; k < trials; ++k) {
        const double slope = uniform() - 0.5;
        std::vector<double> x, y;
        for (int i = 0; i < 9; ++i) {
            x.push_back(i + 1);
            double noise = -6;
            for (int j = 0; j < 12; ++j) noise += uniform();
            y.push_back(100 + slope * i + 0.3 * noise);
        }
        const auto line = lap_trend(x, y);
        ASSERT_TRUE(line);
        held += line->likely.begin <= slope && slope <= line->likely.end ? 1 : 0;
    }
    EXPECT_NEAR(held / static_cast<double>(trials), 0.95, 0.015);
}

TEST(LapColumns, ReadyOnesCanBeReadAndAreMissingWithoutRuns) {
    for (const char* name : {"driver", "speeds", "pedals", "tyres", "brakes", "engine", "fuel"}) {
        const ReadyColumns set = got(ready_columns(name, {}));
        ASSERT_EQ(set.columns.size(), 1U) << "the lap time can always be had: " << name;
        EXPECT_GE(set.missing.size(), 2U) << name;
    }
    EXPECT_NE(ready_columns("nonsense", {}).error().message.find("There are: driver, speeds"), std::string::npos);
}

}  // namespace
