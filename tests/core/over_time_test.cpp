// Recordings without places: laps by the logger's own line, standing starts and stops, two runs over each other.
#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "core/analysis/overlay.h"
#include "core/analysis/stops.h"
#include "core/formula/formula_set.h"
#include "core/intake/import.h"
#include "core/intake/lap_pool.h"
#include "core/intake/place_run.h"
#include "core/laps/counted_laps.h"
#include "core/laps/cut.h"
#include "core/laps/slow_error.h"
#include "core/laps/standstill.h"
#include "core/signal/quantity.h"
#include "core/track/learn.h"
#include "core/track/speed_source.h"
#include "tests/support/demo_world.h"
#include "tests/support/figures_only.h"
#include "tests/support/got.h"
#include "tests/support/made_channel.h"
#include "tests/support/random_world.h"
#include "tests/support/temp_folder.h"

namespace rendak {
namespace {

using test::got;
using test::made_channel;
using test::TempFolder;

// ---- laps by the logger's own line ---------------------------------------------------------------

/// Where a logger saw the line: laps of 80.3, 79.6, 81.2 s.
const std::vector<double> lines_s{31.37, 111.67, 191.27, 272.47};
constexpr double recorded_s = 300;

int lines_before(double t) {
    int count = 0;
    for (const double at : lines_s) count += at <= t;
    return count;
}
double since_line(double t) {
    double last = -12;  // the logger was on its way when it was switched on
    for (const double at : lines_s) last = at <= t ? at : last;
    return t - last;
}

Recording counted_by(const char* how, double rate_hz = 20) {
    Recording out;
    out.channels.push_back(made_channel("speed", "m/s", 10, 0, recorded_s, [](double) { return 40.0; }));
    if (std::string(how) == "lap_count")
        out.channels.push_back(
            made_channel(how, "", rate_hz, 0, recorded_s, [](double t) { return 3 + lines_before(t); }));
    if (std::string(how) == "lap_time")
        out.channels.push_back(made_channel(how, "s", rate_hz, 0, recorded_s, since_line));
    if (std::string(how) == "lap_beacon")
        out.channels.push_back(made_channel(how, "", rate_hz, 0, recorded_s, [](double t) {
            const double since = since_line(t);
            return (since >= 0 && since < 0.3) || (since >= 1 && since < 1.2) ? 5.0 : 0.1;
        }));
    return out;
}

class LoggersLine : public testing::TestWithParam<const char*> {};

TEST_P(LoggersLine, CutsLapsAsGoodAsItsRate) {
    const auto laps = counted_laps(counted_by(GetParam()));
    ASSERT_EQ(laps.size(), 5u);
    EXPECT_EQ(laps.front().kind, LapKind::out);
    EXPECT_EQ(laps.back().kind, LapKind::in);
    const double good_to_s = std::string(GetParam()) == "lap_time" ? 0.001 : 0.05;
    for (std::size_t k = 1; k <= 3; ++k) {
        EXPECT_TRUE(laps[k].counts());
        EXPECT_NEAR(laps[k].start_s, lines_s[k - 1], good_to_s);
        EXPECT_NEAR(laps[k].time_s(), lines_s[k] - lines_s[k - 1], good_to_s);
        EXPECT_NEAR(laps[k].length_m, 40 * laps[k].time_s(), 5);
        EXPECT_NE(laps[k].reason.find("the logger's"), std::string::npos) << "says what it was cut by";
    }
    EXPECT_EQ(best_lap(laps)->number, 2);
}
INSTANTIATE_TEST_SUITE_P(All, LoggersLine, testing::Values("lap_count", "lap_time", "lap_beacon"));

TEST(CountedLaps, AMissedLineAndALineToldTwiceAreDoubtful) {
    Recording recording;
    const std::vector<double> seen{10, 90, 250, 330, 331.5 + 20, 410, 490};  // one missed at 170, one too many
    recording.channels.push_back(made_channel("lap_count", "", 20, 0, 520, [&](double t) {
        return static_cast<double>(std::count_if(seen.begin(), seen.end(), [&](double at) { return at <= t; }));
    }));
    const auto laps = counted_laps(recording);
    ASSERT_EQ(laps.size(), 8u);
    EXPECT_TRUE(laps[2].doubtful());
    EXPECT_NE(laps[2].doubt.find("missed"), std::string::npos);
    EXPECT_TRUE(laps[4].doubtful()) << "21.5 s";
    EXPECT_EQ(best_lap(laps)->number, 1) << "the short one sets no best";
    EXPECT_EQ(laps[1].length_m, 0) << "no speed, no length";
}

TEST(CountedLaps, AStopIsSaidAndACounterThatBeginsAgainIsNoLine) {
    Recording recording = counted_by("lap_count");
    recording.channels[0] =
        made_channel("speed", "m/s", 10, 0, recorded_s, [](double t) { return t > 130 && t < 145 ? 0 : 40; });
    recording.channels[1] = made_channel("lap_count", "", 20, 0, recorded_s, [](double t) {
        return t > 230 ? lines_before(t) - 3 : lines_before(t);  // switched on anew on the way
    });
    const auto laps = counted_laps(recording);
    ASSERT_EQ(laps.size(), 5u);
    EXPECT_EQ(laps[2].kind, LapKind::stopped);
    EXPECT_FALSE(laps[2].counts());
    EXPECT_NE(laps[2].reason.find("stood for 15 s"), std::string::npos) << laps[2].reason;
    EXPECT_TRUE(counted_laps(Recording{}).empty());
    EXPECT_TRUE(counted_laps(counted_by("nothing")).empty());
}

TEST(CountedLaps, AnImportWithoutPositionsHasLapsAndOneWithThemDoesNot) {
    const TempFolder folder;
    const auto library = got(Library::open(folder.path()));
    Recording recording = counted_by("lap_count");
    recording.source_name = "bench.csv";
    const auto run = got(import_recording(*library, {recording, {}}, {}));
    EXPECT_EQ(library->laps(run.run).value().size(), 5u);
    ASSERT_TRUE(recut_run(*library, run.run));
    EXPECT_EQ(library->laps(run.run).value().size(), 5u) << "cut again, the same";
    for (const char* place : {"latitude", "longitude"})
        recording.channels.push_back(
            made_channel(place, "deg", 10, 0, recorded_s, [&](double t) { return 44 + 1e-5 * t; }));
    const auto placed = got(import_recording(*library, {recording, {}}, {}));
    EXPECT_TRUE(library->laps(placed.run).value().empty()) << "its track is learnt instead";
}

TEST(CountedLaps, AStretchWithoutATrackCanBeLookedAt) {
    const TempFolder folder;
    const auto library = got(Library::open(folder.path()));
    Recording recording = counted_by("lap_count");
    recording.source_name = "bench.csv";
    const auto run = got(load_run(*library, got(import_recording(*library, {recording, {}}, {})).run));
    const auto whole = got(prepare_stretch(*run, whole_run, 2.5));
    EXPECT_NEAR(whole.map.start_s(), -2.5, 1e-9) << "moved to the right";
    EXPECT_NEAR(whole.time_s(), recorded_s, 0.1);
    EXPECT_EQ(whole.track, nullptr);
    const auto lap = got(prepare_stretch(*run, 2));
    EXPECT_NEAR(lap.map.start_s(), lines_s[1], 0.05);
    EXPECT_FALSE(prepare_stretch(*run, 17));
}

TEST(CountedLaps, TimesAreAsGoodAsTheRateOfTheCounter) {
    for (const double rate_hz : {1.0, 2.0, 5.0, 10.0, 50.0, 100.0}) {
        const auto laps = counted_laps(counted_by("lap_count", rate_hz));
        ASSERT_EQ(laps.size(), 5u) << rate_hz;
        for (std::size_t k = 1; k <= 3; ++k) {
            EXPECT_LE(std::abs(laps[k].start_s - lines_s[k - 1]), 0.5 / rate_hz + 1e-6) << rate_hz;
            EXPECT_LE(std::abs(laps[k].time_s() - (lines_s[k] - lines_s[k - 1])), 1 / rate_hz + 1e-6) << rate_hz;
        }
        if (rate_hz == 1) EXPECT_NE(laps[1].reason.find("good to 0.50 s"), std::string::npos) << laps[1].reason;
    }
}

TEST(CountedLaps, HostileCountersGiveNoNonsense) {
    const auto laps_of = [](const char* quantity, const std::function<double(double)>& value) {
        Recording recording;
        recording.channels.push_back(made_channel(quantity, "", 10, 0, 200, value));
        return counted_laps(recording);
    };
    const auto nothing = [](double) { return std::nan(""); };
    const auto still = [](double) { return 7.0; };
    const auto back = [](double t) { return 100 - std::floor(t / 50); };
    for (const char* quantity : {"lap_count", "lap_beacon", "lap_time"}) {
        EXPECT_TRUE(laps_of(quantity, nothing).empty()) << quantity;
        EXPECT_TRUE(laps_of(quantity, still).empty()) << quantity;
    }
    EXPECT_TRUE(laps_of("lap_count", back).empty()) << "it only counts down";
    // The time of the lap before, held: no running time, so no line.
    EXPECT_TRUE(laps_of("lap_time", [](double t) { return t < 80 ? 81.5 : t < 160 ? 2.0 : 81.1; }).empty());
    // A counter with holes still shows its steps.
    const auto holes =
        laps_of("lap_count", [](double t) { return std::fmod(t, 7) < 1 ? std::nan("") : std::floor(t / 50); });
    ASSERT_EQ(holes.size(), 5u);
    EXPECT_NEAR(holes[2].time_s(), 50, 1.2);
    for (const Lap& lap : holes) EXPECT_LE(lap.start_s, lap.end_s);
    // A counter that shivers about a step makes doubtful laps, not bests.
    const auto shivers = laps_of("lap_count", [](double t) {
        const double lap = std::floor(t / 40);
        return std::fmod(t, 40) < 0.5 ? lap - (std::fmod(t, 0.4) < 0.2 ? 1 : 0) : lap;
    });
    const Lap* best = best_lap(shivers);
    if (best != nullptr) EXPECT_GT(best->time_s(), 35);
    Recording brief;
    brief.channels.push_back(made_channel("lap_count", "", 10, 0, 0.1, [](double t) { return t > 0.05 ? 2 : 1; }));
    EXPECT_TRUE(counted_laps(brief).empty()) << "two samples";
}

TEST(CountedLaps, TablesNameTheirBeaconAndTheirRunningTime) {
    for (const auto& [name, quantity] : {std::pair{"Lap Beacon", "lap_beacon"},
                                         {"BEACON", "lap_beacon"},
                                         {"Running Lap Time", "lap_time"},
                                         {"Current Lap Time", "lap_time"},
                                         {"Lap Number", "lap_count"},
                                         {"Lap", "lap_count"}}) {
        const Quantity* found = match_quantity(name);
        ASSERT_NE(found, nullptr) << name;
        EXPECT_EQ(found->id, quantity) << name;
    }
    const TempFolder folder;
    const auto library = got(Library::open(folder / "lib"));
    std::string table = "Time [s],Speed [km/h],Lap Beacon\n";
    for (int i = 0; i < 2400; ++i) {
        const double t = i * 0.1;
        table += std::to_string(t) + ",144," + (std::fmod(t + 20, 60) < 0.25 ? "1" : "0") + "\n";
    }
    const auto imported = got(import_file(*library, folder.write("bench.csv", table), {}));
    const auto laps = library->laps(imported.run).value();
    ASSERT_EQ(laps.size(), 5u);
    EXPECT_NEAR(laps[2].time_s(), 60, 0.11);
    EXPECT_NEAR(laps[2].length_m, 2400, 5);
    EXPECT_TRUE(std::any_of(imported.notes.begin(), imported.notes.end(), [](const std::string& note) {
        return note.find("the logger itself saw the line") != std::string::npos;
    })) << "and says so";
}

TEST(Quantities, EveryOneHasAGroupAndStandInsAreThere) {
    for (const Quantity& quantity : all_quantities()) {
        EXPECT_FALSE(group_of(quantity).empty()) << quantity.id;
        for (const std::string_view other : stand_ins(quantity.id)) {
            EXPECT_NE(other, quantity.id);
            const bool formula = formula::starter_set().find(std::string(other)) != nullptr;
            EXPECT_TRUE(formula || find_quantity(other) != nullptr) << other << " for " << quantity.id;
        }
    }
    EXPECT_EQ(group_of(*find_quantity("brake_front")), "Driver");
    EXPECT_EQ(group_of(*find_quantity("brake_temperature_fl")), "Wheels and tyres") << "the longest beginning wins";
    EXPECT_EQ(group_of(*find_quantity("speed")), "Car");
    EXPECT_TRUE(stand_ins("no such thing").empty());
}

// ---- starts and stops ----------------------------------------------------------------------------

/// Lap after lap of 2 000 m, 40 s each; a standing start 160 m before the line; a stop in lap 3.
struct Race {
    Recording recording;
    std::vector<Lap> laps;
    static constexpr double launch_s = 12, stop_s = 26;
};
Race race() {
    // 0 → 50 m/s at 5 m/s² takes 10 s and 250 m; the stop slows down at 10 m/s² (5 s, 125 m) and away again.
    Race out;
    const double full_s = Race::launch_s + 10;
    const double brakes_s = 130, stands_s = brakes_s + 5, goes_s = stands_s + Race::stop_s, end_s = 300;
    const auto speed = [=](double t) {
        if (t < Race::launch_s) return 0.0;
        if (t < full_s) return 5 * (t - Race::launch_s);
        if (t < brakes_s || t > goes_s + 10) return 50.0;
        if (t < stands_s) return 50 - 10 * (t - brakes_s);
        return t < goes_s ? 0.0 : 5 * (t - goes_s);
    };
    out.recording.channels.push_back(made_channel("speed", "m/s", 50, 0, end_s, speed));
    double along = -160, last = 0;
    int number = 0;
    const double dt = 0.001;
    const auto add = [&](double t, LapKind kind) {
        Lap lap{number++, kind, last, t};
        lap.included = kind == LapKind::flying;
        lap.length_m = 2000;
        out.laps.push_back(lap);
        last = t;
    };
    for (double t = 0; t < end_s; t += dt) {
        const double next = along + speed(t) * dt;
        const bool crosses = std::floor(next / 2000) > std::floor(along / 2000);
        along = next;
        if (!crosses) continue;
        const bool stopped = last < stands_s && t > goes_s;
        add(t, number == 0 ? LapKind::out : stopped ? LapKind::stopped : LapKind::flying);
    }
    add(end_s, LapKind::in);
    out.laps[1].included = false;  // the first lap of a race is no usual one
    return out;
}

TEST(Stops, StartAndStopAreToldWithWhatTheyCost) {
    const Race it = race();
    const auto stops = stops_of(it.recording, it.laps, nullptr, nullptr);
    ASSERT_EQ(stops.size(), 2u);
    EXPECT_TRUE(stops[0].is_start);
    EXPECT_NEAR(stops[0].standing_s.end, Race::launch_s, 0.4) << "until it is faster than a walk";
    EXPECT_NEAR(stops[0].to_100_kmh_s, 100 / 3.6 / 5, 0.4);
    EXPECT_TRUE(std::isnan(stops[0].lost_s)) << "without places that cannot be told";
    EXPECT_FALSE(stops[1].is_start);
    EXPECT_EQ(stops[1].lap, 3);
    EXPECT_NEAR(stops[1].standing_s.length(), Race::stop_s, 0.6);
    // Stood 26 s; slowing down costs 5 − 125/50, going away 10 − 250/50.
    EXPECT_NEAR(stops[1].lost_s, Race::stop_s + 2.5 + 5, 0.05);
    EXPECT_EQ(stops[1].laps, std::vector<int>{3});
    EXPECT_NE(stop_words(stops[1]).find("33.5 s lost"), std::string::npos) << stop_words(stops[1]);
    EXPECT_NE(stop_words(stops[0]).find("cannot be told"), std::string::npos);
}

TEST(Stops, AStartOnARoadCostsWhatTheLaunchTakesLonger) {
    // The same race on a round track: the path says how far before the line the car stood.
    const Race it = race();
    Track track;
    track.name = "Ring";
    track.length_m = 2000;
    const double radius = 2000 / (2 * 3.14159265358979);
    for (int i = 0; i < 1000; ++i) {
        const double angle = 2 * i / radius;
        track.line.push_back({radius * std::cos(angle), radius * std::sin(angle)});
        track.tangent.push_back({-std::sin(angle), std::cos(angle)});
        track.curvature.push_back(1 / radius);
    }
    track.start = {track.line[0], track.tangent[0]};
    const Channel& speed = *it.recording.find("speed");
    std::vector<double> times, distances;
    std::vector<Point> places, velocities;
    double along = -160;
    for (std::size_t i = 0; i < speed.size(); ++i) {
        const double angle = along / radius, v = speed.at(i);
        times.push_back(speed.clock.time_at(i));
        distances.push_back(along + 160);
        places.push_back({radius * std::cos(angle), radius * std::sin(angle)});
        velocities.push_back(Point{-std::sin(angle), std::cos(angle)} * v);
        along += v / 50;
    }
    Path path;
    path.time_s.edit() = std::move(times);
    path.distance_m.edit() = std::move(distances);
    path.position.edit() = std::move(places);
    path.velocity.edit() = std::move(velocities);
    path.bridged.edit().assign(path.size(), 0);
    const auto stops = stops_of(it.recording, it.laps, &path, &track);
    ASSERT_EQ(stops.size(), 2u);
    EXPECT_NEAR(stops[0].lost_s, 10 - 250 / 50.0, 0.4);
}

TEST(Stops, OnRoadsThatNobodyKnowsTheCostIsThatOfTheDrive) {
    RENDAK_FIGURES_ONLY("Stops.StartAndStopAreToldWithWhatTheyCost");
    double worst_stop = 0, worst_start = 0;
    for (unsigned seed = 41; seed <= 46; ++seed) {
        std::mt19937 random(seed);
        const auto road = test::random_road(seed);
        const double stand_s = std::uniform_real_distribution<double>(4, 40)(random),
                     place_m = (3 + std::uniform_real_distribution<double>(0.05, 0.95)(random)) * road.length_m;
        const auto free = test::drive(road, {2, 3, 0.1 * seed, 1, 0.2}, 9, seed);
        const auto whole = test::with_stands(free, {{-150, 8}, {place_m, stand_s}}, -150);
        const Recording recording = test::recorded(road, whole, {.slow_m = 0.5, .white_m = 0.08}, seed);
        const Path first = got(driven_path(recording, nullptr));
        StartLine line;
        line.position = LocalPlane(first.origin).to_local(LocalPlane(road.origin).to_geo(road.centre[0]));
        line.direction = road.direction[0];
        const Track track =
            got(learn_steady_track(first, "Random", line, SpeedSource(recording, SpeedSource::Prefer::gps)));
        const Path path = got(driven_path(recording, &track));
        const auto laps = laps_on(recording, path, track);
        const auto stops = stops_of(recording, laps, &path, &track);
        ASSERT_EQ(stops.size(), 2u) << seed;
        EXPECT_TRUE(stops[0].is_start) << seed;
        EXPECT_FALSE(stops[1].is_start) << seed;
        EXPECT_NEAR(stops[1].standing_s.length(), stand_s, 1) << seed;
        const auto time_of = [](const test::RandomDrive& drive, double from_m, double to_m) {
            return drive.time_at(to_m) - drive.time_at(from_m);
        };
        const double stop_cost =
            time_of(whole, 3 * road.length_m, 4 * road.length_m) - time_of(free, 3 * road.length_m, 4 * road.length_m);
        // The launch itself: from where the car stood to the end of its first lap, less the stand.
        const double start_cost = whole.time_at(road.length_m) - 8 - time_of(free, -150, road.length_m);
        worst_stop = std::max(worst_stop, std::abs(stops[1].lost_s - stop_cost));
        worst_start = std::max(worst_start, std::abs(stops[0].lost_s - start_cost));
    }
    std::printf("  stops within %.2f s, starts within %.2f s\n", worst_stop, worst_start);
    EXPECT_LT(worst_stop, 0.4);
    EXPECT_LT(worst_start, 0.7);
}

TEST(Stops, RunsOutOfThePitsHaveNone) {
    const test::DemoWorld& world = test::demo_world();
    for (const test::DemoRun& run : world.runs) {
        for (const Stop& stop : stops_of(*run.recording, run.laps, run.path.get(), world.track.get()))
            EXPECT_FALSE(stop.is_start) << stop_words(stop);
    }
    EXPECT_TRUE(stops_of(Recording{}, {}, nullptr, nullptr).empty());
    EXPECT_TRUE(standstills(Recording{}).empty());
}

// ---- one over the other --------------------------------------------------------------------------

/// A drive that nobody has seen: sums of waves of random periods.
std::function<double(double)> random_signal(unsigned seed) {
    std::mt19937 random(seed);
    std::uniform_real_distribution<double> period(3, 60), phase(0, 6.28), size(1, 6);
    std::vector<std::array<double, 3>> waves;
    for (int k = 0; k < 25; ++k) waves.push_back({size(random), 6.283 / period(random), phase(random)});
    return [waves](double t) {
        double sum = 35;
        for (const auto& [a, w, p] : waves) sum += a * std::sin(w * t + p);
        return std::max(0.0, sum);
    };
}

TEST(Overlay, TheOffsetOfTwoLoggersInOneCarIsFound) {
    int right = 0;
    for (unsigned seed = 1; seed <= 20; ++seed) {
        const auto truth = random_signal(seed);
        std::mt19937 random(seed);
        std::normal_distribution<double> noise(0, 0.5);
        const double offset_s = std::uniform_real_distribution<double>(-200, 200)(random);
        Recording a, b;
        a.channels.push_back(
            made_channel("speed", "m/s", 20, 5, 605, [&](double t) { return truth(t) + noise(random); }));
        b.channels.push_back(made_channel("speed", "m/s", 7, 0, 420,
                                          [&](double t) { return 1.03 * truth(t + offset_s) + 2 + noise(random); }));
        const auto found = overlay_of(a, b);
        ASSERT_TRUE(found) << seed << found.error().message;
        right += std::abs(found->shift_s - offset_s) < 0.03;
        EXPECT_GT(found->likeness, 0.9) << seed;
    }
    EXPECT_EQ(right, 20);
}

TEST(Overlay, RevsServeWhereSpeedIsMissingAndHolesAreBorne) {
    const auto truth = random_signal(11);
    Recording a, b;
    a.channels.push_back(made_channel("engine_speed", "rad/s", 20, 0, 400,
                                      [&](double t) { return std::fmod(t, 60) < 4 ? std::nan("") : 9 * truth(t); }));
    a.channels.push_back(made_channel("speed", "m/s", 20, 0, 400, truth));
    b.channels.push_back(
        made_channel("engine_speed", "rad/s", 10, 50, 300, [&](double t) { return 9 * truth(t - 60); }));
    const auto found = got(overlay_of(a, b));
    EXPECT_EQ(found.quantity, "engine_speed");
    EXPECT_NEAR(found.shift_s, -60, 0.05) << "what happened in b at t happened in a at t − 60";
    EXPECT_NEAR(found.overlap_s, 240, 2);
    EXPECT_FALSE(found.by_stretch);
}

TEST(Overlay, HoursAreLaidOverInCoarseSteps) {
    RENDAK_FIGURES_ONLY("Overlay.RevsServeWhereSpeedIsMissingAndHolesAreBorne");
    const auto truth = random_signal(12);
    Recording a, b;
    a.channels.push_back(made_channel("speed", "m/s", 5, 0, 6 * 3600, truth));
    b.channels.push_back(made_channel("speed", "m/s", 5, 0, 3 * 3600, [&](double t) { return truth(t + 7000.4); }));
    EXPECT_NEAR(got(overlay_of(a, b)).shift_s, 7000.4, 0.05);
}

TEST(Standstill, NoiseAboutZeroIsStandingAndAWalkIsNot) {
    std::mt19937 random(5);
    std::normal_distribution<double> noise(0, 0.3);
    Recording recording;
    recording.channels.push_back(made_channel("speed", "m/s", 20, 0, 100, [&](double t) {
        const double v = t < 10 ? 0 : t < 40 ? 20 : t < 41.2 ? 0 : t < 60 ? 20 : t < 75 ? 0 : t < 90 ? 2.5 : 20;
        return v + noise(random);
    }));
    const auto stands = standstills(recording);
    ASSERT_EQ(stands.size(), 2u) << "1.2 s is too short, walking pace is no standing";
    EXPECT_NEAR(stands[0].end, 10, 0.2);
    EXPECT_NEAR(stands[1].begin, 60, 0.2);
    EXPECT_NEAR(stands[1].end, 75, 0.2);
}

TEST(Standstill, IsFoundWhereverItLiesInHoursOfDriving) {
    // What is skipped by the overview must hide nothing: stands of 3 s at odd moments of three hours.
    std::vector<double> at_s;
    std::mt19937 random(9);
    std::uniform_real_distribution<double> gap(60, 400);
    for (double t = gap(random); t < 3 * 3600 - 10; t += gap(random)) at_s.push_back(t);
    const auto speed = [&](double t) {
        const auto next = std::upper_bound(at_s.begin(), at_s.end(), t);
        return next != at_s.begin() && t - *std::prev(next) < 3 ? 0.0 : 30.0;
    };
    Recording recording;
    recording.channels.push_back(made_channel("speed", "m/s", 20, 0, 3 * 3600, speed));
    const auto stands = standstills(recording);
    ASSERT_EQ(stands.size(), at_s.size());
    for (std::size_t k = 0; k < stands.size(); ++k) EXPECT_NEAR(stands[k].begin, at_s[k], 0.2);
    // The receiver lost sight while the car stood: the wheels tell.
    Recording blind;
    blind.channels.push_back(
        made_channel("speed", "m/s", 20, 0, 600, [](double t) { return t > 290 && t < 330 ? std::nan("") : 30.0; }));
    for (const char* wheel : {"wheel_speed_rl", "wheel_speed_rr"})
        blind.channels.push_back(
            made_channel(wheel, "m/s", 20, 0, 600, [](double t) { return t > 300 && t < 320 ? 0.0 : 30.0; }));
    ASSERT_EQ(standstills(blind).size(), 1u);
    EXPECT_NEAR(standstills(blind)[0].length(), 20, 0.3);
}

TEST(Overlay, WhatIsNotAlikeIsNotLaidOver) {
    int told = 0;
    for (unsigned seed = 1; seed <= 20; ++seed) {
        Recording a, b;
        a.channels.push_back(made_channel("speed", "m/s", 10, 0, 400, random_signal(seed)));
        b.channels.push_back(made_channel("speed", "m/s", 10, 0, 300, random_signal(seed + 100)));
        told += !overlay_of(a, b);
    }
    EXPECT_EQ(told, 20) << "unrelated drives";
    Recording none, still, brief;
    none.channels.push_back(made_channel("oil_pressure", "Pa", 10, 0, 100, random_signal(1)));
    EXPECT_FALSE(overlay_of(none, none)) << "nothing to go by";
    still.channels.push_back(made_channel("speed", "m/s", 10, 0, 100, [](double) { return 3.0; }));
    EXPECT_FALSE(overlay_of(still, still)) << "nothing moves";
    brief.channels.push_back(made_channel("speed", "m/s", 10, 0, 8, random_signal(1)));
    EXPECT_FALSE(overlay_of(brief, brief)) << "too short";
}

TEST(Overlay, LapsOfOneRoadFitOneLapAwayToo) {
    const auto lap = random_signal(4);
    const auto round = [&](double t) { return lap(std::fmod(t + 1000, 90)); };
    Recording a, b;
    a.channels.push_back(made_channel("speed", "m/s", 20, 0, 900, round));
    b.channels.push_back(made_channel("speed", "m/s", 20, 0, 500, [&](double t) { return round(t + 33.3); }));
    const auto found = got(overlay_of(a, b));
    EXPECT_NEAR(std::remainder(found.shift_s - 33.3, 90), 0, 0.03);
    ASSERT_FALSE(found.others_s.empty()) << "it says that another lap fits as well";
    EXPECT_NEAR(std::abs(found.others_s.front() - found.shift_s), 90, 1);
}

TEST(Overlay, LapsOfOneRoadInOtherTimesLieOverEachOtherWhereItIsLiveliest) {
    // Another driver, 2 % slower: all of the run cannot fit, two minutes can.
    int right = 0, found_at_all = 0;
    for (unsigned seed = 1; seed <= 10; ++seed) {
        const auto lap = random_signal(seed);
        const auto round = [&](double t) { return lap(std::fmod(t + 1000, 97)); };
        Recording a, b;
        a.channels.push_back(made_channel("speed", "m/s", 20, 0, 1200, round));
        b.channels.push_back(made_channel("speed", "m/s", 20, 0, 1100, [&](double t) { return round(t / 1.02 + 21); }));
        const auto found = overlay_of(a, b);
        if (!found) continue;
        ++found_at_all;
        // Somewhere in the run b's moment stands within two seconds of a's moment of the same place.
        double closest = 1e9;
        for (double t = 0; t < 1100; ++t)
            closest = std::min(closest, std::abs(std::remainder(t + found->shift_s - (t / 1.02 + 21), 97)));
        right += closest < 0.5;
    }
    EXPECT_GE(found_at_all, 8);
    EXPECT_EQ(right, found_at_all);
}

// ---- which laps count ----------------------------------------------------------------------------

TEST(LapPool, CountsAsDriverAndCarAsked) {
    const test::DemoWorld& world = test::demo_world();
    const auto run_of = [&](std::size_t k, const char* driver) {
        RunData run;
        run.row.id = {static_cast<std::int64_t>(k)};
        run.row.driver = driver;
        run.row.car = "Car 7";
        run.recording = world.runs[k].recording;
        run.track = world.track;
        run.path = world.runs[k].path;
        run.laps = world.runs[k].laps;
        return run;
    };
    RunData one = run_of(1, "Brandvold"), other = run_of(2, "Okonjo");
    one.laps[2].doubt = "traffic?";
    one.laps[3].included = false;
    const std::vector runs{std::make_shared<const RunData>(one), std::make_shared<const RunData>(other)};
    const LapPool own = pooled_laps(runs, false), mixed = pooled_laps(runs, true);
    EXPECT_EQ(own.laps.size(), mixed.laps.size()) << "all are shown";
    EXPECT_EQ(own.doubtful, 1u);
    EXPECT_GE(own.left_out, 1u);
    EXPECT_GT(own.of_others, 4u);
    EXPECT_EQ(mixed.of_others, 0u);
    for (std::size_t k = 0; k < own.laps.size(); ++k) {
        EXPECT_EQ(own.laps[k].counts, own.timed[k].included);
        if (own.laps[k].ref.run != RunId{1}) EXPECT_FALSE(own.laps[k].counts);
        if (own.laps[k].ref == LapRef{{1}, 2}) EXPECT_FALSE(mixed.laps[k].counts) << "doubtful";
    }
    EXPECT_NE(own.not_counted().find("1 doubtful"), std::string::npos) << own.not_counted();
    EXPECT_NE(own.not_counted().find("of other drivers or cars"), std::string::npos);
    EXPECT_EQ(LapPool{}.not_counted(), "");
}

}  // namespace
}  // namespace rendak
