// The time ledger: it adds up, and books a cause where it was; on circuits and cars that nothing was tuned to.
#include "core/analysis/ledger.h"

#include <gtest/gtest.h>

#include <cmath>
#include <numeric>
#include <set>

#include "core/analysis/lap_choice.h"
#include "core/intake/lap_set.h"
#include "tests/support/demo_data.h"
#include "tests/support/demo_world.h"
#include "tests/support/figures_only.h"
#include "tests/support/got.h"
#include "tests/support/made_world.h"

using namespace rendak;
using namespace rendak::test;
using demo::Cue;

namespace {

double sum(const Ledger& ledger, auto value) {
    return std::accumulate(ledger.rows.begin(), ledger.rows.end(), 0.0,
                           [&](double total, const LedgerRow& row) { return total + value(row); });
}
double losses(const Ledger& ledger) {
    return sum(ledger, [](const LedgerRow& row) { return row.loss_s; });
}
double pulls(const Ledger& ledger) {
    return sum(ledger, [](const LedgerRow& row) { return row.pull_s.value_or(0); });
}

/// Everything in it adds up, whatever it is of.
void expect_sums(const Ledger& ledger, double difference_s) {
    EXPECT_NEAR(ledger.total_s, difference_s, 1e-9);
    EXPECT_NEAR(losses(ledger), difference_s, 1e-3);
    EXPECT_NEAR(sum(ledger, [](const LedgerRow& row) { return row.here_s; }), difference_s, 1e-3);
    double before = 0;
    for (const LedgerRow& row : ledger.rows) {
        EXPECT_NEAR(row.range_m.begin, before, 1e-9) << row.name;
        before = row.range_m.end;
        EXPECT_NEAR(row.braking_s + row.entry_s + row.exit_s + row.straight_s, row.loss_s, 1e-9) << row.name;
        EXPECT_NEAR(row.braking_s + row.entry_s + row.exit_s, row.own_s, 1e-9) << row.name;
        if (row.carried_s) EXPECT_NEAR(row.own_s + *row.carried_s + *row.pull_s, row.loss_s, 1e-6) << row.name;
    }
}

/// The row of the corner that somebody drew at a place of the road.
const LedgerRow& row_of(const Ledger& ledger, const MadeWorld& world, double along_m) {
    const double place_m = world.place_on_track(along_m) - 1;
    for (const LedgerRow& row : ledger.rows) {
        if (row.range_m.contains(place_m)) return row;
    }
    return ledger.rows.back();
}

/// What is lost there is lost in two laps.
bool is_near_line(const MadeWorld& world, const demo::CircuitCorner& corner) {
    return corner.start_m < 200 || corner.end_m > world.circuit().length_m - 200;
}

/// A fault at the corner, in every lap.
demo::RunPlan faulty(int laps, std::uint64_t seed, double scatter, Cue cue) {
    auto plan = MadeWorld::plan(laps, seed, scatter);
    for (auto& lap : plan.laps) lap.cues.push_back(cue);
    return plan;
}

TEST(Ledger, OfTheDemosTwoDriversAddsUpAndFindsTheirCorners) {
    const auto& world = demo_world();
    const PreparedLap a = world.runs[1].lap(4, world.track), b = world.runs[2].lap(1, world.track);
    const Ledger ledger = got(ledger_of(std::span(&a, 1), std::span(&b, 1)));
    expect_sums(ledger, b.time_s() - a.time_s());
    ASSERT_EQ(ledger.rows.size(), world.track->corners.size() + 1);
    EXPECT_GT(ledger.rows[5].loss_s, 0.7);
    EXPECT_GT(ledger.rows[5].own_s, 0.7) << "braked early and over-slowed";
    EXPECT_GT(*ledger.rows[6].carried_s, 0.15) << "the lift is carried along";
    // One car: what is left to the engine is next to nothing.
    for (const LedgerRow& row : ledger.rows) EXPECT_LT(std::abs(row.pull_s.value_or(0)), 0.025) << row.name;
    EXPECT_FALSE(ledger.likely_s);
    for (const LedgerRow& row : ledger.rows) EXPECT_FALSE(row.likely_s);
    // Against itself there is nothing at all.
    const Ledger same = got(ledger_of(std::span(&a, 1), std::span(&a, 1)));
    for (const LedgerRow& row : same.rows) {
        EXPECT_NEAR(row.loss_s, 0, 1e-9);
        EXPECT_EQ(row.seen_on, 0U);
        EXPECT_EQ(row.verdict, LedgerRow::Verdict::none);
    }
}

TEST(Ledger, BooksACauseWhereItWas) {
    RENDAK_FIGURES_ONLY("LedgerOdd");
    // Each made-up drive has one cause; the rest of it is the same drive.
    double worst_power = 1, worst_corner = 1;
    int corners = 0;
    for (unsigned seed = 41; seed < 45; ++seed) {
        const MadeWorld world(seed);
        const auto a = world.run(MadeWorld::plan(3, seed, 0));
        ASSERT_GE(a.laps.size(), 2U) << seed;
        const auto against = [&](const demo::RunPlan& plan) {
            const auto b = world.run(plan);
            const Ledger out = got(ledger_of(a.laps, b.laps));
            double times_a = 0, times_b = 0;
            for (const PreparedLap& lap : a.laps) times_a += lap.time_s() / static_cast<double>(a.laps.size());
            for (const PreparedLap& lap : b.laps) times_b += lap.time_s() / static_cast<double>(b.laps.size());
            expect_sums(out, times_b - times_a);
            return out;
        };
        auto weaker = MadeWorld::plan(3, seed, 0);
        weaker.car.power_w *= 0.94;
        const Ledger power = against(weaker);
        ASSERT_TRUE(power.pull.known());
        EXPECT_GT(power.total_s, 0.3);
        worst_power = std::min(worst_power, pulls(power) / power.total_s);
        int opening = 0, closing = 0;
        for (const LedgerRow& row : power.rows) {
            opening += row.verdict == LedgerRow::Verdict::opening;
            closing += row.verdict == LedgerRow::Verdict::closing;
        }
        EXPECT_GT(opening, 3);
        EXPECT_EQ(closing, 0);
        double last_end = 0;
        for (const auto& corner : world.circuit().corners) {
            for (const Cue cue :
                 {Cue{Cue::Kind::slower, corner.number, 0.06}, Cue{Cue::Kind::brake_early, corner.number, 12.0}}) {
                const Ledger ledger = against(faulty(3, seed, 0, cue));
                // Where the car is not held up there is nothing to find; across the line it is two laps' loss.
                if (ledger.total_s < 0.05 || is_near_line(world, corner)) continue;
                // Who brakes early does so for every corner within 260 m.
                if (cue.kind == Cue::Kind::brake_early && corner.start_m - last_end < 280) continue;
                const LedgerRow& row = row_of(ledger, world, corner.apex_m);
                worst_corner = std::min(worst_corner, row.loss_s / ledger.total_s);
                EXPECT_GT(row.loss_s, 0.75 * ledger.total_s)
                    << "world " << seed << ", corner " << corner.number << " at " << corner.apex_m << " m, cue "
                    << static_cast<int>(cue.kind);
                EXPECT_LT(std::abs(pulls(ledger)), 0.12 * ledger.total_s + 0.01);
                ++corners;
            }
            last_end = corner.end_m;
        }
    }
    std::printf("  6 %% less power: at least %.0f %% of the loss is pull\n", 100 * worst_power);
    std::printf("  %d corners with one fault: at least %.0f %% of the loss is in its row\n", corners,
                100 * worst_corner);
    EXPECT_GT(worst_power, 0.7);
    EXPECT_GT(corners, 20);
}

TEST(Ledger, SaysHowSureItIs) {
    RENDAK_FIGURES_ONLY("LedgerOdd");
    // Two runs of the same driver and car: of what differs, next to nothing is sure. And a fault in one: it is.
    int rows = 0, sure = 0, found = 0, faults = 0;
    for (unsigned seed = 51; seed < 54; ++seed) {
        const MadeWorld world(seed);
        const auto a = world.run(MadeWorld::plan(6, seed * 3, 1)), b = world.run(MadeWorld::plan(6, seed * 3 + 1, 1));
        const Ledger nothing = got(ledger_of(a.laps, b.laps));
        ASSERT_TRUE(nothing.likely_s);
        for (const LedgerRow& row : nothing.rows) {
            ASSERT_TRUE(row.likely_s);
            EXPECT_TRUE(row.likely_s->contains(row.loss_s));
            EXPECT_LE(row.seen_on, b.laps.size());
            ++rows;
            sure += !row.likely_s->contains(0);
        }
        for (const auto& corner : world.circuit().corners) {
            if (is_near_line(world, corner)) continue;
            const auto c = world.run(faulty(6, seed * 3 + 2, 1, {Cue::Kind::slower, corner.number, 0.06}));
            const Ledger ledger = got(ledger_of(a.laps, c.laps));
            const LedgerRow& row = row_of(ledger, world, corner.apex_m);
            if (row.loss_s < 0.06) continue;
            ++faults;
            found += row.likely_s->begin > 0 && row.seen_on + 1 >= c.laps.size();
        }
    }
    std::printf("  of %d rows without a cause %d are sure; of %d faults %d are\n", rows, sure, faults, found);
    EXPECT_LT(sure, 0.12 * rows);
    EXPECT_GT(faults, 10);
    EXPECT_GT(found, 0.85 * faults);
}

TEST(Ledger, WithAReceiverAloneItStillAddsUpAndFindsTheCorner) {
    RENDAK_FIGURES_ONLY("the other ledgers");
    int found = 0, faults = 0;
    for (unsigned seed = 61; seed < 64; ++seed) {
        const MadeWorld world(seed);
        const auto a = world.run(MadeWorld::plan(4, seed, 0), true);
        ASSERT_GE(a.laps.size(), 2U);
        for (const auto& corner : world.circuit().corners) {
            if (is_near_line(world, corner)) continue;
            const auto b = world.run(faulty(4, seed, 0, {Cue::Kind::slower, corner.number, 0.08}), true);
            const Ledger ledger = got(ledger_of(a.laps, b.laps));
            EXPECT_TRUE(ledger.inferred);
            EXPECT_NEAR(losses(ledger), ledger.total_s, 1e-3);
            if (ledger.total_s < 0.1) continue;
            ++faults;
            found += row_of(ledger, world, corner.apex_m).loss_s > 0.6 * ledger.total_s;
        }
    }
    std::printf("  receiver alone: %d of %d faults in their corner's row\n", found, faults);
    EXPECT_GT(faults, 8);
    EXPECT_GT(found, 0.85 * faults);
}

TEST(Worth, IsWhatTheDriveLosesWithAKilometreAnHourLess) {
    RENDAK_FIGURES_ONLY("LedgerOdd");
    double off = 0;
    int count = 0;
    for (unsigned seed = 71; seed < 75; ++seed) {
        const MadeWorld world(seed);
        const auto a = world.run(MadeWorld::plan(3, seed, 0));
        const auto worth = got(worth_of(a.laps));
        for (const auto& corner : world.circuit().corners) {
            if (is_near_line(world, corner)) continue;
            const auto b = world.run(faulty(3, seed, 0, {Cue::Kind::slower, corner.number, 0.04}));
            const Ledger ledger = got(ledger_of(a.laps, b.laps));
            const int number = row_of(ledger, world, corner.apex_m).corner;
            if (number == 0) continue;
            const Worth* it = &worth[static_cast<std::size_t>(number - 1)];
            EXPECT_GT(it->exit_s, 0);
            EXPECT_GE(it->slowest_s, it->exit_s);
            EXPECT_GE(it->until_m, it->exit_m);
            const double slower_kmh = 0.04 * it->slowest_mps * 3.6;
            // Only where the corner's own limit holds the car all through: else it is slowed less than said.
            const LapProfile base = profile_of(a.laps[0]), with = profile_of(b.laps[0]);
            const double given_up = 3.6 * (base.speed_at(it->slowest_m) - with.speed_at(it->slowest_m));
            if (given_up < 0.7 * slower_kmh || ledger.total_s < 0.03) continue;
            off += std::abs(it->slowest_s * given_up / ledger.total_s - 1);
            ++count;
        }
    }
    std::printf("  worth of %d corners against drives that give up 4 %% there: %.0f %% off in the mean\n", count,
                100 * off / count);
    EXPECT_GT(count, 8);
    EXPECT_LT(off / count, 0.35);
}

TEST(Pull, TheCurveIsTheCarsOwn) {
    const MadeWorld world(81);
    const auto run = world.run(MadeWorld::plan(5, 81, 0.3));
    const PullCurve curve = pull_curve(run.laps);
    ASSERT_TRUE(curve.known());
    const demo::Car car;
    for (std::size_t i = 0; i < curve.speed_mps.size(); ++i) {
        const double v = curve.speed_mps[i];
        if (i > 0) EXPECT_LE(curve.along_mps2[i], curve.along_mps2[i - 1] + 1e-12) << "it falls";
        if (v > 30) EXPECT_NEAR(curve.at(v), car.push_mps2(v) - car.drag_mps2(v), 0.35) << v;
    }
    // A lap without speed, or never on full throttle, tells nothing, and says so.
    EXPECT_FALSE(pull_curve({}).known());
    EXPECT_FALSE(worth_of({}));
    EXPECT_FALSE(ledger_of({}, run.laps));
}

TEST(Carried, DiesAwayAndEndsWhereSpeedsMeet) {
    // A made-up car that gains 4 m/s² at rest and nothing at 80 m/s, on its own way.
    PullCurve pull;
    for (double v = 1; v <= 80; v += 1) {
        pull.speed_mps.push_back(v);
        pull.along_mps2.push_back(4 * (1 - v / 80));
    }
    LapProfile base;
    base.length_m = 1000;
    double v = 20, t = 0;
    for (int s = 0; s <= 1000; ++s) {
        base.elapsed_s.push_back(t);
        base.speed_mps.push_back(v);
        v = std::sqrt(v * v + 2 * (s < 600 ? pull.at(v) : -10));
        if (!(v > 15)) v = 15;
        t += 1 / v;
    }
    const Carried slower(base, pull, 0, -2, 600);
    EXPECT_GT(slower.lost_s(), 0.2);
    EXPECT_NEAR(slower.lost_s(0, 300) + slower.lost_s(300, 600), slower.lost_s(), 1e-12);
    for (double s = 0; s < 590; s += 10) EXPECT_LT(slower.faster_at(s), slower.faster_at(s + 10)) << "it closes";
    // Step by step by hand: the same.
    double squared = 18 * 18, lost = 0;
    for (int s = 0; s < 600; ++s) {
        lost += 1 / std::sqrt(squared) - 1 / base.speed_mps[static_cast<std::size_t>(s)];
        squared += 2 * pull.at(std::sqrt(squared));
    }
    EXPECT_NEAR(slower.lost_s(), lost, 2e-3);
    const Meeting meeting = meeting_of(base, pull, 600, slower.faster_at(600));
    EXPECT_GT(meeting.at_m, 600);
    EXPECT_LT(meeting.at_m, 605) << "ten metres a second squared are quick";
    EXPECT_GT(meeting.lost_s, 0);
    EXPECT_LT(meeting.lost_s, 0.01);
    EXPECT_EQ(meeting_of(base, pull, 600, 1).lost_s, 0) << "of a faster one nothing is carried";
    const Carried faster(base, pull, 0, 2, 600);
    EXPECT_NEAR(faster.lost_s(), -slower.lost_s(), 0.06);
}

/// A lap on a track that is given, with only some of its channels.
PreparedLap with_only(const PreparedLap& lap, const std::set<std::string>& quantities,
                      std::shared_ptr<const Track> track = {}) {
    auto recording = std::make_shared<Recording>();
    for (const Channel& channel : lap.recording->channels) {
        if (quantities.contains(channel.quantity)) recording->channels.push_back(channel);
    }
    PreparedLap out = lap;
    out.scales = std::make_shared<const PedalScales>(pedal_scales(*recording));
    out.recording = recording;
    if (track != nullptr) out.track = std::move(track);
    return out;
}

TEST(Ledger, WithLittleToGoByItSaysWhatItCanAndNoMore) {
    const auto& world = demo_world();
    const PreparedLap a = world.runs[1].lap(4, world.track), b = world.runs[2].lap(1, world.track);
    const double difference = b.time_s() - a.time_s();
    const auto of = [&](const PreparedLap& x, const PreparedLap& y) {
        return got(ledger_of(std::span(&x, 1), std::span(&y, 1)));
    };
    // Positions alone: times add up; how the car gains speed is not known, so straights are not split.
    const Ledger places = of(with_only(a, {}), with_only(b, {}));
    EXPECT_NEAR(losses(places), difference, 1e-3);
    EXPECT_FALSE(places.pull.known());
    for (const LedgerRow& row : places.rows) {
        EXPECT_FALSE(row.carried_s);
        EXPECT_FALSE(row.pull_s);
        EXPECT_EQ(row.verdict, LedgerRow::Verdict::none);
    }
    EXPECT_FALSE(worth_of(std::vector{with_only(a, {})}));
    // Speed and accelerations: pedals are inferred, and that is said.
    const std::set<std::string> simple{"speed", "longitudinal_acceleration", "lateral_acceleration"};
    const Ledger inferred = of(with_only(a, simple), with_only(b, simple));
    EXPECT_TRUE(inferred.inferred);
    EXPECT_TRUE(inferred.pull.known());
    EXPECT_NEAR(losses(inferred), difference, 1e-3);
    EXPECT_NEAR(inferred.rows[5].loss_s, of(a, b).rows[5].loss_s, 0.12);
    // A throttle without a brake, and the other way round.
    for (const char* pedal : {"throttle", "brake_front"}) {
        auto some = simple;
        some.insert(pedal);
        EXPECT_NEAR(losses(of(with_only(a, some), with_only(b, some))), difference, 1e-3) << pedal;
    }
    // A road without corners is one row; with one corner two.
    auto straight = std::make_shared<Track>(*world.track);
    straight->corners.clear();
    const std::set<std::string> all{"speed", "throttle", "brake_front", "longitudinal_acceleration",
                                    "lateral_acceleration"};
    const Ledger one = of(with_only(a, all, straight), with_only(b, all, straight));
    ASSERT_EQ(one.rows.size(), 1U);
    EXPECT_NEAR(one.rows[0].loss_s, difference, 1e-3);
    auto single = std::make_shared<Track>(*world.track);
    single->corners.erase(single->corners.begin() + 1, single->corners.end());
    const Ledger two = of(with_only(a, all, single), with_only(b, all, single));
    ASSERT_EQ(two.rows.size(), 2U);
    EXPECT_NEAR(losses(two), difference, 1e-3);
    // Laps of two tracks have none.
    PreparedLap elsewhere = b;
    for (double& s : elsewhere.map.distance_m) s *= 1.01;
    EXPECT_FALSE(ledger_of(std::span(&a, 1), std::span(&elsewhere, 1)));
}

TEST(Ledger, OfOneLapAgainstManyTheirScatterIsTakenForIts) {
    RENDAK_FIGURES_ONLY("the other ledgers");
    const auto& world = demo_world();
    const PreparedLap a = world.runs[1].lap(4, world.track);
    std::vector<PreparedLap> b;
    for (const Lap& lap : world.runs[2].laps) {
        if (lap.kind == LapKind::flying) b.push_back(world.runs[2].lap(lap.number, world.track));
    }
    ASSERT_GE(b.size(), 4U);
    const Ledger ledger = got(ledger_of(std::span(&a, 1), b));
    ASSERT_TRUE(ledger.likely_s);
    // By hand: t · sd · √(1 + 1/n).
    double mean = 0, squares = 0;
    for (const PreparedLap& lap : b) mean += lap.time_s() / static_cast<double>(b.size());
    for (const PreparedLap& lap : b) squares += (lap.time_s() - mean) * (lap.time_s() - mean);
    const auto n = static_cast<double>(b.size());
    const double half = t_95(n - 1) * std::sqrt(squares / (n - 1) * (1 + 1 / n));
    EXPECT_NEAR(ledger.likely_s->length() / 2, half, 1e-9);
    EXPECT_NEAR(ledger.total_s, mean - a.time_s(), 1e-9);
    for (const LedgerRow& row : ledger.rows) {
        ASSERT_TRUE(row.likely_s && row.likely_own_s);
        EXPECT_TRUE(row.likely_s->contains(row.loss_s));
    }
    // The other way round everything has the other sign.
    const Ledger back = got(ledger_of(b, std::span(&a, 1)));
    EXPECT_NEAR(back.total_s, -ledger.total_s, 1e-9);
    EXPECT_NEAR(losses(back), -losses(ledger), 1e-3);
}

TEST(LapSets, AreReadAndCheckedAsPeopleWriteThem) {
    const auto listed = got(lap_wish("3:1,4"));
    EXPECT_EQ(listed.run.value, 3);
    EXPECT_EQ(listed.laps, (std::vector<int>{1, 4}));
    EXPECT_EQ(got(lap_wish("2")).which, LapWish::Which::counting);
    EXPECT_EQ(got(lap_wish("2:best")).which, LapWish::Which::best);
    EXPECT_EQ(got(lap_wish("2:near")).which, LapWish::Which::near_best);
    for (const char* wrong : {"", ":", "2:", "x", "2:1,", "2:,1", "-1", "2:0", "2:1;2", "999999999999999999999", "2:b"})
        EXPECT_FALSE(lap_wish(wrong)) << wrong;
    const auto library = got(Library::open(saturday_library(), Library::Open::existing));
    const auto second = got(load_run(*library, {2})), third = got(load_run(*library, {3}));
    const auto set_of = [&](const char* text, bool mixed = false) {
        return lap_set({got(lap_wish(text))}, {text[0] == '2' ? second : third}, mixed);
    };
    const LapSet all = got(set_of("3")), near = got(set_of("3:near")), best = got(set_of("3:best"));
    EXPECT_GT(all.laps.size(), near.laps.size());
    ASSERT_EQ(best.laps.size(), 1U);
    for (const PreparedLap& lap : near.laps) EXPECT_LE(lap.time_s(), best.laps[0].time_s() * 1.005);
    EXPECT_FALSE(all.told.empty()) << "laps that do not count are said";
    EXPECT_FALSE(set_of("2:99"));
    const auto both = lap_set({got(lap_wish("2:best")), got(lap_wish("3:best"))}, {second, third}, false);
    ASSERT_FALSE(both);
    EXPECT_NE(both.error().message.find("mixed"), std::string::npos);
    EXPECT_EQ(got(lap_set({got(lap_wish("2:best")), got(lap_wish("3:best")), got(lap_wish("2:best"))},
                          {second, third, second}, true))
                  .laps.size(),
              2U)
        << "each lap once";
}

}  // namespace
