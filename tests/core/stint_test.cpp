// Warm-up, break-away and stints: curves with known ends under noise, and the demo's two long runs.
#include "core/intake/stint_pair.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "core/analysis/line_fit.h"
#include "core/intake/day_report.h"
#include "core/intake/lap_scatter.h"
#include "core/intake/round_the_lap.h"
#include "core/intake/run_recording.h"
#include "core/intake/tread.h"
#include "core/intake/windows.h"
#include "demo/drive.h"
#include "tests/support/weekend_test.h"

using namespace rendak;
using test::got;

namespace {

std::vector<double> laps(int n) {
    std::vector<double> out;
    for (int i = 1; i <= n; ++i) out.push_back(i);
    return out;
}

template <class Of>
std::vector<double> values(int n, Of of) {
    std::vector<double> out;
    for (int i = 1; i <= n; ++i) out.push_back(of(i));
    return out;
}

TEST(Settling, TheEndAndTheLapOfAnExactCurve) {
    const auto it = settling(laps(12), values(12, [](int i) { return 90 - 30 * std::exp(-(i - 1) / 1.5); }));
    ASSERT_TRUE(it && it->from_lap);
    EXPECT_NEAR(it->end, 90, 0.1);
    EXPECT_NEAR(it->off_at_first, -30, 0.3);
    EXPECT_NEAR(it->time_constant, 1.5, 0.06);
    // A twentieth is left after 1.5 · ln 20 = 4.5 laps.
    EXPECT_EQ(*it->from_lap, 6);
    // From above, and with laps that are not known.
    auto falling = values(12, [](int i) { return 2.1 + 0.4 * std::exp(-(i - 1) / 1.5); });
    falling[3] = std::nan("");
    EXPECT_EQ(settling(laps(12), falling)->from_lap, 6);
    // Along a line nothing settles; what never moved was settled from the start.
    EXPECT_FALSE(settling(laps(12), values(12, [](int i) { return 80.0 + i; })));
    EXPECT_FALSE(settling(laps(4), values(4, [](int i) { return 80.0 + i; })));
    EXPECT_FALSE(settling({}, {}));
    // What only scatters is not told to settle late.
    std::mt19937 random(3);
    std::normal_distribution<double> normal;
    int late = 0;
    constexpr int trials = 200;
    for (int k = 0; k < trials; ++k) {
        const auto still = settling(laps(12), values(12, [&](int) { return 80 + normal(random); }));
        late += still && still->from_lap.value_or(1) > 3 ? 1 : 0;
    }
    EXPECT_LT(late, 0.1 * trials);
}

TEST(Settling, IsWithinALapUnderNoise) {
    std::mt19937 random(11);
    std::normal_distribution<double> normal;
    std::uniform_real_distribution<double> constants(0.7, 3), rises(10, 40);
    int told = 0, near = 0, covered = 0;
    constexpr int trials = 400;
    for (int k = 0; k < trials; ++k) {
        const double constant = constants(random), rise = rises(random);
        const auto it = settling(laps(16), values(16, [&](int i) {
                                     return 90 - rise * std::exp(-(i - 1) / constant) + 0.3 * normal(random);
                                 }));
        if (!it || !it->from_lap) continue;
        ++told;
        const double truth = 1 + constant * std::log(20.0);
        near += std::abs(*it->from_lap - std::ceil(truth)) <= 1 ? 1 : 0;
        covered += it->likely.begin - 0.3 <= truth && truth <= it->likely.end + 0.3 ? 1 : 0;
    }
    EXPECT_GT(told, 0.97 * trials);
    EXPECT_GT(near, 0.95 * told);
    EXPECT_GT(covered, 0.85 * told);
}

TEST(BreakAway, IsFoundWhereItIsAndNotWhereThereIsNone) {
    const auto exact =
        break_away(laps(16), values(16, [](int i) { return 106 + 0.02 * i + 0.25 * std::max(0, i - 10); }));
    ASSERT_TRUE(exact);
    EXPECT_EQ(exact->from_lap, 10);
    EXPECT_NEAR(exact->before_per_lap, 0.02, 1e-6);
    EXPECT_NEAR(exact->after_per_lap, 0.27, 1e-6);
    EXPECT_FALSE(break_away(laps(7), values(7, [](int i) { return i > 4 ? 2.0 * i : 0.0; })));
    // Getting better is no break-away.
    EXPECT_FALSE(break_away(laps(16), values(16, [](int i) { return 106 - 0.3 * std::max(0, i - 10); })));
    std::mt19937 random(5);
    std::normal_distribution<double> normal;
    int found = 0, right = 0, wrong = 0;
    constexpr int trials = 300;
    for (int k = 0; k < trials; ++k) {
        const auto broken = break_away(laps(18), values(18, [&](int i) {
                                           return 106 + 0.02 * i + 0.3 * std::max(0, i - 12) + 0.15 * normal(random);
                                       }));
        found += broken ? 1 : 0;
        right += broken && std::abs(broken->from_lap - 12) <= 2 ? 1 : 0;
        wrong +=
            break_away(laps(18), values(18, [&](int i) { return 106 + 0.04 * i + 0.15 * normal(random); })) ? 1 : 0;
    }
    EXPECT_GT(found, 0.9 * trials);
    EXPECT_GT(right, 0.9 * found);
    EXPECT_LT(wrong, 0.05 * trials);
}

TEST(Correlation, OfLinesAndOfNothing) {
    const auto of = [](const std::vector<double>& x, const std::vector<double>& y) { return correlation(x, y); };
    EXPECT_NEAR(of({1, 2, 3, 4}, {2, 4, 6, 8}), 1, 1e-12);
    EXPECT_NEAR(of({1, 2, 3, 4}, {8, 6, 4, 2}), -1, 1e-12);
    EXPECT_NEAR(of({1, 2, 3, 4}, {1, -1, -1, 1}), 0, 1e-12);
    EXPECT_NEAR(of({1, 2, 3, 4, 5}, {1, 3, 2, 5, 4}), 0.8, 1e-12);
    EXPECT_TRUE(std::isnan(of({1, 2, 3}, {1, 2, 3})));
    EXPECT_TRUE(std::isnan(of({1, 2, 3, std::nan("")}, {1, 2, 3, 4})));
    EXPECT_TRUE(std::isnan(of({1, 1, 1, 1}, {1, 2, 3, 4})));
    EXPECT_TRUE(std::isnan(of({1, 2, 3, 4}, {5, 5, 5, 5})));
}

class StintDemo : public test::WeekendTest {};

/// What the wear of a run's tyres costs a lap more with every lap, and a litre of fuel: driven again without them.
struct StintTruth {
    double fall_off_s = 0, s_per_litre = 0;
};
StintTruth truth_of(const std::string& name) {
    const demo::Circuit circuit = demo::skerrow_point();
    for (const demo::RunPlan& plan : demo::sunday()) {
        if (plan.name != name) continue;
        const auto times = [&](const demo::RunPlan& run) {
            const demo::Drive drive = demo::drive_run(circuit, run.car, run);
            std::vector<double> out;
            for (std::size_t k = 1; k < drive.crossings_s.size(); ++k)
                out.push_back(drive.crossings_s[k] - drive.crossings_s[k - 1]);
            return out;
        };
        demo::RunPlan fresh = plan, heavy = plan;
        for (demo::LapPlan& lap : fresh.laps) lap.pace = lap.pace > 0.9 ? 1 : lap.pace;
        constexpr double litres = 10;
        heavy.car.mass_kg += litres * heavy.car.fuel_kg_per_l;
        const auto as_is = times(plan), as_new = times(fresh), with_more = times(heavy);
        const std::size_t last = as_is.size() - 1;
        return {(as_is[last] - as_new[last] - as_is[0] + as_new[0]) / static_cast<double>(last),
                (with_more[8] - as_is[8]) / litres};
    }
    ADD_FAILURE() << name;
    return {};
}

TEST_F(StintDemo, SetupYIsTheCureInOneTable) {
    const Stint x = got(stint_of(run(4))), y = got(stint_of(run(5)));
    EXPECT_EQ(x.laps.size(), 18U);
    // The fronts of X overheat, its left ones more; Y is evener.
    EXPECT_GT(x.balance(wheel_kind::carcass)->front_minus_rear, 10);
    EXPECT_LT(std::abs(y.balance(wheel_kind::carcass)->front_minus_rear), 5);
    EXPECT_GT(x.balance(wheel_kind::pressure)->spread, 1.3 * y.balance(wheel_kind::pressure)->spread);
    const StintTruth of_x = truth_of("Run 5"), of_y = truth_of("Run 6");
    ASSERT_TRUE(x.fall_off && y.fall_off);
    EXPECT_TRUE(x.fall_off->sure());
    EXPECT_NEAR(x.fall_off->per_lap, of_x.fall_off_s, 0.2 * of_x.fall_off_s);
    EXPECT_TRUE(y.fall_off->likely.contains(of_y.fall_off_s));
    EXPECT_NEAR(*x.s_per_litre, of_x.s_per_litre, 0.001) << "the sheet's";
    ASSERT_TRUE(x.settled_from);
    EXPECT_NEAR(*x.settled_from, 5, 1);
    for (const StintReading& it : x.readings)
        EXPECT_EQ(it.settling.has_value(), it.kind == wheel_kind::carcass || it.kind == wheel_kind::pressure);

    // Y stops before the line of lap 14 and goes on on the same tyres: they have to come in once more, which is no
    // other end than they had.
    EXPECT_NEAR(*y.settled_from, 5, 1);
    std::string cold;
    for (std::size_t k = 0; k < y.laps.size(); ++k) cold += y.cold[k] != 0 ? 'c' : '.';
    EXPECT_TRUE(cold == "cccc..........cccc" || cold == "cccc..........ccc.") << cold;
    EXPECT_FALSE(y.counts[13]) << "it stood";

    const StintPair pair = compare_stints(x, y);
    EXPECT_NE(pair.text.find("B keeps its pace better"), std::string::npos) << pair.text;
    ASSERT_TRUE(pair.b_quicker_from);
    const auto verdict = [&](const std::string& title) {
        for (const StintFigure& it : pair.figures)
            if (it.title == title) return it.verdict();
        ADD_FAILURE() << title;
        return StintFigure::Verdict::unknown;
    };
    using Verdict = StintFigure::Verdict;
    EXPECT_EQ(verdict("front − rear, carcass"), Verdict::better);
    EXPECT_EQ(verdict("left − right front, carcass"), Verdict::better);
    EXPECT_EQ(verdict("spread of four pressures"), Verdict::better);
    EXPECT_EQ(verdict("most worn tyre after 18 laps"), Verdict::better);
    EXPECT_EQ(verdict("rears worn after 18 laps"), Verdict::worse) << "the price of the cure";
    // Against itself nothing differs.
    const StintPair same = compare_stints(x, x);
    for (const StintFigure& it : same.figures) EXPECT_EQ(it.verdict(), Verdict::alike) << it.title;
    EXPECT_FALSE(same.a_quicker_from || same.b_quicker_from);
    EXPECT_NE(same.text.find("No difference"), std::string::npos);
    // And the other way round the cure is taken back.
    const StintPair back = compare_stints(y, x);
    EXPECT_TRUE(back.a_quicker_from);
    EXPECT_NE(back.text.find("A keeps its pace better"), std::string::npos) << back.text;
}

/// A run whose channels read otherwise.
std::shared_ptr<const RunData> reading(const std::shared_ptr<const RunData>& run, const std::string& prefix,
                                       double factor, double offset) {
    auto recording = std::make_shared<Recording>(*run->recording);
    for (Channel& channel : recording->channels) {
        if (channel.quantity.starts_with(prefix)) channel = rescaled(channel, factor, offset);
    }
    auto out = std::make_shared<RunData>(*run);
    out->recording = recording;
    return out;
}

TEST_F(StintDemo, HotterDiscsAreAGainWhereTheStraightGotQuickerAndNoneWhereTheyAreTooHot) {
    using Says = DuctReading::Says;
    // Far inside of the window (up to 550 °C), then ducts half closed.
    const auto cool = reading(run(4), "brake_temperature", 0.6, 0);
    const Stint before = got(stint_of(cool));
    const auto says = [&](double hotter_k, double quicker) {
        const auto closed = reading(reading(run(4), "brake_temperature", 0.6, hotter_k), "speed", quicker, 0);
        const DuctReading read = got(compare_ducts(cool, before, closed, got(stint_of(closed))));
        EXPECT_NEAR(read.hottest_b - read.hottest_a, hotter_k, 0.1);
        EXPECT_NEAR(read.top_speed_b / read.top_speed_a, quicker, 1e-4);
        EXPECT_NEAR(*read.most, 550 + 273.15, 1e-6);
        return read.says;
    };
    EXPECT_EQ(says(40, 1.02), Says::gain);
    EXPECT_EQ(says(40, 1), Says::costs_nothing);
    EXPECT_EQ(says(340, 1.02), Says::too_hot) << "its hottest moment is above the window";
    EXPECT_EQ(says(-40, 1), Says::cooler);
    EXPECT_EQ(says(0, 1.02), Says::nothing) << "no difference of the discs";
    // Without discs nothing is told, and the straight is.
    auto recording = std::make_shared<Recording>(*run(4)->recording);
    std::erase_if(recording->channels, [](const Channel& it) { return it.quantity.starts_with("brake_temperature"); });
    auto without = std::make_shared<RunData>(*run(4));
    without->recording = recording;
    const DuctReading bare = got(compare_ducts(without, got(stint_of(without)), cool, before));
    EXPECT_TRUE(std::isnan(bare.hottest_a));
    EXPECT_NEAR(bare.top_speed_a, bare.top_speed_b, 1e-9);
    EXPECT_EQ(bare.says, Says::nothing);
}

TEST(StintFigures, NearerToZeroIsBetterAndTheOtherSideIsAnotherFault) {
    using Verdict = StintFigure::Verdict;
    const auto verdict = [](double a, double b, double half, StintFigure::Way way) {
        StintFigure it{"", "", true, a, b, Interval{b - a - half, b - a + half}, way};
        return it.verdict();
    };
    using Way = StintFigure::Way;
    EXPECT_EQ(verdict(13, -1, 0.5, Way::nearer_zero), Verdict::better);
    EXPECT_EQ(verdict(-1, 13, 0.5, Way::nearer_zero), Verdict::worse);
    EXPECT_EQ(verdict(5, -5.1, 0.5, Way::nearer_zero), Verdict::other);
    EXPECT_EQ(verdict(5, 5.2, 0.5, Way::nearer_zero), Verdict::alike);
    EXPECT_EQ(verdict(5, 4, 0.5, Way::less), Verdict::better);
    EXPECT_EQ(verdict(5, 4, 0.5, Way::more), Verdict::worse);
    EXPECT_EQ(verdict(5, 4, 0.5, Way::neither), Verdict::other);
    EXPECT_EQ((StintFigure{"", "", false, 1, 2}).verdict(), Verdict::unknown);
}

TEST_F(StintDemo, TreadAndSpikesOfTheTwoSetups) {
    const auto run_x = run(4), run_y = run(5);
    const Stint x = got(stint_of(run_x)), y = got(stint_of(run_y));
    const auto tread = tread_readings(*run_x, x);
    ASSERT_EQ(tread.size(), 4U);
    for (const TreadReading& it : tread) {
        // Made with the inner edge 10 K hotter, less by 7 K a g on the outside wheel: at 0.3 g and more by 2 at least.
        EXPECT_NEAR(it.straight.inner_minus_outer, 10, 1);
        EXPECT_LT(it.loaded.inner_minus_outer, it.straight.inner_minus_outer - 2);
        EXPECT_NEAR(it.straight.middle_minus_edges, 0, 0.5);
        EXPECT_GT(it.loaded.seconds, 10);
    }
    const auto of = [&](const auto& data, const Stint& stint) {
        return round_the_lap(*data, stint, {"tyre_outer_fl"}).front();
    };
    const RoundTheLap a = of(run_x, x), b = of(run_y, y);
    ASSERT_EQ(a.values.size(), RoundTheLap::places);
    EXPECT_EQ(a.laps, 14U);
    const auto spike = spike_difference(a, b);
    ASSERT_TRUE(spike);
    EXPECT_LT(spike->beyond_mean, 0) << "where the fronts work hardest, Y spares them most";
    EXPECT_LT(spike->b, spike->a);
    EXPECT_FALSE(spike_difference(a, {}));
    EXPECT_NEAR(spike_difference(a, a)->beyond_mean, 0, 1e-9);
}

TEST_F(StintDemo, WhereTheScatterComesFromAddsUp) {
    const auto scatter = lap_scatter({run(2), run(4), run(14)});
    ASSERT_EQ(scatter.size(), 3U);
    for (std::size_t k = 0; k < 2; ++k) {
        double sum = 0;
        for (const auto& it : scatter[k].sections) sum += it.share;
        EXPECT_NEAR(sum, 1, 1e-6);
        EXPECT_GT(scatter[k].sections.front().share, 1.0 / static_cast<double>(scatter[k].sections.size()));
        EXPECT_GT(scatter[k].sections.front().sd_s, 0);
    }
    EXPECT_TRUE(scatter[2].sections.empty()) << "one climb";
}

TEST(FuelEffect, IsToldWhereTheCarIsRefuelledAndOnlyThere) {
    std::mt19937 random(7);
    std::normal_distribution<double> normal;
    int told = 0, covered = 0, without = 0;
    constexpr int trials = 200;
    for (int k = 0; k < trials; ++k) {
        std::vector<double> lap, time, fuel, falling, time_falling;
        for (int i = 0; i < 24; ++i) {
            lap.push_back(i + 1);
            fuel.push_back(20 - 1.5 * (i % 12));
            falling.push_back(40 - 1.5 * i + 0.3 * normal(random));
            const double scatter = 0.08 * normal(random);
            time.push_back(90 + 0.05 * i + 0.03 * fuel.back() + scatter);
            time_falling.push_back(90 + 0.05 * i + 0.03 * falling.back() + scatter);
        }
        const auto effect = fitted_fuel_effect(lap, time, fuel);
        told += effect ? 1 : 0;
        covered += effect && effect->likely.contains(0.03) ? 1 : 0;
        without += fitted_fuel_effect(lap, time_falling, falling) ? 1 : 0;
    }
    EXPECT_GT(told, 0.95 * trials);
    EXPECT_GT(covered, 0.9 * told);
    EXPECT_EQ(without, 0) << "weight and tyres are one thing there";
    EXPECT_FALSE(fitted_fuel_effect({}, {}, {}));
    EXPECT_FALSE(fitted_fuel_effect({1, 2, 3}, {90, 91, 92}, {10, 9, 8}));
}

TEST_F(StintDemo, WhatALitreCostsIsTakenOut) {
    const Stint bare = got(stint_of(run(4), 0.0)), steady = got(stint_of(run(4), 0.03));
    for (std::size_t k = 0; k < bare.laps.size(); ++k)
        EXPECT_NEAR(steady.steady_s[k] - bare.time_s[k], 0.03 * (bare.fuel_l.front() - bare.fuel_l[k]), 1e-9);
    // 1.08 l a lap.
    EXPECT_NEAR(steady.fall_off->per_lap - bare.fall_off->per_lap, 0.03 * 1.08, 0.002);
    EXPECT_NE(steady.text.find("With 0.030 s a litre"), std::string::npos);
    // A climb is one lap: nothing is told of its pace.
    const Stint hill = got(stint_of(run(14)));
    EXPECT_FALSE(hill.fall_off || hill.breaks || hill.settled_from);
    EXPECT_NE(hill.text.find("too few laps count"), std::string::npos) << hill.text;
}

TEST_F(StintDemo, TheDaySaysWhatImprovedAndWhatIsRuledOut) {
    std::vector<std::shared_ptr<const RunData>> runs{run(12), run(4), run(2), run(3)};
    const auto day = got(day_report(runs));
    ASSERT_EQ(day.size(), 4U);
    const auto of = [&](std::int64_t id) {
        return *std::find_if(day.begin(), day.end(), [&](const DayRun& it) { return it.run.id.value == id; });
    };
    EXPECT_EQ(day[0].run.id.value, 2) << "in the order driven";
    EXPECT_FALSE(day[0].since);
    EXPECT_FALSE(of(3).since) << "another driver's first run";
    EXPECT_EQ(of(12).since->value, 4);
    const auto any = [](const std::vector<std::string>& sentences, const std::string& text) {
        return std::any_of(sentences.begin(), sentences.end(),
                           [&](const std::string& it) { return it.find(text) != std::string::npos; });
    };
    // In the order driven also among runs of another setup, whose softer front springs let the floor down.
    const auto chain = got(day_report(std::vector{run(12), run(11), run(4)}));
    EXPECT_EQ(chain[2].since->value, 11);
    EXPECT_TRUE(any(chain[2].improved, "the lap time fell by 0."));
    EXPECT_TRUE(any(chain[2].improved, "the top speed"));
    EXPECT_FALSE(chain[1].ruled_out.empty()) << "the top speed fell";
    // New tyres are quicker, in the corners only; the worn run was slower than Saturday's.
    EXPECT_TRUE(any(of(12).improved, "the lap time fell by 1."));
    EXPECT_FALSE(any(of(12).improved, "the top speed"));
    EXPECT_TRUE(any(of(4).worsened, "the lap time grew by 0."));
    EXPECT_FALSE(of(4).next.empty());
    for (const DayRun& it : day) {
        EXPECT_NEAR(it.mean_s, it.figures.front().mean, 1e-9);
        EXPECT_LE(it.best_s, it.mean_s);
        EXPECT_TRUE(it.ruled_out.empty()) << "no top speed fell";
    }
    // Along the edges the top speed is low; what cannot be the cause is told with the reason, from what is noted.
    const auto without = got(day_report(std::vector{run(3), run(13)}));
    EXPECT_TRUE(any(without[1].worsened, "the top speed fell by"));
    EXPECT_TRUE(any(without[1].ruled_out, "Heat cannot be ruled out"));
    std::vector<std::shared_ptr<const RunData>> noted;
    for (const std::int64_t id : {3, 13}) {
        auto copy = std::make_shared<RunData>(*run(id));
        copy->row.air_c = id == 3 ? 17 : 16;
        copy->row.wind_mps = id == 3 ? 1.0 : 4.0;
        noted.push_back(copy);
    }
    const auto told = got(day_report(noted));
    EXPECT_TRUE(any(told[1].ruled_out, "Not the heat: 17 and 16 °C."));
    EXPECT_FALSE(any(told[1].ruled_out, "ind")) << "it blew";
    EXPECT_TRUE(got(day_report({})).empty());
}

TEST_F(StintDemo, WindowsAddUpAndComeFromTheSheet) {
    const Windows x = got(windows_of(run(4))), y = got(windows_of(run(5)));
    EXPECT_EQ(x.sheet, "Club prototype 27, 2026");
    const auto of = [](const Windows& all, const std::string& channel) {
        for (const WindowShare& it : all.shares)
            if (it.channel == channel) return it;
        ADD_FAILURE() << channel;
        return WindowShare{};
    };
    for (const WindowShare& it : x.shares) {
        EXPECT_NEAR(it.below + it.inside + it.above, 1, 1e-9) << it.channel;
        EXPECT_EQ(it.laps, 18U);
    }
    // 70 to 95 °C.
    EXPECT_NEAR(*of(x, "tyre_temperature_fl").window.low, 343.15, 1e-6);
    EXPECT_GT(of(x, "tyre_temperature_fl").above, 0.8);
    EXPECT_LT(of(y, "tyre_temperature_fl").above, 0.5);
    EXPECT_EQ(of(x, "oil_temperature").above, 0);
    EXPECT_EQ(of(x, "oil_temperature").below, 0) << "it has no lower limit";
    EXPECT_EQ(x.unknown.size(), 0U);
    // Of its own set of tyres, where the sheet knows it.
    CarSheet sheet{got(library().runs()).front().car, "2026", "2026-03-02", {}};
    sheet.values = {
        {"tyre window low C2", "90", "°C"}, {"tyre window low", "70", "°C"}, {"tyre window high", "95", "°C"}};
    ASSERT_TRUE(library().put_car_sheet(sheet));
    EXPECT_NEAR(*of(got(windows_of(run(4))), "tyre_temperature_fl").window.low, 363.15, 1e-6);
    EXPECT_NEAR(*of(got(windows_of(run(5))), "tyre_temperature_fl").window.low, 343.15, 1e-6);
}

}  // namespace
